import { createRandom, type Random } from "@/core/random";
import { recordFrames } from "./recorder";
import { trueFps, truePowerW, trueRunSpread } from "./truth";
import { CARDS, type CardTruth, GAMES, type GameTruth, NEW_CARDS } from "./world";

/** What a host of instruments is asked to record. */
export interface RecordingRequest {
  setup: { id: string; parts: { partId: string; kind: string; maker?: string | null }[]; state: Record<string, string> };
  test: { id: string; workload_id: string; kind: string; resolution: string | null; warmup_s: number; length_s: number };
  attempt: number;
  run: string;
  pace: number;
}

/** A message of the instruments' interface, in bench seconds from the start of the run. */
export type PlayedMessage = { t_s: number } & (
  | { kind: "frames"; frame_time_ms: number[] }
  | { kind: "sensors"; values: Record<string, number> }
  | { kind: "gone"; instrument: string; reason: string }
  | { kind: "back"; instrument: string }
  | { kind: "result"; value: number; unit: string }
  | { kind: "crash"; reason: string }
  | { kind: "end" }
);

export const AMBIENT_C = 22;
const CEILING_C = 83;
/** Seconds by which a card comes two thirds of the way to its temperature. */
const WARMS_IN_S = 55;

const hashOf = (text: string) => [...text].reduce((hash, letter) => (Math.imul(hash, 31) + letter.charCodeAt(0)) >>> 0, 17);
const unitOf = (text: string) => (hashOf(text) % 10_000) / 10_000;
const round = (value: number, digits: number) => Math.round(value * 10 ** digits) / 10 ** digits;

/** A card of the world, or one made up for a part that the world does not know: always the same for the same id. */
export function cardOf(request: RecordingRequest): CardTruth {
  const id = request.setup.parts.find(({ kind }) => kind === "gpu")?.partId ?? "grebe-12";
  const known = [...CARDS, ...NEW_CARDS].find((card) => card.id === id);
  return (
    known ?? {
      ...(CARDS[0] as CardTruth),
      id,
      maker: request.setup.parts[0]?.maker ?? "",
      speed: 0.7 + 0.8 * unitOf(id),
      boardPowerW: Math.round(120 + 160 * unitOf(`${id}w`)),
    }
  );
}

function gameOf(request: RecordingRequest): GameTruth {
  const known = GAMES.find(({ id }) => id === request.test.workload_id);
  return known ?? { ...(GAMES[0] as GameTruth), id: request.test.workload_id, baseFps: 60 + 100 * unitOf(request.test.workload_id) };
}

interface Scene {
  frames: Float64Array;
  warmUp: Float64Array;
  powerW: number;
}

/** Frames of warm-up and run under the faults that are on. */
function playScene(request: RecordingRequest, on: ReadonlySet<string>, random: Random): Scene {
  const [card, game] = [cardOf(request), gameOf(request)];
  const resolution = request.test.resolution ?? "2560x1440";
  const slower =
    (on.has("memory-profile") ? 0.945 : 1) * (on.has("one-stick") ? 0.88 : 1) * (on.has("old-firmware") ? 0.96 : 1) * (on.has("recorder") ? 0.97 : 1);
  const fps = trueFps(card, game, resolution) * slower * Math.exp(trueRunSpread(game, resolution) * random.normal());
  const model = {
    fps,
    frameSpread: game.frameSpread * (on.has("one-stick") ? 1.7 : on.has("memory-profile") ? 1.3 : 1),
    stutterShare: game.stutterShare * (on.has("one-stick") ? 6 : 1),
    ...(on.has("cap") && { capFps: Math.max(30, Math.floor((0.9 * fps) / 15) * 15) }),
  };
  const frames = recordFrames({ ...model, lengthS: request.test.length_s }, random);
  let elapsedMs = 0;
  const glitchMs = 1000 * request.test.length_s * (0.3 + 0.3 * random.next());
  for (let i = 0; i < frames.length; i += 1) {
    const before = elapsedMs;
    let frame = frames[i] as number;
    if (on.has("throttling")) frame *= before > 1000 * Math.min(25, 0.4 * request.test.length_s) ? 1.11 : 1;
    if (on.has("glitch") && before > glitchMs && before < glitchMs + 450) frame *= 6;
    frames[i] = round(frame, 4);
    elapsedMs += frame;
  }
  const warmUp = request.test.warmup_s > 0 ? recordFrames({ ...model, fps: 0.985 * fps, lengthS: request.test.warmup_s }, random) : new Float64Array();
  if (on.has("recorder")) for (const series of [warmUp, frames]) addHitches(series, random);
  return { frames, warmUp, powerW: truePowerW(card, game, resolution) * (on.has("cap") ? 0.82 : 1) };
}

/** A background recorder writes about once a second, and a frame waits for it. */
function addHitches(series: Float64Array, random: Random): void {
  let elapsedMs = 0;
  let nextMs = 800;
  for (let i = 0; i < series.length; i += 1) {
    if (elapsedMs > nextMs) {
      series[i] = round((series[i] as number) + 28, 4);
      nextMs += 900 + 200 * random.next();
    }
    elapsedMs += series[i] as number;
  }
}

