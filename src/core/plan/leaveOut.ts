import { pixelsOf, resolutionLabel } from "@/core/bench";
import { mean, sampleSd, t95 } from "@/core/stats";
import { cellTimes, type PlanCuts, type PlanInput, type PlanTest } from "./planReview";
import { sumTimes } from "./timeModel";

/** What earlier reviews tell: the log of each cell's mean turned so that more is better, and each test's run-to-run spread (log scale). */
export interface LabHistory {
  logSpeed: ReadonlyMap<string, number>;
  spread: ReadonlyMap<string, { sLog: number; df: number }>;
}

/** Half-widths of the index's 95 % interval, as ratios: from re-running, and from the choice of workloads (unknown without history). */
export interface IndexUncertainty {
  runNoise: number | undefined;
  choice: number | undefined;
}

/** Something that may be left out, with what it saves and what it costs. Nothing is cut by itself. */
export interface LeaveOut {
  id: string;
  kind: "runs" | "workload" | "cells" | "resolution";
  what: string;
  reason: string;
  consequence: string;
  secondsSaved: number;
  before: IndexUncertainty;
  after: IndexUncertainty;
  cuts: PlanCuts;
}

/** A test whose omission moves no index by more than this keeps the index. */
const KEEPS_INDEX = 0.005;
/** Setups this close together at the top, yet far apart with more pixels, wait for another component. */
const LEVEL_AT_TOP = 0.02;
const APART_ABOVE = 0.08;
const LEAST_SETUPS = 3;
const MARGIN_LOG = Math.log(1.03);

const percent = (ratio: number) => `${(100 * ratio).toFixed(ratio < 0.001 ? 2 : 1)} %`;
const hasResolution = (test: PlanTest): test is PlanTest & { resolution: string } => test.resolution !== null;
const merge = (a: PlanCuts, b: PlanCuts): PlanCuts => ({
  tests: [...new Set([...a.tests, ...b.tests])],
  resolutions: [...new Set([...a.resolutions, ...b.resolutions])],
  cells: [...new Set([...a.cells, ...b.cells])],
  runs: { ...a.runs, ...b.runs },
});

const keptTests = (tests: readonly PlanTest[], cuts: PlanCuts) => {
  const cut = new Set(cuts.tests);
  return tests.filter((test) => !cut.has(test.key) && !(test.resolution && cuts.resolutions.includes(test.resolution)));
};

/** Seconds of work that some cuts leave. */
export function openWork(input: PlanInput): number {
  const { cuts, runsDone, setups, times } = input;
  const cutCells = new Set(cuts.cells);
  let seconds = 0;
  for (const test of keptTests(input.tests, cuts)) {
    const once = sumTimes(cellTimes(times, test, 1)).seconds;
    const each = sumTimes(cellTimes(times, test, 2)).seconds - once;
    const wanted = Math.min(test.runsWanted, cuts.runs[test.key] ?? test.runsWanted);
    for (const { id } of setups) {
      const cell = `${id}/${test.key}`;
      const runs = cutCells.has(cell) ? 0 : wanted - (runsDone.get(cell) ?? 0);
      if (runs > 0) seconds += once + (runs - 1) * each;
    }
  }
  return seconds;
}

/** Setups of the lab's history that have all of some tests. */
function knownSetups(tests: readonly PlanTest[], history: LabHistory): string[] {
  const setups = new Set([...history.logSpeed.keys()].map((cell) => cell.slice(0, cell.indexOf("/"))));
  return [...setups].filter((setup) => tests.every((test) => history.logSpeed.has(`${setup}/${test.key}`))).sort();
}

/** Log index of a known setup over some tests: the mean over workloads of each one's mean. */
function indexOf(setup: string, tests: readonly PlanTest[], history: LabHistory): number {
  const sums = new Map<string, { sum: number; n: number }>();
  for (const { key, workloadId } of tests) {
    const log = history.logSpeed.get(`${setup}/${key}`) as number;
    const of = sums.get(workloadId);
    if (of) {
      of.sum += log;
      of.n += 1;
    } else sums.set(workloadId, { sum: log, n: 1 });
  }
  let total = 0;
  for (const { sum, n } of sums.values()) total += sum / n;
  return total / sums.size;
}

