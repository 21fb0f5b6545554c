/** What a part is on paper, as far as it is known. */
export interface PaperPart {
  clockGhz: number | null;
  /** Cores, shader units: what the part has many of. */
  units: number | null;
}

/**
 * The speed-up that n units allow over one where a fraction of the work runs on all of them.
 *
 * Units: fractions of 1. Errors: RangeError outside of [0, 1] or below one unit.
 * Source: Amdahl 1967, AFIPS Spring Joint Computer Conference 30 (the closed formula).
 */
export function amdahl(parallelFraction: number, units: number): { speedup: number; efficiency: number; limit: number | undefined } {
  if (!(parallelFraction >= 0 && parallelFraction <= 1)) throw new RangeError(`the fraction must be in [0, 1], got ${parallelFraction}`);
  if (!(units >= 1)) throw new RangeError(`there must be one unit or more, got ${units}`);
  const speedup = 1 / (1 - parallelFraction + parallelFraction / units);
  return { speedup, efficiency: speedup / units, limit: parallelFraction === 1 ? undefined : 1 / (1 - parallelFraction) };
}

/**
 * The serial fraction that a measured speed-up betrays.
 *
 * Errors: RangeError for fewer than two units or a speed-up that is not above 0.
 * Source: Karp & Flatt 1990, Comm. ACM 33(5): e = (1/S − 1/n) ÷ (1 − 1/n).
 */
export function karpFlatt(speedup: number, units: number): number {
  if (!(units > 1)) throw new RangeError(`there must be more than one unit, got ${units}`);
  if (!(speedup > 0)) throw new RangeError(`a speed-up must be above 0, got ${speedup}`);
  return (1 / speedup - 1 / units) / (1 - 1 / units);
}

/** What clocks and units allow, beside what was measured. */
export interface PaperComparison {
  /** Product of the ratios of clock and of units. */
  expected: number;
  measured: number;
  /** (measured − 1) ÷ (expected − 1): 1 where all of it arrived; undefined where paper promises nothing. */
  efficiency: number | undefined;
  perGhzRatio: number | undefined;
  perGhzUnitRatio: number | undefined;
}

/**
 * Sets the uplift that was measured beside the one that clock and units allow; what neither explains is architecture.
 *
 * Shapes: `ratio` is the newer part's speed over the older's. Errors: undefined where neither clock nor units are known of both.
 * Source: common practice.
 */
export function compareWithPaper(newer: PaperPart, older: PaperPart, ratio: number): PaperComparison | undefined {
  const of = (a: number | null, b: number | null) => (a !== null && b !== null && a > 0 && b > 0 ? a / b : undefined);
  const [clock, units] = [of(newer.clockGhz, older.clockGhz), of(newer.units, older.units)];
  if (clock === undefined && units === undefined) return undefined;
  const expected = (clock ?? 1) * (units ?? 1);
  return {
    expected,
    measured: ratio,
    efficiency: Math.abs(expected - 1) < 1e-9 ? undefined : (ratio - 1) / (expected - 1),
    perGhzRatio: clock === undefined ? undefined : ratio / clock,
    perGhzUnitRatio: clock === undefined || units === undefined ? undefined : ratio / clock / units,
  };
}
