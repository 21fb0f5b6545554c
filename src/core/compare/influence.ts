import type { IndexTable } from "./indexTable";
import { workloadMeans } from "./workloadChoice";

/** What one workload does to the indices. */
export interface WorkloadInfluence {
  workloadId: string;
  /** Index without it over index with it, less 1, by row: 0.01 raises the row by 1 % when it is left out. */
  changes: { setupId: string; change: number }[];
  /** The largest change of any row, whatever its sign. */
  largest: number;
  /** Whether the order of the rows is another without it. */
  reorders: boolean;
}

const orderOf = (sums: ArrayLike<number>) => Array.from(sums, (_, i) => i).sort((a, b) => (sums[b] as number) - (sums[a] as number) || a - b);
const sameOrder = (a: readonly number[], b: readonly number[]) => a.every((value, i) => value === b[i]);

/** Differences to the baseline in every workload: workloads × rows. */
function differences(table: IndexTable, baselineId: string) {
  const { workloadIds, means } = workloadMeans(table);
  const base = table.setupIds.indexOf(baselineId);
  if (base < 0) throw new RangeError(`the baseline ${baselineId} is not among the rows`);
  const n = workloadIds.length;
  const rows = workloadIds.map((_, w) => Float64Array.from(table.setupIds, (__, s) => (means[s * n + w] as number) - (means[base * n + w] as number)));
  return { workloadIds, rows };
}

/**
 * The index of every row without each workload, the most influential first. Equal weights.
 *
 * Source: jack-knife influence, index without the workload ÷ index with all − 1 (common practice).
 */
export function influenceOfWorkloads(table: IndexTable, baselineId: string): WorkloadInfluence[] {
  const { workloadIds, rows } = differences(table, baselineId);
  const n = workloadIds.length;
  if (n < 2) return [];
  const sums = new Float64Array(table.setupIds.length);
  for (const row of rows) for (let s = 0; s < sums.length; s += 1) sums[s] = (sums[s] as number) + (row[s] as number);
  const order = orderOf(sums);
  return workloadIds
    .map((workloadId, w): WorkloadInfluence => {
      const without = sums.map((sum, s) => (sum - (rows[w]?.[s] as number)) / (n - 1));
      const changes = table.setupIds.map((setupId, s) => ({ setupId, change: Math.expm1((without[s] as number) - (sums[s] as number) / n) }));
      return { workloadId, changes, largest: Math.max(...changes.map(({ change }) => Math.abs(change))), reorders: !sameOrder(order, orderOf(without)) };
    })
    .sort((a, b) => b.largest - a.largest || (a.workloadId < b.workloadId ? -1 : 1));
}

/** The smallest set of workloads that ranks the rows in the same order as all of them. */
export interface SmallestSubset {
  workloadIds: string[];
  /** Exact: no smaller set does it. Greedy: workloads were taken away one by one, a smaller set may exist. */
  method: "exact" | "greedy";
  /** The largest difference that it makes to any row's index, as a ratio. */
  largestChange: number;
  tried: number;
}

/** Up to this many workloads every subset can be looked at. */
export const EXACT_TO = 20;

/**
 * Searches the smallest subset of workloads that keeps the order of all rows; of several of that size, the one whose indices
 * lie closest to those of all workloads. A generator that yields how many subsets were tried, so that a page can show progress
 * and cancel. Exact to 20 workloads, greedy beyond, and it says which.
 */
export function* smallestSubset(table: IndexTable, baselineId: string): Generator<{ tried: number; of: number }, SmallestSubset> {
  const { workloadIds, rows } = differences(table, baselineId);
  const [n, count] = [workloadIds.length, table.setupIds.length];
  const total = new Float64Array(count);
  for (const row of rows) for (let s = 0; s < count; s += 1) total[s] = (total[s] as number) + (row[s] as number);
  const order = orderOf(total);
  // Two neighbours of the order each: a subset keeps it when no pair is turned round.
  const keeps = (sum: Float64Array) => {
    for (let i = 1; i < count; i += 1) if ((sum[order[i - 1] as number] as number) <= (sum[order[i] as number] as number)) return false;
    return true;
  };
  const distance = (sum: Float64Array, size: number) => {
    let largest = 0;
    for (let s = 0; s < count; s += 1) largest = Math.max(largest, Math.abs((sum[s] as number) / size - (total[s] as number) / n));
    return largest;
  };
  let tried = 0;
  if (n <= EXACT_TO) {
    const of = 2 ** n - 1;
    const sum = new Float64Array(count);
    for (let size = 1; size <= n; size += 1) {
      let best: { picked: number[]; far: number } | undefined;
      const picked: number[] = [];
      const add = (w: number, sign: 1 | -1) => {
        const row = rows[w] as Float64Array;
        for (let s = 0; s < count; s += 1) sum[s] = (sum[s] as number) + sign * (row[s] as number);
      };
      // Combinations in their order, by index: each step changes few rows of the sum.
      const visit = function* (from: number): Generator<{ tried: number; of: number }, void> {
        if (picked.length === size) {
          tried += 1;
          if (keeps(sum)) {
            const far = distance(sum, size);
            if (!best || far < best.far - 1e-15) best = { picked: [...picked], far };
          }
          if (tried % 20_000 === 0) yield { tried, of };
          return;
        }
        for (let w = from; w <= n - (size - picked.length); w += 1) {
          picked.push(w);
          add(w, 1);
          yield* visit(w + 1);
          picked.pop();
          add(w, -1);
        }
      };
      sum.fill(0);
      yield* visit(0);
      const found = best as { picked: number[]; far: number } | undefined;
      if (found) return { workloadIds: found.picked.map((w) => workloadIds[w] as string), method: "exact", largestChange: Math.expm1(found.far), tried };
    }
  }
  // Greedy: take away, one by one, the workload whose absence moves the indices least and keeps the order.
  const left = new Set(rows.map((_, w) => w));
  const sum = total.slice();
  for (;;) {
    let best: { w: number; far: number } | undefined;
    for (const w of left) {
      tried += 1;
      const without = sum.map((value, s) => value - (rows[w]?.[s] as number));
      if (left.size === 1 || !keeps(without)) continue;
      const far = distance(without, left.size - 1);
      if (!best || far < best.far) best = { w, far };
    }
    yield { tried, of: (n * (n + 1)) / 2 };
    if (!best) break;
    left.delete(best.w);
    for (let s = 0; s < count; s += 1) sum[s] = (sum[s] as number) - (rows[best.w]?.[s] as number);
  }
  return {
    workloadIds: [...left].sort((a, b) => a - b).map((w) => workloadIds[w] as string),
    method: "greedy",
    largestChange: Math.expm1(distance(sum, left.size)),
    tried,
  };
}
