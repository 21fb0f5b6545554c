import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { createRandom } from "@/core/random";
import { quantileSorted } from "@/core/stats";
import { countFrames, framesWithin, startOfStep, stepOf, stepOfRank, stepTimes } from "./frameHistogram";
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

describe("the steps of the histogram", () => {
  it("rise with the frame time, 2,048 to an octave, each narrower than a twentieth of a per cent", () => {
    for (let step = stepOf(0.02); step < stepOf(60_000); step += 37) {
      const [start, next] = [startOfStep(step), startOfStep(step + 1)];
      expect(stepOf(start)).toBe(step);
      expect(next / start - 1).toBeGreaterThan(0);
      expect(next / start - 1).toBeLessThan(0.0005);
    }
    expect(stepOf(8) - stepOf(4)).toBe(2048);
    expect(stepOf(6.000001) - stepOf(6)).toBe(0);
  });

  it("multiplied by a factor are where the product itself lies", () => {
    for (const factor of [1, 1.0001, 1.01 / 0.99, 1.1, 1.5, 1.999])
      for (let step = stepOf(0.05); step < stepOf(1000); step += 13)
        expect(stepTimes(step, factor), `${startOfStep(step)} × ${factor}`).toBe(stepOf(startOfStep(step) * factor));
  });

  it("give the frames between two of them in order, and the step of every rank (seed 23)", () => {
    fc.assert(
      fc.property(anyFrames, fc.double({ min: 0, max: 1, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true }), (frames, a, b) => {
        const counted = countFrames(frames);
        const last = counted.counts.length - 1;
        const [from, to] = [Math.floor(Math.min(a, b) * last), Math.floor(Math.max(a, b) * last)];
        const low = startOfStep(counted.first + from);
        const high = startOfStep(counted.first + to + 1);
        expect([...framesWithin(frames, counted, from, to)]).toEqual([...frames].filter((frame) => frame >= low && frame < high).sort((x, y) => x - y));
        const sorted = frames.slice().sort();
        const rank = Math.floor(a * (frames.length - 1));
        const { step, below } = stepOfRank(counted, rank);
        expect(stepOf(sorted[rank] as number) - counted.first).toBe(step);
        expect([...frames].filter((frame) => stepOf(frame) - counted.first < step)).toHaveLength(below);
      }),
      { seed: 23, numRuns: 300 },
    );
  });

  it("are counted alike for an odd and an even number of frames, for one, and for frames that are all the same", () => {
    for (const n of [1, 2, 3, 4, 5, 101]) {
      const frames = Float64Array.from({ length: n }, (_, i) => 10 + (i % 7));
      const { shortestMs, longestMs, totalMs, n: counted } = countFrames(frames);
      expect([shortestMs, longestMs, counted]).toEqual([Math.min(...frames), Math.max(...frames), n]);
      expect(totalMs).toBe(frames.reduce((sum, frame) => sum + frame, 0));
    }
    expect(countFrames(Float64Array.from({ length: 9 }, () => 16.7)).counts).toEqual(Uint32Array.of(9));
    expect(() => stepOfRank(countFrames(Float64Array.of(1, 2)), 2)).toThrow(RangeError);
  });

  it("lose nothing of a total over which plain addition errs: a million frames of a tenth", () => {
    const frames = new Float64Array(1_000_000).fill(0.1);
    expect(countFrames(frames).totalMs).toBe(100_000);
    expect(frames.reduce((sum, frame) => sum + frame, 0)).not.toBe(100_000);
  });
});
