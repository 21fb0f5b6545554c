import { eq } from "drizzle-orm";
import { z } from "zod";
import { fail, ok, type Result } from "@/core/result";
import { runs } from "@/db/schema";
import { checkAllReviews } from "./checkReviews";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, lastChange, recordAudit } from "./useCase";

/** Takes a run out of all results with a reason, or brings a discarded one back. The run itself is never deleted. */
export const RunChange = z.object({
  runId: z.string(),
  rowVersion: z.int(),
  status: z.enum(["valid", "discarded"]),
  reason: z.string().trim().max(500),
});
export type RunChange = z.infer<typeof RunChange>;

/** Discards or restores a run; the checks run again in the same transaction. A failed run stays failed. */
export async function changeRun(deps: Deps, actor: Actor, input: RunChange): Promise<Result<{ rowVersion: number }, UseCaseProblem>> {
  if (input.status === "discarded" && input.reason === "") return fail({ kind: "invalid", reason: "Say why the run is discarded; it is shown with the run." });
  return deps.database.transaction(async (tx) => {
    const [run] = await tx.select().from(runs).where(eq(runs.id, input.runId)).for("update");
    if (!run) return fail({ kind: "not-found", what: "run", id: input.runId });
    if (run.status === "failed") return fail({ kind: "invalid", reason: "A failed run is a result of its own and stays as it is." });
    if (run.rowVersion !== input.rowVersion) {
      return fail({
        kind: "changed-meanwhile",
        what: "run",
        ...(await lastChange(tx, `run:${run.id}`)),
        now: `“${run.status}${run.reason ? `, ${run.reason}` : ""}”`,
      });
    }
    const rowVersion = run.rowVersion + 1;
    const reason = input.status === "discarded" ? input.reason : null;
    await tx.update(runs).set({ status: input.status, reason, rowVersion }).where(eq(runs.id, run.id));
    await recordAudit(tx, deps, actor, { action: input.status === "valid" ? "restore run" : "discard run", subject: `run:${run.id}`, detail: { reason } });
    await checkAllReviews(tx, deps);
    return ok({ rowVersion });
  });
}
