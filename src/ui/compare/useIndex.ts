"use client";

import { useMemo } from "react";
import type { Metric } from "@/core/cell";
import {
  type Aggregate,
  compileIndex,
  type IndexRow,
  type IndexTable,
  type Matrix,
  type Ranking,
  ratiosToBaseline,
  sharedTests,
  testWeights,
  weighIndex,
} from "@/core/compare";
import { foreignLimits, setupsWithRuns, testsAsked } from "@/core/report";
import { cachedMatrix, useReview, useReviewState } from "../review/ReviewContext";

/** Everything of an index that stays the same whatever the weights: compiled once, weighed on every move of a slider. */
export interface Compiled {
  matrix: Matrix;
  table: IndexTable | undefined;
  ratios: Map<string, IndexRow["ratios"]>;
  leftOut: Ranking["leftOut"];
  /** Tests that were left out because something else than the part under test was the limit. */
  foreign: string[];
}

/** Compiles the index of the address's group, resolution and baseline under a metric. */
export function useCompiled(metric: Metric, options: { onlyOwnLimit: boolean; aggregate: Aggregate }): Compiled {
  const { model } = useReview();
  const { baseline, resolution, school, group } = useReviewState();
  const { onlyOwnLimit, aggregate } = options;
  return useMemo(() => {
    const matrix = cachedMatrix(model, metric, school);
    const foreign = onlyOwnLimit ? foreignLimits(model) : new Map<string, string[]>();
    const asked = testsAsked(model, { resolution, group });
    const left = matrix.tests.filter((test) => asked(test) && foreign.has(test.key)).map(({ key }) => key);
    const run = setupsWithRuns(model, matrix, asked);
    const setupIds = run.includes(baseline) ? run : model.setups.map(({ id }) => id);
    const { tests, leftOut } = sharedTests(matrix, setupIds, (test) => asked(test) && !foreign.has(test.key));
    if (tests.length === 0 || !setupIds.includes(baseline)) return { matrix, table: undefined, ratios: new Map(), leftOut, foreign: left };
    return {
      matrix,
      table: compileIndex(matrix, setupIds, tests, aggregate),
      ratios: ratiosToBaseline(matrix, setupIds, tests, baseline, model.margin),
      leftOut,
      foreign: left,
    };
  }, [model, metric, school, resolution, group, baseline, onlyOwnLimit, aggregate]);
}

/** Weighs a compiled index: cheap enough for every move of a slider. */
export function useWeighed({ table, ratios, leftOut }: Compiled, weights: ReadonlyMap<string, number>): Ranking {
  const { model } = useReview();
  const { baseline } = useReviewState();
  return useMemo(() => {
    if (!table) return { rows: [], testKeys: [], workloads: 0, leftOut };
    const rows = weighIndex(table, testWeights(table.tests, weights), baseline, model.margin).map((row) => ({ ...row, ratios: ratios.get(row.setupId) ?? [] }));
    const counted = new Set(table.tests.flatMap(({ workloadId }) => ((weights.get(workloadId) ?? 1) > 0 ? [workloadId] : [])));
    return { rows, testKeys: table.tests.map(({ key }) => key), workloads: counted.size, leftOut };
  }, [table, ratios, leftOut, weights, baseline, model.margin]);
}
