import { betterOf, type Cell, type CellRatio, cellKey, cellLogError, cellRatio, combineErrors, type LabTest, type LogError } from "@/core/cell";
import { mean, t95 } from "@/core/stats";
import { type Aggregate, compileIndex, testWeights, type WeighedRow, weighIndex } from "./indexTable";
import type { Matrix } from "./matrix";

/** Changes when the same runs may give another index; stored with every report. */
export const INDEX_METHOD_VERSION = 1;

/** One row of a ranking. */
export interface IndexRow extends WeighedRow {
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

const usable = (matrix: Matrix, setupId: string, testKey: string) => {
  const cell = matrix.cells.get(cellKey(setupId, testKey));
  return cell && cell.values.length > 0 ? cell : undefined;
};

/** The tests of a matrix that every row has, and those that some row lacks. */
export function sharedTests(
  matrix: Matrix,
  setupIds: readonly string[],
  asked: (test: LabTest) => boolean = () => true,
): { tests: LabTest[]; leftOut: Ranking["leftOut"] } {
  const leftOut: Ranking["leftOut"] = [];
  const tests = matrix.tests.filter((test) => {
    if (!asked(test)) return false;
    const missing = setupIds.filter((setupId) => !usable(matrix, setupId, test.key));
    if (missing.length > 0) leftOut.push({ testKey: test.key, missing });
    return missing.length === 0;
  });
  return { tests, leftOut };
}

/** What a ranking is asked for. */
export interface RankingRequest {
  setupIds: readonly string[];
  baselineId: string;
  margin: number;
  resolution?: string | undefined;
  /** Which tests count; all where not given. */
  asked?: ((test: LabTest) => boolean) | undefined;
  /** The reader's weights of workloads; equal where not given. */
  weights?: ReadonlyMap<string, number> | undefined;
  aggregate?: Aggregate | undefined;
}

/** Each row's ratio to the baseline in every test; stays the same whatever the weights. */
export function ratiosToBaseline(
  matrix: Matrix,
  setupIds: readonly string[],
  tests: readonly LabTest[],
  baselineId: string,
  margin: number,
): Map<string, IndexRow["ratios"]> {
  return new Map(
    setupIds.map((setupId) => [setupId, tests.map((test) => ({ testKey: test.key, ratio: ratioOf(matrix, setupId, baselineId, test, margin) as CellRatio }))]),
  );
}

/**
 * Ranks setups by the geometric mean over workloads of their ratios to a baseline, each workload weighing the same (or as the
 * reader weighs it) and, within it, each of its tests in use (over resolutions: the mean log ratio). The interval is run noise,
 * √(Σ w² SE²) on logs, each cell's error counted once; it says nothing of other workloads, samples or days.
 *
 * Shapes: rows come out in the order of `setupIds`; only tests with a valid run in every row are used.
 * Errors: a ranking without rows where no test is common to all.
 * Source: Fleming & Wallace 1986, Comm. ACM 29(3) (geometric mean of ratios); Satterthwaite 1946 for the joint df.
 */
export function rankByIndex(matrix: Matrix, request: RankingRequest): Ranking {
  const { setupIds, baselineId, margin, resolution, asked, weights, aggregate } = request;
  const { tests, leftOut } = sharedTests(matrix, setupIds, (test) => (resolution === undefined || test.resolution === resolution) && (asked?.(test) ?? true));
  if (tests.length === 0 || !setupIds.includes(baselineId)) return { rows: [], testKeys: [], workloads: 0, leftOut };
  const table = compileIndex(matrix, setupIds, tests, aggregate);
  const ratios = ratiosToBaseline(matrix, setupIds, tests, baselineId, margin);
  const rows = weighIndex(table, testWeights(tests, weights), baselineId, margin).map(
    (row): IndexRow => ({ ...row, ratios: ratios.get(row.setupId) as IndexRow["ratios"] }),
  );
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
  const weights = testWeights(tests);
  let log = 0;
  const terms: { weight: number; error: LogError }[] = [];
  tests.forEach((test, i) => {
    const { key: cell, values } = usable(matrix, setupId, test.key) as Cell;
    log += (weights[i] as number) * Math.log(mean(values));
    const error = cellLogError(values, matrix.repeatability.get(test.key), { usesOwnScatter: matrix.ownScatter.has(cell), cellKey: cell });
    if (error) terms.push({ weight: weights[i] as number, error });
  });
  if (terms.length < tests.length) return { value: Math.exp(log), low: undefined, high: undefined };
  const { se, df } = combineErrors(terms);
  const half = t95(df) * se;
  return { value: Math.exp(log), low: Math.exp(log - half), high: Math.exp(log + half) };
}
