import { notFound } from "next/navigation";
import { realDeps } from "@/server/deps";
import { loadRun } from "@/server/loadRun";
import { RunView } from "@/ui/run/RunView";

export default async function RunPage({ params }: { params: Promise<{ runId: string }> }) {
  const record = await loadRun(realDeps(), decodeURIComponent((await params).runId));
  if (!record) notFound();
  return <RunView record={record} />;
}
