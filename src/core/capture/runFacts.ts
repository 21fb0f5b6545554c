import { z } from "zod";
import type { SensorLog } from "./parseFrameLog";

/** A stretch in which a part lost clock while it was as hot as it got. */
const Throttling = z.object({
  part: z.enum(["gpu", "cpu"]),
  /** The clock over its earlier median: for two seconds or more it was no higher than this. */
  clockRatio: z.number(),
  fromS: z.number(),
  temperatureC: z.number(),
});

/** What a run's sensors say beside power: the facts that the checks and the limits ask for; null where not recorded. */
export const RunFacts = z.object({
  gpuLoad: z.number().nullable(),
  cpuLoad: z.number().nullable(),
  gpuGhz: z.number().nullable(),
  cpuGhz: z.number().nullable(),
  vramGib: z.number().nullable(),
  ambientC: z.number().nullable(),
  hottestGpuC: z.number().nullable(),
  hottestCpuC: z.number().nullable(),
  throttling: Throttling.nullable(),
});
export type RunFacts = z.infer<typeof RunFacts>;

/** Throttling is judged over this long, within this much of the run's hottest reading (the product's definition). */
const HELD_S = 2;
const WITHIN_K = 1;
/** The earlier median needs some readings to be one. */
const LEAST_BEFORE = 5;
const NOTHING = new Float64Array(0);

const known = (values: Float64Array) => values.filter((value) => !Number.isNaN(value));

function medianKnown(values: Float64Array): number | null {
  const sorted = known(values).sort();
  const n = sorted.length;
  return n === 0 ? null : ((sorted[(n - 1) >> 1] as number) + (sorted[n >> 1] as number)) / 2;
}

/** The known values of a series up to a moment, kept in order as the moment moves on: their median is read, not sorted for. */
class RisingSample {
  size = 0;
  private taken = 0;
  private readonly sorted: Float64Array;

  constructor(most: number) {
    this.sorted = new Float64Array(most);
  }

  /** Takes in the values before `end` that are not in yet. */
  takeTo(values: Float64Array, end: number): void {
    for (; this.taken < end; this.taken += 1) {
      const value = values[this.taken] as number;
      if (Number.isNaN(value)) continue;
      let low = 0;
      for (let high = this.size; low < high; ) {
        const middle = (low + high) >> 1;
        if ((this.sorted[middle] as number) <= value) low = middle + 1;
        else high = middle;
      }
      this.sorted.copyWithin(low + 1, low, this.size);
      this.sorted[low] = value;
      this.size += 1;
    }
  }

  median(): number {
    return ((this.sorted[(this.size - 1) >> 1] as number) + (this.sorted[this.size >> 1] as number)) / 2;
  }
}

/** The largest known value; null where nothing is known. */
function largest(values: Float64Array): number | null {
  let best: number | null = null;
  for (const value of values) if (!Number.isNaN(value) && (best === null || value > best)) best = value;
  return best;
}

/**
 * The deepest loss of clock at the ceiling: over every stretch of 2 s or more within 1 K of the run's hottest reading, the
 * highest clock in it over the median of the clock before it; the lowest of these. Undefined where temperature or clock is
 * not recorded or the run never stays that hot.
 *
 * Source: the product's definition of throttling.
 */
function findThrottling(part: "gpu" | "cpu", timeS: Float64Array, clock: Float64Array, temperature: Float64Array): RunFacts["throttling"] {
  const ceiling = largest(temperature);
  if (ceiling === null) return null;
  let found: RunFacts["throttling"] = null;
  const before = new RisingSample(timeS.length);
  let start = 0;
  while (start < timeS.length) {
    if (!((temperature[start] as number) >= ceiling - WITHIN_K)) {
      start += 1;
      continue;
    }
    let end = start;
    // A gap in the readings does not end the heat.
    while (end + 1 < timeS.length && !((temperature[end + 1] as number) < ceiling - WITHIN_K)) end += 1;
    // Within the hot stretch: windows of two seconds, each against what the clock was before it.
    for (let from = start, to = start; from <= end; from += 1) {
      while (to < end && (timeS[to] as number) - (timeS[from] as number) < HELD_S) to += 1;
      if ((timeS[to] as number) - (timeS[from] as number) < HELD_S) break;
      before.takeTo(clock, from);
      if (before.size < LEAST_BEFORE) continue;
      const usual = before.median();
      const highest = largest(clock.subarray(from, to + 1));
      if (usual <= 0 || highest === null) continue;
      const clockRatio = highest / usual;
      if (!found || clockRatio < found.clockRatio) found = { part, clockRatio, fromS: timeS[from] as number, temperatureC: ceiling };
    }
    start = end + 1;
  }
  return found;
}

/** More readings than this are thinned before throttling is looked for: two seconds hold enough of them still. */
const MOST_READINGS = 2000;

/** The facts of a run's sensor log. Times before 0 belong to the warm-up and are left out. */
export function runFacts(sensors: SensorLog): RunFacts {
  const { timeS } = sensors;
  let first = timeS.findIndex((t) => t >= 0);
  if (first < 0) first = timeS.length;
  const stride = Math.max(1, Math.ceil((timeS.length - first) / MOST_READINGS));
  const [gpu, cpu] = [throttlingOf("gpu", sensors, first, stride), throttlingOf("cpu", sensors, first, stride)];
  return {
    gpuLoad: medianKnown(readingsOf("gpu_load_ratio", sensors, first, stride)),
    cpuLoad: medianKnown(readingsOf("cpu_load_ratio", sensors, first, stride)),
    gpuGhz: medianKnown(readingsOf("gpu_ghz", sensors, first, stride)),
    cpuGhz: medianKnown(readingsOf("cpu_ghz", sensors, first, stride)),
    vramGib: largest(readingsOf("vram_gib", sensors, first, stride)),
    ambientC: medianKnown(readingsOf("ambient_c", sensors, first, stride)),
    hottestGpuC: largest(readingsOf("gpu_c", sensors, first, stride)),
    hottestCpuC: largest(readingsOf("cpu_c", sensors, first, stride)),
    throttling: gpu && (!cpu || gpu.clockRatio <= cpu.clockRatio) ? gpu : cpu,
  };
}

const thinned = (values: Float64Array, first: number, stride: number) =>
  stride === 1 ? values.subarray(first) : values.subarray(first).filter((_, i) => i % stride === 0);

/** A channel's readings from the first that counts; none where it is not recorded. */
function readingsOf(name: string, { channels }: SensorLog, first: number, stride: number): Float64Array {
  return thinned(channels.find((one) => one.name === name)?.values ?? NOTHING, first, stride);
}

function throttlingOf(part: "gpu" | "cpu", sensors: SensorLog, first: number, stride: number): RunFacts["throttling"] {
  const clock = readingsOf(`${part}_ghz`, sensors, first, stride);
  const temperature = readingsOf(`${part}_c`, sensors, first, stride);
  if (clock.length === 0 || temperature.length === 0) return null;
  return findThrottling(part, thinned(sensors.timeS, first, stride), clock, temperature);
}
