import type { Random } from "@/core/random";
import { type OrderFound, type OrderProblem, orderOnBenches, type SearchProgress } from "./orderOnBenches";
import { type ChangeTask, changeTasks, type FittedSetup, sumTimes, type TimeEstimate, type TimeModel } from "./timeModel";

/** A test as a plan needs it. */
export interface PlanTest {
  key: string;
  name: string;
  workloadId: string;
  workloadName: string;
  kind: string;
  loads: string | null;
  resolution: string | null;
  runsWanted: number;
  loadS: number | null;
  warmupS: number | null;
  lengthS: number | null;
  resetS: number | null;
  /** Scene, preset and switches in words; when the watch starts and stops. For the run sheet; planning does without. */
  settings?: string;
  startAt?: string | null;
  stopAt?: string | null;
}

/** A setup as a plan needs it. */
export interface PlanSetup extends FittedSetup {
  label: string;
  benchId: string;
  benchRevision: number;
  /** Samples of its parts under test, where one is short for several benches. */
  samples: number;
}

/** A bench that may work on the review. Twins are declared: setups of one may run on the other. */
export interface PlanBench {
  id: string;
  revision: number;
  name: string;
  twinOf: { id: string; revision: number }[];
}

/** What was chosen to be left out; nothing is cut by itself. */
export interface PlanCuts {
  tests: string[];
  resolutions: string[];
  /** Cells as `setup/test`. */
  cells: string[];
  /** Fewer runs of a test, by key. */
  runs: Record<string, number>;
}

export const NO_CUTS: PlanCuts = { tests: [], resolutions: [], cells: [], runs: {} };

/** How the order is to guard against drift. */
export interface OrderPolicy {
  /** The baseline again at the end of each bench's work. */
  baselineLast: boolean;
  /** And again after every so many setups; 0 where drift is not feared. */
  baselineEvery: number;
  /** Forward with half of the runs, then back with the rest: A-B-B-A. */
  alternate: boolean;
}

/** Everything a plan is made of. */
export interface PlanInput {
  setups: readonly PlanSetup[];
  baselineId: string;
  tests: readonly PlanTest[];
  benches: readonly PlanBench[];
  /** Valid runs that are there already, by cell `setup/test`. */
  runsDone: ReadonlyMap<string, number>;
  cuts: PlanCuts;
  policy: OrderPolicy;
  times: TimeModel;
}

/** Tests of one setup, done in one go. */
export interface PlanBlock {
  setupId: string;
  part: "main" | "baseline first" | "baseline between" | "baseline last" | "back";
  tests: { testKey: string; runs: number }[];
}

/** A plan: for each bench its blocks in order, and how good the order is. */
export interface Plan {
  benches: { id: string; revision: number; blocks: PlanBlock[] }[];
  /** Setups that no bench may run, with the reason. */
  left: { setupId: string; reason: string }[];
  order: OrderFound;
  notes: string[];
}

/** Runs that a cell still needs under the cuts; none below 0. */
export function runsOpen(input: Pick<PlanInput, "runsDone" | "cuts">, setupId: string, test: PlanTest): number {
  const { cuts, runsDone } = input;
  const cell = `${setupId}/${test.key}`;
  if (cuts.tests.includes(test.key) || cuts.cells.includes(cell) || (test.resolution && cuts.resolutions.includes(test.resolution))) return 0;
  return Math.max(0, Math.min(test.runsWanted, cuts.runs[test.key] ?? test.runsWanted) - (runsDone.get(cell) ?? 0));
}

const isSoak = (test: PlanTest) => test.kind === "soak";

/** What one run of a test takes, part by part. */
export function runTimes(times: TimeModel, test: PlanTest): TimeEstimate[] {
  return isSoak(test)
    ? [times.estimate("soak", test.key, test.lengthS), times.estimate("cool-down", test.key, test.resetS)]
    : [times.estimate("run", test.key, test.lengthS), times.estimate("reset", test.key, test.resetS)];
}

