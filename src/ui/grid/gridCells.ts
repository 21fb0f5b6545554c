import { pixelsOf, resolutionLabel } from "@/core/bench";
import { aggregateCell, cellKey } from "@/core/cell";
import type { JudgedLimit } from "@/core/check";
import type { Matrix } from "@/core/compare";
import { figure, type ReviewModel, type ReviewSetup, type ReviewTest } from "@/core/report";
import type { Band } from "./VirtualGrid";

export type CellState = "complete" | "short" | "missing" | "failed" | "doubtful";

/** What the grid shows of one cell. */
export interface GridCell {
  setup: ReviewSetup;
  test: ReviewTest;
  mean: number | undefined;
  cv: number | undefined;
  /** Mean size of what came out, in bytes. */
  outputBytes: number | undefined;
  valid: number;
  lost: number;
  state: CellState;
  limit: JudgedLimit | undefined;
  /** The state in words, for screen readers and the title. */
  words: string;
}

/** What of a review's cells is asked for. */
export const CELL_KINDS = ["all", "work", "doubtful", "missing", "failed", "cpu", "gpu", "memory", "cap"] as const;
export type CellKind = (typeof CELL_KINDS)[number];

export const isOfKind = (cell: GridCell, kind: CellKind): boolean => {
  if (kind === "all") return true;
  if (kind === "work") return cell.state !== "complete";
  if (kind === "missing") return cell.state === "missing" || cell.state === "short";
  if (kind === "doubtful" || kind === "failed") return cell.state === kind;
  return cell.limit?.limit === kind;
};

/** All cells of a review's rows and tests, row by row. */
export function gridCells(model: ReviewModel, matrix: Matrix, setups: readonly ReviewSetup[], tests: readonly ReviewTest[]): GridCell[][] {
  const limits = new Map(model.limits.map((one) => [cellKey(one.setupId, one.testKey), one]));
  const doubtful = new Map<string, string>();
  for (const finding of model.findings) {
    if (finding.raised && finding.state === "open") doubtful.set(cellKey(finding.setupId, finding.testKey), finding.check);
  }
  return setups.map((setup) =>
    tests.map((test): GridCell => {
      const key = cellKey(setup.id, test.key);
      const cell = matrix.cells.get(key);
      const aggregate = cell && aggregateCell(cell.values);
      const runs = cell?.runs ?? [];
      const valid = cell?.values.length ?? 0;
      const failed = runs.some(({ status }) => status === "failed");
      const doubt = doubtful.get(key);
      const state: CellState = doubt
        ? "doubtful"
        : valid >= test.runsWanted
          ? "complete"
          : valid === 0 && failed
            ? "failed"
            : valid === 0
              ? "missing"
              : "short";
      const limit = limits.get(key);
      const sizes = (cell?.valid ?? []).flatMap(({ run }) => (run.outputBytes === null ? [] : [run.outputBytes]));
      const outputBytes = sizes.length > 0 ? sizes.reduce((sum, size) => sum + size, 0) / sizes.length : undefined;
      const words = [
        `${setup.label}, ${test.name}: ${aggregate ? `${figure(aggregate.mean, 1)} ${test.unit}` : "no value"}, ${valid} of ${test.runsWanted} runs`,
        doubt ? `, doubt: ${doubt}` : failed ? ", failed run" : "",
        outputBytes === undefined ? "" : `, output ${bytesText(outputBytes)}`,
        limit ? `; limit ${limit.limit}, ${limit.confidence}: ${limit.reasons.join(", ")}` : "",
      ].join("");
      return { setup, test, mean: aggregate?.mean, cv: aggregate?.cv, outputBytes, valid, lost: runs.length - valid, state, limit, words };
    }),
  );
}

/** A size in the unit that reads best: `1.4 GB`. */
export function bytesText(bytes: number): string {
  for (const [unit, size] of [
    ["GB", 1e9],
    ["MB", 1e6],
    ["kB", 1e3],
  ] as const)
    if (bytes >= size) return `${figure(bytes / size)} ${unit}`;
  return `${figure(bytes, 0)} B`;
}

export const GROUPINGS = ["game", "resolution", "group"] as const;
export type Grouping = (typeof GROUPINGS)[number];

/** The tests in the order of a grouping, with a band for each group; bands only where there is more than one group to tell apart. */
export function groupTests(tests: readonly ReviewTest[], by: Grouping): { tests: ReviewTest[]; bands: Band[] | undefined } {
  const inOrder = [...tests].sort((a, b) => a.position - b.position || pixelsOf(a.resolution) - pixelsOf(b.resolution));
  const nameOf = (test: ReviewTest) =>
    by === "group" ? test.group : by === "resolution" ? (test.resolution ? resolutionLabel(test.resolution) : "no resolution") : test.workloadName;
  const order = [...new Set((by === "resolution" ? [...inOrder].sort((a, b) => pixelsOf(a.resolution) - pixelsOf(b.resolution)) : inOrder).map(nameOf))];
  const sorted = order.flatMap((name) => inOrder.filter((test) => nameOf(test) === name));
  const bands: Band[] = [];
  for (const [i, test] of sorted.entries()) {
    const last = bands.at(-1);
    if (last?.name === nameOf(test)) last.count += 1;
    else bands.push({ name: nameOf(test), from: i, count: 1 });
  }
  const useful = bands.length > 1 && bands.length < sorted.length;
  return { tests: sorted, bands: useful ? bands : undefined };
}

/** The order of rows by a column, largest or smallest first; rows without a value stand last. */
export function sortRows(setups: readonly ReviewSetup[], cells: readonly GridCell[][], sort: string | null): { setups: ReviewSetup[]; cells: GridCell[][] } {
  const pairs = setups.map((setup, i) => ({ setup, line: cells[i] as GridCell[] }));
  const [key, direction] = [sort?.slice(0, sort.lastIndexOf(":")), sort?.endsWith(":up") ? 1 : -1];
  if (!sort || !key) return { setups: [...setups], cells: [...cells] };
  const valueOf = (line: GridCell[]): number | undefined => {
    if (key === "runs") return line.reduce((sum, { valid, test }) => sum + Math.min(valid, test.runsWanted), 0);
    return line.find(({ test }) => test.key === key)?.mean;
  };
  pairs.sort((a, b) => {
    const [x, y] = [valueOf(a.line), valueOf(b.line)];
    if (x === undefined || y === undefined) return Number(x === undefined) - Number(y === undefined);
    return direction * (x - y) || a.setup.position - b.setup.position;
  });
  return { setups: pairs.map(({ setup }) => setup), cells: pairs.map(({ line }) => line) };
}
