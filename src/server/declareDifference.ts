import { and, eq } from "drizzle-orm";
import { z } from "zod";
import { fail, ok, type Result } from "@/core/result";
import { declaredDifferences, reviews } from "@/db/schema";
import { checkAllReviews } from "./checkReviews";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, recordAudit } from "./useCase";

/** What the editor makes of a difference in what was to be held constant; withdrawn where the decision is null. */
export const DifferenceDecision = z.object({
  reviewId: z.string(),
  property: z.string().min(1),
  decision: z.enum(["declared", "split"]).nullable(),
  why: z.string().trim().max(500),
});
export type DifferenceDecision = z.infer<typeof DifferenceDecision>;

/** Declares a difference with its reason, splits the chart by it, or takes either back. */
export async function declareDifference(deps: Deps, actor: Actor, input: DifferenceDecision): Promise<Result<null, UseCaseProblem>> {
  if (input.decision !== null && input.why === "") return fail({ kind: "invalid", reason: "Say why it could not be held; buyers read it." });
  return deps.database.transaction(async (tx) => {
    const [review] = await tx.select().from(reviews).where(eq(reviews.id, input.reviewId));
    if (!review) return fail({ kind: "not-found", what: "review", id: input.reviewId });
    const at = and(eq(declaredDifferences.reviewId, input.reviewId), eq(declaredDifferences.property, input.property));
    await tx.delete(declaredDifferences).where(at);
    if (input.decision !== null)
      await tx
        .insert(declaredDifferences)
        .values({ reviewId: input.reviewId, property: input.property, decision: input.decision, why: input.why, who: actor.name, at: deps.now() });
    await recordAudit(tx, deps, actor, {
      action: input.decision === null ? "withdraw declaration" : `${input.decision} difference`,
      subject: `review:${input.reviewId}`,
      detail: { ...input },
    });
    await checkAllReviews(tx, deps);
    return ok(null);
  });
}
