import { pixelsOf } from "@/core/bench";

/** What held a cell's rate: the product's words. */
export type Limit = "cpu" | "gpu" | "memory" | "cap" | "mixed" | "not known";

/** A cell as its limit is judged: rates of one workload at one preset, over resolutions and setups. */
export interface LimitCell {
  setupId: string;
  /** The parts that could be the limit; the same id is the same part. */
  cpuId: string | null;
  gpuId: string | null;
  testKey: string;
  /** Cells of one family differ in setup and resolution only. */
  family: string;
  resolution: string | null;
  fps: number;
  /** Low over average, where known. */
  lowShare: number | null;
  gpuLoad: number | null;
  /** Video memory in use over its capacity. */
  memoryShare: number | null;
  cappedFps: number | null;
}

export interface JudgedLimit {
  setupId: string;
  testKey: string;
  limit: Limit;
  /** Sure where a load or a cap says so, likely where neighbours do. */
  confidence: "sure" | "likely";
  reasons: string[];
}

const GPU_BUSY = 0.97;
const GPU_WAITS = 0.9;
const MEMORY_FULL = 0.95;
/** Rates this close are level. */
const LEVEL = 0.03;
/** Fewer pixels that bring this much are scaling. */
const SCALES = 0.06;
/** A low that falls this much more than at fewer pixels or on other cards has collapsed. */
const COLLAPSED = 0.75;

const level = (a: number, b: number) => Math.abs(Math.log(a / b)) <= LEVEL;
const percent = (ratio: number) => `${(100 * ratio).toFixed(0)} %`;

/** Signs for each limit; the strongest kind that stands alone wins, contradicting ones make it mixed. */
interface Signs {
  cpu: string[];
  gpu: string[];
  sure: Set<Limit>;
}

function signsOf(cell: LimitCell, family: readonly LimitCell[]): Signs {
  const signs: Signs = { cpu: [], gpu: [], sure: new Set() };
  const pixels = pixelsOf(cell.resolution);
  const own = family.filter((other) => other.setupId === cell.setupId && other !== cell).sort((a, b) => pixelsOf(a.resolution) - pixelsOf(b.resolution));
  const fewer = own.filter((other) => pixelsOf(other.resolution) < pixels).at(-1);
  const more = own.find((other) => pixelsOf(other.resolution) > pixels);
  const sameScene = family.filter((other) => other !== cell && other.resolution === cell.resolution);

  if (cell.gpuLoad !== null && cell.gpuLoad >= GPU_BUSY && (!fewer || fewer.fps > cell.fps * (1 + LEVEL))) {
    signs.gpu.push(`the card is ${percent(cell.gpuLoad)} busy`);
    signs.sure.add("gpu");
  }
  if (cell.gpuLoad !== null && cell.gpuLoad <= GPU_WAITS) {
    signs.cpu.push(`the card waits (${percent(cell.gpuLoad)} busy)`);
    signs.sure.add("cpu");
  }
  // Level with fewer pixels, or with more: pixels cost nothing here.
  if (fewer && level(fewer.fps, cell.fps)) signs.cpu.push(`level with ${fewer.resolution}`);
  if (more && level(more.fps, cell.fps)) signs.cpu.push(`level with ${more.resolution}`);
  // Several cards level at the top under the same processor.
  const cards = sameScene.filter((other) => other.gpuId !== cell.gpuId && other.cpuId === cell.cpuId && cell.cpuId !== null);
  const top = Math.max(cell.fps, ...cards.map(({ fps }) => fps));
  const levelAtTop = cards.filter((other) => level(other.fps, top));
  if (level(cell.fps, top) && levelAtTop.length >= (cards.length > 2 ? 2 : 1)) signs.cpu.push(`${levelAtTop.length + 1} cards are level at the top`);
  // A faster processor brings nothing, or brings more.
  const processors = sameScene.filter((other) => other.gpuId === cell.gpuId && other.gpuId !== null && other.cpuId !== cell.cpuId);
  if (processors.some((other) => level(other.fps, cell.fps))) signs.gpu.push("another processor gives the same");
  if (processors.some((other) => other.fps > cell.fps * (1 + SCALES))) signs.cpu.push("another processor gives more");
  if (signs.cpu.length === 0 && fewer && fewer.fps > cell.fps * (1 + SCALES))
    signs.gpu.push(`${percent(fewer.fps / cell.fps - 1)} faster at ${fewer.resolution}`);
  // More pixels take in full what they cost: the card was at its limit before them.
  if (signs.cpu.length === 0 && more) {
    const exponent = Math.log(cell.fps / more.fps) / Math.log(pixelsOf(more.resolution) / pixels);
    if (exponent >= 0.9) signs.gpu.push(`${more.resolution} costs its whole share of pixels`);
  }
  // A faster card brings more under the same processor.
  if (signs.cpu.length === 0 && signs.gpu.length === 0 && cards.some((other) => other.fps > cell.fps * 1.15)) signs.gpu.push("a faster card gives more");
  return signs;
}

