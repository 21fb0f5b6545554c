import {
  betterOf,
  type Cell,
  type CellRatio,
  cellKey,
  cellLogError,
  cellRatio,
  cellsOf,
  combineErrors,
  type JudgedInterval,
  judgeInterval,
  type LabTest,
  type LogError,
  type Metric,
  type MetricChoice,
  orientation,
  poolRepeatability,
  type Repeatability,
  type RunSummary,
  scatterFails,
  yardsticks,
} from "@/core/cell";
import { mean, t95 } from "@/core/stats";

/** Changes when the same runs may give another index; stored with every report. */
export const INDEX_METHOD_VERSION = 1;

/** A cell whose scatter fails at this α uses its own SD in intervals. */
const OWN_SCATTER_ALPHA = 0.001;

/** The cells of a comparison under one metric, with what is known of each test's spread. */
export interface Matrix {
  metric: Metric;
  tests: LabTest[];
  cells: Map<string, Cell>;
  repeatability: Map<string, Repeatability>;
  /** Keys of cells whose scatter failed the check: they are judged by their own SD. */
  ownScatter: Set<string>;
}

/**
 * Sorts a lab's runs into the matrix of a metric and pools the repeatability of each test over all cells of the lab.
 *
 * Tests of which less is not more nor more is more (`better: none`), temperatures and levels never enter an index.
 */
export function buildMatrix(tests: readonly LabTest[], labRuns: readonly RunSummary[], choice: MetricChoice): Matrix {
  const indexed = tests.filter((test) => test.better !== "none" && !["°C", "K", "dBA"].includes(test.unit));
  const testOf = new Map(indexed.map((test) => [test.key, test]));
  const cells = cellsOf(
    labRuns.filter((run) => testOf.has(run.testKey)),
    choice,
  );
  const groups = [...cells.values()].map((cell) => ({
    key: cell.key,
    testKey: cell.testKey,
    group: (testOf.get(cell.testKey) as LabTest).group,
    values: cell.values,
  }));
  const yardstickOf = yardsticks(groups, OWN_SCATTER_ALPHA);
  const ownScatter = new Set(
    groups.flatMap(({ key, values }) => {
      const yardstick = yardstickOf.get(key);
      return yardstick && scatterFails(values, yardstick, OWN_SCATTER_ALPHA) ? [key] : [];
    }),
  );
  return { metric: choice.metric, tests: indexed, cells, repeatability: poolRepeatability(groups), ownScatter };
}

/** One row of a ranking. */
export interface IndexRow extends JudgedInterval {
  setupId: string;
  /** Geometric mean of the ratios to the baseline; 1 is the baseline. */
  index: number;
  /** First and last rank that the data leave open; equal where the rank is settled. */
  rankFrom: number;
  rankTo: number;
  /** Each test's ratio to the baseline. */
  ratios: { testKey: string; ratio: CellRatio }[];
}

/** A ranking: rows in the order given, on the tests that all of them have. */
export interface Ranking {
  rows: IndexRow[];
  testKeys: string[];
  workloads: number;
  /** Tests some row lacks: left out for all rows, so that each stands on the same ground. */
  leftOut: { testKey: string; missing: string[] }[];
}

interface RowTerms {
  logs: Float64Array;
  errors: (LogError | undefined)[];
}

/** Weights of tests: every workload counts the same, shared equally among its tests (resolutions, settings) in use. */
export function equalWorkloadWeights(tests: readonly LabTest[]): Float64Array {
  const perWorkload = new Map<string, number>();
  for (const test of tests) perWorkload.set(test.workloadId, (perWorkload.get(test.workloadId) ?? 0) + 1);
  return Float64Array.from(tests, (test) => 1 / perWorkload.size / (perWorkload.get(test.workloadId) as number));
}

const usable = (matrix: Matrix, setupId: string, testKey: string) => {
  const cell = matrix.cells.get(cellKey(setupId, testKey));
  return cell && cell.values.length > 0 ? cell : undefined;
};

/** Log means and their errors of one row over the tests. */
function rowTerms(matrix: Matrix, setupId: string, tests: readonly LabTest[]): RowTerms {
  const logs = new Float64Array(tests.length);
  const errors = tests.map((test, i) => {
    const cell = usable(matrix, setupId, test.key) as Cell;
    logs[i] = orientation(betterOf(test, matrix.metric)) * Math.log(mean(cell.values));
    return cellLogError(cell.values, matrix.repeatability.get(test.key), {
      usesOwnScatter: matrix.ownScatter.has(cell.key),
      cellKey: cell.key,
    });
  });
  return { logs, errors };
}

/** The weighted mean log ratio of two rows with its interval; run noise only. */
function judgeRows(a: RowTerms, b: RowTerms, weights: Float64Array, margin: number, runsNow: number): JudgedInterval {
  let estimate = 0;
  const terms: { weight: number; error: LogError }[] = [];
  let known = true;
  for (let i = 0; i < weights.length; i += 1) {
    const weight = weights[i] as number;
    estimate += weight * ((a.logs[i] as number) - (b.logs[i] as number));
    const [errorA, errorB] = [a.errors[i], b.errors[i]];
    if (errorA && errorB) terms.push({ weight, error: errorA }, { weight, error: errorB });
    else known = false;
  }
  if (!known || terms.length === 0) return judgeInterval({ estimate, se: undefined, df: 0, margin });
  const { se, df } = combineErrors(terms);
  return judgeInterval({ estimate, se, df, margin, halfWidthAt: (n) => t95(df) * se * Math.sqrt(runsNow / n), runsNow });
}

