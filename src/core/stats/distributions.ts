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

/** The x > 0 whose falling function reaches `target`, by doubling and bisection to the last bit. */
function solveFalling(tail: (x: number) => number, target: number): number {
  let high = 1;
  while (tail(high) > target && high < 1e150) high *= 2;
  let low = 0;
  for (let i = 0; i < 200; i += 1) {
    const middle = (low + high) / 2;
    if (middle === low || middle === high) break;
    if (tail(middle) > target) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}

/** The t that a fraction `upperTail` (0 < upperTail < 0.5) of Student's distribution exceeds; not cached, exact to rounding. */
export function studentTCritical(upperTail: number, df: number): number {
  if (!(upperTail > 0 && upperTail < 0.5)) throw new RangeError(`upperTail must be in (0, 0.5), got ${upperTail}`);
  if (!(df > 0)) throw new RangeError(`df must be above 0, got ${df}`);
  return solveFalling((t) => studentTUpperTail(t, df), upperTail);
}

/** The F that a fraction `upperTail` of the F distribution exceeds. */
export function fCritical(upperTail: number, df1: number, df2: number): number {
  if (!(upperTail > 0 && upperTail < 1)) throw new RangeError(`upperTail must be in (0, 1), got ${upperTail}`);
  return solveFalling((f) => fUpperTail(f, df1, df2), upperTail);
}

const HALF_WIDTH_CACHE = new Map<number, number>();

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
