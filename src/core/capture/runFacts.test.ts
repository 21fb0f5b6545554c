import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { createRandom, type Random } from "@/core/random";
import { median } from "@/core/stats";
import { runFacts } from "./runFacts";

interface Readings {
  timeS: Float64Array;
  clock: Float64Array;
  temperature: Float64Array;
}

/** Readings of a part that warms up and holds: irregular times, a few gaps, a clock that now and then falls. */
function readings(random: Random): Readings {
  const n = 3 + Math.floor(random.next() * 120);
  let at = -4;
  const timeS = Float64Array.from({ length: n }, () => (at += 0.2 + 0.9 * random.next()));
  let celsius = 60;
  const temperature = Float64Array.from({ length: n }, () => {
    celsius = Math.min(84, celsius + 0.8 * random.next() + 0.4 * random.normal());
    return random.next() < 0.04 ? Number.NaN : Math.round(celsius);
  });
  let held = 1;
  const clock = Float64Array.from({ length: n }, () => {
    if (random.next() < 0.05) held = random.next() < 0.5 ? 1 : 0.85 + 0.15 * random.next();
    return random.next() < 0.04 ? Number.NaN : 2.6 * held * (1 + 0.004 * random.normal());
  });
  return { timeS, clock, temperature };
}

/**
 * The product's words for throttling, one by one and without any short cut: over every stretch of 2 s or more within 1 K of
 * the hottest reading, the highest clock against the median of all clocks before it; the lowest of these ratios.
 */
function throttlingByDefinition({ timeS, clock, temperature }: Readings): { clockRatio: number; fromS: number } | undefined {
  const known = (values: readonly number[]) => values.filter((value) => !Number.isNaN(value));
  const hottest = Math.max(...known([...temperature]));
  if (!Number.isFinite(hottest)) return undefined;
  const first = timeS.findIndex((t) => t >= 0);
  if (first < 0) return undefined;
  const [time, mhz, celsius] = [timeS, clock, temperature].map((values) => [...values].slice(first)) as [number[], number[], number[]];
  const top = Math.max(...known(celsius));
  let worst: { clockRatio: number; fromS: number } | undefined;
  for (let from = 0; from < time.length; from += 1) {
    if (!((celsius[from] as number) >= top - 1) && !(Number.isNaN(celsius[from]) && hotBefore(celsius, from, top))) continue;
    // The shortest stretch of two seconds from here; a gap in the readings does not end the heat.
    let to = from;
    while (to + 1 < time.length && (time[to] as number) - (time[from] as number) < 2 && !((celsius[to + 1] as number) < top - 1)) to += 1;
    if ((time[to] as number) - (time[from] as number) < 2) continue;
    const before = known(mhz.slice(0, from));
    const within = known(mhz.slice(from, to + 1));
    if (before.length < 5 || within.length === 0) continue;
    const clockRatio = Math.max(...within) / median(before);
    if (!worst || clockRatio < worst.clockRatio) worst = { clockRatio, fromS: time[from] as number };
  }
  return worst;
}

/** Whether the last reading that is known before a gap was hot. */
function hotBefore(celsius: readonly number[], at: number, top: number): boolean {
  for (let i = at - 1; i >= 0; i -= 1) if (!Number.isNaN(celsius[i])) return (celsius[i] as number) >= top - 1;
  return false;
}

const factsOf = ({ timeS, clock, temperature }: Readings) =>
  runFacts({
    timeS,
    channels: [
      { name: "gpu_c", values: temperature },
      { name: "gpu_ghz", values: clock },
    ],
  });

describe("throttling", () => {
  it("is what its definition gives, word for word, over 500 seeded logs", () => {
    let found = 0;
    for (let seed = 1; seed <= 500; seed += 1) {
      const log = readings(createRandom(seed));
      const expected = throttlingByDefinition(log);
      const ours = factsOf(log).throttling;
      if (!expected) expect(ours, `seed ${seed}`).toBeNull();
      else {
        found += 1;
        expect(ours, `seed ${seed}`).not.toBeNull();
        expect(ours?.clockRatio, `seed ${seed}`).toBeCloseTo(expected.clockRatio, 12);
      }
    }
    expect(found).toBeGreaterThan(300);
  });

  it("does not care for the unit of the clock, nor for a shift of the temperature", () => {
    for (let seed = 1; seed <= 60; seed += 1) {
      const log = readings(createRandom(seed));
      const ratio = factsOf(log).throttling?.clockRatio;
      const other = factsOf({ ...log, clock: log.clock.map((ghz) => ghz * 1000), temperature: log.temperature.map((celsius) => celsius + 11) }).throttling
        ?.clockRatio;
      if (ratio === undefined) expect(other).toBeUndefined();
      else expect(other).toBeCloseTo(ratio, 9);
    }
  });

  it("is not known without a clock, without a temperature, or in a log of gaps", () => {
    const log = readings(createRandom(3));
    const channel = (name: string, values: Float64Array) => ({ name, values });
    expect(runFacts({ timeS: log.timeS, channels: [channel("gpu_ghz", log.clock)] }).throttling).toBeNull();
    expect(runFacts({ timeS: log.timeS, channels: [channel("gpu_c", log.temperature)] }).throttling).toBeNull();
    const gaps = log.timeS.map(() => Number.NaN);
    expect(factsOf({ ...log, clock: gaps, temperature: gaps })).toMatchObject({ throttling: null, gpuGhz: null, hottestGpuC: null });
  });

  it("names the part that lost more, where both did", () => {
    const timeS = Float64Array.from({ length: 80 }, (_, i) => i * 0.5);
    const falling = (to: number) => timeS.map((t) => (t > 25 ? to : 1));
    const facts = runFacts({
      timeS,
      channels: [
        { name: "gpu_c", values: timeS.map(() => 80) },
        { name: "cpu_c", values: timeS.map(() => 95) },
        { name: "gpu_ghz", values: falling(0.94) },
        { name: "cpu_ghz", values: falling(0.9) },
      ],
    });
    expect(facts.throttling).toMatchObject({ part: "cpu", temperatureC: 95 });
    expect(facts.throttling?.clockRatio).toBeCloseTo(0.9, 12);
  });
});

describe("the other facts of a run", () => {
  it("are medians and extremes of what is known after the start, whatever the gaps (seed 91)", () => {
    fc.assert(
      fc.property(
        fc.array(fc.option(fc.double({ min: 0, max: 100, noNaN: true }), { nil: Number.NaN }), { minLength: 1, maxLength: 60 }),
        fc.integer({ min: 0, max: 5 }),
        (values, warmUp) => {
          const timeS = Float64Array.from(values, (_, i) => i - warmUp);
          const series = Float64Array.from(values);
          const after = values.filter((value, i) => i >= warmUp && !Number.isNaN(value));
          const facts = runFacts({
            timeS,
            channels: [
              { name: "gpu_load_ratio", values: series },
              { name: "vram_gib", values: series },
              { name: "ambient_c", values: series },
            ],
          });
          if (after.length === 0) expect([facts.gpuLoad, facts.vramGib, facts.ambientC]).toEqual([null, null, null]);
          else {
            expect(facts.gpuLoad).toBeCloseTo(median(after), 12);
            expect(facts.vramGib).toBe(Math.max(...after));
            expect(facts.ambientC).toBeCloseTo(median(after), 12);
          }
          expect([facts.cpuLoad, facts.cpuGhz, facts.hottestCpuC]).toEqual([null, null, null]);
        },
      ),
      { seed: 91, numRuns: 200 },
    );
  });
});
