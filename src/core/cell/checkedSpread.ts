import { fCritical } from "@/core/stats";
import { type CellRuns, fitVariancePrior, logScatter, moderateVariance, type VariancePrior } from "./repeatability";

/** The variance against which one cell is judged: its test's without the cell itself, drawn towards the group's. */
export interface Yardstick {
  s2: number;
  df: number;
}

/** A cell's runs with its key, as the checks take them. */
export interface KeyedCellRuns extends CellRuns {
  key: string;
}

interface Sums {
  ss: number;
  df: number;
}

const addTo = (map: Map<string, Sums>, key: string, { ss, df }: Sums) => {
  const into = map.get(key) ?? { ss: 0, df: 0 };
  map.set(key, { ss: into.ss + ss, df: into.df + df });
};

const sumsByTest = (cells: readonly KeyedCellRuns[]) => {
  const sums = new Map<string, Sums>();
  for (const cell of cells) addTo(sums, cell.testKey, logScatter(cell.values));
  return sums;
};

/** The prior of each group, from the variances of its tests. */
function priorsOf(cells: readonly KeyedCellRuns[]): Map<string, VariancePrior> {
  const groupOf = new Map(cells.map((cell) => [cell.testKey, cell.group]));
  const variances = new Map<string, { s2: number; df: number }[]>();
  for (const [testKey, { ss, df }] of sumsByTest(cells)) {
    if (df === 0) continue;
    const group = groupOf.get(testKey) as string;
    variances.set(group, [...(variances.get(group) ?? []), { s2: ss / df, df }]);
  }
  const priors = new Map<string, VariancePrior>();
  for (const [group, list] of variances) {
    const prior = fitVariancePrior(list);
    if (prior) priors.set(group, prior);
  }
  return priors;
}

/**
 * Makes the yardstick of every cell. With few setups a test's own s_t is too loose a basis for doubt, so it is moderated
 * towards its group's; the doubted cell itself never counts towards its own yardstick. The prior is fitted twice: cells
 * that fail grossly against the first fit are left out of the second, or one wild cell would excuse all others.
 *
 * Errors: a cell whose group has no other repeated cell has no yardstick (absent from the map).
 * Source: Smyth 2004 (empirical Bayes moderation).
 */
export function yardsticks(cells: readonly KeyedCellRuns[], alpha: number): Map<string, Yardstick> {
  const judge = (priors: Map<string, VariancePrior>, pooled: readonly KeyedCellRuns[]) => {
    const sums = sumsByTest(pooled);
    const counted = new Set(pooled.map((cell) => cell.key));
    const result = new Map<string, Yardstick>();
    for (const cell of cells) {
      const all = sums.get(cell.testKey) ?? { ss: 0, df: 0 };
      const own = counted.has(cell.key) ? logScatter(cell.values) : { ss: 0, df: 0 };
      const others = { ss: Math.max(0, all.ss - own.ss), df: all.df - own.df };
      const prior = priors.get(cell.group);
      if (prior) result.set(cell.key, moderateVariance(others, prior));
      else if (others.df > 0) result.set(cell.key, { s2: others.ss / others.df, df: others.df });
    }
    return result;
  };
  const first = judge(priorsOf(cells), cells);
  const kept = cells.filter((cell) => {
    const yardstick = first.get(cell.key);
    return !yardstick || !scatterFails(cell.values, yardstick, alpha);
  });
  return judge(priorsOf(kept), kept);
}

/** Whether a cell's scatter is beyond F at α against its yardstick. */
export function scatterFails(values: readonly number[], yardstick: Yardstick, alpha: number): boolean {
  const { ss, df } = logScatter(values);
  if (df === 0 || yardstick.s2 <= 0) return false;
  return ss / df / yardstick.s2 > fCritical(alpha, df, yardstick.df);
}

/** The largest SD (log scale) a cell of n runs may show before its scatter is doubted. */
export function scatterLimit(runs: number, yardstick: Yardstick, alpha: number): number {
  return Math.sqrt(yardstick.s2 * fCritical(alpha, runs - 1, yardstick.df));
}
