import { currentActor } from "@/app/actor";
import { isForeign, logUnexpected } from "@/app/answer";
import { realDeps } from "@/server/deps";
import { IntakeDraft, loadIntake, openIntake } from "@/server/intakes";
import { explain } from "@/server/problems";

/** The import profiles that the lab remembers: how files of a known shape are read. */
export async function GET(): Promise<Response> {
  try {
    return Response.json({ profiles: (await loadIntake(realDeps())).profiles });
  } catch (error) {
    return Response.json({ sentence: logUnexpected(error) }, { status: 500 });
  }
}

/** Opens an import of many logs, or goes on with one of this name; answers which files need not be sent again. */
export async function POST(request: Request): Promise<Response> {
  const refuse = (status: number, sentence: string) => Response.json({ ok: false, sentence }, { status });
  if (isForeign(request)) return refuse(403, "Requests from other sites are refused.");
  try {
    const actor = await currentActor();
    if (!actor) return refuse(401, explain({ kind: "nobody" }).sentence);
    const draft = IntakeDraft.safeParse(await request.json().catch(() => undefined));
    if (!draft.success) return refuse(422, draft.error.issues[0]?.message ?? "This cannot be read.");
    const opened = await openIntake(realDeps(), actor, draft.data);
    if (opened.ok) return Response.json({ ok: true, ...opened.value });
    const { status, sentence } = explain(opened.problem);
    return refuse(status, sentence);
  } catch (error) {
    return refuse(500, logUnexpected(error));
  }
}