/** The readings of all instruments at one time, those that gave one. */
function readAt(t: number, request: RecordingRequest, scene: Scene, on: ReadonlySet<string>, random: Random): Record<string, number> {
  const since = t + request.test.warmup_s;
  const warmth = 1 - Math.exp(-since / WARMS_IN_S);
  const throttling = on.has("throttling");
  const gpuC = throttling ? Math.min(CEILING_C, 45 + 52 * warmth + 8) : AMBIENT_C + 12 + (28 + 0.06 * scene.powerW) * warmth;
  const hot = throttling && gpuC >= CEILING_C - 1;
  const probeOff = on.has("probe") && t > 0.3 * request.test.length_s;
  const jitter = (share: number) => 1 + share * random.normal();
  return {
    gpu_w: round(scene.powerW * (hot ? 0.9 : 1) * jitter(0.008), 1),
    wall_w: round((scene.powerW * (hot ? 0.9 : 1) + 118) * 1.1 * jitter(0.01), 1),
    gpu_c: round(gpuC + 0.2 * random.normal(), 1),
    hotspot_c: round(probeOff ? AMBIENT_C + 6 * Math.exp(-(t - 0.3 * request.test.length_s) / 8) : gpuC + 11 + 0.4 * random.normal(), 1),
    ambient_c: round(AMBIENT_C + 0.1 * random.normal(), 1),
    noise_dba: round(31 + 9 * warmth + 0.3 * random.normal(), 1),
    gpu_ghz: round(cardOf(request).boostGhz * (hot ? 0.9 : 1) * jitter(0.003), 3),
    cpu_ghz: round((on.has("old-firmware") ? 4.3 : 4.9) * jitter(0.004), 3),
    gpu_load_ratio: round(Math.min(1, (on.has("cap") ? 0.78 : 0.985) * jitter(0.006)), 3),
    cpu_load_ratio: round((on.has("recorder") ? 0.58 : 0.36) * jitter(0.03), 3),
    memory_mts: on.has("memory-profile") ? 4800 : 6000,
    memory_channels: on.has("one-stick") ? 1 : 2,
  };
}

/**
 * Everything the stand-ins send of one recording, in order: irregular times, readings that drop out, a meter that goes
 * away and comes back now and then, frames in small batches, a crash where that fault is on. Seeded by the run's name.
 */
export function playRecording(request: RecordingRequest, on: ReadonlySet<string>, seed: number): PlayedMessage[] {
  const random = createRandom(seed).fork(request.run);
  const messages: PlayedMessage[] = [];
  const { warmup_s: warmUpS, length_s: lengthS } = request.test;
  const framed = request.test.kind === "frames";
  const scene = framed ? playScene(request, on, random) : { frames: new Float64Array(), warmUp: new Float64Array(), powerW: cardOf(request).boardPowerW };
  let framesEndS = lengthS;
  for (const [series, fromS] of [
    [scene.warmUp, -warmUpS],
    [scene.frames, 0],
  ] as const) {
    let atS = fromS;
    for (let i = 0; i < series.length; ) {
      const batch: number[] = [];
      const startS = atS;
      while (i < series.length && atS - startS < 0.25) {
        batch.push(series[i] as number);
        atS += (series[i] as number) / 1000;
        i += 1;
      }
      // Negative times are warm-up; the last batch of it may reach past zero by a frame.
      messages.push({ kind: "frames", t_s: round(fromS < 0 ? Math.min(startS, -0.001) : startS, 4), frame_time_ms: batch });
    }
    if (fromS === 0 && series.length > 0) framesEndS = atS;
  }
  const gone = random.next() < 0.06 ? { fromS: lengthS * (0.2 + 0.5 * random.next()), forS: 3 + 3 * random.next() } : undefined;
  if (gone && gone.fromS + gone.forS < lengthS)
    messages.push(
      { kind: "gone", t_s: round(gone.fromS, 3), instrument: "wall-meter", reason: "cable" },
      { kind: "back", t_s: round(gone.fromS + gone.forS, 3), instrument: "wall-meter" },
    );
  for (let t = -warmUpS; t < framesEndS + 1.5; t += 0.4 + 0.2 * random.next()) {
    const values = readAt(t, request, scene, on, random);
    if (random.next() < 0.03) delete values.noise_dba;
    if (gone && t > gone.fromS && t < gone.fromS + gone.forS) delete values.wall_w;
    messages.push({ kind: "sensors", t_s: round(t, 3), values });
  }
  if (!framed && request.test.kind !== "soak" && request.test.kind !== "sound")
    messages.push({
      kind: "result",
      t_s: round(lengthS, 3),
      value: round(lengthS * (0.8 + 0.4 * unitOf(request.setup.id)) * Math.exp(0.01 * random.normal()), 2),
      unit: "s",
    });
  messages.sort((a, b) => a.t_s - b.t_s);
  if (on.has("crash")) {
    const crashS = lengthS * (0.4 + 0.2 * random.next());
    return [...messages.filter(({ t_s }) => t_s < crashS), { kind: "crash", t_s: round(crashS, 2), reason: `stopped by itself after ${Math.round(crashS)} s` }];
  }
  return [...messages, { kind: "end", t_s: round(framesEndS + 1.5, 3) }];
}
