import { describe, expect, it } from "vitest";
import { DEMO_TESTS } from "#sim/summaries";
import { frameStatistics, measurePacing } from "@/core/capture";
import { aggregateCell, combineErrors, logScatter, poolRepeatability } from "@/core/cell";
import { DEFAULT_THRESHOLDS, judgeCap } from "@/core/check";
import { testWeights } from "@/core/compare";
import { finishSearch, lowerBound, orderOnBenches } from "@/core/plan";
import { energyOverWindow, framesPerJoule } from "@/core/power";
import { createRandom } from "@/core/random";
import { geometricMean, mean, quantileSorted, sampleSd, studentTCritical, t95 } from "@/core/stats";
import { valueRows } from "@/core/value";
import { casesOf, expectNear } from "./cases";

describe("quantiles of type 7 (Hyndman & Fan 1996; R 4.2.2 and numpy)", () => {
  for (const { id, input, expected, tolerance } of casesOf<{ x: number[]; probs: number[] }, { type7: number[] }>("a-quantiles", "quantile")) {
    it(id, () => {
      const sorted = Float64Array.from(input.x).sort();
      input.probs.forEach((p, i) => {
        expectNear(quantileSorted(sorted, p), expected.type7[i] as number, tolerance, `p ${p}`);
      });
    });
  }
});

interface Low {
  percentile_type7_fps: number;
  slowest_ceil_fps_of_mean_frametime: number;
  time_weighted_fps: number;
}
interface FrameSummary {
  frames: number;
  total_time_s: number;
  average_fps: number;
  mean_frametime_ms: number;
  median_frametime_ms: number;
  sd_frametime_ms: number | null;
  wrong_mean_of_instantaneous_fps: number;
  low_1_percent: Low;
  low_0_1_percent: Low;
}

describe("frame statistics (common practice; refgen.py and R 4.2.2)", () => {
  for (const { id, input, expected, tolerance } of casesOf<{ frametimes_ms: number[] }, FrameSummary>("b-framerate", "frametime_summary")) {
    it(id, () => {
      const statistics = frameStatistics(Float64Array.from(input.frametimes_ms));
      expect(statistics.frames).toBe(expected.frames);
      expectNear(statistics.durationS, expected.total_time_s, tolerance, "total_time_s");
      expectNear(statistics.averageFps, expected.average_fps, tolerance, "average_fps");
      expectNear(statistics.meanFrameTimeMs, expected.mean_frametime_ms, tolerance, "mean_frametime_ms");
      expectNear(statistics.medianFrameTimeMs, expected.median_frametime_ms, tolerance, "median_frametime_ms");
      if (expected.sd_frametime_ms !== null) expectNear(statistics.sdFrameTimeMs, expected.sd_frametime_ms, tolerance, "sd_frametime_ms");
      for (const [lows, wanted] of [
        [statistics.low1, expected.low_1_percent],
        [statistics.low01, expected.low_0_1_percent],
      ] as const) {
        expectNear(lows.percentileFps, wanted.percentile_type7_fps, tolerance, "percentile_type7_fps");
        expectNear(lows.tailMeanFps, wanted.slowest_ceil_fps_of_mean_frametime, tolerance, "slowest_ceil_fps_of_mean_frametime");
        expectNear(lows.timeShareFps, wanted.time_weighted_fps, tolerance, "time_weighted_fps");
      }
      // The rate is never the mean of instantaneous rates, which is at least as large (means of a convex function).
      expect(statistics.averageFps).toBeLessThanOrEqual(expected.wrong_mean_of_instantaneous_fps * (1 + 1e-12));
    });
  }
});

interface SampleSummary {
  n: number;
  mean: number;
  sd: number;
  cv_percent: number;
  df: number;
  t_quantile: number;
}

