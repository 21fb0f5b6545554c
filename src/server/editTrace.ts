import { and, eq, isNull } from "drizzle-orm";
import { z } from "zod";
import { FRAME_METHOD_VERSION } from "@/core/capture";
import { fail, ok, type Result } from "@/core/result";
import type { Tx } from "@/db/client";
import { runStatistics, runs, traceEdits } from "@/db/schema";
import { readTraces } from "@/db/traces";
import { checkAllReviews } from "./checkReviews";
import { deriveRun } from "./deriveRun";
import type { UseCaseProblem } from "./problems";
import { logsOf } from "./runSeries";
import { type Actor, type Deps, lastChange, recordAudit } from "./useCase";

/** A stretch of a run to be left out of its statistics, in seconds from the run's start. The record itself is never changed. */
export const RunTrim = z
  .object({ runId: z.string(), rowVersion: z.int(), fromS: z.number().nonnegative(), toS: z.number().positive(), reason: z.string().trim().max(500) })
  .refine(({ fromS, toS }) => toS > fromS, "The stretch ends before it begins.");
export type RunTrim = z.infer<typeof RunTrim>;

/** A trim to be taken back, named by its stretch and the moment it was made. */
export const TrimUndo = z.object({ runId: z.string(), rowVersion: z.int(), fromS: z.number(), toS: z.number(), at: z.iso.datetime().nullable() });
export type TrimUndo = z.infer<typeof TrimUndo>;

/** Fewer frames than this are no run any more. */
const LEAST_FRAMES = 30;

/** The run as it was seen, locked for the change; or why it may not be changed. */
async function lockRun(tx: Tx, runId: string, rowVersion: number): Promise<Result<typeof runs.$inferSelect, UseCaseProblem>> {
  const [run] = await tx.select().from(runs).where(eq(runs.id, runId)).for("update");
  if (!run) return fail({ kind: "not-found", what: "run", id: runId });
  if (run.rowVersion !== rowVersion)
    return fail({ kind: "changed-meanwhile", what: "run", ...(await lastChange(tx, `run:${runId}`)), now: "otherwise than you saw it" });
  return ok(run);
}

/** Derives a run again under its trims in force; a sentence where too little of it is left. */
async function rederive(tx: Tx, runId: string): Promise<string | undefined> {
  const edits = await tx
    .select({ fromS: traceEdits.fromS, toS: traceEdits.toS })
    .from(traceEdits)
    .where(and(eq(traceEdits.runId, runId), isNull(traceEdits.undoneAt)));
  const { frames, sensors } = logsOf(await readTraces(tx, [runId]));
  const derived = { methodVersion: FRAME_METHOD_VERSION, ...deriveRun(frames, sensors, edits) };
  if (frames && (derived.frames?.frames ?? 0) < LEAST_FRAMES)
    return `Only ${derived.frames?.frames ?? 0} frames would be left; discard the run instead, with a reason.`;
  await tx
    .insert(runStatistics)
    .values({ runId, ...derived })
    .onConflictDoUpdate({ target: runStatistics.runId, set: derived });
  return undefined;
}

class TooLittleLeft extends Error {}

/** Derives and checks again after a change of a run's trims, raises its version, leaves the audit row; all or nothing. */
async function settle(tx: Tx, deps: Deps, actor: Actor, run: typeof runs.$inferSelect, entry: { action: string; detail: Record<string, unknown> }) {
  const problem = await rederive(tx, run.id);
  if (problem) throw new TooLittleLeft(problem);
  const rowVersion = run.rowVersion + 1;
  await tx.update(runs).set({ rowVersion }).where(eq(runs.id, run.id));
  await recordAudit(tx, deps, actor, { ...entry, subject: `run:${run.id}` });
  await checkAllReviews(tx, deps);
  return ok({ rowVersion });
}

/** Runs a change of a run's record in one transaction; too little left is an answer, not an error. */
async function inTransaction<T>(deps: Deps, work: (tx: Tx) => Promise<Result<T, UseCaseProblem>>): Promise<Result<T, UseCaseProblem>> {
  try {
    return await deps.database.transaction(work);
  } catch (error) {
    if (error instanceof TooLittleLeft) return fail({ kind: "invalid", reason: error.message });
    throw error;
  }
}

/** Leaves a stretch of a run out of all its statistics, with a reason; can be taken back. */
export async function trimRun(deps: Deps, actor: Actor, input: RunTrim): Promise<Result<{ rowVersion: number; at: string }, UseCaseProblem>> {
  if (input.reason === "") return fail({ kind: "invalid", reason: "Say why this part is left out (menu, warm-up, loading …); it is shown with the run." });
  return inTransaction(deps, async (tx) => {
    const run = await lockRun(tx, input.runId, input.rowVersion);
    if (!run.ok) return run;
    const { fromS, toS, reason } = input;
    const at = deps.now();
    await tx.insert(traceEdits).values({ runId: run.value.id, fromS, toS, reason, who: actor.name, at });
    const settled = await settle(tx, deps, actor, run.value, { action: "trim run", detail: { fromS, toS, reason } });
    return ok({ ...settled.value, at: at.toISOString() });
  });
}

/** Takes a trim back; the record of it stays. */
export async function undoTrim(deps: Deps, actor: Actor, input: TrimUndo): Promise<Result<{ rowVersion: number }, UseCaseProblem>> {
  return inTransaction(deps, async (tx) => {
    const run = await lockRun(tx, input.runId, input.rowVersion);
    if (!run.ok) return run;
    const { fromS, toS, at } = input;
    const undone = await tx
      .update(traceEdits)
      .set({ undoneAt: deps.now() })
      .where(
        and(
          eq(traceEdits.runId, run.value.id),
          eq(traceEdits.fromS, fromS),
          eq(traceEdits.toS, toS),
          at === null ? isNull(traceEdits.at) : eq(traceEdits.at, new Date(at)),
          isNull(traceEdits.undoneAt),
        ),
      )
      .returning({ reason: traceEdits.reason });
    if (undone.length === 0) return fail({ kind: "not-found", what: "trim", id: `of ${fromS} to ${toS} s` });
    return settle(tx, deps, actor, run.value, { action: "undo trim", detail: { fromS, toS, reason: undone[0]?.reason ?? null } });
  });
}