function memoryReason(cell: LimitCell, family: readonly LimitCell[]): string | undefined {
  if (cell.memoryShare !== null && cell.memoryShare >= MEMORY_FULL && cell.lowShare !== null) {
    const usual = family.filter((other) => other.setupId !== cell.setupId && other.resolution === cell.resolution).flatMap(({ lowShare }) => lowShare ?? []);
    const sorted = usual.sort((a, b) => a - b);
    const middle = sorted[sorted.length >> 1];
    if (middle === undefined || cell.lowShare < COLLAPSED * middle) return `video memory is ${percent(cell.memoryShare)} full and the low collapses`;
  }
  const fewer = family.find((other) => other.setupId === cell.setupId && other.lowShare !== null && pixelsOf(other.resolution) < pixelsOf(cell.resolution));
  if (cell.lowShare !== null && fewer?.lowShare && cell.lowShare < 0.6 * fewer.lowShare && cell.memoryShare !== null && cell.memoryShare >= GPU_WAITS)
    return `the low collapses against ${fewer.resolution}`;
  return undefined;
}

/**
 * Judges what limited each cell: cap, memory, GPU, CPU, mixed where the signs contradict each other, not known where there is
 * none; each with its reasons.
 *
 * Shapes: cells of any number of families. Loads and shares as fractions of 1, rates in fps.
 * Source: the product's definition of limits (GPU load ≥ 97 % and falling with resolution; ≤ 90 %, level over resolutions or
 * over several cards; lows that collapse, or memory ≥ 95 %), checked against constructed cases.
 */
export function judgeLimits(cells: readonly LimitCell[]): JudgedLimit[] {
  const families = new Map<string, LimitCell[]>();
  for (const cell of cells) families.set(cell.family, [...(families.get(cell.family) ?? []), cell]);
  return cells.map((cell): JudgedLimit => {
    const family = families.get(cell.family) as LimitCell[];
    const of = (limit: Limit, reasons: string[], confidence: JudgedLimit["confidence"]) => ({
      setupId: cell.setupId,
      testKey: cell.testKey,
      limit,
      confidence,
      reasons,
    });
    if (cell.cappedFps !== null) return of("cap", [`frames are held at ${cell.cappedFps.toFixed(1)} fps`], "sure");
    const memory = memoryReason(cell, family);
    if (memory) return of("memory", [memory], "likely");
    const { cpu, gpu, sure } = signsOf(cell, family);
    const confidence = sure.size > 0 ? "sure" : "likely";
    if (cpu.length > 0 && gpu.length > 0) return of("mixed", [...gpu, ...cpu], "likely");
    if (cpu.length > 0) return of("cpu", cpu, confidence);
    if (gpu.length > 0) return of("gpu", gpu, confidence);
    return of("not known", ["no load was recorded and no neighbour shows it"], "likely");
  });
}
