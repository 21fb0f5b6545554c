import { createHash } from "node:crypto";
import { FRAME_METHOD_VERSION } from "@/core/capture";
import type { RunPlace, TakenLog } from "@/core/intake";
import { type PackedTrace, packTraces } from "@/db/packTraces";
import { type DerivedRun, deriveRun } from "./deriveRun";
import { seriesOf } from "./runSeries";

/** A run ready to be stored: its series packed, its statistics derived. Made on any thread; holds no connection. */
export interface PreparedRun {
  place: RunPlace;
  packed: PackedTrace[];
  derived: DerivedRun & { methodVersion: number };
  /** Of all its series: the same logs have the same hash, however they were written. */
  contentSha256: string;
  frames: number;
}

/** The hash of a run's content, from the hashes of its series in the order of their columns. */
export function contentSha256(packed: readonly Pick<PackedTrace, "log" | "position" | "channel" | "unit" | "sha256">[]): string {
  const lines = packed.map(({ log, position, channel, unit, sha256 }) => `${log}/${position}/${channel}_${unit}/${sha256}`).sort();
  return createHash("sha256").update(lines.join("\n")).digest("hex");
}

/** Packs and derives a run from its logs. */
export function prepareRun(place: RunPlace, { frameTimesMs, sensors }: TakenLog): PreparedRun {
  const packed = packTraces(seriesOf("", { frames: frameTimesMs, sensors }));
  return {
    place,
    packed,
    derived: { methodVersion: FRAME_METHOD_VERSION, ...deriveRun(frameTimesMs, sensors, []) },
    contentSha256: contentSha256(packed),
    frames: frameTimesMs?.length ?? 0,
  };
}
