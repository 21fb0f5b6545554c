import { and, asc, eq, inArray } from "drizzle-orm";
import { z } from "zod";
import { PartKind, SetupRole, Slug } from "@/core/bench";
import { QuestionKind } from "@/core/plan";
import { fail, ok, type Result } from "@/core/result";
import { benches, partSpecs, parts, reviewSetups, reviews, samples, setupParts, setupState, setups, suites, suiteTests, tests } from "@/db/schema";
import { checkAllReviews } from "./checkReviews";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, recordAudit } from "./useCase";

/** A review as it is started from its question. */
export const ReviewDraft = z.object({
  id: Slug,
  title: z.string().trim().min(1, "A review needs a title.").max(120),
  questionKind: QuestionKind,
  question: z.string().trim().min(1, "Say what the review is to answer.").max(400),
  baselineId: z.string(),
  setups: z
    .array(z.object({ setupId: z.string(), role: SetupRole }))
    .min(1, "A review needs at least one setup.")
    .max(200),
  suiteId: z.string().nullable(),
  resolutions: z.array(z.string()),
  constants: z.array(z.string().trim().min(1).max(80)).max(40),
  embargoUntil: z.iso.datetime({ offset: true }).nullable(),
});
export type ReviewDraft = z.infer<typeof ReviewDraft>;

/** Starts a review. Where not all resolutions of the suite are wanted, it gets a suite of its own with those that are. */
export async function startReview(deps: Deps, actor: Actor, input: ReviewDraft): Promise<Result<{ id: string }, UseCaseProblem>> {
  const ids = input.setups.map(({ setupId }) => setupId);
  if (!ids.includes(input.baselineId)) return fail({ kind: "invalid", reason: "The baseline has to be one of the review's rows." });
  if (new Set(ids).size !== ids.length) return fail({ kind: "invalid", reason: "A setup is in the review twice." });
  return deps.database.transaction(async (tx) => {
    const [taken] = await tx.select().from(reviews).where(eq(reviews.id, input.id));
    if (taken) return fail({ kind: "invalid", reason: `There is a review ${input.id} already; choose another id.` });
    const known = new Set((await tx.select({ id: setups.id }).from(setups).where(inArray(setups.id, ids))).map(({ id }) => id));
    const unknown = ids.find((id) => !known.has(id));
    if (unknown) return fail({ kind: "not-found", what: "setup", id: unknown });
    let suiteId = input.suiteId;
    if (suiteId !== null) {
      const [suite] = await tx.select().from(suites).where(eq(suites.id, suiteId));
      if (!suite) return fail({ kind: "not-found", what: "suite", id: suiteId });
      const members = await tx
        .select({ member: suiteTests, resolution: tests.resolution })
        .from(suiteTests)
        .innerJoin(tests, and(eq(tests.id, suiteTests.testId), eq(tests.version, suiteTests.testVersion)))
        .where(eq(suiteTests.suiteId, suiteId))
        .orderBy(asc(suiteTests.position));
      const wanted = members.filter(({ resolution }) => resolution === null || input.resolutions.length === 0 || input.resolutions.includes(resolution));
      if (wanted.length < members.length) {
        const own = `${input.id}-suite`;
        const [there] = await tx.select().from(suites).where(eq(suites.id, own));
        if (there) return fail({ kind: "invalid", reason: `There is a suite ${own} already; choose another id for the review.` });
        await tx.insert(suites).values({ id: own, name: `${suite.name}, for ${input.title}` });
        if (wanted.length > 0) await tx.insert(suiteTests).values(wanted.map(({ member }, i) => ({ ...member, suiteId: own, position: i + 1 })));
        suiteId = own;
      }
    }
    await tx.insert(reviews).values({
      id: input.id,
      title: input.title,
      questionKind: input.questionKind,
      question: input.question,
      baselineSetupId: input.baselineId,
      suiteId,
      embargoUntil: input.embargoUntil ? new Date(input.embargoUntil) : null,
      extra: input.constants.length > 0 ? { x_constants: input.constants.join("; ") } : null,
    });
    await tx.insert(reviewSetups).values(input.setups.map(({ setupId, role }, i) => ({ reviewId: input.id, setupId, role, position: i + 1 })));
    await checkAllReviews(tx, deps);
    await recordAudit(tx, deps, actor, { action: "start review", subject: `review:${input.id}`, detail: { kind: input.questionKind, setups: ids.length } });
    return ok({ id: input.id });
  });
}

