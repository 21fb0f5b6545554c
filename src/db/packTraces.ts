import { createHash } from "node:crypto";
import { encodeTrace } from "@/core/capture";

/** A channel of a log on its way in or out. */
export interface TraceSeries {
  runId: string;
  log: "frames" | "sensors";
  position: number;
  channel: string;
  unit: string;
  values: Float64Array;
}

/** SHA-256 of a series as little-endian doubles: the same content has the same hash, however the log was written. */
export function seriesSha256(values: Float64Array): string {
  return createHash("sha256")
    .update(new Uint8Array(values.buffer, values.byteOffset, values.byteLength))
    .digest("hex");
}

/** A channel as it is stored. */
export type PackedTrace = Omit<TraceSeries, "values"> & { codec: string; count: number; bytes: Uint8Array; sha256: string };

/** Packs series as they are stored; the costly part of storing, and any thread may do it. */
export function packTraces(series: readonly TraceSeries[]): PackedTrace[] {
  return series.map(({ values, ...named }) => {
    const { codec, count, bytes } = encodeTrace(values);
    return { ...named, codec, count, bytes, sha256: seriesSha256(values) };
  });
}
