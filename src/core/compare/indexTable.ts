import { betterOf, cellKey, cellLogError, type JudgedInterval, judgeInterval, type LabTest, orientation } from "@/core/cell";
import { mean, median, quickT95 } from "@/core/stats";
import type { Matrix } from "./matrix";

/** How the runs of a cell become one value: their mean, or their median where the reader asks for it. */
export type Aggregate = "mean" | "median";

/**
 * The cells of some rows and tests as plain numbers, ready to be weighed again and again: log values (turned so that more is
 * better) and their error variances, row by row. All cells are there.
 */
export interface IndexTable {
  setupIds: readonly string[];
  tests: readonly LabTest[];
  /** ln of the cells' values: rows × tests. */
  logs: Float64Array;
  /** Squared standard errors that rest on a pooled spread; 0 where the cell stands on its own scatter, NaN where nothing is known. */
  pooled: Float64Array;
  /** Squared standard errors of cells that stand on their own scatter, with their degrees of freedom; 0 elsewhere. */
  own: Float64Array;
  ownDf: Float64Array;
  /** The pool of each test, and the degrees of freedom of each pool. */
  poolOf: Int32Array;
  poolDf: Float64Array;
  /** Fewest valid runs of each row over the tests. */
  fewestRuns: Int32Array;
}

/**
 * Compiles rows and tests that all have a valid run in every cell.
 *
 * Errors: RangeError where a cell is empty (the caller has looked).
 */
export function compileIndex(matrix: Matrix, setupIds: readonly string[], tests: readonly LabTest[], aggregate: Aggregate = "mean"): IndexTable {
  const [rows, columns] = [setupIds.length, tests.length];
  const pools = new Map<string, number>();
  const poolDf: number[] = [];
  const table = {
    setupIds,
    tests,
    logs: new Float64Array(rows * columns),
    pooled: new Float64Array(rows * columns),
    own: new Float64Array(rows * columns),
    ownDf: new Float64Array(rows * columns),
    poolOf: new Int32Array(columns),
    fewestRuns: new Int32Array(rows).fill(2 ** 30),
  };
  tests.forEach((test, t) => {
    const repeatability = matrix.repeatability.get(test.key);
    const name = repeatability?.pool ?? `none:${test.key}`;
    let pool = pools.get(name);
    if (pool === undefined) {
      pool = pools.size;
      pools.set(name, pool);
      poolDf.push(repeatability?.df ?? 0);
    }
    table.poolOf[t] = pool;
    const sign = orientation(betterOf(test, matrix.metric));
    setupIds.forEach((setupId, s) => {
      const key = cellKey(setupId, test.key);
      const values = matrix.cells.get(key)?.values ?? [];
      if (values.length === 0) throw new RangeError(`the cell ${key} has no valid run`);
      const i = s * columns + t;
      table.logs[i] = sign * Math.log(aggregate === "median" ? median(values) : mean(values));
      table.fewestRuns[s] = Math.min(table.fewestRuns[s] as number, values.length);
      const error = cellLogError(values, repeatability, { usesOwnScatter: matrix.ownScatter.has(key), cellKey: key });
      if (!error) table.pooled[i] = Number.NaN;
      else if (error.pool.startsWith("cell:")) {
        table.own[i] = error.variance;
        table.ownDf[i] = error.df;
      } else table.pooled[i] = error.variance;
    });
  });
  return { ...table, poolDf: Float64Array.from(poolDf) };
}

/** Weights of tests: each workload's weight (1 where none is given), shared equally among its tests; they add up to 1. */
export function testWeights(tests: readonly LabTest[], workloadWeights?: ReadonlyMap<string, number>): Float64Array {
  const perWorkload = new Map<string, number>();
  for (const test of tests) perWorkload.set(test.workloadId, (perWorkload.get(test.workloadId) ?? 0) + 1);
  const weightOf = (workloadId: string) => Math.max(0, workloadWeights?.get(workloadId) ?? 1);
  let total = 0;
  for (const workloadId of perWorkload.keys()) total += weightOf(workloadId);
  return Float64Array.from(tests, (test) => (total > 0 ? weightOf(test.workloadId) / total / (perWorkload.get(test.workloadId) as number) : 0));
}

/** A row's place in a weighed table. */
export interface WeighedRow extends JudgedInterval {
  setupId: string;
  index: number;
  rankFrom: number;
  rankTo: number;
}

