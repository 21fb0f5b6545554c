// The project's own statistics against jstat and simple-statistics, two general libraries written by others.
import fc from "fast-check";
import jstat from "jstat";
import * as simple from "simple-statistics";
import { describe, expect, it } from "vitest";
import { countFrames, frameStatistics, measurePacing } from "@/core/capture";
import { aggregateCell, cellRatio, logScatter, poolRepeatability } from "@/core/cell";
import { energyOverWindow } from "@/core/power";
import { createRandom } from "@/core/random";
import {
  compensatedSum,
  fCritical,
  fUpperTail,
  geometricMean,
  incompleteBeta,
  logGamma,
  mean,
  median,
  quantileSorted,
  sampleSd,
  studentTCritical,
  studentTUpperTail,
  sumOfSquaredDeviations,
  t95,
} from "@/core/stats";

const near = (a: number, b: number, within: number, what = "") =>
  expect(Math.abs(a - b) / Math.max(1e-300, Math.abs(b)), `${what}: ${a} against ${b}`).toBeLessThan(within);

/** jstat's plotting positions with both constants 1: Hyndman and Fan's type 7. Its `percentile` forgets the last interval. */
const type7 = (values: readonly number[], p: number) => jstat.quantiles(values, [p], 1, 1)[0] as number;

describe("distributions against jstat", () => {
  it("Student's t: tails and critical values at whole and broken degrees of freedom", () => {
    for (const df of [1, 2, 3, 4.6, 8, 15, 30, 57.3, 120, 1000]) {
      for (const t of [0.1, 0.7, 1.5, 2.2, 4]) near(studentTUpperTail(t, df), 1 - jstat.studentt.cdf(t, df), 1e-6, `t ${t}, df ${df}`);
      for (const alpha of [0.1, 0.025, 0.005, 0.0005]) near(studentTCritical(alpha, df), jstat.studentt.inv(1 - alpha, df), 1e-6, `α ${alpha}, df ${df}`);
      near(t95(df), jstat.studentt.inv(0.975, df), 1e-6, `95 %, df ${df}`);
    }
  });

  it("F: tails and critical values, few and many degrees of freedom on either side", () => {
    for (const [a, b] of [
      [1, 5],
      [2, 24],
      [2, 200],
      [5, 9],
      [11, 3],
      [30, 60],
    ] as const) {
      for (const f of [0.2, 1, 2.5, 6]) near(fUpperTail(f, a, b), 1 - jstat.centralF.cdf(f, a, b), 1e-6, `F ${f} at ${a}, ${b}`);
      for (const alpha of [0.1, 0.05, 0.01, 0.001]) near(fCritical(alpha, a, b), jstat.centralF.inv(1 - alpha, a, b), 1e-5, `α ${alpha} at ${a}, ${b}`);
    }
  });

  it("the incomplete beta and ln Γ that they rest on", () => {
    for (const x of [0.01, 0.2, 0.5, 0.83, 0.999])
      for (const a of [0.5, 1, 3.5, 20]) for (const b of [0.5, 2, 9]) near(incompleteBeta(x, a, b), jstat.beta.cdf(x, a, b), 1e-7);
    for (const x of [0.2, 1.5, 3, 10, 123.4]) expect(Math.abs(logGamma(x) - jstat.gammaln(x))).toBeLessThan(1e-9);
  });
});

