import { cellKey, type LabTest } from "@/core/cell";
import { mean } from "@/core/stats";
import type { Matrix } from "./matrix";

/** One way of ranking the rows, in words, and what it gives. */
export interface Ordering {
  name: string;
  /** Ranks by row, 1 = first; rows level to the last digit share a rank. */
  ranks: Map<string, number>;
}

/** The ranks of rows by a value, larger first. */
export function ranksOf(values: ReadonlyMap<string, number>): Map<string, number> {
  const sorted = [...values.values()].sort((a, b) => b - a);
  return new Map([...values].map(([setupId, value]) => [setupId, sorted.indexOf(value) + 1]));
}

/** How far the rank of a row depends on how one counts. */
export interface RankSpread {
  setupId: string;
  best: number;
  worst: number;
  /** The orderings in which it has another rank than in the first. */
  otherwise: string[];
}

/** The ranks that each row takes over several orderings; the first is the one that is published. */
export function rankSpreads(orderings: readonly Ordering[]): RankSpread[] {
  const [first] = orderings;
  if (!first) return [];
  return [...first.ranks].map(([setupId, rank]) => {
    const all = orderings.flatMap(({ ranks }) => ranks.get(setupId) ?? []);
    return {
      setupId,
      best: Math.min(...all),
      worst: Math.max(...all),
      otherwise: orderings.filter(({ ranks }) => (ranks.get(setupId) ?? rank) !== rank).map(({ name }) => name),
    };
  });
}

/**
 * The arithmetic mean of a row's rates over tests of one unit, as many publish it, against the baseline's. Large rates count
 * most in it, so that it is an alternative with its own name and never the index.
 *
 * Errors: undefined where the tests have more than one unit, or a row lacks one of them.
 */
export function arithmeticMeans(
  matrix: Matrix,
  setupIds: readonly string[],
  tests: readonly LabTest[],
): { unit: string; means: Map<string, number> } | undefined {
  const units = new Set(tests.map(({ unit }) => (matrix.metric === "result" ? unit : matrix.metric)));
  const [unit] = units;
  if (units.size !== 1 || unit === undefined || tests.some(({ better }) => matrix.metric === "result" && better !== "higher")) return undefined;
  const means = new Map<string, number>();
  for (const setupId of setupIds) {
    const values = tests.map((test) => matrix.cells.get(cellKey(setupId, test.key))?.values ?? []);
    if (values.some((one) => one.length === 0)) return undefined;
    means.set(setupId, mean(values.map(mean)));
  }
  return { unit, means };
}
