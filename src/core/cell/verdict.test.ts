import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { t95 } from "@/core/stats";
import { cellRatio } from "./cellRatio";
import { fitVariancePrior, moderateVariance } from "./repeatability";
import { judgeInterval, runsToSettle } from "./verdict";

const judge = (estimate: number, se: number) =>
  judgeInterval({ estimate, se, df: 1e6, margin: 0.03, halfWidthAt: (n) => 1.96 * se * Math.sqrt(3 / n), runsNow: 3 });

describe("judgeInterval", () => {
  it("calls two cells level when the 95 % interval of their ratio lies inside the margin", () => {
    expect(judge(0.001, 0.005).verdict).toBe("level");
  });

  it("names a small real difference inside the margin as level, not as ahead", () => {
    expect(judge(0.015, 0.004).verdict).toBe("level-small-difference");
  });

  it("calls ahead and behind when the interval excludes 0 and leaves the margin", () => {
    expect(judge(0.1, 0.01).verdict).toBe("ahead");
    expect(judge(-0.1, 0.01).verdict).toBe("behind");
  });

  it("leaves open what is neither, and says how many more runs settle it", () => {
    const judged = judge(0.02, 0.02);
    expect(judged.verdict).toBe("unresolved");
    const needed = 3 + (judged.furtherRuns as number);
    const halfWidth = (n: number) => 1.96 * 0.02 * Math.sqrt(3 / n);
    const wanted = Math.max(0.02, Math.log1p(0.03) - 0.02);
    expect(halfWidth(needed)).toBeLessThan(wanted);
    expect(halfWidth(needed - 1)).toBeGreaterThanOrEqual(wanted);
  });

  it("knows no verdict where no spread is known", () => {
    expect(judgeInterval({ estimate: 0.1, se: undefined, df: 0, margin: 0.03 })).toMatchObject({ verdict: "unknown", low: undefined, high: undefined });
  });

  it("turns over with its sides: ahead one way is behind the other, and the interval is its inverse", () => {
    fc.assert(
      fc.property(fc.double({ min: -0.2, max: 0.2, noNaN: true }), fc.double({ min: 1e-4, max: 0.05, noNaN: true }), (estimate, se) => {
        const [one, other] = [judge(estimate, se), judge(-estimate, se)];
        const turned = { ahead: "behind", behind: "ahead" } as Record<string, string>;
        expect(other.verdict).toBe(turned[one.verdict] ?? one.verdict);
        expect((one.low as number) * (other.high as number)).toBeCloseTo(1, 9);
      }),
    );
  });

  it("gives no number of runs where a thousand would not do", () => {
    expect(runsToSettle(0.0148, 0.0296, () => 1)).toBeUndefined();
  });
});

describe("cellRatio", () => {
  const repeatability = { sLog: 0.012, df: 12, source: "test" as const, pool: "t" };
  const cell = (key: string, values: number[]) => ({ key, values, usesOwnScatter: false });

  it("has the half-width t(ν) s √(1/n + 1/m) on logs", () => {
    const ratio = cellRatio(cell("a", [110, 111, 112]), cell("b", [100, 101]), { repeatability, better: "higher", margin: 0.03 });
    expect(Math.log((ratio?.high as number) / (ratio?.ratio as number))).toBeCloseTo(t95(12) * 0.012 * Math.sqrt(1 / 3 + 1 / 2), 12);
  });

  it("turns times so that more is better: 52 s against 18 s is 2.89 times as fast", () => {
    // Rule of the trade (product definitions): 52 s → 18 s is 2.89 × as fast.
    const ratio = cellRatio(cell("new", [18]), cell("old", [52]), { repeatability, better: "lower", margin: 0.03 });
    expect(ratio?.ratio).toBeCloseTo(2.89, 2);
    expect(ratio?.verdict).toBe("ahead");
  });

  it("keeps both bases of a percentage apart: 127 against 134 is 5.2 % slower, the other way 5.5 % faster", () => {
    // Rule of the trade (product definitions).
    const options = { repeatability, better: "higher" as const, margin: 0.03 };
    expect(100 * (1 - (cellRatio(cell("a", [127]), cell("b", [134]), options)?.ratio as number))).toBeCloseTo(5.2, 1);
    expect(100 * ((cellRatio(cell("b", [134]), cell("a", [127]), options)?.ratio as number) - 1)).toBeCloseTo(5.5, 1);
  });

  it("uses a cell's own scatter, with its few degrees of freedom, where that has failed the check", () => {
    const wild = { key: "w", values: [90, 100, 110], usesOwnScatter: true };
    const own = cellRatio(wild, cell("b", [100, 101, 99]), { repeatability, better: "higher", margin: 0.03 });
    expect(own?.df).toBeLessThan(3);
    expect((own?.high as number) - (own?.low as number)).toBeGreaterThan(0.3);
  });
});

describe("variance moderation (Smyth 2004)", () => {
  it("draws a test's variance towards the group's, between the two", () => {
    const prior = fitVariancePrior([1, 1.6, 0.7, 2.4, 1.2, 0.4, 3.1].map((s2) => ({ s2, df: 12 })));
    if (!prior) throw new Error("no prior");
    const { s2, df } = moderateVariance({ ss: 12 * 3.1, df: 12 }, prior);
    expect(s2).toBeLessThan(3.1);
    expect(s2).toBeGreaterThan(prior.s0Squared);
    expect(df).toBeCloseTo(prior.d0 + 12, 9);
  });

  it("takes the group's variance for all where tests differ no more than chance", () => {
    const prior = fitVariancePrior([1, 1, 1, 1].map((s2) => ({ s2, df: 4 })));
    expect(prior?.d0).toBe(Number.POSITIVE_INFINITY);
    expect(moderateVariance({ ss: 40, df: 4 }, prior as { s0Squared: number; d0: number }).s2).toBe(prior?.s0Squared);
  });

  it("cannot be fitted to one test", () => {
    expect(fitVariancePrior([{ s2: 1, df: 4 }])).toBeUndefined();
  });
});
