import { isForeign } from "@/app/answer";
import { realDeps } from "@/server/deps";
import { listInstruments, practiceRecording } from "@/server/recordRun";

export const dynamic = "force-dynamic";

/** A recording for practice, passed on as it comes and kept nowhere. */
export async function GET(request: Request): Promise<Response> {
  if (isForeign(request)) return Response.json({ sentence: "This request came from another site." }, { status: 403 });
  const query = new URL(request.url).searchParams;
  const host = (await listInstruments(realDeps())).find(({ address, list }) => address === query.get("host") && list?.simulated);
  if (!host) return Response.json({ sentence: "There are no stand-ins at this address." }, { status: 404 });
  return practiceRecording(host.address, query.get("clean") === "true", request.signal);
}
