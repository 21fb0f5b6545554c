import { quantileSorted } from "@/core/stats";

/** Points ready to be drawn; x rises. */
export interface DrawnSeries {
  x: Float64Array;
  y: Float64Array;
}

/** When each frame begins, in seconds from the start of the run. */
export function frameStartsS(frameTimesMs: Float64Array): Float64Array {
  let atMs = 0;
  return frameTimesMs.map((frame) => {
    const start = atMs / 1000;
    atMs += frame;
    return start;
  });
}

/** The first index whose x is not below a bound; x rises. */
function firstFrom(x: Float64Array, bound: number): number {
  let [low, high] = [0, x.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((x[middle] as number) < bound) low = middle + 1;
    else high = middle;
  }
  return low;
}

/**
 * Thins a series to what a chart of so many buckets can show between two bounds: of each bucket the smallest and the largest
 * value, in their order, so that no spike is lost. Fewer values than twice the buckets come out as they are. Values that are
 * not known (NaN) stand only where a whole bucket is not known.
 *
 * Shapes: x rises, y as long as x; neither is modified. One value beyond each bound is kept, so that lines reach the edge.
 */
export function thinSeries(x: Float64Array, y: Float64Array, from: number, to: number, buckets: number): DrawnSeries {
  const first = Math.max(0, firstFrom(x, from) - 1);
  const last = Math.min(x.length, firstFrom(x, to) + 1);
  if (last - first <= 2 * buckets) return { x: x.slice(first, last), y: y.slice(first, last) };
  const outX = new Float64Array(2 * buckets + 2);
  const outY = new Float64Array(2 * buckets + 2);
  let n = 0;
  const put = (i: number) => {
    outX[n] = x[i] as number;
    outY[n] = y[i] as number;
    n += 1;
  };
  const size = (last - first) / buckets;
  for (let bucket = 0; bucket < buckets; bucket += 1) {
    const start = first + Math.floor(bucket * size);
    const end = bucket === buckets - 1 ? last : first + Math.floor((bucket + 1) * size);
    let low = -1;
    let high = -1;
    for (let i = start; i < end; i += 1) {
      const value = y[i] as number;
      if (Number.isNaN(value)) continue;
      if (low < 0 || value < (y[low] as number)) low = i;
      if (high < 0 || value > (y[high] as number)) high = i;
    }
    if (low < 0) put(start);
    else if (low === high) put(low);
    else {
      put(Math.min(low, high));
      put(Math.max(low, high));
    }
  }
  return { x: outX.slice(0, n), y: outY.slice(0, n) };
}

/** The frames that begin in [fromS, toS). */
export function framesBetween(frameTimesMs: Float64Array, startsS: Float64Array, fromS: number, toS: number): Float64Array {
  return frameTimesMs.subarray(firstFrom(startsS, fromS), firstFrom(startsS, toS));
}

/** Shares of frames at which a percentile curve is drawn: evenly to 90 %, then ever finer into the slow end. */
const CURVE_SHARES = [
  ...Array.from({ length: 45 }, (_, i) => (2 * i) / 100),
  ...Array.from({ length: 18 }, (_, i) => 0.9 + i * 0.005),
  ...Array.from({ length: 18 }, (_, i) => 0.99 + i * 0.0005),
  ...Array.from({ length: 10 }, (_, i) => 0.999 + i * 0.0001),
];

/**
 * The percentile curve of a run: the frame time that a share of its frames stays within, by type-7 quantiles.
 *
 * Shapes: n ≥ 1 frame times, not modified; `share` rises from 0 to 0.9999. Errors: RangeError on an empty series.
 */
export function percentileCurve(frameTimesMs: Float64Array): { share: number; frameTimeMs: number }[] {
  const sorted = frameTimesMs.slice().sort();
  return CURVE_SHARES.map((share) => ({ share, frameTimeMs: quantileSorted(sorted, share) }));
}

