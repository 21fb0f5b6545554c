import { fail, ok, type Result } from "@/core/result";
import { t95 } from "@/core/stats";

/** A known cell of a sparse matrix: the log of its value, turned so that more is better. */
export interface KnownCell {
  row: string;
  column: string;
  log: number;
}

/** Why a sparse matrix gives no index. */
export type FitProblem =
  | { kind: "not-joined"; groups: string[][] }
  | { kind: "too-sparse"; row: string; missing: number; of: number }
  | { kind: "no-residual"; observations: number };

/** One row of the fit. */
export interface FittedRow {
  row: string;
  /** ln of the row against the baseline. */
  log: number;
  seLog: number;
  low: number;
  high: number;
  /** Cells of this row that were filled in by the fit. */
  filled: number;
}

/** A two-way fit: rows against the baseline, and what every missing cell would be. */
export interface TwoWayFit {
  rows: FittedRow[];
  observations: number;
  residualDf: number;
  residualSd: number;
  rss: number;
  /** Share of all cells that was filled in. */
  filledShare: number;
  /** The fitted log of any cell. */
  logAt: (row: string, column: string) => number;
}

/** No row may lack more than this share of the columns (the product's rule). */
export const MOST_MISSING = 0.3;

/** Groups of rows that are joined by common columns, directly or through others. */
function joinedGroups(rows: readonly string[], cells: readonly KnownCell[]): string[][] {
  const groupOf = new Map(rows.map((row) => [row, row]));
  const root = (row: string): string => {
    let at = row;
    while (groupOf.get(at) !== at) at = groupOf.get(at) as string;
    return at;
  };
  const firstIn = new Map<string, string>();
  for (const { row, column } of cells) {
    const other = firstIn.get(column);
    if (other === undefined) firstIn.set(column, row);
    else groupOf.set(root(row), root(other));
  }
  const groups = new Map<string, string[]>();
  for (const row of rows) groups.set(root(row), [...(groups.get(root(row)) ?? []), row]);
  return [...groups.values()];
}

/** The inverse of a symmetric positive definite matrix, by Gauss-Jordan with pivots; RangeError where it is singular. */
function inverse(matrix: readonly (readonly number[])[]): number[][] {
  const n = matrix.length;
  const work = matrix.map((line, i) => [...line, ...Array.from({ length: n }, (_, j) => (i === j ? 1 : 0))]);
  for (let k = 0; k < n; k += 1) {
    let pivot = k;
    for (let i = k + 1; i < n; i += 1) if (Math.abs(work[i]?.[k] as number) > Math.abs(work[pivot]?.[k] as number)) pivot = i;
    const line = work[pivot] as number[];
    if (Math.abs(line[k] as number) < 1e-12) throw new RangeError("the equations of the fit are singular");
    [work[k], work[pivot]] = [line, work[k] as number[]];
    const scale = line[k] as number;
    for (let j = 0; j < 2 * n; j += 1) line[j] = (line[j] as number) / scale;
    for (let i = 0; i < n; i += 1) {
      if (i === k) continue;
      const other = work[i] as number[];
      const factor = other[k] as number;
      if (factor !== 0) for (let j = 0; j < 2 * n; j += 1) other[j] = (other[j] as number) - factor * (line[j] as number);
    }
  }
  return work.map((line) => line.slice(n));
}

/**
 * Fits log y = row + column by least squares over the cells that are there, and gives each row against the baseline. Its
 * interval rests on the residuals: it reflects how parts differ from workload to workload, not run noise.
 *
 * Shapes: any cells of `rows` × columns, each at most once. Units: natural logs; low and high are ratios.
 * Errors: `not-joined` where rows share no column, even through others; `too-sparse` where a row lacks more than `mostMissing`
 *   of the columns; `no-residual` where nothing is left to judge the fit by.
 * Source: two-way additive least squares with missing cells (textbook analysis of variance); columns are eliminated first.
 */
export function fitTwoWay(
  rows: readonly string[],
  cells: readonly KnownCell[],
  options: { baseline: string; mostMissing?: number },
): Result<TwoWayFit, FitProblem> {
  const columns = [...new Set(cells.map(({ column }) => column))];
  const groups = joinedGroups(rows, cells);
  if (groups.length > 1) return fail({ kind: "not-joined", groups });
  const mostMissing = options.mostMissing ?? MOST_MISSING;
  const rowAt = new Map(rows.map((row, i) => [row, i]));
  const columnAt = new Map(columns.map((column, j) => [column, j]));
  const perRow = new Int32Array(rows.length);
  for (const { row } of cells) perRow[rowAt.get(row) as number] = (perRow[rowAt.get(row) as number] as number) + 1;
  for (const [i, row] of rows.entries()) {
    const missing = columns.length - (perRow[i] as number);
    if (missing > mostMissing * columns.length + 1e-9) return fail({ kind: "too-sparse", row, missing, of: columns.length });
  }
  const residualDf = cells.length - (rows.length + columns.length - 1);
  if (residualDf < 1) return fail({ kind: "no-residual", observations: cells.length });

  const base = rowAt.get(options.baseline);
  if (base === undefined) throw new RangeError(`the baseline ${options.baseline} is not among the rows`);
  // Column effects are eliminated: what is left are as many equations as there are rows beside the baseline.
  const byColumn: { i: number; log: number }[][] = columns.map(() => []);
  for (const { row, column, log } of cells) byColumn[columnAt.get(column) as number]?.push({ i: rowAt.get(row) as number, log });
  const free = rows.map((_, i) => i).filter((i) => i !== base);
  const place = new Map(free.map((i, k) => [i, k]));
  const normal = free.map(() => new Array<number>(free.length).fill(0));
  const right = new Array<number>(free.length).fill(0);
  for (const members of byColumn) {
    const share = 1 / members.length;
    const mean = members.reduce((sum, { log }) => sum + log, 0) * share;
    for (const a of members) {
      const ka = place.get(a.i);
      if (ka === undefined) continue;
      right[ka] = (right[ka] as number) + a.log - mean;
      for (const b of members) {
        const kb = place.get(b.i);
        if (kb === undefined) continue;
        const line = normal[ka] as number[];
        line[kb] = (line[kb] as number) + (a === b ? 1 : 0) - share;
      }
    }
  }
  const covariance = inverse(normal);
  const effect = new Float64Array(rows.length);
  for (const [k, i] of free.entries()) effect[i] = (covariance[k] as number[]).reduce((sum, value, j) => sum + value * (right[j] as number), 0);
  const columnEffect = byColumn.map((members) => members.reduce((sum, { i, log }) => sum + log - (effect[i] as number), 0) / members.length);
  let rss = 0;
  for (const { row, column, log } of cells)
    rss += (log - (effect[rowAt.get(row) as number] as number) - (columnEffect[columnAt.get(column) as number] as number)) ** 2;
  const residualSd = Math.sqrt(rss / residualDf);
  const t = t95(residualDf);
  return ok({
    rows: rows.map((row, i): FittedRow => {
      const k = place.get(i);
      const seLog = k === undefined ? 0 : residualSd * Math.sqrt(covariance[k]?.[k] as number);
      const log = effect[i] as number;
      return { row, log, seLog, low: Math.exp(log - t * seLog), high: Math.exp(log + t * seLog), filled: columns.length - (perRow[i] as number) };
    }),
    observations: cells.length,
    residualDf,
    residualSd,
    rss,
    filledShare: 1 - cells.length / (rows.length * columns.length),
    logAt: (row, column) => (effect[rowAt.get(row) as number] as number) + (columnEffect[columnAt.get(column) as number] as number),
  });
}