/** What a test takes once before its runs: settings, launch, warm-up. */
export function onceTimes(times: TimeModel, test: PlanTest): TimeEstimate[] {
  const once = [times.estimate("settings", test.key), times.estimate("launch", test.key, test.loadS)];
  return test.warmupS === 0 ? once : [...once, times.estimate("warm-up", test.key, test.warmupS)];
}

/** What a cell takes: once, and for each run. */
export function cellTimes(times: TimeModel, test: PlanTest, runs: number): TimeEstimate[] {
  if (runs === 0) return [];
  return [...onceTimes(times, test), ...Array.from({ length: runs }, () => runTimes(times, test)).flat()];
}

/** What the changes between two setups take. */
export function changeTimes(times: TimeModel, tasks: readonly ChangeTask[]): TimeEstimate[] {
  return tasks.map(({ activity, detail }) => times.estimate(activity, detail));
}

/** The short check by which a repeated baseline shows drift: the first test of each workload up to three, one run each. */
function driftTests(tests: readonly PlanTest[]): PlanBlock["tests"] {
  const seen = new Set<string>();
  const chosen = tests.filter((test) => !isSoak(test) && !seen.has(test.workloadId) && seen.add(test.workloadId));
  return chosen.slice(0, 3).map(({ key }) => ({ testKey: key, runs: 1 }));
}

const minutes = (estimates: readonly TimeEstimate[]) => sumTimes(estimates).seconds / 60;
const serves = (bench: PlanBench, setup: PlanSetup) =>
  (bench.id === setup.benchId && bench.revision === setup.benchRevision) ||
  bench.twinOf.some(({ id, revision }) => id === setup.benchId && revision === setup.benchRevision);

/**
 * Plans a review: which setup on which bench in which order, the baseline first (and last, and between, or forward and
 * back, as the policy says). A generator that reports the search; see orderOnBenches.
 *
 * Runs that are there already are not planned again; cells that were cut neither.
 */
