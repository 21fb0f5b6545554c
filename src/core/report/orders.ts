import { cellKey, type LabTest, orientation, type RunSummary } from "@/core/cell";
import {
  arithmeticMeans,
  type FitProblem,
  fitTwoWay,
  type KnownCell,
  type Matrix,
  type Ordering,
  type RankSpread,
  rankSpreads,
  ranksOf,
  type TwoWayFit,
} from "@/core/compare";
import type { Result } from "@/core/result";
import { mean } from "@/core/stats";
import { type ComparisonChoice, matrixOf, rankReview, resolutionsOf, testsAsked } from "./comparison";
import { SCHOOL_WORDS } from "./duel";
import type { ReviewModel } from "./reviewModel";

const ranksIn = (name: string, rows: readonly { setupId: string; index: number }[]): Ordering[] =>
  rows.length === 0 ? [] : [{ name, ranks: ranksOf(new Map(rows.map(({ setupId, index }) => [setupId, index]))) }];

/**
 * The order of the rows under every way of counting that a reader might ask for: as published, other schools of lows, medians of
 * runs, arithmetic means, single resolutions, and without each workload. The first is the published one.
 */
export function orderingsOf(model: ReviewModel, choice: ComparisonChoice): Ordering[] {
  const result = matrixOf(model, "result", model.lowSchool);
  const published = rankReview(model, result, choice);
  const own: Ordering[] = ranksIn("as published: geometric mean of averages", published.rows);
  if (published.rows.length === 0) return [];
  const asked = testsAsked(model, choice);
  for (const school of ["percentile", "tail_mean", "time_share"] as const)
    own.push(...ranksIn(`1 % low by ${SCHOOL_WORDS[school]}`, rankReview(model, matrixOf(model, "low1", school), choice).rows));
  own.push(...ranksIn("medians of the runs", rankReview(model, result, { ...choice, aggregate: "median" }).rows));
  const arithmetic = arithmeticMeans(
    result,
    published.rows.map(({ setupId }) => setupId),
    result.tests.filter((test) => published.testKeys.includes(test.key)),
  );
  if (arithmetic) own.push({ name: `arithmetic mean of ${arithmetic.unit}`, ranks: ranksOf(arithmetic.means) });
  if (!choice.resolution)
    for (const resolution of resolutionsOf(model))
      if (result.tests.some((test) => asked(test) && test.resolution === resolution))
        own.push(...ranksIn(`at ${resolution.replace("x", " × ")} only`, rankReview(model, result, { ...choice, resolution }).rows));
  const workloads = new Map(result.tests.filter((test) => published.testKeys.includes(test.key)).map((test) => [test.workloadId, test.workloadName]));
  if (workloads.size > 2)
    for (const [workloadId, name] of workloads) {
      const without = rankReview(model, result, { ...choice, asked: (test) => (choice.asked?.(test) ?? true) && test.workloadId !== workloadId });
      own.push(...ranksIn(`without ${name}`, without.rows));
    }
  return own;
}

/** How far each row's rank depends on how one counts. */
export function robustnessOf(model: ReviewModel, choice: ComparisonChoice): { orderings: Ordering[]; spreads: RankSpread[] } {
  const orderings = orderingsOf(model, choice);
  return { orderings, spreads: rankSpreads(orderings) };
}

/** The known cells of a matrix as the two-way fit takes them. */
export function knownCells(matrix: Matrix, setupIds: readonly string[], tests: readonly LabTest[]): KnownCell[] {
  return setupIds.flatMap((row) =>
    tests.flatMap((test): KnownCell[] => {
      const values = matrix.cells.get(cellKey(row, test.key))?.values ?? [];
      const better = matrix.metric === "result" ? test.better : "higher";
      return values.length === 0 ? [] : [{ row, column: test.key, log: orientation(better) * Math.log(mean(values)) }];
    }),
  );
}

/** The two-way fit of a review over all tests asked for, those that some rows lack included. */
export function sparseIndex(model: ReviewModel, matrix: Matrix, choice: ComparisonChoice): Result<TwoWayFit, FitProblem> {
  const asked = testsAsked(model, choice);
  const tests = matrix.tests.filter(asked);
  const rows = model.setups.map(({ id }) => id).filter((id) => tests.some((test) => (matrix.cells.get(cellKey(id, test.key))?.values.length ?? 0) > 0));
  return fitTwoWay(rows, knownCells(matrix, rows, tests), { baseline: choice.baselineId });
}

/** What a failed test would have cost its row. */
export interface FailureCost {
  setupId: string;
  testKeys: string[];
  /** The row's index as it stands, on the tests that all have. */
  index: number;
  /** The index if each failed test counted like the slowest row that finished it. */
  asSlowest: number;
}

/**
 * What failed runs would have cost: a row with no valid run of a test counts there like the slowest row that has one. The index
 * itself leaves such tests out for all rows.
 */
export function failureCosts(model: ReviewModel, matrix: Matrix, choice: ComparisonChoice): FailureCost[] {
  const ranking = rankReview(model, matrix, choice);
  const failed = new Map<string, string[]>();
  const statusOf = new Map<string, RunSummary[]>();
  for (const run of model.runs) {
    const key = cellKey(run.setupId, run.testKey);
    statusOf.set(key, [...(statusOf.get(key) ?? []), run]);
  }
  for (const { testKey, missing } of ranking.leftOut)
    for (const setupId of missing)
      if (statusOf.get(cellKey(setupId, testKey))?.some(({ status }) => status === "failed")) failed.set(setupId, [...(failed.get(setupId) ?? []), testKey]);
  return [...failed].flatMap(([setupId, testKeys]): FailureCost[] => {
    const row = ranking.rows.find((one) => one.setupId === setupId);
    if (!row || setupId === choice.baselineId) return [];
    // Runs as slow as the slowest row's stand in for the failed ones; then the index is taken anew.
    const stand = testKeys.flatMap((testKey) => {
      const test = matrix.tests.find(({ key }) => key === testKey);
      const others = model.setups.flatMap(({ id }) => {
        const values = matrix.cells.get(cellKey(id, testKey))?.values ?? [];
        return test && values.length > 0 ? [{ id, value: mean(values), sign: orientation(test.better) }] : [];
      });
      const [slowest] = others.sort((a, b) => a.sign * a.value - b.sign * b.value);
      return slowest
        ? (statusOf.get(cellKey(slowest.id, testKey)) ?? [])
            .filter(({ status }) => status === "valid")
            .map((run) => ({ ...run, id: `${run.id} for ${setupId}`, setupId }))
        : [];
    });
    const then = { ...model, runs: [...model.runs, ...stand] };
    const counted = rankReview(then, matrixOf(then, matrix.metric, model.lowSchool), choice).rows.find((one) => one.setupId === setupId);
    return counted ? [{ setupId, testKeys, index: row.index, asSlowest: counted.index }] : [];
  });
}
