import {
  DAYS_AHEAD,
  type LeaveOut,
  openStretches,
  type Plan,
  type PlanChoices,
  type PlanModel,
  planInputOf,
  planReview,
  proposeLeaveOuts,
  type Schedule,
  schedulePlan,
} from "@/core/plan";
import { createRandom } from "@/core/random";

/** What the page asks for. */
export interface PlanRequest {
  model: PlanModel;
  choices: PlanChoices;
  seed: number;
}

/** What comes back: how far the search is, then the plan laid over the calendar, then what could be left out. Cancelling is ending the worker. */
export type PlanReply =
  | { kind: "progress"; share: number; makespanMinutes: number; lowerBoundMinutes: number }
  | { kind: "planned"; plan: Plan; schedule: Schedule }
  | { kind: "done"; leaveOuts: LeaveOut[] }
  | { kind: "failed"; reason: string };

const reply = (message: PlanReply) => self.postMessage(message);

self.onmessage = ({ data: { model, choices, seed } }: MessageEvent<PlanRequest>) => {
  try {
    const input = planInputOf(model, choices);
    const search = planReview(input, createRandom(seed));
    let step = search.next();
    while (!step.done) {
      reply({ kind: "progress", ...step.value });
      step = search.next();
    }
    const plan = step.value;
    const startMs = Date.parse(choices.startAt);
    const schedule = schedulePlan({
      plan,
      setups: model.setups,
      tests: model.tests,
      times: input.times,
      stretches: openStretches(model.hours, startMs, DAYS_AHEAD),
      startMs,
      deadlineMs: model.review.deadlineMs,
      oneOperator: choices.oneOperator,
    });
    reply({ kind: "planned", plan, schedule });
    const history = { logSpeed: new Map(model.history.logSpeed), spread: new Map(model.history.spread) };
    reply({ kind: "done", leaveOuts: proposeLeaveOuts(input, history, { subjectIds: model.review.subjectIds }) });
  } catch (error) {
    reply({ kind: "failed", reason: error instanceof Error ? error.message : String(error) });
  }
};
