import type { Metadata } from "next";
import { defineTestsAction, editSuiteAction } from "@/app/(lab)/actions";
import { realDeps } from "@/server/deps";
import { loadSuites } from "@/server/loadSuites";
import { SuitesPage } from "@/ui/suite/SuitesPage";

export const metadata: Metadata = { title: "Suites and tests" };

export default async function Page() {
  return <SuitesPage model={await loadSuites(realDeps())} actions={{ defineTests: defineTestsAction, editSuite: editSuiteAction }} />;
}