describe("descriptive statistics against simple-statistics and jstat", () => {
  const sample = fc.array(fc.double({ min: 0.01, max: 1e5, noNaN: true }), { minLength: 2, maxLength: 200 });

  it("mean, median, SD, sum of squares and geometric mean (seed 51)", () => {
    fc.assert(
      fc.property(sample, (values) => {
        near(mean(values), simple.mean(values), 1e-12, "mean");
        near(compensatedSum(values), simple.sum(values), 1e-13, "sum");
        near(median(values), simple.median(values), 1e-13, "median");
        near(geometricMean(values), jstat.geomean(values), 1e-9, "geometric mean");
        const sd = simple.sampleStandardDeviation(values);
        if (sd > 1e-9 * simple.mean(values)) {
          near(sampleSd(values), sd, 1e-9, "SD");
          near(sumOfSquaredDeviations(values), simple.sumNthPowerDeviations(values, 2), 1e-9, "sum of squares");
        }
      }),
      { seed: 51, numRuns: 300 },
    );
  });

  it("takes the sum of squares about any centre for that about the mean", () => {
    fc.assert(
      fc.property(sample, fc.double({ min: -3, max: 3, noNaN: true }), (values, off) => {
        const sd = simple.sampleStandardDeviation(values);
        if (sd < 1e-6 * simple.mean(values)) return;
        near(sumOfSquaredDeviations(values, simple.mean(values) + off * sd), simple.sumNthPowerDeviations(values, 2), 1e-8);
      }),
      { seed: 52, numRuns: 200 },
    );
  });

  it("quantiles of type 7, as spreadsheets have them (seed 53)", () => {
    fc.assert(
      fc.property(sample, fc.double({ min: 0, max: 1, noNaN: true }), (values, p) => {
        const sorted = Float64Array.from(values).sort();
        const theirs = type7([...sorted], p);
        expect(Math.abs(quantileSorted(sorted, p) - theirs)).toBeLessThanOrEqual(1e-8 * Math.max(1, theirs));
      }),
      { seed: 53, numRuns: 300 },
    );
  });
});

describe("a run's statistics against simple-statistics", () => {
  const framesOf = (seed: number, n: number) => {
    const random = createRandom(seed);
    return Float64Array.from({ length: n }, () => 7 * Math.exp(0.18 * random.normal()) * (random.next() < 0.004 ? 6 : 1));
  };

  it("rate, mean, median, SD, extremes and percentile lows of runs of 1 to 20,000 frames", () => {
    for (const [seed, n] of [
      [1, 1],
      [2, 2],
      [3, 57],
      [4, 999],
      [5, 20_000],
    ] as const) {
      const frames = framesOf(seed, n);
      const list = [...frames];
      const ours = frameStatistics(frames);
      near(ours.averageFps, (1000 * n) / simple.sum(list), 1e-12, `rate of ${n}`);
      near(ours.meanFrameTimeMs, simple.mean(list), 1e-12);
      near(ours.medianFrameTimeMs, simple.median(list), 1e-13);
      if (n > 1) near(ours.sdFrameTimeMs, simple.sampleStandardDeviation(list), 1e-10);
      expect([ours.minFrameTimeMs, ours.maxFrameTimeMs]).toEqual(simple.extent(list));
      if (n === 1) continue;
      near(ours.low1.percentileFps, 1000 / type7(list, 0.99), 1e-9);
      near(ours.low01.percentileFps, 1000 / type7(list, 0.999), 1e-9);
    }
  });

  it("tail means and shares of time by whole sorts, at ends that fall between frames", () => {
    for (let seed = 1; seed <= 25; seed += 1) {
      const frames = framesOf(seed, 500 + 37 * seed);
      const falling = [...frames].sort((a, b) => b - a);
      const total = simple.sum(falling);
      const ours = frameStatistics(frames);
      for (const [oneIn, low] of [
        [100, ours.low1],
        [1000, ours.low01],
      ] as const) {
        const tail = falling.slice(0, Math.ceil(frames.length / oneIn));
        near(low.tailMeanFps, 1000 / simple.mean(tail), 1e-11, `tail of 1/${oneIn}, seed ${seed}`);
        let held = 0;
        const at = falling.findIndex((frame) => {
          held += frame;
          return held >= (total / oneIn) * (1 - 1e-12);
        });
        expect(low.timeShareFps, `time share of 1/${oneIn}, seed ${seed}`).toBe(1000 / (falling[at] as number));
      }
    }
  });

  it("counts every frame in the step it belongs to, and pacing shares that a plain count gives", () => {
    for (let seed = 31; seed <= 40; seed += 1) {
      const frames = framesOf(seed, 4000);
      const counted = countFrames(frames);
      expect(simple.sum([...counted.counts])).toBe(4000);
      near(counted.totalMs, simple.sum([...frames]), 1e-13);
      const { intervalMs, shareWithin10Percent, shareFaster } = measurePacing(frames, counted);
      const share = (test: (ratio: number) => boolean) => [...frames].filter((frame) => test(frame / intervalMs)).length / 4000;
      // The steps are a twentieth of a per cent wide: at an edge a few frames may fall to either side.
      expect(Math.abs(shareWithin10Percent - share((r) => r >= 0.9 && r <= 1.1))).toBeLessThan(0.005);
      expect(Math.abs(shareFaster - share((r) => r < 0.9))).toBeLessThan(0.005);
    }
  });
});

