import {
  type Cell,
  cellsOf,
  type LabTest,
  type Metric,
  type MetricChoice,
  poolRepeatability,
  type Repeatability,
  type RunSummary,
  scatterFails,
  yardsticks,
} from "@/core/cell";

/** A cell whose scatter fails at this α uses its own SD in intervals. */
const OWN_SCATTER_ALPHA = 0.001;

/** The cells of a comparison under one metric, with what is known of each test's spread. */
export interface Matrix {
  metric: Metric;
  tests: LabTest[];
  cells: Map<string, Cell>;
  repeatability: Map<string, Repeatability>;
  /** Keys of cells whose scatter failed the check: they are judged by their own SD. */
  ownScatter: Set<string>;
}

/**
 * Sorts a lab's runs into the matrix of a metric and pools the repeatability of each test over all cells of the lab.
 *
 * Tests of which less is not more nor more is more (`better: none`), temperatures and levels never enter an index.
 */
export function buildMatrix(tests: readonly LabTest[], labRuns: readonly RunSummary[], choice: MetricChoice): Matrix {
  const indexed = tests.filter((test) => test.better !== "none" && !["°C", "K", "dBA"].includes(test.unit));
  const testOf = new Map(indexed.map((test) => [test.key, test]));
  const cells = cellsOf(
    labRuns.filter((run) => testOf.has(run.testKey)),
    choice,
  );
  const groups = [...cells.values()].map((cell) => ({
    key: cell.key,
    testKey: cell.testKey,
    group: (testOf.get(cell.testKey) as LabTest).group,
    values: cell.values,
  }));
  const yardstickOf = yardsticks(groups, OWN_SCATTER_ALPHA);
  const ownScatter = new Set(
    groups.flatMap(({ key, values }) => {
      const yardstick = yardstickOf.get(key);
      return yardstick && scatterFails(values, yardstick, OWN_SCATTER_ALPHA) ? [key] : [];
    }),
  );
  return { metric: choice.metric, tests: indexed, cells, repeatability: poolRepeatability(groups), ownScatter };
}
