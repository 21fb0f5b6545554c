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

/**
 * Counts frame times. Shapes: n ≥ 1 frame times above 0; not modified. Cost: two linear passes.
 * The total is summed with Neumaier's compensation: a run has up to millions of frames.
 */
export function countFrames(frameTimesMs: Float64Array): FrameHistogram {
  const n = frameTimesMs.length;
  let shortestMs = Number.POSITIVE_INFINITY;
  let longestMs = 0;
  let sum = 0;
  let lost = 0;
  for (let i = 0; i < n; i += 1) {
    const frame = frameTimesMs[i] as number;
    if (frame < shortestMs) shortestMs = frame;
    if (frame > longestMs) longestMs = frame;
    const next = sum + frame;
    lost += sum >= frame ? sum - next + frame : frame - next + sum;
    sum = next;
  }
  const first = stepOf(shortestMs);
  const counts = new Uint32Array(stepOf(longestMs) - first + 1);
  const halves = new Uint32Array(frameTimesMs.buffer, frameTimesMs.byteOffset, 2 * n);
  for (let i = HIGH; i < 2 * n; i += 2) {
    const step = ((halves[i] as number) >>> SHIFT) - first;
    counts[step] = (counts[step] as number) + 1;
  }
  return { first, counts, shortestMs, longestMs, totalMs: sum + lost, n };
}

/** The frame times from one step (counted from the first) to another, both included, in ascending order. */
export function framesWithin(frameTimesMs: Float64Array, { first, counts }: FrameHistogram, from: number, to: number): Float64Array {
  let size = 0;
  for (let step = from; step <= to; step += 1) size += counts[step] as number;
  const found = new Float64Array(size);
  const low = startOfStep(first + from);
  const high = to + 1 < counts.length ? startOfStep(first + to + 1) : Number.POSITIVE_INFINITY;
  let at = 0;
  for (let i = 0; i < frameTimesMs.length && at < size; i += 1) {
    const frame = frameTimesMs[i] as number;
    if (frame >= low && frame < high) found[at++] = frame;
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