/** How many frames took how long: equal steps over the middle 99.8 % of them, what lies outside counted at the ends. */
export interface FrameDistribution {
  fromMs: number;
  stepMs: number;
  /** Share of frames in each step; adds up to 1. */
  shares: number[];
}

/** The distribution of a run's frame times in a number of steps. Errors: RangeError on an empty series. */
export function frameDistribution(frameTimesMs: Float64Array, steps = 60, range?: { fromMs: number; toMs: number }): FrameDistribution {
  const sorted = frameTimesMs.slice().sort();
  const fromMs = range?.fromMs ?? quantileSorted(sorted, 0.001);
  const toMs = Math.max(range?.toMs ?? quantileSorted(sorted, 0.999), fromMs * (1 + 1e-9) + 1e-9);
  const stepMs = (toMs - fromMs) / steps;
  const shares = new Array<number>(steps).fill(0);
  for (const frame of frameTimesMs) {
    const step = Math.max(0, Math.min(steps - 1, Math.floor((frame - fromMs) / stepMs)));
    shares[step] = (shares[step] as number) + 1 / frameTimesMs.length;
  }
  return { fromMs, stepMs, shares };
}

const MATCH_STEP_S = 0.1;

/** Mean log frame time in steps of a tenth of a second; what lies between two scenes shows as a step in it. */
function coarse(frameTimesMs: Float64Array): Float64Array {
  const totalS = frameTimesMs.reduce((sum, frame) => sum + frame, 0) / 1000;
  const sums = new Float64Array(Math.max(1, Math.ceil(totalS / MATCH_STEP_S)));
  const counts = new Float64Array(sums.length);
  let atMs = 0;
  for (const frame of frameTimesMs) {
    const step = Math.min(sums.length - 1, Math.floor(atMs / 1000 / MATCH_STEP_S));
    sums[step] = (sums[step] as number) + Math.log(frame);
    counts[step] = (counts[step] as number) + 1;
    atMs += frame;
  }
  let last = 0;
  return sums.map((sum, i) => {
    const count = counts[i] as number;
    if (count > 0) last = sum / count;
    return last;
  });
}

/** The correlation of a with b moved by `lag` steps, over their overlap; undefined below half of the shorter one. */
function correlationAt(a: Float64Array, b: Float64Array, lag: number): number | undefined {
  const from = Math.max(0, lag);
  const to = Math.min(a.length, b.length + lag);
  const n = to - from;
  if (n < Math.max(5, Math.min(a.length, b.length) / 2)) return undefined;
  let [sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0];
  for (let i = from; i < to; i += 1) {
    const [x, y] = [a[i] as number, b[i - lag] as number];
    sa += x;
    sb += y;
    saa += x * x;
    sbb += y * y;
    sab += x * y;
  }
  const spread = Math.sqrt((saa - (sa * sa) / n) * (sbb - (sb * sb) / n));
  return spread > 0 ? (sab - (sa * sb) / n) / spread : undefined;
}

/**
 * How far a second run has to be moved, in seconds, so that the same scenes lie under each other: the lag (at most ± `mostS`)
 * at which the logs of the two frame times, averaged over tenths of a second, agree best. 0 where nothing agrees (r < 0.3).
 *
 * Source: cross-correlation, common practice.
 */
export function matchingShiftS(reference: Float64Array, other: Float64Array, mostS = 5): { shiftS: number; correlation: number } {
  const [a, b] = [coarse(reference), coarse(other)];
  let best = { shiftS: 0, correlation: correlationAt(a, b, 0) ?? 0 };
  for (let lag = -Math.round(mostS / MATCH_STEP_S); lag <= mostS / MATCH_STEP_S; lag += 1) {
    const correlation = correlationAt(a, b, lag);
    // A hair more for staying in place: equal agreement must not move a run.
    if (correlation !== undefined && correlation > best.correlation + 1e-6) best = { shiftS: lag * MATCH_STEP_S, correlation };
  }
  return best.correlation >= 0.3 ? best : { shiftS: 0, correlation: best.correlation };
}
