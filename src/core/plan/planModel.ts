import { z } from "zod";
import type { LabHours } from "./labHours";
import type { OrderFound } from "./orderOnBenches";
import type { Plan, PlanBench, PlanCuts, PlanInput, PlanSetup, PlanTest } from "./planReview";
import { type Activity, learnTimes, type TimeModel, type TimeObservation } from "./timeModel";

/** The choices a plan is made by. */
export const PlanChoices = z.object({
  /** Benches as `id@revision`. */
  benches: z.array(z.string()).min(1, "Choose at least one bench."),
  startAt: z.iso.datetime({ offset: true }),
  oneOperator: z.boolean(),
  policy: z.object({ baselineLast: z.boolean(), baselineEvery: z.int().min(0).max(50), alternate: z.boolean() }),
  cuts: z.object({ tests: z.array(z.string()), resolutions: z.array(z.string()), cells: z.array(z.string()), runs: z.record(z.string(), z.int().min(1)) }),
});
export type PlanChoices = z.infer<typeof PlanChoices>;

/** A plan as it is stored: what is done on which bench in which order. */
export const StoredPlan = z.object({
  benches: z.array(
    z.object({
      id: z.string(),
      revision: z.int(),
      blocks: z.array(
        z.object({
          setupId: z.string(),
          part: z.enum(["main", "baseline first", "baseline between", "baseline last", "back"]),
          tests: z.array(z.object({ testKey: z.string(), runs: z.int().min(1).max(1000) })),
        }),
      ),
    }),
  ),
});
export type StoredPlan = z.infer<typeof StoredPlan>;

/** Everything that planning a review needs, as plain data. */
export interface PlanModel {
  review: { id: string; title: string; baselineId: string; subjectIds: string[]; deadlineMs: number | null };
  setups: PlanSetup[];
  tests: PlanTest[];
  benches: PlanBench[];
  runsDone: [cell: string, runs: number][];
  observations: TimeObservation[];
  history: { logSpeed: [cell: string, log: number][]; spread: [testKey: string, spread: { sLog: number; df: number }][] };
  hours: LabHours;
  hoursVersion: number;
  saved: {
    number: number;
    choices: PlanChoices;
    plan: StoredPlan;
    plannedSeconds: number;
    plannedSd: number;
    madeBy: string;
    madeAt: string;
    started: boolean;
  } | null;
}

/** What is written of an activity's length in the definitions: times are learned as ratios to it. */
export function writtenTimes(tests: readonly PlanTest[]): (activity: Activity, detail: string) => number | null {
  const testOf = new Map(tests.map((test) => [test.key, test]));
  return (activity, detail) => {
    const test = testOf.get(detail);
    if (!test) return null;
    if (activity === "run" || activity === "soak") return test.lengthS;
    if (activity === "warm-up") return test.warmupS;
    if (activity === "reset" || activity === "cool-down") return test.resetS;
    return activity === "launch" ? test.loadS : null;
  };
}

/** The time model of a lab's observations under some definitions. */
export function timesOf(model: Pick<PlanModel, "observations" | "tests">): TimeModel {
  return learnTimes(model.observations, writtenTimes(model.tests));
}

/** The planning input of a model under some choices. */
export function planInputOf(model: PlanModel, choices: PlanChoices): PlanInput {
  return {
    setups: model.setups,
    baselineId: model.review.baselineId,
    tests: model.tests,
    benches: model.benches.filter(({ id, revision }) => choices.benches.includes(`${id}@${revision}`)),
    runsDone: new Map(model.runsDone),
    cuts: choices.cuts as PlanCuts,
    policy: choices.policy,
    times: timesOf(model),
  };
}

/** A stored plan as the functions of plans take it; how good its order was is no longer known. */
export function revivePlan(stored: StoredPlan): Plan {
  const order: OrderFound = { sequences: [], makespanMinutes: 0, changeMinutes: 0, lowerBoundMinutes: 0, exact: false };
  return { benches: stored.benches, left: [], order, notes: [] };
}