/** How uncertain the index of two setups is under some cuts: by re-running, and by which workloads were chosen. */
export function indexUncertainty(tests: readonly PlanTest[], cuts: PlanCuts, history: LabHistory): IndexUncertainty {
  const kept = keptTests(tests, cuts);
  const workloads = [...new Set(kept.map(({ workloadId }) => workloadId))];
  if (workloads.length === 0) return { runNoise: undefined, choice: undefined };
  const byWorkload = new Map(workloads.map((id) => [id, kept.filter(({ workloadId }) => workloadId === id)]));
  let variance = 0;
  let least = Number.POSITIVE_INFINITY;
  for (const test of kept) {
    const spread = history.spread.get(test.key);
    if (!spread) return { runNoise: undefined, choice: undefined };
    const share = 1 / workloads.length / (byWorkload.get(test.workloadId)?.length ?? 1);
    variance += (share * spread.sLog) ** 2 * (2 / Math.min(test.runsWanted, cuts.runs[test.key] ?? test.runsWanted));
    least = Math.min(least, spread.df);
  }
  const setups = knownSetups(kept, history);
  const reference = setups[0];
  // The typical spread of log ratios over workloads, against the first known setup.
  const spreads =
    reference === undefined || workloads.length < 2
      ? []
      : setups.slice(1).map((setup) =>
          sampleSd(
            workloads.map((id) => {
              const own = byWorkload.get(id) as PlanTest[];
              return indexOf(setup, own, history) - indexOf(reference, own, history);
            }),
          ),
        );
  return {
    runNoise: Math.expm1(t95(least * workloads.length) * Math.sqrt(variance)),
    choice: spreads.length > 0 ? Math.expm1((t95(workloads.length - 1) * mean(spreads)) / Math.sqrt(workloads.length)) : undefined,
  };
}

/** The fewest runs of each of two cells by which a 3 % difference can be judged: t·s·√(2/n) below ln 1.03; at least 2. */
export function runsForVerdict(spread: { sLog: number; df: number }): number {
  for (let n = 2; n < 1000; n += 1) if (t95(spread.df) * spread.sLog * Math.sqrt(2 / n) < MARGIN_LOG) return n;
  return 1000;
}

/** How far the indices move and whether the order stays, over the setups that earlier reviews know. */
function effectOfOmitting(all: readonly PlanTest[], rest: readonly PlanTest[], history: LabHistory) {
  const setups = knownSetups(all, history);
  if (setups.length < LEAST_SETUPS || rest.length === 0) return undefined;
  const centred = (tests: readonly PlanTest[]) => {
    const logs = setups.map((setup) => indexOf(setup, tests, history));
    const centre = mean(logs);
    return logs.map((log) => log - centre);
  };
  const [before, after] = [centred(all), centred(rest)];
  const orderOf = (logs: readonly number[]) => [...logs.keys()].sort((a, b) => (logs[b] as number) - (logs[a] as number)).join();
  return {
    setups: setups.length,
    moved: Math.max(...before.map((log, i) => Math.abs(Math.expm1(log - (after[i] as number))))),
    sameOrder: orderOf(before) === orderOf(after),
  };
}

/**
 * What a plan could leave out under its present cuts, largest saving first: runs beyond what a test's repeatability needs
 * for a 3 % verdict; workloads and resolutions whose omission kept ranking and index among the setups of earlier reviews;
 * cells where several setups are level because another component is the limit (never those of subject or baseline).
 *
 * Units:  seconds; uncertainties as ratios.
 * Errors: none; without history only what needs none is proposed.
 * Source: the rules of thumb of the trade in the product's description; thresholds are stated above.
 */
