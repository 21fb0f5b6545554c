import { z } from "zod";
import { DAYS_AHEAD, finishSearch, NO_CUTS, openStretches, type PlanChoices, planInputOf, planReview, schedulePlan } from "@/core/plan";
import { createRandom } from "@/core/random";
import { fail, ok, type Result } from "@/core/result";
import { loadPlan } from "./loadPlan";
import type { UseCaseProblem } from "./problems";
import { savePlan } from "./savePlan";
import type { Actor, Deps } from "./useCase";

/** A review whose open runs are to go to its run sheet. */
export const OpenRuns = z.object({ reviewId: z.string() });

/** Enough for the few setups that reruns concern; the Plan step searches longer. */
const ITERATIONS = 20_000;
const SEED = 20261125;

/**
 * Puts a plan of all that is still open in force (reruns of what was discarded among it), under the choices of the plan
 * before it, and answers on which bench to start. What had been cut stays cut.
 */
export async function planOpenRuns(
  deps: Deps,
  actor: Actor,
  { reviewId }: z.infer<typeof OpenRuns>,
): Promise<Result<{ number: number; benchId: string }, UseCaseProblem>> {
  const model = await loadPlan(deps, reviewId);
  if (!model) return fail({ kind: "not-found", what: "review", id: reviewId });
  const own = new Set(model.setups.map(({ benchId, benchRevision }) => `${benchId}@${benchRevision}`));
  const choices: PlanChoices = {
    ...(model.saved?.choices ?? {
      benches: [...own],
      oneOperator: true,
      policy: { baselineLast: false, baselineEvery: 0, alternate: false },
      cuts: NO_CUTS,
    }),
    startAt: deps.now().toISOString(),
  };
  const input = planInputOf(model, choices);
  const plan = finishSearch(planReview(input, createRandom(SEED), ITERATIONS));
  const [bench] = plan.benches;
  if (!bench) return fail({ kind: "invalid", reason: "Nothing is open: every cell has the runs its suite asks for." });
  const startMs = deps.now().getTime();
  const { seconds, sd } = schedulePlan({
    plan,
    setups: model.setups,
    tests: model.tests,
    times: input.times,
    stretches: openStretches(model.hours, startMs, DAYS_AHEAD),
    startMs,
    deadlineMs: model.review.deadlineMs,
    oneOperator: choices.oneOperator,
  });
  const stored = { benches: plan.benches.map(({ id, revision, blocks }) => ({ id, revision, blocks })) };
  const saved = await savePlan(deps, actor, { reviewId, after: model.saved?.number ?? 0, choices, plan: stored, plannedSeconds: seconds, plannedSd: sd });
  return saved.ok ? ok({ number: saved.value.number, benchId: bench.id }) : saved;
}
