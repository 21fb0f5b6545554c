import { createHash } from "node:crypto";
import { eq } from "drizzle-orm";
import { z } from "zod";
import { Computation, checkClaim } from "@/core/report";
import { fail, ok, type Result } from "@/core/result";
import { claims } from "@/db/schema";
import { loadReview } from "./loadReview";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, recordAudit } from "./useCase";

export const NewClaim = z.object({ reviewId: z.string(), sentence: z.string().trim().min(1, "Write the sentence.").max(600), computation: Computation });
export const ClaimRemoval = z.object({ claimId: z.string() });

/** Adds a sentence with the computation that makes it true; one that does not hold now is refused. The same computation stands once. */
export async function addClaim(deps: Deps, actor: Actor, input: z.infer<typeof NewClaim>): Promise<Result<{ id: string }, UseCaseProblem>> {
  const model = await loadReview(deps, input.reviewId);
  if (!model) return fail({ kind: "not-found", what: "review", id: input.reviewId });
  const checked = checkClaim(model, input.computation);
  if (!checked.holds) return fail({ kind: "invalid", reason: `The data do not bear this out: ${checked.now}.` });
  const computation = JSON.stringify(input.computation);
  const id = `claim-${createHash("sha256").update(`${input.reviewId}\n${computation}`).digest("hex").slice(0, 16)}`;
  const row = { sentence: input.sentence, holds: true, checkedAt: deps.now() };
  await deps.database.transaction(async (tx) => {
    await tx
      .insert(claims)
      .values({ id, reviewId: input.reviewId, computation, ...row })
      .onConflictDoUpdate({ target: claims.id, set: row });
    await recordAudit(tx, deps, actor, { action: "add claim", subject: `claim:${id}`, detail: { sentence: input.sentence } });
  });
  return ok({ id });
}

/** Takes a sentence off the verdict; it can be added again. */
export async function removeClaim(deps: Deps, actor: Actor, { claimId }: z.infer<typeof ClaimRemoval>): Promise<Result<{ id: string }, UseCaseProblem>> {
  return deps.database.transaction(async (tx) => {
    const [gone] = await tx.delete(claims).where(eq(claims.id, claimId)).returning();
    if (!gone) return fail({ kind: "not-found", what: "claim", id: claimId });
    await recordAudit(tx, deps, actor, { action: "remove claim", subject: `claim:${claimId}`, detail: { sentence: gone.sentence } });
    return ok({ id: claimId });
  });
}
