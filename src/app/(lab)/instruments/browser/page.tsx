import type { Metadata } from "next";
import { endIntakeAction } from "@/app/(lab)/actions";
import { realDeps } from "@/server/deps";
import { loadRecorder } from "@/server/loadRecorder";
import { BrowserRecorder } from "@/ui/instruments/BrowserRecorder";

export const metadata: Metadata = { title: "Record in this browser" };

export default async function BrowserRecorderPage() {
  return <BrowserRecorder model={await loadRecorder(realDeps())} endIntake={endIntakeAction} />;
}
