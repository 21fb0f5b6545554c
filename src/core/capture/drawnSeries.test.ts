import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { createRandom } from "@/core/random";
import { quantileSorted } from "@/core/stats";
import { frameDistribution, frameStartsS, framesBetween, matchingShiftS, percentileCurve, thinSeries } from "./drawnSeries";

const noise = (n: number, seed: number) => {
  const random = createRandom(seed);
  return Float64Array.from({ length: n }, () => 10 * Math.exp(0.1 * random.normal()));
};

describe("thinSeries", () => {
  it("keeps every spike: the largest and smallest value of any window are drawn", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 50, max: 900 }), (seed, buckets) => {
        const y = noise(5000, seed);
        const x = frameStartsS(y);
        const [from, to] = [5, 40];
        const thin = thinSeries(x, y, from, to, buckets);
        const inside = y.filter((_, i) => (x[i] as number) >= from && (x[i] as number) < to);
        expect(Math.max(...thin.y)).toBeGreaterThanOrEqual(Math.max(...inside));
        expect(Math.min(...thin.y)).toBeLessThanOrEqual(Math.min(...inside));
        expect(thin.x.length).toBeLessThanOrEqual(Math.max(2 * buckets, 2));
        expect(thin.x.every((value, i) => i === 0 || value >= (thin.x[i - 1] as number))).toBe(true);
      }),
      { numRuns: 60 },
    );
  });

  it("leaves a short series as it is, with one value beyond each edge of the window", () => {
    const x = Float64Array.of(0, 1, 2, 3, 4, 5);
    const thin = thinSeries(x, x, 2, 3.5, 100);
    expect([...thin.x]).toEqual([1, 2, 3, 4]);
  });

  it("shows a gap where a whole bucket is not known, and bridges single unknown values", () => {
    const x = Float64Array.from({ length: 1000 }, (_, i) => i);
    const y = x.map((value) => (value >= 400 && value < 600 ? Number.NaN : value % 7 === 0 ? Number.NaN : 1));
    const thin = thinSeries(x, y, 0, 1000, 50);
    const unknown = [...thin.x].filter((_, i) => Number.isNaN(thin.y[i]));
    expect(unknown.length).toBeGreaterThanOrEqual(9);
    expect(unknown.every((value) => value >= 400 && value < 600)).toBe(true);
  });
});

describe("framesBetween, percentileCurve, frameDistribution", () => {
  it("cuts the frames that begin in a stretch", () => {
    const frames = Float64Array.of(500, 500, 500, 500);
    expect(framesBetween(frames, frameStartsS(frames), 0.5, 1.5).length).toBe(2);
  });

  it("reads the quantiles of type 7 off its curve, and never falls", () => {
    const frames = noise(3000, 5);
    const curve = percentileCurve(frames);
    const at99 = curve.find(({ share }) => Math.abs(share - 0.99) < 1e-9);
    expect(at99?.frameTimeMs).toBeCloseTo(quantileSorted(frames.slice().sort(), 0.99), 9);
    expect(curve.every(({ frameTimeMs }, i) => i === 0 || frameTimeMs >= (curve[i - 1]?.frameTimeMs as number))).toBe(true);
  });

  it("counts every frame once", () => {
    const frames = noise(3000, 6);
    const { shares } = frameDistribution(frames);
    expect(shares.reduce((sum, share) => sum + share, 0)).toBeCloseTo(1, 9);
    expect(frameDistribution(Float64Array.of(5, 5, 5)).shares[0]).toBeCloseTo(1, 9);
  });
});

describe("matchingShiftS", () => {
  /** A run with a heavy scene from 8 s to 14 s, begun `lateS` later. */
  const scene = (lateS: number, seed: number) => {
    const random = createRandom(seed);
    const frames: number[] = [];
    for (let atS = 0; atS < 30; ) {
      const inScene = atS + lateS >= 8 && atS + lateS < 14;
      const frame = (inScene ? 16 : 9) * Math.exp(0.05 * random.normal());
      frames.push(frame);
      atS += frame / 1000;
    }
    return Float64Array.from(frames);
  };

  it("finds how much later a second run was begun, to a tenth of a second", () => {
    for (const lateS of [-3, -0.7, 0, 1.2, 4]) expect(matchingShiftS(scene(0, 1), scene(lateS, 2)).shiftS).toBeCloseTo(lateS, 0.9);
  });

  it("moves nothing where the runs have nothing in common", () => {
    expect(matchingShiftS(noise(3000, 1), noise(3000, 2)).shiftS).toBe(0);
  });
});
