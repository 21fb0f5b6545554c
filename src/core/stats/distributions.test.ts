import { describe, expect, it } from "vitest";
import { fCritical, fUpperTail, incompleteBeta, quickT95, studentTCritical, studentTUpperTail, t95 } from "./distributions";
import { digamma, inverseTrigamma, logGamma, trigamma } from "./gamma";
import { compensatedSum, geometricMean, sampleSd } from "./moments";
import { quantileSorted } from "./quantile";

describe("distributions", () => {
  it("gives printed t values: 12.706 at 1, 2.228 at 10 and 1.960 at many degrees of freedom (any t table, two-sided 5 %)", () => {
    expect(studentTCritical(0.025, 1)).toBeCloseTo(12.706, 3);
    expect(studentTCritical(0.025, 10)).toBeCloseTo(2.228, 3);
    expect(studentTCritical(0.025, 1e6)).toBeCloseTo(1.96, 3);
  });

  it("gives printed F values: 4.10 at (2, 10) and 3.89 at (2, 12) for 5 % (any F table)", () => {
    expect(fCritical(0.05, 2, 10)).toBeCloseTo(4.103, 3);
    expect(fCritical(0.05, 2, 12)).toBeCloseTo(3.885, 3);
  });

  it("interpolates the multiplier of an interval to 1e-9 of the exact one, at whole and broken degrees of freedom", () => {
    for (const df of [1, 1.7, 2, 2.01, 3, 4.4, 7, 12.25, 29.9, 84, 333.3, 5000, 1e6]) expect(Math.abs(quickT95(df) - t95(df)), `${df}`).toBeLessThan(1e-9 * 12);
  });

  it("agrees with closed forms: t at 1 and 2 degrees of freedom, F at (2, ν)", () => {
    for (const t of [0.3, 1, 4, 20]) {
      expect(studentTUpperTail(t, 1)).toBeCloseTo(0.5 - Math.atan(t) / Math.PI, 12);
      expect(studentTUpperTail(t, 2)).toBeCloseTo(0.5 - t / (2 * Math.sqrt(2 + t * t)), 12);
      expect(fUpperTail(t, 2, 9)).toBeCloseTo((1 + (2 * t) / 9) ** -4.5, 12);
    }
  });

  it("has F with one numerator degree as the square of t", () => {
    expect(fCritical(0.05, 1, 7)).toBeCloseTo(studentTCritical(0.025, 7) ** 2, 8);
  });

  it("keeps the incomplete beta's symmetry and ends", () => {
    expect(incompleteBeta(0.3, 2.5, 4) + incompleteBeta(0.7, 4, 2.5)).toBeCloseTo(1, 13);
    expect([incompleteBeta(0, 2, 3), incompleteBeta(1, 2, 3)]).toEqual([0, 1]);
  });

  it("refuses a tail or degrees of freedom outside their range, with the value", () => {
    expect(() => studentTCritical(0.6, 3)).toThrow("0.6");
    expect(() => studentTCritical(0.025, 0)).toThrow("df");
    expect(() => fCritical(0, 1, 1)).toThrow(RangeError);
  });
});

describe("gamma and its derivatives (Abramowitz & Stegun, tables 6.1 and 6.2)", () => {
  it("has known values", () => {
    expect(logGamma(5)).toBeCloseTo(Math.log(24), 12);
    expect(logGamma(0.5)).toBeCloseTo(Math.log(Math.PI) / 2, 12);
    expect(digamma(1)).toBeCloseTo(-0.5772156649015329, 12);
    expect(trigamma(1)).toBeCloseTo(Math.PI ** 2 / 6, 12);
  });

  it("inverts the trigamma function", () => {
    for (const x of [0.2, 1, 3, 40, 900]) expect(inverseTrigamma(trigamma(x)) / x).toBeCloseTo(1, 6);
  });
});

describe("moments and quantiles", () => {
  it("loses no digit of a long sum of like numbers", () => {
    expect(compensatedSum(new Float64Array(1_000_000).fill(0.1))).toBe(100_000);
  });

  it("says what it cannot do", () => {
    expect(() => sampleSd([1])).toThrow(RangeError);
    expect(() => geometricMean([1, 0])).toThrow("above 0");
    expect(() => geometricMean([])).toThrow(RangeError);
    expect(() => quantileSorted([], 0.5)).toThrow(RangeError);
    expect(() => quantileSorted([1], 1.2)).toThrow("p must be in [0, 1], got 1.2");
  });
});