export function* planReview(input: PlanInput, random: Random, iterations = 200_000): Generator<SearchProgress, Plan> {
  const { setups, benches, tests, times, policy } = input;
  const testOf = new Map(tests.map((test) => [test.key, test]));
  const openTests = (setup: PlanSetup) => tests.map((test) => ({ testKey: test.key, runs: runsOpen(input, setup.id, test) })).filter(({ runs }) => runs > 0);
  const work = (block: readonly { testKey: string; runs: number }[]) =>
    minutes(block.flatMap(({ testKey, runs }) => cellTimes(times, testOf.get(testKey) as PlanTest, runs)));
  const baseline = setups.find(({ id }) => id === input.baselineId);
  const todo = setups.filter((setup) => openTests(setup).length > 0);
  const left = todo
    .filter((setup) => !benches.some((bench) => serves(bench, setup)))
    .map(({ id }) => ({ setupId: id, reason: "no chosen bench is its own or a declared twin of it" }));
  const able = todo.filter((setup) => benches.some((bench) => serves(bench, setup)));
  const jobs = able.filter((setup) => setup !== baseline);
  const change = (from: FittedSetup | undefined, to: FittedSetup) => minutes(changeTimes(times, changeTasks(from, to)));
  const drift = driftTests(tests);
  const serving = benches.filter((bench) => able.some((setup) => serves(bench, setup)));
  // The baseline's own work stands first on the bench it belongs to; a twin opens with a short check of it.
  const home = baseline && serving.find((bench) => serves(bench, baseline));
  const baselineWork = baseline && able.includes(baseline) ? openTests(baseline) : [];
  const guards = (bench: PlanBench) => baseline && serves(bench, baseline) && (jobs.length > 0 || bench === home);
  const firstBlock = (bench: PlanBench): PlanBlock | undefined => {
    if (!baseline || !guards(bench)) return undefined;
    if (bench === home && baselineWork.length > 0) return { setupId: baseline.id, part: "main", tests: baselineWork };
    return { setupId: baseline.id, part: "baseline first", tests: drift };
  };
  const problem: OrderProblem = {
    minutes: jobs.map((setup) => work(openTests(setup))),
    change: jobs.map((a) => jobs.map((b) => (a === b ? 0 : change(a, b)))),
    benches: serving.map((bench) => {
      const first = firstBlock(bench);
      const closes = policy.baselineLast && first !== undefined;
      return {
        fixedMinutes: first && baseline && bench === home ? change(undefined, baseline) + work(first.tests) : 0,
        start: jobs.map((job) =>
          first && baseline ? change(baseline, job) + (bench === home ? 0 : change(undefined, baseline) + work(first.tests)) : change(undefined, job),
        ),
        end: jobs.map((job) => (closes && baseline ? change(job, baseline) + work(drift) : 0)),
        forbidden: jobs.map((job) => !serves(bench, job)),
      };
    }),
  };
  const order: OrderFound =
    serving.length === 0
      ? { sequences: [], makespanMinutes: 0, changeMinutes: 0, lowerBoundMinutes: 0, exact: true }
      : yield* orderOnBenches(problem, random, iterations);

  const planned = serving.map((bench, b) => {
    const sequence = (order.sequences[b] ?? []).map((job) => jobs[job] as PlanSetup);
    const first = firstBlock(bench);
    const main = sequence.map((setup): PlanBlock => ({ setupId: setup.id, part: "main", tests: openTests(setup) }));
    if (first && (sequence.length > 0 || first.part === "main")) main.unshift(first);
    return { id: bench.id, revision: bench.revision, blocks: guardAgainstDrift(main, policy, baseline?.id, drift) };
  });
  const several = planned.filter(({ blocks }) => baseline && blocks.some(({ setupId }) => setupId === baseline.id)).length;
  const notes = [
    several > 1 && baseline && baseline.samples < several
      ? `${baseline.label} is on ${several} benches and there ${baseline.samples === 1 ? "is 1 sample" : `are ${baseline.samples} samples`} of it: get another, or work the benches one after the other.`
      : undefined,
  ].filter((note) => note !== undefined);
  return { benches: planned.filter(({ blocks }) => blocks.length > 0), left, order, notes };
}

/** Puts the repeated baseline in, or splits the work into forward and back. */
function guardAgainstDrift(main: PlanBlock[], policy: OrderPolicy, baselineId: string | undefined, drift: PlanBlock["tests"]): PlanBlock[] {
  const others = main.filter(({ setupId }) => setupId !== baselineId).length;
  if (policy.alternate && main.length > 1) {
    const part = (block: PlanBlock, share: (runs: number) => number) =>
      block.tests.map(({ testKey, runs }) => ({ testKey, runs: share(runs) })).filter(({ runs }) => runs > 0);
    const forward = main.map((block): PlanBlock => ({ ...block, tests: part(block, (runs) => Math.ceil(runs / 2)) }));
    const back = [...main].reverse().map((block): PlanBlock => ({ ...block, part: "back", tests: part(block, (runs) => Math.floor(runs / 2)) }));
    return [...forward, ...back].filter(({ tests }) => tests.length > 0);
  }
  if (!baselineId || others === 0 || main[0]?.setupId !== baselineId) return main;
  const blocks: PlanBlock[] = [];
  let since = 0;
  for (const [i, block] of main.entries()) {
    blocks.push(block);
    since = block.setupId === baselineId ? 0 : since + 1;
    if (policy.baselineEvery > 0 && since >= policy.baselineEvery && i < main.length - 1) {
      blocks.push({ setupId: baselineId, part: "baseline between", tests: drift });
      since = 0;
    }
  }
  if (policy.baselineLast) blocks.push({ setupId: baselineId, part: "baseline last", tests: drift });
  return blocks;
}
