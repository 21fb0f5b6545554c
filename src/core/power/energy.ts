import { fail, ok, type Result } from "@/core/result";

/** Energy over a window, and how it came about. */
export interface WindowEnergy {
  joules: number;
  durationS: number;
  /** Energy ÷ duration, not the mean of the samples: logs are irregular. */
  meanW: number;
  peakW: number;
  samples: number;
}

export type EnergyProblem =
  | { kind: "too-few-samples"; have: number; need: number }
  | { kind: "log-does-not-cover"; fromS: number; toS: number; logFromS: number; logToS: number }
  | { kind: "gap-in-log"; atS: number; lengthS: number }
  | { kind: "negative-power"; atS: number };

/** A hole longer than this is not bridged: power swings within it are not known. */
const LONGEST_GAP_S = 2;
/** A log may begin or end this much inside the window; its first or last value is held. */
const EDGE_TOLERANCE_S = 1;

/**
 * Energy of an irregular power log over [fromS, toS] by the trapezoid rule, interpolated at the window's edges.
 *
 * Shapes: `timeS` rising, `watts` of the same length, NaN where the meter gave nothing (skipped; the hole counts as a gap).
 * Units:  seconds, watts → joules.
 * Errors: a log that does not cover the window, holes over 2 s, negative power, fewer than two samples.
 * Source: trapezoidal rule; E = ∫P dt.
 */
export function energyOverWindow(timeS: Float64Array, watts: Float64Array, fromS: number, toS: number): Result<WindowEnergy, EnergyProblem> {
  const t: number[] = [];
  const w: number[] = [];
  for (let i = 0; i < timeS.length; i += 1) {
    const power = watts[i] as number;
    if (Number.isNaN(power)) continue;
    if (power < 0) return fail({ kind: "negative-power", atS: timeS[i] as number });
    t.push(timeS[i] as number);
    w.push(power);
  }
  if (t.length < 2) return fail({ kind: "too-few-samples", have: t.length, need: 2 });
  const first = t[0] as number;
  const last = t[t.length - 1] as number;
  if (first > fromS + EDGE_TOLERANCE_S || last < toS - EDGE_TOLERANCE_S) {
    return fail({ kind: "log-does-not-cover", fromS, toS, logFromS: first, logToS: last });
  }
  // Hold the outermost values over the tolerated edges.
  if (first > fromS) {
    t.unshift(fromS);
    w.unshift(w[0] as number);
  }
  if (last < toS) {
    t.push(toS);
    w.push(w[w.length - 1] as number);
  }
  let joules = 0;
  let peakW = 0;
  let samples = 0;
  for (let i = 1; i < t.length; i += 1) {
    const t0 = t[i - 1] as number;
    const t1 = t[i] as number;
    const from = Math.max(t0, fromS);
    const to = Math.min(t1, toS);
    if (to <= from) continue;
    if (t1 - t0 > LONGEST_GAP_S) return fail({ kind: "gap-in-log", atS: t0, lengthS: t1 - t0 });
    const w0 = w[i - 1] as number;
    const rise = (w[i] as number) - w0;
    const startW = w0 + (rise * (from - t0)) / (t1 - t0);
    const endW = w0 + (rise * (to - t0)) / (t1 - t0);
    joules += ((startW + endW) / 2) * (to - from);
    peakW = Math.max(peakW, startW, endW);
    samples += 1;
  }
  return ok({ joules, durationS: toS - fromS, meanW: joules / (toS - fromS), peakW, samples: samples + 1 });
}

/** Frames per joule, the same as frames per second per watt. Errors: RangeError unless both are above 0. */
export function framesPerJoule(frames: number, joules: number): number {
  if (!(frames > 0 && joules > 0)) throw new RangeError(`frames and joules must be above 0, got ${frames} and ${joules}`);
  return frames / joules;
}
