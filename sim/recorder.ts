import type { Random } from "@/core/random";

/** What the stand-in for a frame recorder plays. */
export interface SceneModel {
  /** The rate that the recorded run comes to. */
  fps: number;
  lengthS: number;
  /** Spread of frame times within the run (log scale). */
  frameSpread: number;
  stutterShare: number;
  /** A limiter left on: no frame comes sooner than 1/capFps. */
  capFps?: number;
}

/** Instruments write four decimals of a millisecond. */
const tenthOfMicrosecond = (ms: number) => Math.round(ms * 10_000) / 10_000;

/**
 * Records a run: slow scene changes, frame-to-frame jitter and rare stutters, scaled so that the run's rate is `fps`.
 * With a limiter, frames that would come sooner wait for its period (which jitters by about 1 %).
 */
export function recordFrames(scene: SceneModel, random: Random): Float64Array {
  const n = Math.max(2, Math.round(scene.fps * scene.lengthS));
  const frames = new Float64Array(n);
  // Two thirds of the variance is the scene, drifting over about a second; the rest is from frame to frame.
  const slow = scene.frameSpread * Math.sqrt(2 / 3);
  const fast = scene.frameSpread * Math.sqrt(1 / 3);
  const keep = Math.exp(-1 / scene.fps);
  const push = Math.sqrt(1 - keep * keep);
  let drift = random.normal();
  let total = 0;
  for (let i = 0; i < n; i += 1) {
    drift = keep * drift + push * random.normal();
    let frame = Math.exp(slow * drift + fast * random.normal());
    if (random.next() < scene.stutterShare) frame *= 3 + 3 * random.next();
    frames[i] = frame;
    total += frame;
  }
  const scale = (1000 * n) / scene.fps / total;
  for (let i = 0; i < n; i += 1) frames[i] = tenthOfMicrosecond((frames[i] as number) * scale);
  if (scene.capFps === undefined) return frames;
  const period = 1000 / scene.capFps;
  const held = frames.map((frame) => tenthOfMicrosecond(Math.max(frame, period) * (1 + 0.004 * random.normal())));
  let elapsedMs = 0;
  const end = held.findIndex((frame) => {
    elapsedMs += frame;
    return elapsedMs > scene.lengthS * 1000;
  });
  return end > 0 ? held.slice(0, end) : held;
}

/** Records a power log: irregular times, from before the run to after it, and a meter that jitters. */
export function recordPower(meanW: number, lengthS: number, random: Random): { t: number[]; watts: number[] } {
  const t: number[] = [];
  const watts: number[] = [];
  let wander = 0;
  for (let at = -1 - random.next() * 0.5; at < lengthS + 1.5; at += 0.4 + 0.2 * random.next()) {
    wander = 0.9 * wander + 0.008 * random.normal();
    t.push(Math.round(at * 1000) / 1000);
    watts.push(Math.round(meanW * (1 + wander) * 10) / 10);
  }
  return { t, watts };
}
