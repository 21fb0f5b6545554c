import { overallFit } from "@/core/bench";
import { gapsOf, type ReviewModel } from "@/core/report";

/** A step of the work, with what is left to do in it. */
export interface Step {
  path: string;
  name: string;
  left: string;
  doubtful: boolean;
}

const plural = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;

/** The steps built so far, in working order, each with its small figure of what is left to do. */
export function stepsOf(model: ReviewModel): Step[] {
  const gaps = gapsOf(model);
  const rows = new Set(model.setups.map(({ id }) => id));
  const metered = model.runs.filter((run) => rows.has(run.setupId) && run.status === "valid" && Object.keys(run.energy).length > 0).length;
  const version = model.reports.at(-1)?.version;
  const differing = model.held.differences.filter(({ declared }) => declared === null).length;
  const unfit = model.held.setups.filter(({ fit }) => overallFit(fit) === "does not fit").length;
  const workloads = new Set(model.tests.map(({ workloadId }) => workloadId)).size;
  return [
    { path: "ask", name: "Ask", left: plural(model.setups.length, "row"), doubtful: false },
    {
      path: "bench",
      name: "Bench",
      left: unfit > 0 ? `${unfit} not fitting` : differing > 0 ? `${differing} not held` : "held",
      doubtful: unfit + differing > 0,
    },
    { path: "suite", name: "Suite", left: model.tests.length > 0 ? plural(workloads, "workload") : "none yet", doubtful: model.tests.length === 0 },
    {
      path: "plan",
      name: "Plan",
      left: gaps.runsValid >= gaps.runsWanted ? "all run" : model.plan ? (model.plan.started ? "under way" : `plan ${model.plan.number}`) : "not planned",
      doubtful: false,
    },
    { path: "run", name: "Run", left: `${gaps.runsValid} of ${gaps.runsWanted}`, doubtful: false },
    { path: "check", name: "Check", left: gaps.openFindings > 0 ? plural(gaps.openFindings, "doubt") : "settled", doubtful: gaps.openFindings > 0 },
    { path: "compare", name: "Compare", left: plural(model.setups.length, "row"), doubtful: false },
    {
      path: "value",
      name: "Value",
      left: gaps.stalePrices > 0 ? `${plural(gaps.stalePrices, "price")} stale` : plural(model.regions.length, "region"),
      doubtful: gaps.stalePrices > 0,
    },
    { path: "power", name: "Power", left: metered > 0 ? `${metered} runs metered` : "not metered", doubtful: false },
    { path: "say", name: "Say", left: version ? `version ${version} out` : plural(model.claims.length, "claim"), doubtful: false },
  ];
}

/** The deadline in words: how long until the embargo lifts, or that it has. */
export function embargoText(embargoUntil: string | null, nowMs: number): string | undefined {
  if (!embargoUntil) return undefined;
  const until = new Date(embargoUntil);
  const at = `${until.toISOString().slice(0, 10)} ${until.toISOString().slice(11, 16)} UTC`;
  const hours = (until.getTime() - nowMs) / 3_600_000;
  if (hours <= 0) return `embargo lifted ${at}`;
  return `embargo until ${at}, ${Math.floor(hours / 24)} d ${Math.floor(hours % 24)} h`;
}