/**
 * Ranks setups by the geometric mean over workloads of their ratios to a baseline, each workload weighing the same and,
 * within it, each of its tests in use (over resolutions: the mean log ratio). The interval is run noise,
 * √(Σ w² SE²) on logs, each cell's error counted once; it says nothing of other workloads, samples or days.
 *
 * Shapes: rows come out in the order of `setupIds`; only tests with a valid run in every row are used.
 * Errors: a ranking without rows where no test is common to all.
 * Source: Fleming & Wallace 1986, Comm. ACM 29(3) (geometric mean of ratios); Satterthwaite 1946 for the joint df.
 */
export function rankByIndex(
  matrix: Matrix,
  request: { setupIds: readonly string[]; baselineId: string; margin: number; resolution?: string | undefined },
): Ranking {
  const { setupIds, baselineId, margin, resolution } = request;
  const asked = matrix.tests.filter((test) => resolution === undefined || test.resolution === resolution);
  const leftOut: Ranking["leftOut"] = [];
  const tests = asked.filter((test) => {
    const missing = setupIds.filter((setupId) => !usable(matrix, setupId, test.key));
    if (missing.length > 0) leftOut.push({ testKey: test.key, missing });
    return missing.length === 0;
  });
  if (tests.length === 0 || !setupIds.includes(baselineId)) return { rows: [], testKeys: [], workloads: 0, leftOut };

  const weights = equalWorkloadWeights(tests);
  const terms = new Map(setupIds.map((setupId) => [setupId, rowTerms(matrix, setupId, tests)]));
  const fewestRuns = (setupId: string) => Math.min(...tests.map((test) => (usable(matrix, setupId, test.key) as Cell).values.length));
  const runsOf = new Map(setupIds.map((setupId) => [setupId, fewestRuns(setupId)]));
  const judge = (a: string, b: string) =>
    judgeRows(terms.get(a) as RowTerms, terms.get(b) as RowTerms, weights, margin, Math.min(runsOf.get(a) as number, runsOf.get(b) as number));

  const rows = setupIds.map((setupId): IndexRow => {
    const own = judge(setupId, baselineId);
    const others = setupIds.filter((other) => other !== setupId).map((other) => judge(setupId, other).verdict);
    return {
      ...own,
      // The baseline against itself is 1 by definition, not a measured ratio with an interval.
      ...(setupId === baselineId ? { seLog: 0, low: 1, high: 1, verdict: "level" as const, furtherRuns: undefined } : {}),
      setupId,
      index: Math.exp(own.logRatio),
      rankFrom: 1 + others.filter((verdict) => verdict === "behind").length,
      rankTo: setupIds.length - others.filter((verdict) => verdict === "ahead").length,
      ratios: tests.map((test) => ({
        testKey: test.key,
        ratio: ratioOf(matrix, setupId, baselineId, test, margin) as CellRatio,
      })),
    };
  });
  return { rows, testKeys: tests.map((test) => test.key), workloads: new Set(tests.map((test) => test.workloadId)).size, leftOut };
}

/** The ratio of two setups under one test of a matrix; undefined where either has no valid run. */
export function ratioOf(matrix: Matrix, setupId: string, againstId: string, test: LabTest, margin: number): CellRatio | undefined {
  const [a, b] = [usable(matrix, setupId, test.key), usable(matrix, againstId, test.key)];
  if (!a || !b) return undefined;
  const comparable = (cell: Cell) => ({ key: cell.key, values: cell.values, usesOwnScatter: matrix.ownScatter.has(cell.key) });
  return cellRatio(comparable(a), comparable(b), {
    repeatability: matrix.repeatability.get(test.key),
    better: betterOf(test, matrix.metric),
    margin,
  });
}

/** A row's geometric mean in the metric's own unit (fps) over the tests, equal weight a workload, with its run noise. */
export function geometricMeanOfRow(
  matrix: Matrix,
  setupId: string,
  testKeys: readonly string[],
): { value: number; low: number | undefined; high: number | undefined } | undefined {
  const tests = matrix.tests.filter((test) => testKeys.includes(test.key));
  if (tests.length === 0 || tests.some((test) => !usable(matrix, setupId, test.key))) return undefined;
  const weights = equalWorkloadWeights(tests);
  const { errors } = rowTerms(matrix, setupId, tests);
  let log = 0;
  const terms: { weight: number; error: LogError }[] = [];
  tests.forEach((test, i) => {
    log += (weights[i] as number) * Math.log(mean((usable(matrix, setupId, test.key) as Cell).values));
    const error = errors[i];
    if (error) terms.push({ weight: weights[i] as number, error });
  });
  if (terms.length < tests.length) return { value: Math.exp(log), low: undefined, high: undefined };
  const { se, df } = combineErrors(terms);
  const half = t95(df) * se;
  return { value: Math.exp(log), low: Math.exp(log - half), high: Math.exp(log + half) };
}
