import type { Better } from "@/core/bench";
import { mean, sampleSd, t95 } from "@/core/stats";
import { logScatter, type Repeatability } from "./repeatability";
import { type JudgedInterval, judgeInterval } from "./verdict";

/** One cell's valid runs, aggregated. */
export interface CellAggregate {
  n: number;
  mean: number;
  /** Sample SD; undefined below two runs: unknown, not zero. */
  sd: number | undefined;
  /** SD ÷ mean. */
  cv: number | undefined;
}

/** Mean, sample SD and CV of a cell's valid runs; undefined where there are none. */
export function aggregateCell(values: readonly number[]): CellAggregate | undefined {
  if (values.length === 0) return undefined;
  const centre = mean(values);
  const sd = values.length > 1 ? sampleSd(values) : undefined;
  return { n: values.length, mean: centre, sd, cv: sd === undefined ? undefined : sd / centre };
}

/** The squared standard error of a cell's log mean, with what it rests on. */
export interface LogError {
  variance: number;
  df: number;
  /** Names the variance estimate; errors that share it are not independent. */
  pool: string;
}

/**
 * The error of ln(cell mean): s_t² ÷ n, or the cell's own scatter where that has failed the check.
 *
 * Errors: undefined where nothing is known of the spread (no repeated run anywhere).
 */
export function cellLogError(
  values: readonly number[],
  repeatability: Repeatability | undefined,
  own: { usesOwnScatter: boolean; cellKey: string },
): LogError | undefined {
  if (own.usesOwnScatter && values.length > 1) {
    const { ss, df } = logScatter(values);
    return { variance: ss / df / values.length, df, pool: `cell:${own.cellKey}` };
  }
  if (!repeatability) return undefined;
  return { variance: repeatability.sLog ** 2 / values.length, df: repeatability.df, pool: repeatability.pool };
}

/**
 * Combines errors of a weighted sum Σ wᵢ xᵢ into one standard error and its degrees of freedom.
 *
 * Errors that rest on the same variance estimate are first added, then the pools are joined by Satterthwaite's rule.
 * Source: Satterthwaite 1946, Biometrics Bulletin 2(6).
 */
export function combineErrors(terms: readonly { weight: number; error: LogError }[]): { se: number; df: number } {
  const pools = new Map<string, { variance: number; df: number }>();
  for (const { weight, error } of terms) {
    const into = pools.get(error.pool);
    const variance = weight * weight * error.variance;
    if (into) into.variance += variance;
    else pools.set(error.pool, { variance, df: error.df });
  }
  let total = 0;
  let denominator = 0;
  for (const { variance, df } of pools.values()) {
    total += variance;
    denominator += variance ** 2 / df;
  }
  return { se: Math.sqrt(total), df: denominator > 0 ? total ** 2 / denominator : 1e6 };
}

/** The sign that turns a log ratio so that more is better: −1 for times and other lower-is-better units. */
export function orientation(better: Better): 1 | -1 {
  return better === "lower" ? -1 : 1;
}

/** A cell as the comparison needs it. */
export interface ComparableCell {
  key: string;
  values: readonly number[];
  usesOwnScatter: boolean;
}

/** A ratio, more is better, with its 95 % interval for re-running only (not another sample, mount or day). */
export interface CellRatio extends JudgedInterval {
  ratio: number;
  nA: number;
  nB: number;
}

/**
 * The ratio of two cells' means, turned so that more is better (time: b ÷ a), with its interval and verdict.
 *
 * Shapes: each cell holds n ≥ 1 values above 0. `margin` is the practical margin as a ratio, 0.03 for 3 %.
 * Errors: undefined for an empty cell. Without any known spread the interval is absent and the verdict "unknown".
 * Source: delta method on logarithms with pooled variance; t at the pooled degrees of freedom.
 */
export function cellRatio(
  a: ComparableCell,
  b: ComparableCell,
  options: { repeatability: Repeatability | undefined; better: Better; margin: number },
): CellRatio | undefined {
  if (a.values.length === 0 || b.values.length === 0) return undefined;
  const estimate = orientation(options.better) * (Math.log(mean(a.values)) - Math.log(mean(b.values)));
  const errors = [a, b].map((cell) => cellLogError(cell.values, options.repeatability, { usesOwnScatter: cell.usesOwnScatter, cellKey: cell.key }));
  const common = { ratio: Math.exp(estimate), nA: a.values.length, nB: b.values.length };
  const [errorA, errorB] = errors;
  if (!errorA || !errorB) return { ...common, ...judgeInterval({ estimate, se: undefined, df: 0, margin: options.margin }) };
  const { se, df } = combineErrors([
    { weight: 1, error: errorA },
    { weight: -1, error: errorB },
  ]);
  // With n runs in each of both cells the variance is that of one run, twice, over n.
  const t = t95(df);
  const varianceAtOneRun = errorA.variance * a.values.length + errorB.variance * b.values.length;
  return {
    ...common,
    ...judgeInterval({
      estimate,
      se,
      df,
      margin: options.margin,
      halfWidthAt: (n) => t * Math.sqrt(varianceAtOneRun / n),
      runsNow: Math.min(a.values.length, b.values.length),
    }),
  };
}
