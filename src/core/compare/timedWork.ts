/** Two times of the same job. */
export interface TimedComparison {
  /** Times as fast: baseline ÷ time. */
  speedup: number;
  secondsSaved: number;
  /** How much shorter the time is, as a share of the baseline's: its base is the baseline. */
  shorterBy: number;
  /** How much longer the baseline's is, as a share of this time: its base is this time. */
  baselineLongerBy: number;
}

/** Sets a time beside the baseline's. Errors: RangeError for times not above 0. Source: the rules of the trade. */
export function compareTimes(timeS: number, baselineS: number): TimedComparison {
  if (!(timeS > 0 && baselineS > 0)) throw new RangeError(`times must be above 0, got ${timeS} and ${baselineS}`);
  return {
    speedup: baselineS / timeS,
    secondsSaved: baselineS - timeS,
    shorterBy: 1 - timeS / baselineS,
    baselineLongerBy: baselineS / timeS - 1,
  };
}

/** One setting of an encoder: how long it took and how large what came out is. */
export interface SizedTime {
  id: string;
  timeS: number;
  bytes: number;
}

/**
 * The frontier of size against time: settings for which no other is both no slower and no larger, and better in one. Twins stay.
 *
 * Shapes: the result is ordered by time. Source: Pareto dominance.
 */
export function sizeForTime(settings: readonly SizedTime[]): SizedTime[] {
  const dominated = (a: SizedTime) => settings.some((b) => b.timeS <= a.timeS && b.bytes <= a.bytes && (b.timeS < a.timeS || b.bytes < a.bytes));
  return settings.filter((one) => !dominated(one)).sort((a, b) => a.timeS - b.timeS || a.bytes - b.bytes || (a.id < b.id ? -1 : 1));
}

/** Seconds as the trade writes them: `3:11`, `1:02:03`, below a minute `52.4 s`. */
export function timeText(seconds: number): string {
  if (seconds < 59.95) return `${seconds.toFixed(seconds < 10 ? 2 : 1)} s`;
  const whole = Math.round(seconds);
  const [h, m, s] = [Math.floor(whole / 3600), Math.floor((whole % 3600) / 60), whole % 60];
  const two = (n: number) => String(n).padStart(2, "0");
  return h > 0 ? `${h}:${two(m)}:${two(s)}` : `${m}:${two(s)}`;
}
