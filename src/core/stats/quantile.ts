/**
 * The p-quantile of a sample, interpolated linearly between neighbours (type 7).
 *
 * Shapes: `sorted` holds n ≥ 1 finite values in ascending order; not modified.
 * Units:  the result has the unit of `sorted`; `p` is a ratio in [0, 1].
 * Errors: RangeError if `sorted` is empty or `p` is outside [0, 1].
 * Source: Hyndman & Fan 1996, The American Statistician 50(4), definition 7.
 * @example quantileSorted(Float64Array.of(8, 9, 12), 0.5) // 9
 */
export function quantileSorted(sorted: ArrayLike<number>, p: number): number {
  if (sorted.length === 0) throw new RangeError("quantile of an empty sample");
  if (!(p >= 0 && p <= 1)) throw new RangeError(`p must be in [0, 1], got ${p}`);
  const position = p * (sorted.length - 1);
  const below = Math.floor(position);
  const low = sorted[below] as number;
  const high = sorted[Math.min(below + 1, sorted.length - 1)] as number;
  return low + (position - below) * (high - low);
}

/** The median of an unsorted sample. Errors: RangeError on an empty sample. */
export function median(values: ArrayLike<number>): number {
  return quantileSorted(Float64Array.from(values).sort(), 0.5);
}
