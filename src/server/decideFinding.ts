import { and, desc, eq } from "drizzle-orm";
import { z } from "zod";
import { fail, ok, type Result } from "@/core/result";
import type { Tx } from "@/db/client";
import { audit, findings, runs } from "@/db/schema";
import { checkAllReviews } from "./checkReviews";
import { applyMoves, planMoves, type RunMove, splitKey } from "./moveRuns";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, lastChange, recordAudit } from "./useCase";

/**
 * What a person decides of a doubt. Discarding takes the doubted runs out of all results; rerunning does that too, and the
 * plan takes them up again; moving brings them to the cell they fit. Each can be taken back.
 */
export const FindingDecision = z.object({
  findingId: z.string(),
  rowVersion: z.int(),
  decision: z.enum(["accept", "dismiss", "discard-runs", "rerun", "move-runs", "reopen"]),
  reason: z.string().trim().max(500),
});
export type FindingDecision = z.infer<typeof FindingDecision>;

type Row = typeof findings.$inferSelect;

/** What of a finding's evidence its decisions need. */
interface DecidedEvidence {
  runId: string | null;
  runIds: string[];
  setupId: string;
  testKey: string;
  fits?: { setupId: string; testKey: string };
}

const evidenceOf = (row: Row) => row.evidence as DecidedEvidence | null;

/** Which runs a finding would discard: the doubted one, or all it names of its own cell. */
function doubtedRuns(row: Row): string[] {
  const evidence = evidenceOf(row);
  if (!evidence) return [];
  return evidence.runId ? [evidence.runId] : evidence.runIds;
}

const validRunsOf = async (tx: Tx, { setupId, testKey }: { setupId: string; testKey: string }) => {
  const { testId, testVersion } = splitKey(testKey);
  const cell = and(eq(runs.setupId, setupId), eq(runs.testId, testId), eq(runs.testVersion, testVersion), eq(runs.status, "valid"));
  return (await tx.select({ id: runs.id }).from(runs).where(cell)).map(({ id }) => id);
};

/**
 * Where the doubted runs go: one run to the cell it fits, in exchange for the one there that is doubted for fitting here;
 * a whole cell in exchange for the other. Undefined where the doubt knows no better place.
 */
async function movesOf(tx: Tx, row: Row): Promise<RunMove[] | undefined> {
  const evidence = evidenceOf(row);
  if (!evidence?.fits) return undefined;
  const { runId, fits } = evidence;
  const here = { setupId: evidence.setupId, testKey: evidence.testKey };
  if (runId === null) {
    return planMoves(tx, [
      { runIds: await validRunsOf(tx, here), ...fits },
      { runIds: await validRunsOf(tx, fits), ...here },
    ]);
  }
  const others = (await tx.select().from(findings).where(eq(findings.check, row.check))).map(evidenceOf);
  const back = others.find(
    (other) =>
      other?.runId &&
      other.setupId === fits.setupId &&
      other.testKey === fits.testKey &&
      other.fits?.setupId === here.setupId &&
      other.fits.testKey === here.testKey,
  );
  return planMoves(tx, [
    { runIds: [runId], ...fits },
    { runIds: back?.runId ? [back.runId] : [], ...here },
  ]);
}

/** The moves that a decision on a finding made last, turned round; none where the last decision moved nothing. */
async function movesToUndo(tx: Tx, row: Row): Promise<RunMove[]> {
  const trail = await tx
    .select({ action: audit.action, detail: audit.detail })
    .from(audit)
    .where(eq(audit.subject, `finding:${row.id}`))
    .orderBy(desc(audit.id))
    .limit(1);
  const made = trail[0]?.action === "move-runs finding" ? ((trail[0].detail as { moves?: RunMove[] }).moves ?? []) : [];
  return made.map(({ runId, from, to }) => ({ runId, from: to, to: from }));
}

async function apply(tx: Tx, deps: Deps, actor: Actor, row: Row, input: FindingDecision, moves: readonly RunMove[]): Promise<Partial<Row>> {
  const decided = { reason: input.reason, who: actor.name, at: deps.now() };
  if (moves.length > 0) await applyMoves(tx, deps, actor, moves, `${row.check}: ${input.reason || "taken back"}`);
  if (input.decision === "move-runs") return { ...decided, state: "accepted" };
  if (input.decision === "dismiss") return { ...decided, state: "dismissed" };
  if (input.decision === "accept") return { ...decided, state: "accepted" };
  const setStatus = async (runId: string, from: "valid" | "discarded") => {
    const to = from === "valid" ? { status: "discarded", reason: `${row.check}: ${input.reason}` } : { status: "valid", reason: null };
    const [run] = await tx
      .select()
      .from(runs)
      .where(and(eq(runs.id, runId), eq(runs.status, from)));
    if (!run || (from === "discarded" && !run.reason?.startsWith(`${row.check}: `))) return;
    await tx
      .update(runs)
      .set({ ...to, rowVersion: run.rowVersion + 1 })
      .where(eq(runs.id, runId));
    await recordAudit(tx, deps, actor, {
      action: `${to.status === "valid" ? "restore" : "discard"} run`,
      subject: `run:${runId}`,
      detail: { reason: to.reason },
    });
  };
  if (input.decision === "discard-runs" || input.decision === "rerun") {
    for (const runId of doubtedRuns(row)) await setStatus(runId, "valid");
    return { ...decided, state: "accepted" };
  }
  for (const runId of doubtedRuns(row)) await setStatus(runId, "discarded");
  return { state: "open", reason: null, who: null, at: null };
}

/**
 * Decides a finding: accept it as it is, dismiss it with why, discard the doubted runs with a reason (to run again, or not),
 * move them to the cell they fit, or open it again (which restores what this finding had discarded or moved). The checks run
 * again in the same transaction.
 */
export async function decideFinding(deps: Deps, actor: Actor, input: FindingDecision): Promise<Result<{ state: string }, UseCaseProblem>> {
  if (input.decision !== "reopen" && input.reason === "")
    return fail({ kind: "invalid", reason: "Give the reason in a few words; it is kept with the decision." });
  return deps.database.transaction(async (tx) => {
    const [row] = await tx.select().from(findings).where(eq(findings.id, input.findingId)).for("update");
    if (!row) return fail({ kind: "not-found", what: "doubt", id: input.findingId });
    if (row.rowVersion !== input.rowVersion) {
      return fail({
        kind: "changed-meanwhile",
        what: "doubt",
        ...(await lastChange(tx, `finding:${row.id}`)),
        now: `“${row.state}${row.reason ? `, ${row.reason}` : ""}”`,
      });
    }
    const moves = input.decision === "move-runs" ? await movesOf(tx, row) : input.decision === "reopen" ? await movesToUndo(tx, row) : [];
    if (!moves) return fail({ kind: "invalid", reason: "This doubt knows no other cell that the runs would fit; discard them, or accept them." });
    const change = await apply(tx, deps, actor, row, input, moves);
    await tx
      .update(findings)
      .set({ ...change, rowVersion: row.rowVersion + 1 })
      .where(eq(findings.id, row.id));
    await recordAudit(tx, deps, actor, { action: `${input.decision} finding`, subject: `finding:${row.id}`, detail: { reason: input.reason, moves } });
    await checkAllReviews(tx, deps);
    return ok({ state: change.state ?? row.state });
  });
}
