import { t95 } from "@/core/stats";

/** A measured cell of a processor with a card, with what limited it. */
export interface MeasuredPair {
  cpuId: string;
  gpuId: string;
  /** Workload and preset: rates of different ones are never mixed. */
  family: string;
  resolution: string | null;
  limit: "cpu" | "gpu" | "other";
  fps: number;
  /** Standard error of ln fps; undefined where no spread is known. */
  seLog: number | undefined;
}

/** A rate of one part, or the least it is known to be. */
interface PartRate {
  fps: number;
  seLog: number | undefined;
  /** Known only under another limit: the part may do more. */
  atLeast: boolean;
}

/** What a pair is predicted to give; never a measurement. */
export interface PairPrediction {
  family: string;
  resolution: string | null;
  fps: number;
  /** 95 % interval; undefined where nothing is known to judge the prediction by. */
  low: number | undefined;
  high: number | undefined;
  /** The rate is a lower bound: the part that decides it was never seen at its own limit. */
  atLeast: boolean;
  /** Which part decides it. */
  limitedBy: "cpu" | "gpu" | "both";
  cpuFps: number;
  gpuFps: number;
  /** The measured rate, where the pair was measured: the prediction was made without it. */
  measuredFps: number | undefined;
}

/** How predictions of a lab's pairs are made, and how well they did on pairs that were measured. */
export interface PairModel {
  /** Exponent of the softened minimum; Infinity where fewer than four pairs could be checked. */
  sharpness: number;
  /** SD of the leave-one-out residuals on logs, with their number; undefined below four. */
  residual: { sd: number; n: number; bias: number } | undefined;
}

const LEAST_PAIRS = 4;

/** The lower of two rates, softened: (c^−k + g^−k)^(−1/k); the plain minimum for k = Infinity. */
export function softMinimum(c: number, g: number, sharpness: number): number {
  if (sharpness === Number.POSITIVE_INFINITY) return Math.min(c, g);
  const [low, high] = c < g ? [c, g] : [g, c];
  return low * (1 + (low / high) ** sharpness) ** (-1 / sharpness);
}

const meanRate = (cells: readonly MeasuredPair[], atLeast: boolean): PartRate => {
  const log = cells.reduce((sum, { fps }) => sum + Math.log(fps), 0) / cells.length;
  const known = cells.every(({ seLog }) => seLog !== undefined);
  const variance = cells.reduce((sum, { seLog }) => sum + (seLog ?? 0) ** 2, 0) / cells.length ** 2;
  return { fps: Math.exp(log), seLog: known ? Math.sqrt(variance) : undefined, atLeast };
};

/** The processor's own rate in a family: where it was the limit, else the most it was ever seen to feed. */
function cpuRate(cells: readonly MeasuredPair[], cpuId: string, family: string): PartRate | undefined {
  const own = cells.filter((cell) => cell.cpuId === cpuId && cell.family === family);
  const limited = own.filter(({ limit }) => limit === "cpu");
  if (limited.length > 0) return meanRate(limited, false);
  const most = own.reduce<MeasuredPair | undefined>((best, cell) => (!best || cell.fps > best.fps ? cell : best), undefined);
  return most && { fps: most.fps, seLog: most.seLog, atLeast: true };
}

/** The card's own rate in a family at a resolution: where it was the limit, else the most it was seen to give there. */
function gpuRate(cells: readonly MeasuredPair[], gpuId: string, family: string, resolution: string | null): PartRate | undefined {
  const own = cells.filter((cell) => cell.gpuId === gpuId && cell.family === family && cell.resolution === resolution);
  const limited = own.filter(({ limit }) => limit === "gpu");
  if (limited.length > 0) return meanRate(limited, false);
  const most = own.reduce<MeasuredPair | undefined>((best, cell) => (!best || cell.fps > best.fps ? cell : best), undefined);
  return most && { fps: most.fps, seLog: most.seLog, atLeast: true };
}

/** Measured cells that can be predicted without themselves: both parts are known at their own limits from other cells. */
function checkable(cells: readonly MeasuredPair[]): { cell: MeasuredPair; cpu: PartRate; gpu: PartRate }[] {
  const groups = new Map<string, MeasuredPair[]>();
  for (const cell of cells) groups.set(cell.family, [...(groups.get(cell.family) ?? []), cell]);
  return [...groups.values()].flatMap((group) =>
    group.flatMap((cell) => {
      const others = group.filter(
        (other) => other !== cell && !(other.cpuId === cell.cpuId && other.gpuId === cell.gpuId && other.resolution === cell.resolution),
      );
      const cpu = cpuRate(others, cell.cpuId, cell.family);
      const gpu = gpuRate(others, cell.gpuId, cell.family, cell.resolution);
      return cpu && gpu && !cpu.atLeast && !gpu.atLeast ? [{ cell, cpu, gpu }] : [];
    }),
  );
}

/**
 * Fits how sharply the lower limit decides to the pairs of a lab that were measured, each predicted without itself.
 *
 * Errors: none; below four checkable pairs the plain minimum is used and nothing is known of its error.
 * Source: the product's definition of pairs never tested together; least squares on logs by golden section.
 */