describe("what a comparison rests on", () => {
  it("pools the squares of logs over cells as one analysis of variance does, worked with simple-statistics", () => {
    const random = createRandom(61);
    const cells = Array.from({ length: 12 }, (_, c) => ({
      testKey: "one@1",
      group: "games",
      values: [1, 2, 3].map(() => (90 + 5 * c) * Math.exp(0.012 * random.normal())),
    }));
    const within = simple.sum(cells.map(({ values }) => simple.sumNthPowerDeviations(values.map(Math.log), 2)));
    const pooled = poolRepeatability(cells).get("one@1");
    const own = cells.map(({ values }) => logScatter(values));
    near(simple.sum(own.map(({ ss }) => ss)), within, 1e-10);
    expect(simple.sum(own.map(({ df }) => df))).toBe(24);
    expect(pooled?.df).toBeGreaterThanOrEqual(24);
    near(pooled?.sLog as number, Math.sqrt(within / 24), 1e-9, "pooled spread of logs");
  });

  it("gives a ratio with the interval that a t test on logs gives where one spread is known for both", () => {
    const [a, b] = [
      [101.2, 99.4, 100.9],
      [92.5, 93.9, 92.2],
    ];
    const rest = Array.from({ length: 20 }, (_, c) => ({ testKey: "one@1", group: "games", values: [100 + c, 101 + c, 99.5 + c] }));
    const cells = [{ testKey: "one@1", group: "games", values: a as number[] }, { testKey: "one@1", group: "games", values: b as number[] }, ...rest];
    const repeatability = poolRepeatability(cells).get("one@1");
    if (!repeatability) throw new Error("no spread");
    const ratio = cellRatio(
      { key: "a", values: a as number[], usesOwnScatter: false },
      { key: "b", values: b as number[], usesOwnScatter: false },
      { repeatability, better: "higher", margin: 0.03 },
    );
    const half = jstat.studentt.inv(0.975, repeatability.df) * repeatability.sLog * Math.sqrt(2 / 3);
    const centre = simple.mean(a as number[]) / simple.mean(b as number[]);
    near(ratio?.low as number, centre * Math.exp(-half), 1e-6);
    near(ratio?.high as number, centre * Math.exp(half), 1e-6);
    expect(aggregateCell(a as number[])).toMatchObject({ mean: expect.closeTo(simple.mean(a as number[]), 10) });
  });

  it("integrates power like the trapezoids of a plain sum, over any part of a log (seed 62)", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.double({ min: 0, max: 0.4, noNaN: true }), (seed, cut) => {
        const random = createRandom(seed);
        let at = 0;
        const timeS = Float64Array.from({ length: 60 }, () => (at += 0.2 + random.next()));
        const watts = timeS.map(() => 150 + 60 * random.next());
        const [fromS, toS] = [(timeS[0] as number) + cut * at * 0.5, at * (1 - cut * 0.5)];
        if (toS <= fromS + 1) return;
        // A fine comb of the same polygon, added up in the plainest way.
        const steps = 20_000;
        const wattAt = (t: number) => {
          const i = Math.min(timeS.length - 2, Math.max(0, timeS.findIndex((one) => one > t) - 1));
          const [t0, t1] = [timeS[i] as number, timeS[i + 1] as number];
          return (watts[i] as number) + (((watts[i + 1] as number) - (watts[i] as number)) * (t - t0)) / (t1 - t0);
        };
        let joules = 0;
        for (let k = 0; k < steps; k += 1) joules += wattAt(fromS + ((k + 0.5) * (toS - fromS)) / steps) * ((toS - fromS) / steps);
        const energy = energyOverWindow(timeS, watts, fromS, toS);
        if (!energy.ok) throw new Error(energy.problem.kind);
        near(energy.value.joules, joules, 1e-4);
        near(energy.value.meanW, joules / (toS - fromS), 1e-4);
      }),
      { seed: 62, numRuns: 40 },
    );
  });
});
