import type { FramePacing } from "@/core/capture";
import type { CheckThresholds } from "./finding";

/** Whether something held the frame rate down, at which rate, and on what evidence. */
export type CapJudgement = { capped: "no" } | ({ capped: "yes" | "partly"; rateFps: number } & Omit<FramePacing, "intervalMs">);

/** Fewer frames than this say nothing about pacing. */
const LEAST_FRAMES = 100;
/** From this share of frames near the interval the whole run is capped, below it only a part. */
const WHOLE_RUN_SHARE = 0.75;
const LEAST_PART = 0.2;

/**
 * Judges a frame cap from how a run's frames lie about their densest interval, at any rate: a share within ±1 % that free
 * frames do not reach, and a one-sided edge, almost none faster. "Partly" where only some of the run was held.
 *
 * Source: the product's definition of the check; limits set on the constructed cases of the reference set
 * (free runs there have at most 9 % within ±1 % and a quarter of the frames beyond the edge).
 */
export function judgeCap(pacing: FramePacing | null, frames: number, limits: Pick<CheckThresholds, "capShareWithin1Percent" | "capShareFaster">): CapJudgement {
  if (!pacing || frames < LEAST_FRAMES) return { capped: "no" };
  const { intervalMs, ...shares } = pacing;
  const held = shares.shareWithin1Percent >= limits.capShareWithin1Percent && shares.shareFaster <= limits.capShareFaster;
  if (!held || shares.shareWithin10Percent < LEAST_PART) return { capped: "no" };
  return { capped: shares.shareWithin10Percent >= WHOLE_RUN_SHARE ? "yes" : "partly", rateFps: 1000 / intervalMs, ...shares };
}
