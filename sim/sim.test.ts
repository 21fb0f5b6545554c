import { describe, expect, it } from "vitest";
import { frameStatistics, InstrumentMessage, joinRecording, measurePacing } from "@/core/capture";
import { DEFAULT_THRESHOLDS, judgeCap } from "@/core/check";
import { createRandom } from "@/core/random";
import { FAULTS, INSTRUMENTS } from "./faults";
import { playRecording, type RecordingRequest } from "./playRecording";
import { recordFrames, recordPower } from "./recorder";
import { hiddenTruth, trueFps, truePowerW, trueRunSpread } from "./truth";
import { CARDS, GAMES, LAUNCH_UNITS, NEW_CARDS, REGION_FACTOR, REGIONS, RESOLUTIONS, SHOPS } from "./world";

const mean = (values: ArrayLike<number>) => Array.from(values).reduce((a, b) => a + b, 0) / values.length;
const [CARD] = CARDS as [(typeof CARDS)[number]];
const [GAME] = GAMES as [(typeof GAMES)[number]];

describe("createRandom", () => {
  it("gives the same stream for the same seed and another for another", () => {
    const stream = (seed: number) => Array.from({ length: 5 }, createRandom(seed).next);
    expect(stream(7)).toEqual(stream(7));
    expect(stream(7)).not.toEqual(stream(8));
  });

  it("is uniform and normal enough: mean and variance of 100,000 draws", () => {
    const random = createRandom(1);
    const uniform = Array.from({ length: 100_000 }, random.next);
    expect(mean(uniform)).toBeCloseTo(0.5, 2);
    expect(uniform.every((value) => value >= 0 && value < 1)).toBe(true);
    const normal = Array.from({ length: 100_000 }, random.normal);
    expect(mean(normal)).toBeCloseTo(0, 1);
    expect(mean(normal.map((value) => value * value))).toBeCloseTo(1, 1);
  });

  it("forks streams by name, so that one more consumer shifts no other", () => {
    const random = createRandom(3);
    const before = random.fork("a").next();
    random.next();
    expect(random.fork("a").next()).toBe(before);
    expect(random.fork("b").next()).not.toBe(before);
  });
});

describe("the stand-in for a frame recorder", () => {
  const scene = { fps: 90, lengthS: 20, frameSpread: 0.1, stutterShare: 0.001 };

  it("records a run whose rate is the one asked for, with four decimals, at the length asked for", () => {
    const frames = recordFrames(scene, createRandom(5));
    expect((1000 * frames.length) / frames.reduce((a, b) => a + b, 0)).toBeCloseTo(90, 2);
    expect(frames.every((frame) => frame > 0 && Math.abs(frame * 10_000 - Math.round(frame * 10_000)) < 1e-6)).toBe(true);
    expect(frames.reduce((a, b) => a + b, 0) / 1000).toBeCloseTo(20, 0);
  });

  it("holds frames at a limiter's period and ends at the scene's end", () => {
    const frames = recordFrames({ ...scene, capFps: 60 }, createRandom(5));
    expect(1000 / mean(frames)).toBeGreaterThan(56);
    expect(1000 / mean(frames)).toBeLessThan(60.5);
    expect(frames.reduce((a, b) => a + b, 0) / 1000).toBeLessThanOrEqual(20);
  });
});

describe("the stand-in for a power meter", () => {
  it("begins before the run, ends after it, rises in time, and is right on average", () => {
    const { t, watts } = recordPower(200, 60, createRandom(9));
    expect(t[0]).toBeLessThan(-0.9);
    expect(t.at(-1)).toBeGreaterThan(60);
    expect(t.every((at, i) => i === 0 || at > (t[i - 1] as number))).toBe(true);
    expect(Math.abs(mean(watts) / 200 - 1)).toBeLessThan(0.03);
  });
});

describe("the hidden truth", () => {
  it("has every card slower with more pixels, and none faster than the processor allows", () => {
    for (const card of CARDS) {
      for (const game of GAMES) {
        const rates = RESOLUTIONS.map((resolution) => trueFps(card, game, resolution));
        expect(rates[0] as number).toBeGreaterThan(rates[1] as number);
        expect(rates[1] as number).toBeGreaterThan(rates[2] as number);
        expect(rates[0] as number).toBeLessThan(game.cpuCeilingFps);
      }
    }
  });

  it("has a card draw less where it waits for the processor, and never more than its board power", () => {
    expect(truePowerW(CARD, GAME, "1920x1080")).toBeLessThanOrEqual(truePowerW(CARD, GAME, "3840x2160"));
    expect(hiddenTruth().every(({ card, powerW }) => powerW > 40 && powerW <= (CARDS.find(({ id }) => id === card)?.boardPowerW as number))).toBe(true);
  });

  it("spreads runs by about 1.2 %, differing by a quarter between tests", () => {
    const spreads = GAMES.flatMap((game) => RESOLUTIONS.map((resolution) => trueRunSpread(game, resolution)));
    expect(Math.min(...spreads)).toBeGreaterThan(0.009);
    expect(Math.max(...spreads)).toBeLessThan(0.016);
    expect(Math.abs(mean(spreads) / 0.012 - 1)).toBeLessThan(0.06);
  });

  it("has a price level, a regional factor and two shops for everything that is sold", () => {
    const sold = [...CARDS, ...NEW_CARDS];
    for (const { id } of sold) expect(LAUNCH_UNITS[id]).toBeGreaterThan(0);
    for (const { code } of REGIONS) {
      expect(Object.keys(REGION_FACTOR[code] ?? {}).sort()).toEqual(sold.map(({ id }) => id).sort());
      expect(SHOPS[code]).toHaveLength(2);
    }
  });
});

