import { randomUUID } from "node:crypto";
import { currentActor } from "@/app/actor";
import { isForeign, logUnexpected } from "@/app/answer";
import { realDeps } from "@/server/deps";
import { explain } from "@/server/problems";
import { storeUpload } from "@/server/uploads";

/** Takes a zipped package and keeps it until it is imported or dropped. */
export async function POST(request: Request): Promise<Response> {
  const refuse = (status: number, sentence: string) => Response.json({ ok: false, sentence }, { status });
  if (isForeign(request)) return refuse(403, "Requests from other sites are refused.");
  try {
    if (!(await currentActor())) return refuse(401, explain({ kind: "nobody" }).sentence);
    if (!request.body) return refuse(422, "The upload is empty.");
    const stored = await storeUpload(realDeps(), randomUUID(), request.body);
    if (stored.ok) return Response.json({ ok: true, uploadId: stored.value.uploadId });
    const { status, sentence } = explain(stored.problem);
    return refuse(status, sentence);
  } catch (error) {
    return refuse(500, logUnexpected(error));
  }
}
