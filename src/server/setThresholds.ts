import { eq } from "drizzle-orm";
import { z } from "zod";
import { CheckThresholds } from "@/core/check";
import { fail, ok, type Result } from "@/core/result";
import { checkSettings } from "@/db/schema";
import { checkAllReviews } from "./checkReviews";
import { loadThresholds } from "./loadChecks";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, recordAudit } from "./useCase";

/** One threshold of the checks, or null for the product's own. */
export const ThresholdChange = z.object({ key: CheckThresholds.keyof(), value: z.number().nullable() });
export type ThresholdChange = z.infer<typeof ThresholdChange>;

/** Sets a threshold for the whole lab; the checks of all reviews run again with it. */
export async function setThreshold(deps: Deps, actor: Actor, { key, value }: ThresholdChange): Promise<Result<null, UseCaseProblem>> {
  return deps.database.transaction(async (tx) => {
    const { set, rowVersion } = await loadThresholds(tx);
    const { [key]: before, ...others } = set;
    const next = value === null ? others : { ...others, [key]: value };
    const parsed = CheckThresholds.safeParse(next);
    if (!parsed.success) return fail({ kind: "invalid", reason: `This threshold cannot be ${value}: ${parsed.error.issues[0]?.message}.` });
    await tx
      .update(checkSettings)
      .set({ thresholds: next, rowVersion: rowVersion + 1 })
      .where(eq(checkSettings.id, "lab"));
    await checkAllReviews(tx, deps);
    await recordAudit(tx, deps, actor, { action: "set threshold", subject: "checks", detail: { key, from: before ?? null, to: value } });
    return ok(null);
  });
}