describe("summary of a cell and Student's t (scipy 1.10.1, R 4.2.2 t.test)", () => {
  for (const { id, input, expected, tolerance } of casesOf<{ x: number[]; confidence: number }, SampleSummary>("c-repeatability", "sample_summary")) {
    it(id, () => {
      const cell = aggregateCell(input.x);
      expect(cell?.n).toBe(expected.n);
      expectNear(cell?.mean, expected.mean, tolerance, "mean");
      expectNear(cell?.sd, expected.sd, tolerance, "sd");
      expectNear((cell?.cv as number) * 100, expected.cv_percent, tolerance, "cv_percent");
      expectNear(studentTCritical((1 - input.confidence) / 2, expected.df), expected.t_quantile, tolerance, "t_quantile");
      if (input.confidence === 0.95) expectNear(t95(expected.df), expected.t_quantile, tolerance, "t_quantile");
    });
  }
});

describe("NIST StRD univariate sets (certified values)", () => {
  for (const { id, input, expected, tolerance } of casesOf<{ x: number[] }, { mean: number; sd: number }>("c-nist-strd", "strd_univariate")) {
    it(id, () => {
      expectNear(mean(input.x), expected.mean, tolerance, "mean");
      expectNear(sampleSd(input.x), expected.sd, tolerance, "sd");
    });
  }
});

describe("repeatability pooled over cells (ISO 5725-2 within-group SD; numpy, R 4.2.2 anova)", () => {
  for (const { id, input, expected, tolerance } of casesOf<{ groups: Record<string, number[]> }, { s_r: number; n_total: number; groups: number }>(
    "c-repeatability",
    "repeatability",
  )) {
    it(id, () => {
      // The core pools on logarithms: values exp(x / 1000) have the logs x / 1000, so its SD is s_r / 1000.
      const cells = Object.values(input.groups).map((values) => ({ testKey: "t", group: "g", values: values.map((x) => Math.exp(x / 1000)) }));
      const pooled = poolRepeatability(cells).get("t");
      expectNear((pooled?.sLog as number) * 1000, expected.s_r, { rel: Math.max(tolerance.rel, 1e-9), abs: 1e-9 }, "s_r");
      expect(pooled?.df).toBe(expected.n_total - expected.groups);
    });
  }
});

interface CompareTwo {
  log_welch: { ratio_of_geometric_means: number; df: number; low: number; high: number };
}

describe("interval of a ratio with own variances (Welch on logarithms; R 4.2.2 t.test)", () => {
  for (const { id, input, expected, tolerance } of casesOf<{ x: number[]; y: number[] }, CompareTwo>("d-compare-two", "compare_two")) {
    it(id, () => {
      const errors = [input.x, input.y].map((values, i) => {
        const { ss, df } = logScatter(values);
        return { weight: i === 0 ? 1 : -1, error: { variance: ss / df / values.length, df, pool: `cell ${i}` } };
      });
      const { se, df } = combineErrors(errors);
      const ratio = geometricMean(input.x) / geometricMean(input.y);
      expectNear(ratio, expected.log_welch.ratio_of_geometric_means, tolerance, "ratio_of_geometric_means");
      expectNear(df, expected.log_welch.df, tolerance, "df");
      expectNear(ratio * Math.exp(-t95(df) * se), expected.log_welch.low, tolerance, "low");
      expectNear(ratio * Math.exp(t95(df) * se), expected.log_welch.high, tolerance, "high");
    });
  }
});

describe("geometric means and the choice of baseline (Fleming & Wallace 1986; R 4.2.2)", () => {
  for (const { id, input, expected, tolerance } of casesOf<{ x: number[]; weights: number[] }, { geometric_mean: number }>("e-indices", "weighted_geomean")) {
    it(id, () => expectNear(geometricMean(input.x, input.weights), expected.geometric_mean, tolerance, "geometric_mean"));
  }

  interface Paradox {
    by_baseline: Record<string, { geometric_mean_of_normalised: Record<string, number> }>;
  }
  for (const { id, input, expected, tolerance } of casesOf<{ table: Record<string, number[]>; higher_is_better: boolean }, Paradox>(
    "e-indices",
    "normalisation_paradox",
  )) {
    it(`${id}: the geometric mean of ratios`, () => {
      for (const [baseline, { geometric_mean_of_normalised: wanted }] of Object.entries(expected.by_baseline)) {
        for (const [part, value] of Object.entries(wanted)) {
          const ratios = (input.table[part] as number[]).map((one, i) => one / (input.table[baseline]?.[i] as number));
          expectNear(geometricMean(ratios), value, tolerance, `${part} against ${baseline}`);
        }
      }
    });
  }

  it("weighs every workload the same, whatever its number of tests", () => {
    const weights = testWeights(DEMO_TESTS.slice(0, 4));
    expect([...weights].map((weight) => Number(weight.toFixed(12)))).toEqual([1 / 6, 1 / 6, 1 / 6, 1 / 2].map((weight) => Number(weight.toFixed(12))));
  });
});

