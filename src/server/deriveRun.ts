import {
  countFrames,
  type FramePacing,
  type FrameStatistics,
  frameStatistics,
  keptStretches,
  measurePacing,
  type RunFacts,
  runFacts,
  type SensorLog,
  type Trim,
  withoutTrims,
} from "@/core/capture";
import type { RunSummary } from "@/core/cell";
import { energyOverWindow } from "@/core/power";
import { compensatedSum } from "@/core/stats";

/** What is derived from a run's logs and kept beside them. */
export interface DerivedRun {
  frames: FrameStatistics | null;
  pacing: FramePacing | null;
  energy: RunSummary["energy"];
  facts: RunFacts | null;
}

/** Where a power channel is metered. */
const POWER_CHANNELS = { gpu_w: "device", cpu_w: "package", wall_w: "wall" } as const;

/**
 * Derives a run's statistics from its logs without the trimmed stretches. Energy is over the same time as the frames;
 * a meter whose log does not cover it gives no energy: not known, rather than a part of it.
 */
export function deriveRun(frameTimesMs: Float64Array | null, sensors: SensorLog | null, trims: readonly Trim[]): DerivedRun {
  const kept = frameTimesMs && withoutTrims(frameTimesMs, trims);
  const counted = kept && kept.length > 0 ? countFrames(kept) : undefined;
  const frames = kept && counted ? frameStatistics(kept, counted) : null;
  const energy: DerivedRun["energy"] = {};
  if (frameTimesMs && frames && sensors) {
    const wholeS = kept === frameTimesMs ? frames.durationS : compensatedSum(frameTimesMs) / 1000;
    const stretches = keptStretches(wholeS, trims);
    for (const [name, at] of Object.entries(POWER_CHANNELS)) {
      const channel = sensors.channels.find((one) => one.name === name);
      if (!channel) continue;
      const parts = stretches.map(({ fromS, toS }) => energyOverWindow(sensors.timeS, channel.values, fromS, toS));
      if (!parts.every((part) => part.ok)) continue;
      const joules = parts.reduce((sum, part) => sum + (part.ok ? part.value.joules : 0), 0);
      const seconds = stretches.reduce((sum, { fromS, toS }) => sum + toS - fromS, 0);
      if (joules > 0) energy[at] = { joules, meanW: joules / seconds };
    }
  }
  return { frames, pacing: kept && counted ? measurePacing(kept, counted) : null, energy, facts: sensors ? runFacts(sensors) : null };
}
