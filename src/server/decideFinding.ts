import { and, eq } from "drizzle-orm";
import { z } from "zod";
import { fail, ok, type Result } from "@/core/result";
import type { Tx } from "@/db/client";
import { audit, findings, people, runs } from "@/db/schema";
import { checkAllReviews } from "./checkReviews";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, recordAudit } from "./useCase";

/** What a person decides of a doubt. Discarding takes the doubted runs out of all results, and can be taken back. */
export const FindingDecision = z.object({
  findingId: z.string(),
  rowVersion: z.int(),
  decision: z.enum(["accept", "dismiss", "discard-runs", "reopen"]),
  reason: z.string().trim().max(500),
});
export type FindingDecision = z.infer<typeof FindingDecision>;

type Row = typeof findings.$inferSelect;

/** Who changed a row last, from the audit trail. */
export async function lastChange(tx: Tx, subject: string): Promise<{ who: string; at: string }> {
  const [last] = await tx
    .select({ name: people.name, at: audit.at })
    .from(audit)
    .innerJoin(people, eq(people.id, audit.who))
    .where(eq(audit.subject, subject))
    .orderBy(audit.id)
    .then((rows) => rows.slice(-1));
  return { who: last?.name ?? "Somebody", at: (last?.at ?? new Date(0)).toISOString() };
}

/** Which runs a finding would discard: the doubted one, or all it names of its own cell. */
function doubtedRuns(row: Row): string[] {
  const evidence = row.evidence as { runId: string | null; runIds: string[]; setupId: string } | null;
  if (!evidence) return [];
  return evidence.runId ? [evidence.runId] : evidence.runIds;
}

async function apply(tx: Tx, deps: Deps, actor: Actor, row: Row, input: FindingDecision): Promise<Partial<Row>> {
  const decided = { reason: input.reason, who: actor.name, at: deps.now() };
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
  if (input.decision === "discard-runs") {
    for (const runId of doubtedRuns(row)) await setStatus(runId, "valid");
    return { ...decided, state: "accepted" };
  }
  for (const runId of doubtedRuns(row)) await setStatus(runId, "discarded");
  return { state: "open", reason: null, who: null, at: null };
}

/**
 * Decides a finding: accept it as it is, dismiss it with why, discard the doubted runs with a reason, or open it again
 * (which restores runs that this finding had discarded). The checks run again in the same transaction.
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
    const change = await apply(tx, deps, actor, row, input);
    await tx
      .update(findings)
      .set({ ...change, rowVersion: row.rowVersion + 1 })
      .where(eq(findings.id, row.id));
    await recordAudit(tx, deps, actor, { action: `${input.decision} finding`, subject: `finding:${row.id}`, detail: { reason: input.reason } });
    await checkAllReviews(tx, deps);
    return ok({ state: change.state ?? row.state });
  });
}
