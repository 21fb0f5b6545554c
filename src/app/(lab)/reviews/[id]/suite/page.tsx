import { realDeps } from "@/server/deps";
import { loadSuites } from "@/server/loadSuites";
import { SuiteStep } from "@/ui/suite/SuiteStep";

export default async function Page() {
  const { suites } = await loadSuites(realDeps());
  return <SuiteStep suites={suites.map(({ id, name, tests }) => ({ id, name, tests: tests.length }))} />;
}
