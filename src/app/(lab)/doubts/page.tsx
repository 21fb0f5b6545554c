import type { Metadata } from "next";
import { realDeps } from "@/server/deps";
import { loadDesk } from "@/server/loadDesk";
import { DeskPage } from "@/ui/check/DeskPage";

export const metadata: Metadata = { title: "Doubts" };

export default async function DoubtsPage() {
  return <DeskPage model={await loadDesk(realDeps())} />;
}
