import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { createRandom } from "@/core/random";
import { quantileSorted } from "@/core/stats";
import { findStutters, frameStatistics } from "./frameStatistics";
import { keptStretches, withoutTrims } from "./trims";

const frameTimes = fc.array(fc.double({ min: 0.5, max: 200, noNaN: true }), { minLength: 1, maxLength: 400 }).map((list) => Float64Array.from(list));

/** The definition, word for word: longer than 2.5 × the median of the 21 frames centred on it. */
function stuttersByDefinition(frames: Float64Array): number[] {
  const found: number[] = [];
  for (let i = 10; i < frames.length - 10; i += 1) {
    const window = frames.slice(i - 10, i + 11).sort();
    if ((frames[i] as number) > 2.5 * quantileSorted(window, 0.5)) found.push(i);
  }
  return found;
}

describe("findStutters", () => {
  it("finds exactly what the definition names, on seeded random runs", () => {
    for (let seed = 1; seed <= 40; seed += 1) {
      const random = createRandom(seed);
      const frames = Float64Array.from({ length: 600 }, () => 10 * Math.exp(0.2 * random.normal()) * (random.next() < 0.02 ? 2 + 3 * random.next() : 1));
      expect(findStutters(frames, Math.min(...frames)), `seed ${seed}`).toEqual(stuttersByDefinition(frames));
    }
  });
});

describe("frameStatistics", () => {
  it("scales with time: frames k times as long have 1/k of the rate and of every low, and as many stutters", () => {
    fc.assert(
      fc.property(frameTimes, fc.constantFrom(0.25, 2, 8), (frames, k) => {
        const [plain, scaled] = [frameStatistics(frames), frameStatistics(frames.map((frame) => frame * k))];
        expect(scaled.averageFps * k).toBeCloseTo(plain.averageFps, 6);
        expect(scaled.low1.percentileFps * k).toBeCloseTo(plain.low1.percentileFps, 6);
        expect(scaled.low01.timeShareFps * k).toBeCloseTo(plain.low01.timeShareFps, 6);
        expect(scaled.stutters).toBe(plain.stutters);
      }),
    );
  });

  it("does not care for the order of frames, but for stutters, and leaves its argument as it was", () => {
    fc.assert(
      fc.property(frameTimes, (frames) => {
        const before = [...frames];
        const { stutters: _, ...plain } = frameStatistics(frames);
        const { stutters: __, ...turned } = frameStatistics(frames.slice().reverse());
        expect([...frames]).toEqual(before);
        expect(turned.low1).toEqual(plain.low1);
        expect(turned.averageFps).toBeCloseTo(plain.averageFps, 9);
      }),
    );
  });

  it("orders the lows: no low is above the fastest frame or below the slowest", () => {
    fc.assert(
      fc.property(frameTimes, (frames) => {
        const { low1, low01, minFrameTimeMs, maxFrameTimeMs } = frameStatistics(frames);
        for (const low of [...Object.values(low1), ...Object.values(low01)]) {
          expect(low).toBeGreaterThanOrEqual((1000 / maxFrameTimeMs) * (1 - 1e-12));
          expect(low).toBeLessThanOrEqual((1000 / minFrameTimeMs) * (1 + 1e-12));
        }
      }),
    );
  });

  it("throws on a run without frames", () => {
    expect(() => frameStatistics(new Float64Array(0))).toThrow(RangeError);
  });
});

describe("trims", () => {
  it("take out the frames that begin within them and nothing else", () => {
    const frames = new Float64Array(10).fill(100);
    expect(withoutTrims(frames, [{ fromS: 0, toS: 0.3 }]).length).toBe(7);
    expect(withoutTrims(frames, [])).toBe(frames);
  });

  it("leave separate stretches that add up to the rest", () => {
    expect(
      keptStretches(10, [
        { fromS: 2, toS: 3 },
        { fromS: 8, toS: 12 },
      ]),
    ).toEqual([
      { fromS: 0, toS: 2 },
      { fromS: 3, toS: 8 },
    ]);
  });
});