export function fitPairs(cells: readonly MeasuredPair[]): PairModel {
  const checks = checkable(cells);
  if (checks.length < LEAST_PAIRS) return { sharpness: Number.POSITIVE_INFINITY, residual: undefined };
  const residuals = (k: number) => checks.map(({ cell, cpu, gpu }) => Math.log(cell.fps / softMinimum(cpu.fps, gpu.fps, k)));
  const cost = (k: number) => residuals(k).reduce((sum, r) => sum + r * r, 0);
  const golden = (Math.sqrt(5) - 1) / 2;
  let [low, high] = [2, 60];
  let [a, b] = [high - golden * (high - low), low + golden * (high - low)];
  let [fa, fb] = [cost(a), cost(b)];
  for (let i = 0; i < 60; i += 1) {
    if (fa < fb) {
      [high, b, fb] = [b, a, fa];
      a = high - golden * (high - low);
      fa = cost(a);
    } else {
      [low, a, fa] = [a, b, fb];
      b = low + golden * (high - low);
      fb = cost(b);
    }
  }
  const sharpness = (low + high) / 2;
  const at = residuals(sharpness);
  const n = at.length;
  const bias = at.reduce((sum, r) => sum + r, 0) / n;
  // About zero, not about their mean: a bias is an error of the prediction too. One is spent on the exponent.
  const sd = Math.sqrt(at.reduce((sum, r) => sum + r * r, 0) / (n - 1));
  return { sharpness, residual: { sd, n, bias } };
}

/**
 * Predicts the rate of a processor with a card in a family at a resolution from what limited each of them alone, without any
 * measurement of the pair itself. The interval joins the repeatability of both with the leave-one-out residual of the lab.
 *
 * Errors: undefined where either part has no cell in the family (for the card: at that resolution).
 * Source: the product's definition of pairs never tested together.
 */
export function predictPair(
  cells: readonly MeasuredPair[],
  model: PairModel,
  pair: { cpuId: string; gpuId: string; family: string; resolution: string | null },
): PairPrediction | undefined {
  const isPair = (cell: MeasuredPair) =>
    cell.cpuId === pair.cpuId && cell.gpuId === pair.gpuId && cell.family === pair.family && cell.resolution === pair.resolution;
  const others = cells.filter((cell) => !isPair(cell));
  const measured = cells.filter(isPair);
  const cpu = cpuRate(others, pair.cpuId, pair.family);
  const gpu = gpuRate(others, pair.gpuId, pair.family, pair.resolution);
  if (!cpu || !gpu) return undefined;
  const { sharpness, residual } = model;
  const fps = softMinimum(cpu.fps, gpu.fps, sharpness);
  // What a change of one rate moves the prediction by: 1 for the part that decides it, 0 for the other.
  const share = sharpness === Number.POSITIVE_INFINITY ? (cpu.fps < gpu.fps ? 1 : 0) : 1 / (1 + (cpu.fps / gpu.fps) ** sharpness);
  const decisive = (part: PartRate, weight: number) => part.atLeast && weight > 0.1;
  const known = residual !== undefined && (cpu.seLog !== undefined || share < 0.01) && (gpu.seLog !== undefined || share > 0.99);
  const se = known ? Math.sqrt((share * (cpu.seLog ?? 0)) ** 2 + ((1 - share) * (gpu.seLog ?? 0)) ** 2 + residual.sd ** 2) : undefined;
  const half = se === undefined ? undefined : t95((residual as { n: number }).n - 1) * se;
  return {
    family: pair.family,
    resolution: pair.resolution,
    fps,
    low: half === undefined ? undefined : fps * Math.exp(-half),
    high: half === undefined ? undefined : fps * Math.exp(half),
    atLeast: decisive(cpu, share) || decisive(gpu, 1 - share),
    limitedBy: share > 0.75 ? "cpu" : share < 0.25 ? "gpu" : "both",
    cpuFps: cpu.fps,
    gpuFps: gpu.fps,
    measuredFps: measured.length > 0 ? Math.exp(measured.reduce((sum, cell) => sum + Math.log(cell.fps), 0) / measured.length) : undefined,
  };
}

/** How much of a card's own rate a processor lets through, over the families that both are known in. */
export interface EnoughCpu {
  cpuId: string;
  /** Geometric mean over families of predicted rate ÷ the card's own rate; 1 where the processor costs nothing. */
  share: number;
  families: number;
  atLeast: boolean;
}

/** Which processors are enough for a card at a resolution: the most that passes first. Errors: empty where nothing is known. */
export function cpusForGpu(cells: readonly MeasuredPair[], model: PairModel, gpuId: string, resolution: string | null): EnoughCpu[] {
  const cpuIds = [...new Set(cells.map(({ cpuId }) => cpuId))].sort();
  const families = [...new Set(cells.filter((cell) => cell.gpuId === gpuId && cell.resolution === resolution).map(({ family }) => family))];
  const found = cpuIds.flatMap((cpuId): EnoughCpu[] => {
    const predictions = families.flatMap((family) => predictPair(cells, model, { cpuId, gpuId, family, resolution }) ?? []);
    if (predictions.length === 0) return [];
    const log = predictions.reduce((sum, { fps, gpuFps }) => sum + Math.log(fps / gpuFps), 0) / predictions.length;
    return [{ cpuId, share: Math.exp(log), families: predictions.length, atLeast: predictions.some(({ atLeast }) => atLeast) }];
  });
  return found.sort((a, b) => b.share - a.share || (a.cpuId < b.cpuId ? -1 : 1));
}