/**
 * Weighs a compiled table: index, run-noise interval and verdict of every row against the baseline, and the ranks that the
 * intervals of all pairs leave open. Closed form throughout; a table of 60 rows and 120 tests takes a few milliseconds.
 *
 * Shapes: weights one a test, adding up to 1. Units: ratios; `margin` as 0.03 for 3 %.
 * Errors: RangeError where the baseline is not among the rows.
 * Source: delta method on logs, Satterthwaite 1946 for the joint degrees of freedom.
 */
export function weighIndex(table: IndexTable, weights: Float64Array, baselineId: string, margin: number): WeighedRow[] {
  const { setupIds, poolOf, poolDf } = table;
  const [rows, columns, pools] = [setupIds.length, weights.length, poolDf.length];
  const base = setupIds.indexOf(baselineId);
  if (base < 0) throw new RangeError(`the baseline ${baselineId} is not among the rows`);
  const estimate = new Float64Array(rows);
  const inPool = new Float64Array(rows * pools);
  const ownSum = new Float64Array(rows);
  const ownSquares = new Float64Array(rows);
  const known = new Uint8Array(rows).fill(1);
  for (let s = 0; s < rows; s += 1) {
    for (let t = 0; t < columns; t += 1) {
      const weight = weights[t] as number;
      if (weight === 0) continue;
      const i = s * columns + t;
      estimate[s] = (estimate[s] as number) + weight * (table.logs[i] as number);
      const pooled = table.pooled[i] as number;
      if (Number.isNaN(pooled)) {
        known[s] = 0;
        continue;
      }
      const at = s * pools + (poolOf[t] as number);
      inPool[at] = (inPool[at] as number) + weight * weight * pooled;
      const own = weight * weight * (table.own[i] as number);
      if (own > 0) {
        ownSum[s] = (ownSum[s] as number) + own;
        ownSquares[s] = (ownSquares[s] as number) + (own * own) / (table.ownDf[i] as number);
      }
    }
  }
  /** Standard error and degrees of freedom of the difference of two rows; none known below 0. */
  const errorOf = (a: number, b: number): { se: number; df: number } | undefined => {
    if (known[a] === 0 || known[b] === 0) return undefined;
    let total = (ownSum[a] as number) + (ownSum[b] as number);
    let squares = (ownSquares[a] as number) + (ownSquares[b] as number);
    for (let p = 0; p < pools; p += 1) {
      const variance = (inPool[a * pools + p] as number) + (inPool[b * pools + p] as number);
      if (variance === 0) continue;
      total += variance;
      squares += (variance * variance) / (poolDf[p] as number);
    }
    return { se: Math.sqrt(total), df: squares > 0 ? (total * total) / squares : 1e6 };
  };
  const ahead = new Int32Array(rows);
  const behind = new Int32Array(rows);
  const marginLog = Math.log1p(margin);
  for (let a = 0; a < rows; a += 1) {
    for (let b = a + 1; b < rows; b += 1) {
      const error = errorOf(a, b);
      if (!error) continue;
      const difference = (estimate[a] as number) - (estimate[b] as number);
      const half = quickT95(error.df) * error.se;
      // The order of the verdicts: wholly inside the margin is level, whatever its sign.
      if (Math.abs(difference) + half < marginLog || Math.abs(difference) <= half) continue;
      const [first, second] = difference > 0 ? [a, b] : [b, a];
      ahead[first] = (ahead[first] as number) + 1;
      behind[second] = (behind[second] as number) + 1;
    }
  }
  return setupIds.map((setupId, s): WeighedRow => {
    const difference = (estimate[s] as number) - (estimate[base] as number);
    const common = {
      setupId,
      index: Math.exp(difference),
      rankFrom: 1 + (behind[s] as number),
      rankTo: rows - (ahead[s] as number),
    };
    // The baseline against itself is 1 by definition, not a measured ratio with an interval.
    if (s === base) return { ...common, logRatio: 0, seLog: 0, df: 0, low: 1, high: 1, level: 0.95, verdict: "level", furtherRuns: undefined };
    const error = errorOf(s, base);
    if (!error) return { ...common, ...judgeInterval({ estimate: difference, se: undefined, df: 0, margin }) };
    const runsNow = Math.min(table.fewestRuns[s] as number, table.fewestRuns[base] as number);
    const t = quickT95(error.df);
    return {
      ...common,
      ...judgeInterval({
        estimate: difference,
        se: error.se,
        df: error.df,
        margin,
        t95Of: quickT95,
        halfWidthAt: (n) => t * error.se * Math.sqrt(runsNow / n),
        runsNow,
      }),
    };
  });
}
