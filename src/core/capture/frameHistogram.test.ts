import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { createRandom } from "@/core/random";
import { quantileSorted } from "@/core/stats";
import { countFrames } from "./frameHistogram";
import { frameStatistics } from "./frameStatistics";
import { measurePacing } from "./measurePacing";

/** Frames over five orders of length: hangs of seconds beside a thousand a second. */
const anyFrames = fc.array(fc.double({ min: 0.01, max: 50_000, noNaN: true }), { minLength: 1, maxLength: 300 }).map((list) => Float64Array.from(list));

/** The statistics by their words, with a whole sort. */
function byDefinition(frames: Float64Array) {
  const sorted = frames.slice().sort();
  const total = sorted.reduce((sum, frame) => sum + frame, 0);
  const tail = (oneIn: number) => sorted.slice(sorted.length - Math.ceil(sorted.length / oneIn));
  return {
    median: quantileSorted(sorted, 0.5),
    low1: 1000 / quantileSorted(sorted, 0.99),
    low01: 1000 / quantileSorted(sorted, 0.999),
    tail1: (1000 * tail(100).length) / tail(100).reduce((sum, frame) => sum + frame, 0),
    average: (1000 * sorted.length) / total,
  };
}

describe("statistics without a sort", () => {
  it("are those of a whole sort, whatever the frames (seed 21)", () => {
    fc.assert(
      fc.property(anyFrames, (frames) => {
        const [fast, slow] = [frameStatistics(frames), byDefinition(frames)];
        expect(fast.medianFrameTimeMs).toBe(slow.median);
        expect(fast.low1.percentileFps).toBeCloseTo(slow.low1, 9);
        expect(fast.low01.percentileFps).toBeCloseTo(slow.low01, 9);
        expect(fast.low1.tailMeanFps / slow.tail1).toBeCloseTo(1, 12);
        expect(fast.averageFps / slow.average).toBeCloseTo(1, 12);
        expect([fast.minFrameTimeMs, fast.maxFrameTimeMs]).toEqual([Math.min(...frames), Math.max(...frames)]);
      }),
      { seed: 21, numRuns: 400 },
    );
  });

  it("count every frame once, and are the same with the count handed in", () => {
    const random = createRandom(9);
    const frames = Float64Array.from({ length: 5000 }, () => 8 * Math.exp(0.2 * random.normal()));
    const counted = countFrames(frames);
    expect(counted.counts.reduce((sum, count) => sum + count, 0)).toBe(5000);
    expect(frameStatistics(frames, counted)).toEqual(frameStatistics(frames));
    expect(measurePacing(frames, counted)).toEqual(measurePacing(frames));
  });
});

describe("measurePacing", () => {
  it("finds the densest two per cent that a whole sort finds, to a tenth of its frames", () => {
    for (let seed = 1; seed <= 20; seed += 1) {
      const random = createRandom(seed);
      const frames = Float64Array.from({ length: 4000 }, () => 10 * Math.exp(0.15 * random.normal()));
      const sorted = frames.slice().sort();
      let densest = 0;
      for (let from = 0, to = 0; from < sorted.length; from += 1) {
        while (to < sorted.length && (sorted[to] as number) <= (sorted[from] as number) * (1.01 / 0.99)) to += 1;
        densest = Math.max(densest, to - from);
      }
      expect(Math.abs(measurePacing(frames).shareWithin1Percent / (densest / 4000) - 1), `seed ${seed}`).toBeLessThan(0.1);
    }
  });
});