/** A setup to be added: parts under test on a bench, and their state; a part that is new to the lab comes along. */
export const SetupDraft = z.object({
  id: Slug,
  label: z.string().trim().min(1, "A setup needs a name.").max(80),
  benchId: z.string(),
  benchRevision: z.int(),
  partIds: z.array(z.string()).max(12),
  newPart: z
    .object({
      id: Slug,
      kind: PartKind,
      name: z.string().trim().min(1, "A part needs a name.").max(80),
      maker: z.string().trim().max(60).nullable(),
      specs: z
        .array(
          z.object({
            key: z.string().regex(/^[a-z][a-z0-9_]*$/, "A fact's key is made of a–z, 0–9 and _."),
            value: z.string().trim().min(1).max(120),
            unit: z.string().max(20).nullable(),
          }),
        )
        .max(40),
    })
    .nullable(),
  state: z
    .array(
      z.object({
        key: z.string().regex(/^[a-z][a-z0-9_]*$/, "A state's key is made of a–z, 0–9 and _."),
        value: z.string().trim().min(1).max(80),
        unit: z.string().max(20).nullable(),
      }),
    )
    .max(20),
});
export type SetupDraft = z.infer<typeof SetupDraft>;

/** Adds a setup to the lab, with a new part and its first sample where one is given. */
export async function addSetup(deps: Deps, actor: Actor, input: SetupDraft): Promise<Result<{ id: string }, UseCaseProblem>> {
  if (input.partIds.length === 0 && !input.newPart) return fail({ kind: "invalid", reason: "A setup needs at least one part under test." });
  return deps.database.transaction(async (tx) => {
    const [taken] = await tx.select().from(setups).where(eq(setups.id, input.id));
    if (taken) return fail({ kind: "invalid", reason: `There is a setup ${input.id} already; choose another id.` });
    const [bench] = await tx
      .select()
      .from(benches)
      .where(and(eq(benches.id, input.benchId), eq(benches.revision, input.benchRevision)));
    if (!bench) return fail({ kind: "not-found", what: "bench", id: `${input.benchId}, revision ${input.benchRevision}` });
    const partIds = [...input.partIds];
    if (input.newPart) {
      const { specs, ...part } = input.newPart;
      const [there] = await tx.select().from(parts).where(eq(parts.id, part.id));
      if (there) return fail({ kind: "invalid", reason: `There is a part ${part.id} already; choose it from the list.` });
      await tx.insert(parts).values(part);
      await tx.insert(samples).values({ id: `${part.id}-s1`, partId: part.id, label: "sample 1" });
      if (specs.length > 0) await tx.insert(partSpecs).values(specs.map((spec) => ({ partId: part.id, ...spec, asOf: deps.today })));
      partIds.push(part.id);
    }
    const rows = await tx.select().from(parts).where(inArray(parts.id, partIds));
    const unknown = partIds.find((id) => !rows.some((row) => row.id === id));
    if (unknown) return fail({ kind: "not-found", what: "part", id: unknown });
    await tx.insert(setups).values({ id: input.id, benchId: input.benchId, benchRevision: input.benchRevision, label: input.label });
    await tx.insert(setupParts).values(rows.map(({ id, kind }) => ({ setupId: input.id, partId: id, role: kind, quantity: 1, underTest: true })));
    if (input.state.length > 0) await tx.insert(setupState).values(input.state.map((one) => ({ setupId: input.id, ...one })));
    await recordAudit(tx, deps, actor, { action: "add setup", subject: `setup:${input.id}`, detail: { partIds } });
    return ok({ id: input.id });
  });
}

/** Which suite a review goes through, and until when. */
export const ReviewChange = z.object({
  reviewId: z.string(),
  suiteId: z.string().nullable().optional(),
  embargoUntil: z.iso.datetime({ offset: true }).nullable().optional(),
  question: z.string().trim().min(1, "Say what the review is to answer.").max(400).optional(),
});
export type ReviewChange = z.infer<typeof ReviewChange>;

/** Changes a review's suite, deadline or question. */
export async function changeReview(deps: Deps, actor: Actor, input: ReviewChange): Promise<Result<null, UseCaseProblem>> {
  return deps.database.transaction(async (tx) => {
    const [review] = await tx.select().from(reviews).where(eq(reviews.id, input.reviewId)).for("update");
    if (!review) return fail({ kind: "not-found", what: "review", id: input.reviewId });
    if (input.suiteId) {
      const [suite] = await tx.select().from(suites).where(eq(suites.id, input.suiteId));
      if (!suite) return fail({ kind: "not-found", what: "suite", id: input.suiteId });
    }
    await tx
      .update(reviews)
      .set({
        ...(input.suiteId !== undefined && { suiteId: input.suiteId }),
        ...(input.embargoUntil !== undefined && { embargoUntil: input.embargoUntil ? new Date(input.embargoUntil) : null }),
        ...(input.question !== undefined && { question: input.question }),
        rowVersion: review.rowVersion + 1,
      })
      .where(eq(reviews.id, input.reviewId));
    if (input.suiteId !== undefined && input.suiteId !== review.suiteId) await checkAllReviews(tx, deps);
    const { reviewId, ...changes } = input;
    await recordAudit(tx, deps, actor, { action: "change review", subject: `review:${reviewId}`, detail: { ...changes } });
    return ok(null);
  });
}