interface Prices {
  parts: { name: string; price: number; fps: number }[];
  baseline: string;
}
interface PriceAnswers {
  price_per_frame: Record<string, number>;
  frames_per_currency: Record<string, number>;
  relative_value_percent: Record<string, number>;
  break_even_price: Record<string, number>;
  marginal_price_per_frame: Record<string, number | null>;
}

describe("price per frame (common practice; refgen.py, R 4.2.2)", () => {
  for (const { id, input, expected, tolerance } of casesOf<Prices, PriceAnswers>("g-value", "price_per_frame")) {
    it(id, () => {
      const rows = valueRows(
        input.parts.map(({ name, price, fps }) => ({ id: name, price, performance: fps })),
        input.baseline,
      );
      for (const row of rows) {
        expectNear(row.costPerFrame, expected.price_per_frame[row.id] as number, tolerance, "price_per_frame");
        expectNear(row.framesPerCurrency, expected.frames_per_currency[row.id] as number, tolerance, "frames_per_currency");
        expectNear((row.relativeValue as number) * 100, expected.relative_value_percent[row.id] as number, tolerance, "relative_value_percent");
        expectNear(row.breakEvenPrice, expected.break_even_price[row.id] as number, tolerance, "break_even_price");
        expectNear(row.marginalCostPerFrame, expected.marginal_price_per_frame[row.id] as number | null, tolerance, "marginal_price_per_frame");
      }
    });
  }
  for (const { id, input, expected } of casesOf<
    { parts: { name: string; price: number; performance: number }[] },
    { front_by_price: string[]; dominated_count: number }
  >("g-value", "pareto")) {
    it(`${id}: the frontier`, () => {
      const rows = valueRows(
        input.parts.map(({ name, price, performance }) => ({ id: name, price, performance })),
        input.parts[0]?.name as string,
      );
      const front = rows.filter(({ onFrontier }) => onFrontier).map((row) => row.id);
      expect(front.sort()).toEqual([...expected.front_by_price].sort());
      expect(rows.length - front.length).toBe(expected.dominated_count);
    });
  }
});

describe("energy (trapezoidal rule; numpy.trapz, R 4.2.2)", () => {
  interface PowerLog {
    energy_j: number;
    time_weighted_mean_w: number;
    joules_per_frame: number;
  }
  for (const { id, input, expected, tolerance } of casesOf<{ t_s: number[]; watts: number[]; frames: number }, PowerLog>("h-energy", "power_log")) {
    it(id, () => {
      const t = Float64Array.from(input.t_s);
      // These logs are sparse on purpose; the rule on holes is not what is checked here, so stretches are added up.
      let joules = 0;
      for (let i = 1; i < t.length; i += 1) {
        const parts = Math.ceil(((t[i] as number) - (t[i - 1] as number)) / 2);
        for (let k = 0; k < parts; k += 1) {
          const at = (share: number, values: ArrayLike<number>) => (values[i - 1] as number) + share * ((values[i] as number) - (values[i - 1] as number));
          const times = Float64Array.of(at(k / parts, t), at((k + 1) / parts, t));
          const watts = Float64Array.of(at(k / parts, input.watts), at((k + 1) / parts, input.watts));
          const energy = energyOverWindow(times, watts, times[0] as number, times[1] as number);
          if (!energy.ok) throw new Error(energy.problem.kind);
          joules += energy.value.joules;
        }
      }
      expectNear(joules, expected.energy_j, tolerance, "energy_j");
      expectNear(joules / ((t.at(-1) as number) - (t[0] as number)), expected.time_weighted_mean_w, tolerance, "time_weighted_mean_w");
      expectNear(1 / framesPerJoule(input.frames, joules), expected.joules_per_frame, tolerance, "joules_per_frame");
    });
  }
  for (const { id, input, expected, tolerance } of casesOf<{ watts: number; fps: number }, { frames_per_joule: number }>("h-energy", "energy_per_frame")) {
    it(`${id}: frames per joule are fps per watt`, () =>
      expectNear(framesPerJoule(input.fps, input.watts), expected.frames_per_joule, tolerance, "frames_per_joule"));
  }
});

