import type { Metadata } from "next";
import { moveSheetAction } from "@/app/(lab)/actions";
import { realDeps } from "@/server/deps";
import { loadSheet } from "@/server/loadSheet";
import { listInstruments } from "@/server/recordRun";
import { Notice } from "@/ui/lab/Notice";
import { RunSheet } from "@/ui/sheet/RunSheet";

export const dynamic = "force-dynamic";
export const metadata: Metadata = { title: "Run sheet" };

interface Props {
  params: Promise<{ reviewId: string; benchId: string }>;
}

export default async function SheetPage({ params }: Props) {
  const { reviewId, benchId } = await params;
  const deps = realDeps();
  const [model, hosts] = await Promise.all([loadSheet(deps, decodeURIComponent(reviewId), decodeURIComponent(benchId)), listInstruments(deps)]);
  if (!model)
    return <Notice title="There is no run sheet here" text="The review has no plan in force that uses this bench. Make one in its Plan step first." />;
  const answering = hosts.filter(({ list }) => list !== null);
  return (
    <RunSheet
      model={model}
      moveSheet={moveSheetAction}
      records={answering.length > 0}
      simulated={answering.some(({ list }) => list?.simulated)}
      nowMs={Date.now()}
    />
  );
}
