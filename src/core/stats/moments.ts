/**
 * The sum of a sample by Neumaier's compensated summation: long series of like numbers lose no digits.
 *
 * Source: Neumaier 1974, Z. angew. Math. Mech. 54(1).
 */
export function compensatedSum(values: ArrayLike<number>): number {
  let sum = 0;
  let lost = 0;
  for (let i = 0; i < values.length; i += 1) {
    const value = values[i] as number;
    const next = sum + value;
    lost += Math.abs(sum) >= Math.abs(value) ? sum - next + value : value - next + sum;
    sum = next;
  }
  return sum + lost;
}

/** The arithmetic mean. Errors: RangeError on an empty sample. */
export function mean(values: ArrayLike<number>): number {
  if (values.length === 0) throw new RangeError("mean of an empty sample");
  return compensatedSum(values) / values.length;
}

/**
 * Σ(x − mean)², in two passes (stable where the spread is small against the mean); `centre` saves the first where the mean is
 * known already, and need not be exact. Four sums run side by side, as each addition waits for the one before.
 *
 * Errors: RangeError on an empty sample.
 */
export function sumOfSquaredDeviations(values: ArrayLike<number>, centre = mean(values)): number {
  const n = values.length;
  if (n === 0) throw new RangeError("deviations of an empty sample");
  let a = 0;
  let b = 0;
  let c = 0;
  let d = 0;
  let rest = 0;
  let i = 0;
  for (const last = n - 3; i < last; i += 4) {
    const p = (values[i] as number) - centre;
    const q = (values[i + 1] as number) - centre;
    const r = (values[i + 2] as number) - centre;
    const s = (values[i + 3] as number) - centre;
    a += p * p;
    b += q * q;
    c += r * r;
    d += s * s;
    rest += p + q + (r + s);
  }
  for (; i < n; i += 1) {
    const p = (values[i] as number) - centre;
    a += p * p;
    rest += p;
  }
  return a + b + (c + d) - (rest * rest) / n;
}

/** The sample standard deviation with n − 1. Errors: RangeError below two values. */
export function sampleSd(values: ArrayLike<number>): number {
  if (values.length < 2) throw new RangeError(`a standard deviation needs two values, got ${values.length}`);
  return Math.sqrt(Math.max(0, sumOfSquaredDeviations(values)) / (values.length - 1));
}

/**
 * The weighted geometric mean exp(Σ w ln x ÷ Σ w).
 *
 * Errors: RangeError on an empty sample, a value or a weight sum that is not above 0.
 */
export function geometricMean(values: ArrayLike<number>, weights?: ArrayLike<number>): number {
  if (values.length === 0) throw new RangeError("geometric mean of an empty sample");
  let sum = 0;
  let total = 0;
  for (let i = 0; i < values.length; i += 1) {
    const value = values[i] as number;
    const weight = weights ? (weights[i] as number) : 1;
    if (!(value > 0)) throw new RangeError(`a geometric mean needs values above 0, got ${value}`);
    sum += weight * Math.log(value);
    total += weight;
  }
  if (!(total > 0)) throw new RangeError(`the weights must sum to more than 0, got ${total}`);
  return Math.exp(sum / total);
}
