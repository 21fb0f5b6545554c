import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { RunSummary } from "@/core/cell";
import { packRuns, unpackRuns } from "./packedRuns";

const rate = fc.double({ min: 1e-3, max: 1e5, noNaN: true });
const lows = fc.record({ percentileFps: rate, tailMeanFps: rate, timeShareFps: rate });
const maybe = <T>(value: fc.Arbitrary<T>) => fc.option(value, { nil: null });
const metered = fc.record({ joules: rate, meanW: rate });

const anyRun: fc.Arbitrary<RunSummary> = fc.record({
  id: fc.string({ minLength: 1, maxLength: 40 }),
  setupId: fc.constantFrom("card-a", "card-b", 'quoted "c"'),
  testKey: fc.constantFrom("mill-1440@1", "quay-2160@2"),
  number: fc.integer({ min: 1, max: 99 }),
  status: fc.constantFrom("valid", "discarded", "failed"),
  reason: maybe(fc.string({ maxLength: 40 })),
  startedAt: maybe(fc.constantFrom("2026-11-02T09:00:00.000Z", "2026-11-02T09:07:31.250Z")),
  frames: maybe(fc.record({ frames: fc.integer({ min: 1, max: 500_000 }), durationS: rate, averageFps: rate, low1: lows, low01: lows })),
  pacing: fc.constant(null),
  facts: fc.constant(null),
  content: fc.constant(null),
  block: maybe(fc.constantFrom("first", "last")),
  ambientC: maybe(fc.double({ min: 10, max: 40, noNaN: true })),
  energy: fc.record({ device: metered, package: metered, wall: metered }, { requiredKeys: [] }),
  // 0 and −0 apart would not matter to any reader; JSON knows one of them.
  result: maybe(rate),
  outputBytes: maybe(fc.integer({ min: 0, max: 2 ** 45 })),
  typed: fc.boolean(),
  rowVersion: fc.integer({ min: 1, max: 1000 }),
  cpuLoad: maybe(fc.double({ min: 0.01, max: 1, noNaN: true })),
  opinion: maybe(fc.constantFrom(1, 3.5, 5)),
});

describe("packRuns", () => {
  it("gives every run back as it was, whatever it holds (seed 41)", () => {
    fc.assert(
      fc.property(fc.array(anyRun, { maxLength: 20 }), (runs) => {
        expect(unpackRuns(packRuns(runs))).toEqual(runs);
      }),
      { seed: 41, numRuns: 200 },
    );
  });

  it("leaves behind what only the checks ask for", () => {
    const [run] = fc.sample(anyRun, { seed: 2, numRuns: 1 }) as [RunSummary];
    const seen = { ...run, content: "f00d", pacing: { intervalMs: 8, shareWithin1Percent: 0.9, shareWithin10Percent: 1, shareFaster: 0 } };
    expect(unpackRuns(packRuns([seen]))).toEqual([{ ...run, content: null, pacing: null, facts: null }]);
  });

  it("takes about half of what the plain rows take", () => {
    const runs = fc.sample(anyRun, { seed: 3, numRuns: 300 }).map((run) => ({ ...run, reason: null, status: "valid" as const }));
    expect(packRuns(runs).length / JSON.stringify(runs).length).toBeLessThan(0.6);
  });
});