describe("playRecording", () => {
  const request = (more: Partial<RecordingRequest["test"]> = {}): RecordingRequest => ({
    setup: { id: "gpu-halyard-7", parts: [{ partId: "halyard-7", kind: "gpu" }], state: {} },
    test: { id: "copperfen-1440", workload_id: "copperfen", kind: "frames", resolution: "2560x1440", warmup_s: 60, length_s: 60, ...more },
    attempt: 1,
    run: "one",
    pace: 1,
  });
  const play = (fault?: string, seed = 7) => joinRecording(playRecording(request(), new Set(fault ? [fault] : []), seed) as InstrumentMessage[]);
  const last = (recording: ReturnType<typeof play>, channel: string) =>
    recording.sensors?.channels.find(({ name }) => name === channel)?.values.findLast((value) => !Number.isNaN(value)) as number;

  it("speaks the interface: every message of every fault reads, in the order of time", () => {
    for (const { id } of [...FAULTS, { id: "none" }]) {
      const messages = playRecording(request(), new Set([id]), 3);
      for (const message of messages) expect(InstrumentMessage.safeParse(message).success, id).toBe(true);
      const times = messages.map(({ t_s }) => t_s);
      expect(
        times.every((time, i) => i === 0 || time >= (times[i - 1] as number)),
        id,
      ).toBe(true);
      expect(["end", "crash"]).toContain(messages.at(-1)?.kind);
    }
    for (const { channels } of INSTRUMENTS) for (const channel of channels) expect(channel).toMatch(/^[a-z0-9]+(_[a-z0-9]+)+$/);
  });

  it("gives back the hidden rate of the card within its run-to-run spread, over the run and not the warm-up", () => {
    const recording = play();
    const card = NEW_CARDS.find(({ id }) => id === "halyard-7") as (typeof NEW_CARDS)[0];
    const game = GAMES.find(({ id }) => id === "copperfen") as (typeof GAMES)[0];
    const { averageFps, durationS } = frameStatistics(recording.frameTimesMs);
    expect(durationS).toBeCloseTo(60, 0);
    expect(Math.abs(Math.log(averageFps / trueFps(card, game, "2560x1440")))).toBeLessThan(0.06);
    expect(recording.complete).toBe(true);
  });

  it("leaves each fault's mark where its description says it can be seen", () => {
    const clean = play();
    const fps = (recording: typeof clean) => frameStatistics(recording.frameTimesMs);
    const low = (recording: typeof clean) => fps(recording).low1.percentileFps / fps(recording).averageFps;
    const capped = (recording: typeof clean) => judgeCap(measurePacing(recording.frameTimesMs), recording.frameTimesMs.length, DEFAULT_THRESHOLDS).capped;
    expect([capped(clean), capped(play("cap"))]).toEqual(["no", "yes"]);
    expect(last(play("memory-profile"), "memory_mts")).toBe(4800);
    expect(last(play("one-stick"), "memory_channels")).toBe(1);
    expect(low(play("one-stick"))).toBeLessThan(0.93 * low(clean));
    expect(last(play("old-firmware"), "cpu_ghz")).toBeLessThan(4.5);
    const throttled = play("throttling");
    expect(last(throttled, "gpu_c")).toBeGreaterThan(82);
    expect(last(throttled, "gpu_ghz")).toBeLessThan(0.93 * last(clean, "gpu_ghz"));
    expect(fps(play("recorder")).stutters).toBeGreaterThan(fps(clean).stutters + 30);
    expect(play("crash").crash).toMatch(/stopped by itself after \d+ s/);
    expect(Math.max(...play("glitch").frameTimesMs)).toBeGreaterThan(4 * fps(clean).medianFrameTimeMs);
    expect(last(play("probe"), "hotspot_c")).toBeLessThan(last(clean, "hotspot_c") - 20);
  });

  it("has instruments that go away and come back, noted as gaps, without a reading of zero", () => {
    const withGap = Array.from({ length: 60 }, (_, seed) => play(undefined, seed)).filter(({ gaps }) => gaps.length > 0);
    expect(withGap.length).toBeGreaterThan(0);
    const [{ gaps, sensors }] = withGap as [ReturnType<typeof play>];
    const { fromS, toS } = gaps[0] as { fromS: number; toS: number };
    expect(toS - fromS).toBeGreaterThan(2.9);
    const wall = sensors?.channels.find(({ name }) => name === "wall_w")?.values as Float64Array;
    sensors?.timeS.forEach((time, i) => {
      if (time > fromS && time < toS) expect(wall[i]).toBeNaN();
    });
    expect(wall.some((value) => value === 0)).toBe(false);
  });
});
