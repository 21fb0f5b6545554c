import { notFound } from "next/navigation";
import { preload } from "react-dom";
import { realDeps } from "@/server/deps";
import { loadRun } from "@/server/loadRun";
import { RunView } from "@/ui/run/RunView";

export default async function RunPage({ params }: { params: Promise<{ runId: string }> }) {
  const runId = decodeURIComponent((await params).runId);
  // The log is on its way while the page is still being read: the chart waits for nothing else.
  preload(`/api/runs/${encodeURIComponent(runId)}/frames`, { as: "fetch", crossOrigin: "anonymous" });
  const record = await loadRun(realDeps(), runId);
  if (!record) notFound();
  return <RunView record={record} />;
}
