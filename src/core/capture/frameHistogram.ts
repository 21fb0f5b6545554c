import { compensatedSum } from "@/core/stats";

/**
 * Frame times counted in fine steps: 2,048 to an octave, so a step is between 0.034 and 0.049 % wide. Built in one pass from
 * the high half of each double: for positive numbers its order is theirs, so no sort and no logarithm is needed. Order
 * statistics become exact by sorting only what lies in one step.
 */
export interface FrameHistogram {
  /** The step of `counts[0]`. */
  first: number;
  counts: Uint32Array;
  shortestMs: number;
  longestMs: number;
  totalMs: number;
  n: number;
}

const SHIFT = 9;
const STEPS_PER_OCTAVE = 2048;

// A number as its two halves; the order of the halves is the machine's.
const LITTLE_ENDIAN = new Uint8Array(new Uint32Array([1]).buffer)[0] === 1;
const HIGH = LITTLE_ENDIAN ? 1 : 0;
const probe = new Float64Array(1);
const probeHalves = new Uint32Array(probe.buffer);

/** The step a frame time lies in. */
export function stepOf(frameTimeMs: number): number {
  probe[0] = frameTimeMs;
  return (probeHalves[HIGH] as number) >>> SHIFT;
}

/** The least frame time of a step, in ms. */
export function startOfStep(step: number): number {
  probe[0] = 0;
  probeHalves[HIGH] = step << SHIFT;
  return probe[0] as number;
}

/** The step that a step's least frame time lies in when it is multiplied by a factor from 1 up to (but not) 2. */
export function stepTimes(step: number, factor: number): number {
  // 2,048 steps to an octave, evenly wide within it: the place in the octave grows by the factor, over its end at half the width.
  const place = step & (STEPS_PER_OCTAVE - 1);
  const scaled = (STEPS_PER_OCTAVE + place) * factor;
  return step - place + (scaled < 2 * STEPS_PER_OCTAVE ? Math.floor(scaled) - STEPS_PER_OCTAVE : Math.floor(scaled / 2));
}

/**
 * Counts frame times. Shapes: n ≥ 1 frame times above 0; not modified. Cost: two linear passes.
 * The total is summed with what each addition loses (Knuth's TwoSum), in two lanes: a run has up to millions of frames.
 */
export function countFrames(frameTimesMs: Float64Array): FrameHistogram {
  const n = frameTimesMs.length;
  let shortestMs = frameTimesMs[0] as number;
  let longestMs = shortestMs;
  let even = 0;
  let odd = 0;
  if (n % 2 === 1) {
    odd = frameTimesMs[n - 1] as number;
    if (odd < shortestMs) shortestMs = odd;
    if (odd > longestMs) longestMs = odd;
  }
  let lostEven = 0;
  let lostOdd = 0;
  for (let i = 0; i + 1 < n; i += 2) {
    const a = frameTimesMs[i] as number;
    const b = frameTimesMs[i + 1] as number;
    if (a < shortestMs) shortestMs = a;
    if (b < shortestMs) shortestMs = b;
    if (a > longestMs) longestMs = a;
    if (b > longestMs) longestMs = b;
    const nextEven = even + a;
    const takenA = nextEven - even;
    lostEven += even - (nextEven - takenA) + (a - takenA);
    even = nextEven;
    const nextOdd = odd + b;
    const takenB = nextOdd - odd;
    lostOdd += odd - (nextOdd - takenB) + (b - takenB);
    odd = nextOdd;
  }
  const totalMs = compensatedSum([even, odd, lostEven, lostOdd]);
  const first = stepOf(shortestMs);
  const counts = new Uint32Array(stepOf(longestMs) - first + 1);
  const halves = new Uint32Array(frameTimesMs.buffer, frameTimesMs.byteOffset, 2 * n);
  for (let i = HIGH; i < 2 * n; i += 2) {
    const step = ((halves[i] as number) >>> SHIFT) - first;
    counts[step] = (counts[step] as number) + 1;
  }
  return { first, counts, shortestMs, longestMs, totalMs, n };
}

/** The frame times from one step (counted from the first) to another, both included, in ascending order. */
export function framesWithin(frameTimesMs: Float64Array, { first, counts }: FrameHistogram, from: number, to: number): Float64Array {
  let size = 0;
  for (let step = from; step <= to; step += 1) size += counts[step] as number;
  const found = new Float64Array(size);
  const halves = new Uint32Array(frameTimesMs.buffer, frameTimesMs.byteOffset, 2 * frameTimesMs.length);
  const low = first + from;
  // One comparison that seldom holds, rather than two of which one holds every other time: a wrong guess costs the processor dear.
  const span = to - from;
  let at = 0;
  for (let i = HIGH; at < size; i += 2) {
    if ((((halves[i] as number) >>> SHIFT) - low) >>> 0 <= span) found[at++] = frameTimesMs[i >> 1] as number;
  }
  return found.sort();
}

/** The step (counted from the first) that holds the frame of a rank (0 = shortest), and how many frames lie below that step. */
export function stepOfRank({ counts }: FrameHistogram, rank: number): { step: number; below: number } {
  let below = 0;
  for (let step = 0; step < counts.length; step += 1) {
    const count = counts[step] as number;
    if (rank < below + count) return { step, below };
    below += count;
  }
  throw new RangeError(`rank ${rank} of ${below} frames`);
}
