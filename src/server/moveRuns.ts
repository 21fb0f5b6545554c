import { and, eq, inArray, sql } from "drizzle-orm";
import { z } from "zod";
import { fail, ok, type Result } from "@/core/result";
import type { Tx } from "@/db/client";
import { runs, setups, tests } from "@/db/schema";
import { checkAllReviews } from "./checkReviews";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, lastChange, recordAudit } from "./useCase";

/** A place that a run can have. */
export interface RunSlot {
  setupId: string;
  testId: string;
  testVersion: number;
  number: number;
}

/** A run's way from one place to another. */
export interface RunMove {
  runId: string;
  from: RunSlot;
  to: RunSlot;
}

/** Numbers beyond any real run: where runs wait while two exchange their places. */
const WAITING_FROM = 1_000_000;

/** The setup and test version of a cell. */
export const splitKey = (testKey: string): { testId: string; testVersion: number } => {
  const cut = testKey.lastIndexOf("@");
  return { testId: testKey.slice(0, cut), testVersion: Number(testKey.slice(cut + 1)) };
};

/** Puts runs in their new places at once, so that two may exchange theirs; each leaves its own audit row. */
export async function applyMoves(tx: Tx, deps: Deps, actor: Actor, moves: readonly RunMove[], reason: string): Promise<void> {
  for (const [i, { runId }] of moves.entries())
    await tx
      .update(runs)
      .set({ number: WAITING_FROM + i })
      .where(eq(runs.id, runId));
  for (const { runId, from, to } of moves) {
    await tx
      .update(runs)
      .set({ ...to, rowVersion: sql`${runs.rowVersion} + 1` })
      .where(eq(runs.id, runId));
    await recordAudit(tx, deps, actor, { action: "move run", subject: `run:${runId}`, detail: { reason, from, to } });
  }
}

/**
 * The moves that bring runs to another cell: under the number they have where it is free there (or becomes free, because
 * its run goes the other way), else under the first free one.
 */
export async function planMoves(tx: Tx, wanted: readonly { runIds: readonly string[]; setupId: string; testKey: string }[]): Promise<RunMove[]> {
  const ids = wanted.flatMap(({ runIds }) => runIds);
  const rows = ids.length === 0 ? [] : await tx.select().from(runs).where(inArray(runs.id, ids)).orderBy(runs.number, runs.id).for("update");
  const moves: RunMove[] = [];
  for (const { runIds, setupId, testKey } of wanted) {
    const target = { setupId, ...splitKey(testKey) };
    const there = await tx
      .select({ id: runs.id, number: runs.number })
      .from(runs)
      .where(and(eq(runs.setupId, setupId), eq(runs.testId, target.testId), eq(runs.testVersion, target.testVersion)));
    const taken = new Set(there.filter(({ id }) => !ids.includes(id)).map(({ number }) => number));
    for (const row of rows.filter(({ id }) => runIds.includes(id))) {
      let number = taken.has(row.number) ? 1 : row.number;
      while (taken.has(number)) number += 1;
      taken.add(number);
      const from = { setupId: row.setupId, testId: row.testId, testVersion: row.testVersion, number: row.number };
      moves.push({ runId: row.id, from, to: { ...target, number } });
    }
  }
  return moves;
}

/** A run that was filed in the wrong cell, and where it belongs. */
export const RunRelabel = z.object({
  runId: z.string(),
  rowVersion: z.int(),
  setupId: z.string().min(1),
  testKey: z.string().regex(/^.+@\d+$/),
  reason: z.string().trim().max(500),
});
export type RunRelabel = z.infer<typeof RunRelabel>;

/** Moves one run to the cell it belongs to, with a reason; the checks run again. */
export async function relabelRun(deps: Deps, actor: Actor, input: RunRelabel): Promise<Result<{ rowVersion: number; number: number }, UseCaseProblem>> {
  if (input.reason === "") return fail({ kind: "invalid", reason: "Say why the run belongs there; it is kept with the run." });
  return deps.database.transaction(async (tx) => {
    const [run] = await tx.select().from(runs).where(eq(runs.id, input.runId)).for("update");
    if (!run) return fail({ kind: "not-found", what: "run", id: input.runId });
    if (run.rowVersion !== input.rowVersion)
      return fail({ kind: "changed-meanwhile", what: "run", ...(await lastChange(tx, `run:${run.id}`)), now: "otherwise than you saw it" });
    const { testId, testVersion } = splitKey(input.testKey);
    const [setup] = await tx.select({ id: setups.id }).from(setups).where(eq(setups.id, input.setupId));
    if (!setup) return fail({ kind: "not-found", what: "setup", id: input.setupId });
    const found = await tx
      .select({ id: tests.id, kind: tests.kind })
      .from(tests)
      .where(inArray(sql`(${tests.id}, ${tests.version})`, [sql`(${testId}, ${testVersion}::integer)`, sql`(${run.testId}, ${run.testVersion}::integer)`]));
    if (!found.some(({ id }) => id === testId)) return fail({ kind: "not-found", what: "test", id: input.testKey });
    if (new Set(found.map(({ kind }) => kind)).size > 1) return fail({ kind: "invalid", reason: "A run can only move to a test of the same kind." });
    if (run.setupId === input.setupId && run.testId === testId && run.testVersion === testVersion)
      return fail({ kind: "invalid", reason: "The run is in this cell already." });
    const moves = await planMoves(tx, [{ runIds: [run.id], setupId: input.setupId, testKey: input.testKey }]);
    await applyMoves(tx, deps, actor, moves, input.reason);
    await checkAllReviews(tx, deps);
    return ok({ rowVersion: run.rowVersion + 1, number: (moves[0] as RunMove).to.number });
  });
}
