import { eq } from "drizzle-orm";
import { z } from "zod";
import { LabHours, PlanChoices, StoredPlan } from "@/core/plan";
import { fail, ok, type Result } from "@/core/result";
import { labSettings, reviewPlans } from "@/db/schema";
import { loadPlan, loadStoredPlan } from "./loadPlan";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, recordAudit } from "./useCase";

/** A plan to be put in force. `after` is the plan that its author saw, 0 for none. */
export const NewPlan = z.object({
  reviewId: z.string(),
  after: z.int().min(0),
  choices: PlanChoices,
  plan: StoredPlan,
  plannedSeconds: z.number().nonnegative(),
  plannedSd: z.number().nonnegative(),
});
export type NewPlan = z.infer<typeof NewPlan>;

/** Puts a plan in force, after the one before it: what it names must be in the review, and nobody may have planned meanwhile. */
export async function savePlan(deps: Deps, actor: Actor, input: NewPlan): Promise<Result<{ number: number }, UseCaseProblem>> {
  const model = await loadPlan(deps, input.reviewId);
  if (!model) return fail({ kind: "not-found", what: "review", id: input.reviewId });
  const setups = new Set(model.setups.map(({ id }) => id));
  const tests = new Set(model.tests.map(({ key }) => key));
  const blocks = input.plan.benches.flatMap((bench) => bench.blocks);
  if (blocks.some(({ setupId, tests: own }) => !setups.has(setupId) || own.some(({ testKey }) => !tests.has(testKey))))
    return fail({ kind: "invalid", reason: "The review's setups or suite have changed since this plan was made; make it again." });
  if (blocks.length === 0) return fail({ kind: "invalid", reason: "There is nothing left to run; a plan would be empty." });
  return deps.database.transaction(async (tx) => {
    const last = await loadStoredPlan(tx, input.reviewId);
    if ((last?.number ?? 0) !== input.after)
      return fail({
        kind: "changed-meanwhile",
        what: "plan",
        who: last?.madeBy ?? "somebody",
        at: (last?.madeAt ?? deps.now()).toISOString(),
        now: `plan ${last?.number}`,
      });
    const number = input.after + 1;
    const { reviewId, choices, plan, plannedSeconds, plannedSd } = input;
    await tx.insert(reviewPlans).values({ reviewId, number, choices, plan, plannedSeconds, plannedSd, madeBy: actor.name, madeAt: deps.now() });
    await recordAudit(tx, deps, actor, { action: "make plan", subject: `review:${reviewId}`, detail: { number, hours: plannedSeconds / 3600 } });
    return ok({ number });
  });
}

/** The lab's hours as edited. */
export const LabHoursChange = z.object({ rowVersion: z.int(), hours: LabHours });
export type LabHoursChange = z.infer<typeof LabHoursChange>;

/** Changes when the lab is open. */
export async function setLabHours(deps: Deps, actor: Actor, input: LabHoursChange): Promise<Result<{ rowVersion: number }, UseCaseProblem>> {
  return deps.database.transaction(async (tx) => {
    const [row] = await tx.select().from(labSettings).where(eq(labSettings.id, "lab")).for("update");
    if (row?.rowVersion !== input.rowVersion)
      return fail({ kind: "changed-meanwhile", what: "calendar", who: "Somebody", at: deps.now().toISOString(), now: "something else" });
    const rowVersion = row.rowVersion + 1;
    await tx.update(labSettings).set({ hours: input.hours, rowVersion }).where(eq(labSettings.id, "lab"));
    await recordAudit(tx, deps, actor, { action: "set lab hours", subject: "lab:hours", detail: { ...input.hours } });
    return ok({ rowVersion });
  });
}
