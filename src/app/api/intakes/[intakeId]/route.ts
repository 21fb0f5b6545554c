import { currentActor } from "@/app/actor";
import { isForeign, logUnexpected } from "@/app/answer";
import { decodeParcel } from "@/core/intake";
import { realDeps } from "@/server/deps";
import { prepareRun } from "@/server/prepareRun";
import { explain } from "@/server/problems";
import { storeRuns } from "@/server/storeRuns";

const MOST_BYTES = 256 * 2 ** 20;

/** Takes runs of an open import as compact series, derives their statistics and stores them, all of this message or none. */
export async function POST(request: Request, { params }: { params: Promise<{ intakeId: string }> }): Promise<Response> {
  const refuse = (status: number, sentence: string) => Response.json({ ok: false, sentence }, { status });
  if (isForeign(request)) return refuse(403, "Requests from other sites are refused.");
  try {
    const actor = await currentActor();
    if (!actor) return refuse(401, explain({ kind: "nobody" }).sentence);
    if (Number(request.headers.get("content-length") ?? 0) > MOST_BYTES) return refuse(413, "One message holds at most 256 MB of runs.");
    const parcel = decodeParcel(new Uint8Array(await request.arrayBuffer()));
    if (!parcel.ok) return refuse(422, `The runs cannot be read: ${parcel.problem.reason}.`);
    const prepared = parcel.value.runs.map(({ log, ...place }) => prepareRun(place, log));
    const stored = await storeRuns(realDeps(), actor, { intakeId: (await params).intakeId, prepared, refused: parcel.value.refused });
    if (stored.ok) return Response.json({ ok: true, outcomes: stored.value });
    const { status, sentence } = explain(stored.problem);
    return refuse(status, sentence);
  } catch (error) {
    return refuse(500, logUnexpected(error));
  }
}