export function proposeLeaveOuts(input: PlanInput, history: LabHistory, keep: { subjectIds: readonly string[] }): LeaveOut[] {
  const { tests, cuts } = input;
  const kept = keptTests(tests, cuts);
  const workNow = openWork(input);
  const before = indexUncertainty(tests, cuts, history);
  const proposals: LeaveOut[] = [];
  const propose = (one: Omit<LeaveOut, "secondsSaved" | "before" | "after" | "cuts">, more: Partial<PlanCuts>) => {
    const with_ = merge(cuts, { tests: [], resolutions: [], cells: [], runs: {}, ...more });
    const secondsSaved = workNow - openWork({ ...input, cuts: with_ });
    if (secondsSaved > 0) proposals.push({ ...one, secondsSaved, before, after: indexUncertainty(tests, with_, history), cuts: with_ });
  };

  const fewer = kept.flatMap((test) => {
    const spread = history.spread.get(test.key);
    const now = Math.min(test.runsWanted, cuts.runs[test.key] ?? test.runsWanted);
    const need = spread ? runsForVerdict(spread) : now;
    return need < now ? [{ test, need, now }] : [];
  });
  if (fewer.length > 0) {
    const fewest = Math.min(...fewer.map(({ need }) => need));
    propose(
      {
        id: "runs",
        kind: "runs",
        what: `${fewer.length === 1 ? fewer[0]?.test.name : `${fewer.length} tests`} with ${fewest === Math.max(...fewer.map(({ need }) => need)) ? fewest : "fewer"} runs instead of ${fewer[0]?.now}`,
        reason: "Their runs repeat so well that these are enough to judge a 3 % difference.",
        consequence: "An outlier among two runs cannot be told from its twin; only scatter speaks.",
      },
      { runs: Object.fromEntries(fewer.map(({ test, need }) => [test.key, need])) },
    );
  }

  for (const id of [...new Set(kept.map(({ workloadId }) => workloadId))]) {
    const own = kept.filter(({ workloadId }) => workloadId === id);
    const rest = kept.filter(({ workloadId }) => workloadId !== id);
    const effect = effectOfOmitting(kept, rest, history);
    if (!effect?.sameOrder || effect.moved > KEEPS_INDEX) continue;
    propose(
      {
        id: `workload:${id}`,
        kind: "workload",
        what: `${own[0]?.workloadName}, all its ${own.length === 1 ? "test" : `${own.length} tests`}`,
        reason: `Without it the ${effect.setups} setups of earlier reviews keep their order and no index moves by more than ${percent(effect.moved)}.`,
        consequence: "Nothing can be said of this workload; the new setups may differ in it.",
      },
      { tests: own.map(({ key }) => key) },
    );
  }

  const resolutions = [...new Set(kept.filter(hasResolution).map(({ resolution }) => resolution))];
  for (const resolution of resolutions.length > 1 ? resolutions : []) {
    const effect = effectOfOmitting(
      kept,
      kept.filter((test) => test.resolution !== resolution),
      history,
    );
    if (!effect?.sameOrder) continue;
    propose(
      {
        id: `resolution:${resolution}`,
        kind: "resolution",
        what: `All tests at ${resolutionLabel(resolution)}`,
        reason: `Without it the ${effect.setups} setups of earlier reviews keep their order; the overall index moves by up to ${percent(effect.moved)}.`,
        consequence: `The page says nothing at ${resolutionLabel(resolution)}, and a limit that only shows there stays unseen.`,
      },
      { resolutions: [resolution] },
    );
  }

  const limited = kept.filter(hasResolution).flatMap((test) => {
    const above = tests.filter(hasResolution).find((one) => one.workloadId === test.workloadId && pixelsOf(one.resolution) > pixelsOf(test.resolution));
    if (!above) return [];
    const logs = input.setups
      .flatMap(({ id }) => {
        const [own, higher] = [history.logSpeed.get(`${id}/${test.key}`), history.logSpeed.get(`${id}/${above.key}`)];
        return own !== undefined && higher !== undefined ? [{ id, own, higher }] : [];
      })
      .sort((a, b) => b.own - a.own);
    const top = logs.filter(({ own }) => own > (logs[0]?.own ?? 0) - LEVEL_AT_TOP);
    const spreadAbove = Math.max(...top.map(({ higher }) => higher)) - Math.min(...top.map(({ higher }) => higher));
    if (top.length < 3 || spreadAbove < APART_ABOVE) return [];
    const [first, ...others] = top;
    return others
      .filter(({ id }) => id !== first?.id && id !== input.baselineId && !keep.subjectIds.includes(id))
      .map(({ id }) => ({ cell: `${id}/${test.key}`, test }));
  });
  if (limited.length > 0) {
    const names = [...new Set(limited.map(({ test }) => test.name))];
    propose(
      {
        id: "cells",
        kind: "cells",
        what: `${limited.length} ${limited.length === 1 ? "cell" : "cells"} where the processor is the limit: ${names.slice(0, 3).join(", ")}${names.length > 3 ? ` and ${names.length - 3} more` : ""}`,
        reason:
          "There the fastest setups were level within 2 % and are 8 % or more apart with more pixels; one of them shows the limit, and subject and baseline stay.",
        consequence: "Those rows lack the tests; an index over the common tests leaves them out for all rows.",
      },
      { cells: limited.map(({ cell }) => cell) },
    );
  }
  return proposals.sort((a, b) => b.secondsSaved - a.secondsSaved || (a.id < b.id ? -1 : 1));
}
