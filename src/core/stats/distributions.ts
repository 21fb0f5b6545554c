import { logGamma } from "./gamma";

/** The regularised incomplete beta function I_x(a, b), by Lentz's continued fraction (Numerical Recipes §6.4's form). */
export function incompleteBeta(x: number, a: number, b: number): number {
  if (x <= 0) return 0;
  if (x >= 1) return 1;
  // The fraction converges fast below the mean; use the symmetry above it.
  if (x > (a + 1) / (a + b + 2)) return 1 - incompleteBeta(1 - x, b, a);
  const front = Math.exp(logGamma(a + b) - logGamma(a) - logGamma(b) + a * Math.log(x) + b * Math.log1p(-x)) / a;
  const tiny = 1e-300;
  let c = 1;
  let d = 1 - ((a + b) * x) / (a + 1);
  d = 1 / (Math.abs(d) < tiny ? tiny : d);
  let fraction = d;
  for (let m = 1; m < 10_000; m += 1) {
    const even = (m * (b - m) * x) / ((a + 2 * m - 1) * (a + 2 * m));
    d = 1 + even * d;
    d = 1 / (Math.abs(d) < tiny ? tiny : d);
    c = 1 + even / c;
    if (Math.abs(c) < tiny) c = tiny;
    fraction *= d * c;
    const odd = (-(a + m) * (a + b + m) * x) / ((a + 2 * m) * (a + 2 * m + 1));
    d = 1 + odd * d;
    d = 1 / (Math.abs(d) < tiny ? tiny : d);
    c = 1 + odd / c;
    if (Math.abs(c) < tiny) c = tiny;
    const delta = d * c;
    fraction *= delta;
    if (Math.abs(delta - 1) < 1e-15) break;
  }
  return front * fraction;
}

/** P(T > t) for Student's t with `df` > 0 degrees of freedom, which need not be whole. */
export function studentTUpperTail(t: number, df: number): number {
  const tail = 0.5 * incompleteBeta(df / (df + t * t), df / 2, 0.5);
  return t >= 0 ? tail : 1 - tail;
}

/** P(F > f) for the F distribution with df1 and df2 degrees of freedom. */
export function fUpperTail(f: number, df1: number, df2: number): number {
  return f <= 0 ? 1 : incompleteBeta(df2 / (df2 + df1 * f), df2 / 2, df1 / 2);
}

/** The x > 0 whose falling function reaches `target`, by doubling, then by false position with halving where that stalls, to the last bits. */
function solveFalling(tail: (x: number) => number, target: number): number {
  let high = 1;
  let atHigh = tail(high) - target;
  let low = 0;
  let atLow = 1 - target;
  while (atHigh > 0 && high < 1e150) {
    [low, atLow] = [high, atHigh];
    high *= 2;
    atHigh = tail(high) - target;
  }
  for (let i = 0; i < 200 && high - low > 4e-16 * high; i += 1) {
    // Illinois: the end that stays has its weight halved, so that both ends close in; every fourth step halves outright.
    const guess = i % 4 === 3 ? (low + high) / 2 : high - (atHigh * (high - low)) / (atHigh - atLow);
    const middle = guess > low && guess < high ? guess : (low + high) / 2;
    if (middle === low || middle === high) break;
    const at = tail(middle) - target;
    if (at === 0) return middle;
    if (at > 0) {
      [low, atLow] = [middle, at];
      atHigh /= 2;
    } else {
      [high, atHigh] = [middle, at];
      atLow /= 2;
    }
  }
  return (low + high) / 2;
}

/** The t that a fraction `upperTail` (0 < upperTail < 0.5) of Student's distribution exceeds; not cached, exact to rounding. */
export function studentTCritical(upperTail: number, df: number): number {
  if (!(upperTail > 0 && upperTail < 0.5)) throw new RangeError(`upperTail must be in (0, 0.5), got ${upperTail}`);
  if (!(df > 0)) throw new RangeError(`df must be above 0, got ${df}`);
  return solveFalling((t) => studentTUpperTail(t, df), upperTail);
}

const F_CACHE = new Map<string, number>();

/** The F that a fraction `upperTail` of the F distribution exceeds. Remembered: the cells of a test share their degrees of freedom. */
export function fCritical(upperTail: number, df1: number, df2: number): number {
  if (!(upperTail > 0 && upperTail < 1)) throw new RangeError(`upperTail must be in (0, 1), got ${upperTail}`);
  const key = `${upperTail} ${df1} ${df2}`;
  let value = F_CACHE.get(key);
  if (value === undefined) {
    value = solveFalling((f) => fUpperTail(f, df1, df2), upperTail);
    if (F_CACHE.size > 5000) F_CACHE.clear();
    F_CACHE.set(key, value);
  }
  return value;
}

const HALF_WIDTH_CACHE = new Map<number, number>();
/** Steps of 1/df between which the multiplier is interpolated, from 2 degrees of freedom on. */
const STEPS = 512;
const LEAST_INTERPOLATED_DF = 2;
/** The 0.975 quantile of the normal distribution, from any table with so many digits. */
const NORMAL_975 = 1.959963984540054;
let halfWidths: Float64Array | undefined;

/** The multipliers at equal steps of 1/df from 0 (normal) to 1/2, made once. */
function halfWidthTable(): Float64Array {
  halfWidths ??= Float64Array.from({ length: STEPS + 4 }, (_, i) => (i === 0 ? NORMAL_975 : studentTCritical(0.025, (LEAST_INTERPOLATED_DF * STEPS) / i)));
  return halfWidths;
}

/**
 * `t95` for re-ranking: interpolated over 1/df by a cubic through four exact neighbours, off by less than 1e-9 from 2 degrees
 * of freedom on; below that, exact.
 */
export function quickT95(df: number): number {
  if (df < LEAST_INTERPOLATED_DF) return t95(df);
  const table = halfWidthTable();
  const at = (LEAST_INTERPOLATED_DF / df) * STEPS;
  const i = Math.max(1, Math.min(STEPS, Math.floor(at)));
  const u = at - i;
  const [a, b, c, d] = [table[i - 1] as number, table[i] as number, table[i + 1] as number, table[i + 2] as number];
  // Lagrange's cubic through the points at −1, 0, 1 and 2.
  return (-u * (u - 1) * (u - 2) * a) / 6 + ((u + 1) * (u - 1) * (u - 2) * b) / 2 - ((u + 1) * u * (u - 2) * c) / 2 + ((u + 1) * u * (u - 1) * d) / 6;
}

/**
 * The multiplier of a standard error for a two-sided 95 % interval at `df` degrees of freedom.
 * Remembered by df rounded to 1e-6: a re-ranking asks for the same few values thousands of times.
 */
export function t95(df: number): number {
  const key = Math.round(Math.min(df, 1e6) * 1e6);
  let value = HALF_WIDTH_CACHE.get(key);
  if (value === undefined) {
    value = studentTCritical(0.025, key / 1e6);
    if (HALF_WIDTH_CACHE.size > 20_000) HALF_WIDTH_CACHE.clear();
    HALF_WIDTH_CACHE.set(key, value);
  }
  return value;
}
