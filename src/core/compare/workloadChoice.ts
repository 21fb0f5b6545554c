import type { Random } from "@/core/random";
import { quantileSorted, studentTCritical } from "@/core/stats";
import type { IndexTable } from "./indexTable";

/** How much a row's index depends on which workloads were chosen. */
export interface ChoiceInterval {
  setupId: string;
  low: number;
  high: number;
}

/** Mean log values of every row in every workload, over its tests: rows × workloads. */
export function workloadMeans(table: IndexTable): { workloadIds: string[]; means: Float64Array } {
  const workloadIds = [...new Set(table.tests.map(({ workloadId }) => workloadId))];
  const at = new Map(workloadIds.map((id, i) => [id, i]));
  const counts = new Float64Array(workloadIds.length);
  for (const { workloadId } of table.tests) counts[at.get(workloadId) as number] = (counts[at.get(workloadId) as number] as number) + 1;
  const means = new Float64Array(table.setupIds.length * workloadIds.length);
  table.setupIds.forEach((_, s) => {
    table.tests.forEach(({ workloadId }, t) => {
      const w = at.get(workloadId) as number;
      const i = s * workloadIds.length + w;
      means[i] = (means[i] as number) + (table.logs[s * table.tests.length + t] as number) / (counts[w] as number);
    });
  });
  return { workloadIds, means };
}

/** Standard normal upper tail, good to 1e-7. Source: Abramowitz & Stegun 26.2.17 (constants from memory). */
function normalUpperTail(z: number): number {
  const t = 1 / (1 + 0.2316419 * z);
  const polynomial = t * (0.31938153 + t * (-0.356563782 + t * (1.781477937 + t * (-1.821255978 + t * 1.330274429))));
  return (Math.exp((-z * z) / 2) / Math.sqrt(2 * Math.PI)) * polynomial;
}

/**
 * The tail of each side that makes a percentile interval of n drawn things as wide as Student's: without it, intervals of few
 * workloads are too narrow.
 *
 * Source: Hesterberg 2015, The American Statistician 69(4), "expanded percentile" interval.
 */
export function expandedTail(n: number): number {
  return n < 2 ? 0.025 : normalUpperTail(Math.sqrt(n / (n - 1)) * studentTCritical(0.025, n - 1));
}

/**
 * The 95 % interval of each row's index for the choice of workloads: workloads are drawn again with all their resolutions, as
 * many as there are, and the index is taken anew. It says what other games of the same kind might have given, and is kept apart
 * from run noise. The baseline's is 1.
 *
 * Shapes: one interval a row, in the table's order; weights by workload (1 where none is given).
 * Errors: undefined below three workloads: two say nothing of a third.
 * Source: bootstrap over clusters (Davison & Hinkley 1997, §3.8), expanded percentile interval.
 */
export function choiceOfWorkloads(
  table: IndexTable,
  options: { baselineId: string; resamples: number; random: Random; weights?: ReadonlyMap<string, number> | undefined },
): ChoiceInterval[] | undefined {
  const { workloadIds, means } = workloadMeans(table);
  const base = table.setupIds.indexOf(options.baselineId);
  const rows = table.setupIds.length;
  const all = workloadIds.map((id) => Math.max(0, options.weights?.get(id) ?? 1));
  const counted = all.flatMap((weight, i) => (weight > 0 ? [i] : []));
  const n = counted.length;
  if (n < 3 || base < 0) return undefined;
  const weight = Float64Array.from(counted, (i) => all[i] as number);
  // Differences to the baseline, workload by workload, weighed: what is drawn is added up, four rows at a time.
  const width = Math.ceil(rows / LANES) * LANES;
  const weighed = new Float64Array(n * width);
  counted.forEach((w, k) => {
    for (let s = 0; s < rows; s += 1) {
      const difference = (means[s * workloadIds.length + w] as number) - (means[base * workloadIds.length + w] as number);
      weighed[k * width + s] = difference * (weight[k] as number);
    }
  });
  const drawn = drawAgain(weighed, weight, width, options.resamples, options.random);
  const tail = expandedTail(n);
  return table.setupIds.map((setupId, s): ChoiceInterval => {
    if (s === base) return { setupId, low: 1, high: 1 };
    const sorted = drawn.subarray(s * options.resamples, (s + 1) * options.resamples).sort();
    return { setupId, low: Math.exp(quantileSorted(sorted, tail)), high: Math.exp(quantileSorted(sorted, 1 - tail)) };
  });
}

const LANES = 4;

/**
 * Draws n of n things with return, so many times, and takes each row's weighted mean of what was drawn. The sums of four rows
 * stay in registers while the draw is gone through: that is what makes ten thousand of them a matter of milliseconds.
 *
 * Shapes: `weighed` n × width (a multiple of 4), `weight` n; the result width × resamples.
 */
function drawAgain(weighed: Float64Array, weight: Float64Array, width: number, resamples: number, random: Random): Float64Array {
  const n = weight.length;
  const drawn = new Float64Array(width * resamples);
  const picks = new Int32Array(n);
  for (let r = 0; r < resamples; r += 1) {
    let total = 0;
    for (let k = 0; k < n; k += 1) {
      const pick = (random.next() * n) | 0;
      total += weight[pick] as number;
      picks[k] = pick * width;
    }
    for (let s = 0; s < width; s += LANES) {
      let a = 0;
      let b = 0;
      let c = 0;
      let d = 0;
      for (let k = 0; k < n; k += 1) {
        const at = (picks[k] as number) + s;
        a += weighed[at] as number;
        b += weighed[at + 1] as number;
        c += weighed[at + 2] as number;
        d += weighed[at + 3] as number;
      }
      const to = s * resamples + r;
      drawn[to] = a / total;
      drawn[to + resamples] = b / total;
      drawn[to + 2 * resamples] = c / total;
      drawn[to + 3 * resamples] = d / total;
    }
  }
  return drawn;
}
