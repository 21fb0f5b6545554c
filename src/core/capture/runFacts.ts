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

const known = (values: Float64Array) => values.filter((value) => !Number.isNaN(value));

function medianKnown(values: Float64Array): number | null {
  const sorted = known(values).sort();
  const n = sorted.length;
  return n === 0 ? null : ((sorted[(n - 1) >> 1] as number) + (sorted[n >> 1] as number)) / 2;
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
  let start = 0;
  while (start < timeS.length) {
    const isHot = (i: number) => (temperature[i] as number) >= ceiling - WITHIN_K;
    if (!isHot(start)) {
      start += 1;
      continue;
    }
    let end = start;
    // A gap in the readings does not end the heat.
    while (end + 1 < timeS.length && (isHot(end + 1) || Number.isNaN(temperature[end + 1]))) end += 1;
    // Within the hot stretch: windows of two seconds, each against what the clock was before it.
    for (let from = start; from <= end; from += 1) {
      let to = from;
      while (to < end && (timeS[to] as number) - (timeS[from] as number) < HELD_S) to += 1;
      if ((timeS[to] as number) - (timeS[from] as number) < HELD_S) break;
      const before = clock.subarray(0, from);
      if (known(before).length < LEAST_BEFORE) continue;
      const usual = medianKnown(before);
      const highest = largest(clock.subarray(from, to + 1));
      if (usual === null || usual <= 0 || highest === null) continue;
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
export function runFacts({ timeS, channels }: SensorLog): RunFacts {
  let first = timeS.findIndex((t) => t >= 0);
  if (first < 0) first = timeS.length;
  const stride = Math.max(1, Math.ceil((timeS.length - first) / MOST_READINGS));
  const within = (values: Float64Array) => (stride === 1 ? values.subarray(first) : values.subarray(first).filter((_, i) => i % stride === 0));
  const channel = (name: string) => {
    const values = channels.find((one) => one.name === name)?.values;
    return values && within(values);
  };
  const time = within(timeS);
  const median = (name: string) => {
    const values = channel(name);
    return values ? medianKnown(values) : null;
  };
  const highest = (name: string) => {
    const values = channel(name);
    return values ? largest(values) : null;
  };
  const throttlingOf = (part: "gpu" | "cpu") => {
    const [clock, temperature] = [channel(`${part}_ghz`), channel(`${part}_c`)];
    return clock && temperature ? findThrottling(part, time, clock, temperature) : null;
  };
  const [gpu, cpu] = [throttlingOf("gpu"), throttlingOf("cpu")];
  return {
    gpuLoad: median("gpu_load_ratio"),
    cpuLoad: median("cpu_load_ratio"),
    gpuGhz: median("gpu_ghz"),
    cpuGhz: median("cpu_ghz"),
    vramGib: highest("vram_gib"),
    ambientC: median("ambient_c"),
    hottestGpuC: highest("gpu_c"),
    hottestCpuC: highest("cpu_c"),
    throttling: gpu && (!cpu || gpu.clockRatio <= cpu.clockRatio) ? gpu : cpu,
  };
}
