import { and, desc, eq } from "drizzle-orm";
import { z } from "zod";
import { compareRevisions, Slug } from "@/core/bench";
import { fail, ok, type Result } from "@/core/result";
import { benches, benchParts, benchState, benchTwins, parts } from "@/db/schema";
import { loadRevisions } from "./loadBenches";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, recordAudit } from "./useCase";

/** A bench as edited: `after` is the revision that was looked at, 0 for a new bench. */
export const BenchDraft = z.object({
  id: Slug,
  after: z.int().min(0),
  name: z.string().trim().min(1, "A bench needs a name.").max(80),
  parts: z
    .array(z.object({ partId: z.string(), role: z.string().min(1).max(30), slot: z.string().max(30).nullable(), quantity: z.int().min(1).max(64) }))
    .max(40),
  state: z
    .array(
      z.object({
        key: z.string().regex(/^[a-z][a-z0-9_]*$/, "A property's key is made of a–z, 0–9 and _."),
        value: z.string().trim().min(1, "A property needs a value; leave the line out where it is not known.").max(300),
      }),
    )
    .max(60)
    .refine((list) => new Set(list.map(({ key }) => key)).size === list.length, "Two lines have the same property."),
});
export type BenchDraft = z.infer<typeof BenchDraft>;

/** Makes a new revision of a bench, or a new bench. A revision that changes nothing is refused; old ones are never touched. */
export async function reviseBench(deps: Deps, actor: Actor, input: BenchDraft): Promise<Result<{ revision: number }, UseCaseProblem>> {
  return deps.database.transaction(async (tx) => {
    const [last] = await tx.select().from(benches).where(eq(benches.id, input.id)).orderBy(desc(benches.revision)).limit(1);
    if (input.after === 0 && last) return fail({ kind: "invalid", reason: `There is a bench ${input.id} already; choose another id.` });
    if ((last?.revision ?? 0) !== input.after)
      return fail({ kind: "changed-meanwhile", what: "bench", who: "Somebody", at: deps.now().toISOString(), now: `revision ${last?.revision}` });
    const names = new Map((await tx.select({ id: parts.id, name: parts.name }).from(parts)).map(({ id, name }) => [id, name]));
    const unknown = input.parts.find(({ partId }) => !names.has(partId));
    if (unknown) return fail({ kind: "not-found", what: "part", id: unknown.partId });
    const before = (await loadRevisions(tx)).find(({ id, revision }) => id === input.id && revision === input.after);
    const after = { ...input, parts: input.parts.map((part) => ({ ...part, name: names.get(part.partId) as string })) };
    const changes = compareRevisions(before ?? { parts: [], state: [] }, after);
    if (before && changes.length === 0 && before.name === input.name)
      return fail({ kind: "invalid", reason: "Nothing has changed; there is no new revision to make." });
    const revision = input.after + 1;
    const at = { benchId: input.id, revision };
    await tx.insert(benches).values({ id: input.id, revision, name: input.name, createdOn: deps.today });
    if (input.parts.length > 0) await tx.insert(benchParts).values(input.parts.map((part) => ({ ...at, ...part })));
    if (input.state.length > 0) await tx.insert(benchState).values(input.state.map((one) => ({ ...at, ...one })));
    await recordAudit(tx, deps, actor, { action: "revise bench", subject: `bench:${input.id}@${revision}`, detail: { changes } });
    return ok({ revision });
  });
}

/** Two bench revisions declared to be twins: built and set alike, so that one review may run on both. */
export const TwinDeclaration = z.object({
  benchId: z.string(),
  revision: z.int(),
  twinBenchId: z.string(),
  twinRevision: z.int(),
  why: z.string().trim().min(1, "Say why they are alike; it is shown with the results.").max(500),
});
export type TwinDeclaration = z.infer<typeof TwinDeclaration>;

/** Declares twins. The declaration stands with who made it and why. */
export async function declareTwin(deps: Deps, actor: Actor, input: TwinDeclaration): Promise<Result<null, UseCaseProblem>> {
  if (input.benchId === input.twinBenchId) return fail({ kind: "invalid", reason: "A bench is not its own twin." });
  return deps.database.transaction(async (tx) => {
    for (const [id, revision] of [
      [input.benchId, input.revision],
      [input.twinBenchId, input.twinRevision],
    ] as const) {
      const [found] = await tx
        .select()
        .from(benches)
        .where(and(eq(benches.id, id), eq(benches.revision, revision)));
      if (!found) return fail({ kind: "not-found", what: "bench", id: `${id}, revision ${revision}` });
    }
    await tx
      .insert(benchTwins)
      .values({ ...input, declaredBy: actor.name })
      .onConflictDoNothing();
    await recordAudit(tx, deps, actor, { action: "declare twins", subject: `bench:${input.benchId}@${input.revision}`, detail: { ...input } });
    return ok(null);
  });
}
