import { countFrames, type FrameHistogram, startOfStep, stepOf, stepTimes } from "./frameHistogram";

/** How regularly a run's frames come: the facts from which a frame cap is judged. */
export interface FramePacing {
  /** The interval around which most frames lie. */
  intervalMs: number;
  /** Share of frames within ±1 % of the densest interval. */
  shareWithin1Percent: number;
  /** Share of frames within ±10 % of the interval. */
  shareWithin10Percent: number;
  /** Share of frames shorter than 0.9 × the interval: almost none where something holds the rate down. */
  shareFaster: number;
}

/**
 * Finds the densest ±1 % interval of a run's frame times and how frames lie about it, to the fineness of the histogram's
 * steps (a twentieth of a per cent): an interval's edges need no more.
 *
 * Shapes: n ≥ 1 frame times above 0; not modified. Cost: linear, no sort; `counted` saves a pass where it is there already.
 * Source: the product's description of a frame cap (share at one interval, one-sided edge).
 */
export function measurePacing(frameTimesMs: Float64Array, counted?: FrameHistogram): FramePacing {
  const histogram = counted ?? countFrames(frameTimesMs);
  const { counts, first, n } = histogram;
  const steps = counts.length;
  let bestCount = 0;
  let bestFrom = 0;
  let bestTo = 0;
  let inside = 0;
  for (let from = 0, to = 0; from < steps; from += 1) {
    if (counts[from] === 0) continue;
    const limit = Math.min(steps, Math.max(from + 1, stepTimes(first + from, 1.01 / 0.99) - first));
    for (; to < limit; to += 1) inside += counts[to] as number;
    if (inside > bestCount) {
      bestCount = inside;
      bestFrom = from;
      bestTo = to;
    }
    inside -= counts[from] as number;
  }
  const densest = middleOf(histogram, bestFrom, bestTo);
  // A limiter's period jitters to both sides: the median of the near frames is steadier than the densest point.
  const near = stepAt(histogram, densest * 0.9);
  const intervalMs = middleOf(histogram, near, Math.max(near + 1, stepAt(histogram, densest * 1.1)));
  return {
    intervalMs,
    shareWithin1Percent: bestCount / n,
    shareWithin10Percent: countWithin(histogram, stepAt(histogram, intervalMs * 0.9), stepAt(histogram, intervalMs * 1.1)) / n,
    shareFaster: countWithin(histogram, 0, stepAt(histogram, intervalMs * 0.9)) / n,
  };
}

/** The step of a frame time, counted from the first and kept within the steps that there are. */
function stepAt({ counts, first }: FrameHistogram, ms: number): number {
  return Math.max(0, Math.min(counts.length, stepOf(ms) - first));
}

/** The frames in the steps from one up to (but not) another. */
function countWithin({ counts }: FrameHistogram, from: number, to: number): number {
  let all = 0;
  for (let step = from; step < to; step += 1) all += counts[step] as number;
  return all;
}

/** The middle of the step in which half of the frames from one step to another have passed. */
function middleOf(histogram: FrameHistogram, from: number, to: number): number {
  const { counts, first } = histogram;
  const all = countWithin(histogram, from, to);
  let passed = 0;
  for (let step = from; step < to; step += 1) {
    passed += counts[step] as number;
    if (2 * passed >= all) return (startOfStep(first + step) + startOfStep(first + step + 1)) / 2;
  }
  return startOfStep(first + from);
}