describe("frame caps (constructed series)", () => {
  for (const { id, input, expected } of casesOf<{ frametimes_ms: number[] }, { capped: boolean | "partly"; cap_hz: number | null }>(
    "m-cap-detection",
    "cap_detection",
  )) {
    it(`${id}: capped ${expected.capped}`, () => {
      const judged = judgeCap(measurePacing(Float64Array.from(input.frametimes_ms)), input.frametimes_ms.length, DEFAULT_THRESHOLDS);
      if (expected.capped === false) expect(judged.capped).toBe("no");
      else {
        // "Partly" is neither a plain yes nor a plain no.
        expect(judged.capped).toBe(expected.capped === "partly" ? "partly" : "yes");
        if (judged.capped !== "no") expect(Math.abs(judged.rateFps / (expected.cap_hz as number) - 1)).toBeLessThan(0.01);
      }
    });
  }
});

describe("order of setups with sequence-dependent changes (optimum by every order, and by Held-Karp in R 4.2.2)", () => {
  interface Expected {
    optimum_total: number;
  }
  for (const { id, input, expected } of casesOf<{ setup_minutes: number[][]; start_fixed: number | null }, Expected>("k-scheduling", "setup_order")) {
    it(id, () => {
      const n = input.setup_minutes.length;
      const start = Array.from({ length: n }, (_, j) => (input.start_fixed === null || input.start_fixed === j ? 0 : Number.POSITIVE_INFINITY));
      const problem = { minutes: Array(n).fill(0), change: input.setup_minutes, benches: [{ fixedMinutes: 0, start, end: Array(n).fill(0) }] };
      const order = finishSearch(orderOnBenches(problem, createRandom(1), 1));
      expect(order.exact).toBe(true);
      expect(order.changeMinutes).toBe(expected.optimum_total);
      const sequence = order.sequences[0] as number[];
      expect([...sequence].sort((a, b) => a - b)).toEqual([...Array(n).keys()]);
      expect(sequence.slice(1).reduce((sum, to, i) => sum + (input.setup_minutes[sequence[i] as number]?.[to] as number), 0)).toBe(expected.optimum_total);
      expect(lowerBound(problem)).toBeLessThanOrEqual(expected.optimum_total + 1e-9);
    });
  }
});

describe("makespan on identical benches (optimum by every assignment, and by subset programming in R 4.2.2)", () => {
  interface Expected {
    optimum_makespan: number;
    lower_bound: number;
  }
  for (const { id, input, expected } of casesOf<{ jobs_minutes: number[]; benches: number }, Expected>("k-scheduling", "makespan")) {
    it(id, () => {
      const none = input.jobs_minutes.map(() => 0);
      const benches = Array.from({ length: input.benches }, () => ({ fixedMinutes: 0, start: none, end: none }));
      const problem = { minutes: input.jobs_minutes, change: input.jobs_minutes.map(() => none), benches };
      const order = finishSearch(orderOnBenches(problem, createRandom(1), 1));
      expect(order.makespanMinutes).toBe(expected.optimum_makespan);
      expect(order.exact).toBe(true);
      expect(order.sequences.flat().sort((a, b) => a - b)).toEqual([...none.keys()]);
      expect(lowerBound(problem)).toBe(expected.lower_bound);
    });
  }
});
