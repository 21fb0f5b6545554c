import { sumOfSquaredDeviations } from "@/core/stats";
import { countFrames, type FrameHistogram, framesWithin, startOfStep, stepOfRank } from "./frameHistogram";

/** Changes when any number below may come out differently from the same frames; stored beside derived values. */
export const FRAME_METHOD_VERSION = 3;

/** One low by the three schools that practitioners use, in frames per second. Every chart names its school. */
export interface Lows {
  /** 1000 ÷ the type-7 quantile of frame time. */
  percentileFps: number;
  /** The slowest ceil(n × share) frames: their count ÷ their time. */
  tailMeanFps: number;
  /** 1000 ÷ the largest frame time t such that frames of t or longer hold at least the share of the time. */
  timeShareFps: number;
}

/** What one run's frames say. */
export interface FrameStatistics {
  frames: number;
  durationS: number;
  averageFps: number;
  meanFrameTimeMs: number;
  medianFrameTimeMs: number;
  /** Sample SD of the frame times; 0 for a single frame. */
  sdFrameTimeMs: number;
  minFrameTimeMs: number;
  maxFrameTimeMs: number;
  low1: Lows;
  low01: Lows;
  stutters: number;
}

/** Frames longer than this many times the median of the 21 frames centred on them are stutters. */
const STUTTER_FACTOR = 2.5;
const STUTTER_HALF_WINDOW = 10;

/**
 * Indices of stutters: frames longer than 2.5 × the median of the 21 frames centred on them.
 *
 * No running median is kept: x > 2.5 × median of 21 is the same as at least 11 of the 21 values lying below x ÷ 2.5,
 * and a frame not above 2.5 × the shortest frame can never qualify, so few are looked at closely.
 * The first and last ten frames are not judged.
 * Source: common practice (product definition of smoothness).
 */
export function findStutters(frameTimesMs: Float64Array, shortestMs: number): number[] {
  const found: number[] = [];
  const floor = STUTTER_FACTOR * shortestMs;
  for (let i = STUTTER_HALF_WINDOW; i < frameTimesMs.length - STUTTER_HALF_WINDOW; i += 1) {
    const frame = frameTimesMs[i] as number;
    if (frame <= floor) continue;
    let below = 0;
    for (let j = i - STUTTER_HALF_WINDOW; j <= i + STUTTER_HALF_WINDOW; j += 1) {
      if (STUTTER_FACTOR * (frameTimesMs[j] as number) < frame) below += 1;
    }
    if (below > STUTTER_HALF_WINDOW) found.push(i);
  }
  return found;
}

/** The slow end of a run: frame times from a rank upwards, ascending. */
interface SlowEnd {
  sortedMs: Float64Array;
  firstRank: number;
}

/** The frames from a rank on, and some before it: as many as share its step. */
function slowEnd(frameTimesMs: Float64Array, histogram: FrameHistogram, rank: number): SlowEnd {
  const { step, below } = stepOfRank(histogram, rank);
  return { sortedMs: framesWithin(frameTimesMs, histogram, step, histogram.counts.length - 1), firstRank: below };
}

/** Type-7 quantile between two ranks whose frames are known. */
function quantileAt(p: number, n: number, frameOfRank: (rank: number) => number): number {
  const position = p * (n - 1);
  const lower = Math.floor(position);
  const low = frameOfRank(lower);
  return lower + 1 < n ? low + (position - lower) * (frameOfRank(lower + 1) - low) : low;
}

/** The first rank that the lows for 1/`oneIn` of the frames look at: that of the quantile, of the tail, or of the share of time. */
function firstSlowRank({ first, counts, n, totalMs }: FrameHistogram, oneIn: number): number {
  // Frames of t or longer hold the share: walk down the steps by their least time until even that much is reached for sure.
  let heldMs = 0;
  let above = 0;
  for (let step = counts.length - 1; step >= 0 && heldMs < totalMs / oneIn; step -= 1) {
    const count = counts[step] as number;
    if (count === 0) continue;
    heldMs += count * startOfStep(first + step);
    above += count;
  }
  return Math.max(0, Math.min(n - above, Math.floor((1 - 1 / oneIn) * (n - 1)), n - Math.ceil(n / oneIn)));
}

