import type { Metadata } from "next";
import { declareTwinAction, reviseBenchAction } from "@/app/(lab)/actions";
import { realDeps } from "@/server/deps";
import { loadBenches } from "@/server/loadBenches";
import { BenchesPage } from "@/ui/bench/BenchesPage";

export const metadata: Metadata = { title: "Benches" };

export default async function Page() {
  return <BenchesPage model={await loadBenches(realDeps())} actions={{ reviseBench: reviseBenchAction, declareTwin: declareTwinAction }} />;
}
