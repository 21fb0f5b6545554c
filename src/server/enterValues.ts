import { and, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { type ParsedSlot, parseSlot } from "@/core/intake";
import { fail, ok, type Result } from "@/core/result";
import type { Tx } from "@/db/client";
import { findings, opinions, runs, runValues, setups, tests, traceEdits, traces } from "@/db/schema";
import { checkAllReviews } from "./checkReviews";
import { splitKey } from "./moveRuns";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, lastChange, recordAudit } from "./useCase";

/** What is typed into one slot: a run of a cell by its number. */
export const ValueEdit = z.object({
  setupId: z.string().min(1),
  testKey: z.string().regex(/^.+@\d+$/),
  number: z.int().min(1).max(1000),
  /** As typed: a value, `failed: reason`, or nothing to clear the slot. */
  text: z.string().trim().max(500),
  /** Version of the run that was seen there; null where the slot was empty. */
  seen: z.int().nullable(),
});
export type ValueEdit = z.infer<typeof ValueEdit>;

export const ValueEdits = z.object({ edits: z.array(ValueEdit).min(1).max(5000) });

const slotName = ({ setupId, testKey, number }: ValueEdit) => `${setupId}, ${testKey}, run ${number}`;
const MOST_NAMED = 5;

interface Slot {
  edit: ValueEdit;
  parsed: ParsedSlot;
  unit: string;
  run: typeof runs.$inferSelect | undefined;
}

/** The slot as it stands, locked; or why it may not be typed into. */
async function readSlot(tx: Tx, edit: ValueEdit, unitOf: ReadonlyMap<string, string>): Promise<Result<Slot, UseCaseProblem>> {
  const unit = unitOf.get(edit.testKey);
  if (unit === undefined) return fail({ kind: "not-found", what: "test", id: edit.testKey });
  const parsed = parseSlot(edit.text, unit);
  if (!parsed.ok) return fail({ kind: "invalid", reason: `${slotName(edit)}: ${parsed.problem.reason}.` });
  const { testId, testVersion } = splitKey(edit.testKey);
  const place = and(eq(runs.setupId, edit.setupId), eq(runs.testId, testId), eq(runs.testVersion, testVersion), eq(runs.number, edit.number));
  const [run] = await tx.select().from(runs).where(place).for("update");
  if ((run?.rowVersion ?? null) !== edit.seen) {
    const now = run ? "filled otherwise than you saw it" : "empty";
    return fail({ kind: "changed-meanwhile", what: "slot", ...(await lastChange(tx, `run:${run?.id ?? ""}`)), now });
  }
  if (run) {
    const [trace] = await tx.select({ id: traces.runId }).from(traces).where(eq(traces.runId, run.id)).limit(1);
    if (trace || run.sessionId !== null)
      return fail({ kind: "invalid", reason: `${slotName(edit)} comes from a log or a run sheet and is not typed over; discard it in its own view.` });
  }
  return ok({ edit, parsed: parsed.value, unit, run });
}

/** Removes a typed run with its values; only what was typed is ever removed, and the trail of it stays. */
async function clear(tx: Tx, runId: string): Promise<void> {
  for (const table of [runValues, opinions, traceEdits]) await tx.delete(table).where(eq(table.runId, runId));
  await tx.delete(runs).where(eq(runs.id, runId));
}

async function write(tx: Tx, deps: Deps, { edit, parsed, unit, run }: Slot): Promise<string | undefined> {
  if (parsed.kind === "empty") {
    if (run) await clear(tx, run.id);
    return run?.id;
  }
  const { testId, testVersion } = splitKey(edit.testKey);
  const id = run?.id ?? `${edit.setupId}-${testId}-v${testVersion}-${edit.number}`.slice(0, 120);
  const state = parsed.kind === "failed" ? { status: "failed", reason: parsed.reason } : { status: "valid", reason: null };
  if (run)
    await tx
      .update(runs)
      .set({ ...state, rowVersion: run.rowVersion + 1 })
      .where(eq(runs.id, id));
  else
    await tx.insert(runs).values({
      id,
      setupId: edit.setupId,
      testId,
      testVersion,
      number: edit.number,
      ...state,
      startedAt: null,
      endedAt: deps.now(),
      note: "typed",
    });
  await tx.delete(runValues).where(and(eq(runValues.runId, id), sql`${runValues.metric} in ('result', 'output_bytes')`));
  if (parsed.kind === "value") {
    await tx.insert(runValues).values({ runId: id, metric: "result", value: parsed.value.value, unit });
    if (parsed.value.outputBytes !== null) await tx.insert(runValues).values({ runId: id, metric: "output_bytes", value: parsed.value.outputBytes, unit: "B" });
  }
  return id;
}

/**
 * Writes what was typed into slots of the grid, all of it or none: values with or without units, times, sizes, `failed: why`,
 * or nothing to clear what was typed before. Runs from logs are never typed over. The checks run once, afterwards.
 */
export async function enterValues(
  deps: Deps,
  actor: Actor,
  { edits }: z.infer<typeof ValueEdits>,
): Promise<Result<{ written: { slot: string; rowVersion: number | null }[] }, UseCaseProblem>> {
  return deps.database.transaction(async (tx) => {
    const units = await tx.select({ id: tests.id, version: tests.version, unit: tests.unit }).from(tests);
    const unitOf = new Map(units.map(({ id, version, unit }) => [`${id}@${version}`, unit]));
    const setupIds = new Set((await tx.select({ id: setups.id }).from(setups)).map(({ id }) => id));
    const lost = edits.find(({ setupId }) => !setupIds.has(setupId));
    if (lost) return fail({ kind: "not-found", what: "setup", id: lost.setupId });
    const slots: Slot[] = [];
    const refused: string[] = [];
    for (const edit of edits) {
      const slot = await readSlot(tx, edit, unitOf);
      if (slot.ok) slots.push(slot.value);
      else if (slot.problem.kind === "invalid") refused.push(slot.problem.reason);
      else return slot;
    }
    if (refused.length > 0) {
      const more = refused.length > MOST_NAMED ? ` And ${refused.length - MOST_NAMED} more.` : "";
      return fail({ kind: "invalid", reason: `Nothing was written. ${refused.slice(0, MOST_NAMED).join(" ")}${more}` });
    }
    const written: { slot: string; rowVersion: number | null }[] = [];
    for (const slot of slots) {
      const id = await write(tx, deps, slot);
      const { edit, parsed, run } = slot;
      written.push({ slot: `${edit.setupId}/${edit.testKey}/${edit.number}`, rowVersion: parsed.kind === "empty" ? null : (run?.rowVersion ?? 0) + 1 });
      if (id !== undefined)
        await recordAudit(tx, deps, actor, {
          action: parsed.kind === "empty" ? "clear typed value" : parsed.kind === "failed" ? "mark run failed" : "type value",
          subject: `run:${id}`,
          detail: { text: edit.text, reason: parsed.kind === "failed" ? parsed.reason : null },
        });
    }
    // A doubt about a run that is gone goes with it.
    await tx
      .delete(findings)
      .where(sql`${findings.evidence} ->> 'runId' is not null and not exists (select 1 from ${runs} where ${runs.id} = ${findings.evidence} ->> 'runId')`);
    await checkAllReviews(tx, deps);
    return ok({ written });
  });
}
