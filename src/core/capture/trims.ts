/** A stretch of a run that a person took out of the statistics (a menu, a warm-up), in seconds from its start. */
export interface Trim {
  fromS: number;
  toS: number;
}

/**
 * The frames that begin outside all trims. The record itself is never changed.
 *
 * Shapes: frame times in order; the result is a new array, or the same one where nothing is trimmed.
 */
export function withoutTrims(frameTimesMs: Float64Array, trims: readonly Trim[]): Float64Array {
  if (trims.length === 0) return frameTimesMs;
  let atMs = 0;
  return frameTimesMs.filter((frame) => {
    const startS = atMs / 1000;
    atMs += frame;
    return !trims.some(({ fromS, toS }) => startS >= fromS && startS < toS);
  });
}

/** What is left of [0, durationS] once the trims are taken out, as rising, separate stretches. */
export function keptStretches(durationS: number, trims: readonly Trim[]): Trim[] {
  let kept: Trim[] = [{ fromS: 0, toS: durationS }];
  for (const trim of trims) {
    kept = kept.flatMap(({ fromS, toS }) =>
      [
        { fromS, toS: Math.min(toS, trim.fromS) },
        { fromS: Math.max(fromS, trim.toS), toS },
      ].filter((stretch) => stretch.toS > stretch.fromS),
    );
  }
  return kept;
}
