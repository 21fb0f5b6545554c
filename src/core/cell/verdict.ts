import { t95 } from "@/core/stats";

/** What may be said of two rows. `level-small-difference`: inside the margin, yet not zero. `unknown`: no spread is known. */
export type Verdict = "ahead" | "behind" | "level" | "level-small-difference" | "unresolved" | "unknown";

/** An estimate on the log scale with its 95 % interval, as ratios, and the verdict. */
export interface JudgedInterval {
  logRatio: number;
  seLog: number | undefined;
  df: number;
  low: number | undefined;
  high: number | undefined;
  level: 0.95;
  verdict: Verdict;
  /** For an unresolved pair: further runs of each cell that settle it at the present estimate. */
  furtherRuns: number | undefined;
}

/** Beyond this many runs of a cell, more running is not the answer. */
const MOST_RUNS = 1000;

/**
 * The smallest number of runs n of each cell whose half-width is below max(|e|, m′ − |e|): enough to exclude 0, or to
 * lie inside the margin. Undefined where not even 1,000 runs would do.
 *
 * Source: the product's definition of "the number of further runs that settles it".
 */
export function runsToSettle(estimate: number, marginLog: number, halfWidthAt: (n: number) => number): number | undefined {
  const wanted = Math.max(Math.abs(estimate), marginLog - Math.abs(estimate));
  if (!(halfWidthAt(MOST_RUNS) < wanted)) return undefined;
  // The half-width only falls with more runs: halve the stretch that holds the first number that will do.
  let [low, high] = [0, MOST_RUNS];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (halfWidthAt(middle) < wanted) high = middle;
    else low = middle;
  }
  return high;
}

/**
 * The verdict on a log ratio, in this order: interval wholly inside ±m′ → level (or level with a small real difference
 * where it excludes 0); lower end above 0 → ahead; upper end below 0 → behind; else unresolved.
 *
 * Units: logs of ratios; `margin` is the practical margin as a ratio (0.03), m′ = ln(1 + margin).
 * Source: equivalence by interval inclusion (Schuirmann 1987), at 95 %, deliberately stricter than the usual 90 %.
 */
export function judgeInterval(input: {
  estimate: number;
  se: number | undefined;
  df: number;
  margin: number;
  halfWidthAt?: (n: number) => number;
  runsNow?: number;
  /** The multiplier of a 95 % interval; a quicker one where thousands are asked for. */
  t95Of?: (df: number) => number;
}): JudgedInterval {
  const { estimate, se, df, margin, t95Of = t95 } = input;
  const common = { logRatio: estimate, seLog: se, df, level: 0.95 as const, furtherRuns: undefined };
  if (se === undefined) return { ...common, low: undefined, high: undefined, verdict: "unknown" };
  const half = t95Of(df) * se;
  const [low, high] = [estimate - half, estimate + half];
  const marginLog = Math.log1p(margin);
  const judged = { ...common, low: Math.exp(low), high: Math.exp(high) };
  if (low > -marginLog && high < marginLog) {
    return { ...judged, verdict: low > 0 || high < 0 ? "level-small-difference" : "level" };
  }
  if (low > 0) return { ...judged, verdict: "ahead" };
  if (high < 0) return { ...judged, verdict: "behind" };
  const needed = input.halfWidthAt ? runsToSettle(estimate, marginLog, input.halfWidthAt) : undefined;
  const furtherRuns = needed === undefined ? undefined : Math.max(1, needed - (input.runsNow ?? 0));
  return { ...judged, verdict: "unresolved", furtherRuns };
}
