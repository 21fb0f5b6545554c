import { realDeps } from "@/server/deps";
import { readNow } from "@/server/recordRun";

export const dynamic = "force-dynamic";

/** What the instruments read now: a wait at the run sheet looks at it every two seconds. */
export async function GET(): Promise<Response> {
  return Response.json({ values: await readNow(realDeps()) }, { headers: { "cache-control": "no-store" } });
}