/** The lows for the slowest 1/`oneIn` of the frames, from the run's slow end. */
function lowsOf({ sortedMs, firstRank }: SlowEnd, n: number, totalMs: number, oneIn: number): Lows {
  // From the whole number, not from n × (1 − 0.99): binary rounding would take one frame too many.
  const tailCount = Math.ceil(n / oneIn);
  const shareMs = totalMs / oneIn;
  let tailMs = 0;
  let heldMs = 0;
  let timeShareFrameMs = sortedMs[0] as number;
  let shareFound = false;
  for (let k = 0; k < sortedMs.length && (k < tailCount || !shareFound); k += 1) {
    const frame = sortedMs[sortedMs.length - 1 - k] as number;
    if (k < tailCount) tailMs += frame;
    heldMs += frame;
    // A hair of tolerance: a share that is exactly reached must not be missed by rounding.
    if (!shareFound && heldMs >= shareMs * (1 - 1e-12)) {
      timeShareFrameMs = frame;
      shareFound = true;
    }
  }
  return {
    percentileFps: 1000 / quantileAt(1 - 1 / oneIn, n, (rank) => sortedMs[rank - firstRank] as number),
    tailMeanFps: (1000 * tailCount) / tailMs,
    timeShareFps: 1000 / timeShareFrameMs,
  };
}

/**
 * All statistics of a run's frames. The rate is frames ÷ seconds, never the mean of instantaneous rates.
 *
 * Shapes: n ≥ 1 frame times, each finite and above 0; not modified.
 * Units:  milliseconds in; frames per second, milliseconds and seconds out, as named.
 * Errors: RangeError on an empty series (the caller has looked).
 * Cost: linear; only the slowest frames and the median's step are sorted. `counted` saves a pass where it is there already.
 * Source: common practice for the three schools of lows; quantile: Hyndman & Fan 1996, type 7.
 */
export function frameStatistics(frameTimesMs: Float64Array, counted?: FrameHistogram): FrameStatistics {
  const n = frameTimesMs.length;
  if (n === 0) throw new RangeError("statistics of a run without frames");
  const histogram = counted ?? countFrames(frameTimesMs);
  const { totalMs, shortestMs, longestMs } = histogram;
  // The 1 % ask for the longer end, the 0.1 % for a part of it.
  const slow = slowEnd(frameTimesMs, histogram, Math.min(firstSlowRank(histogram, 100), firstSlowRank(histogram, 1000)));
  return {
    frames: n,
    durationS: totalMs / 1000,
    averageFps: (1000 * n) / totalMs,
    meanFrameTimeMs: totalMs / n,
    medianFrameTimeMs: medianOf(frameTimesMs, histogram),
    sdFrameTimeMs: n < 2 ? 0 : Math.sqrt(Math.max(0, sumOfSquaredDeviations(frameTimesMs, totalMs / n)) / (n - 1)),
    minFrameTimeMs: shortestMs,
    maxFrameTimeMs: longestMs,
    low1: lowsOf(slow, n, totalMs, 100),
    low01: lowsOf(slow, n, totalMs, 1000),
    stutters: findStutters(frameTimesMs, shortestMs).length,
  };
}

/** The median, exact, by sorting only the steps that hold its ranks. */
function medianOf(frameTimesMs: Float64Array, histogram: FrameHistogram): number {
  const { n } = histogram;
  const [low, high] = [stepOfRank(histogram, Math.floor((n - 1) / 2)), stepOfRank(histogram, Math.ceil((n - 1) / 2))];
  const sorted = framesWithin(frameTimesMs, histogram, low.step, high.step);
  return quantileAt(0.5, n, (rank) => sorted[Math.min(sorted.length - 1, rank - low.below)] as number);
}
