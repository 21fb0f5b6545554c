import { createHash } from "node:crypto";
import { and, asc, eq, inArray } from "drizzle-orm";
import { decodeTrace, encodeTrace, type TraceCodec } from "@/core/capture";
import type { Tx } from "./client";
import { traces } from "./schema";

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

const CHANNELS_PER_STATEMENT = 400;

/** A channel as it is stored. */
export type PackedTrace = Omit<TraceSeries, "values"> & { codec: string; count: number; bytes: Uint8Array; sha256: string };

/** Packs series as they are stored; the costly part of storing, and any thread may do it. */
export function packTraces(series: readonly TraceSeries[]): PackedTrace[] {
  return series.map(({ values, ...named }) => {
    const { codec, count, bytes } = encodeTrace(values);
    return { ...named, codec, count, bytes, sha256: seriesSha256(values) };
  });
}

/** Stores packed series. */
export async function insertPacked(tx: Tx, packed: readonly PackedTrace[]): Promise<void> {
  for (let from = 0; from < packed.length; from += CHANNELS_PER_STATEMENT) {
    await tx.insert(traces).values(packed.slice(from, from + CHANNELS_PER_STATEMENT).map((trace) => ({ ...trace, bytes: Buffer.from(trace.bytes) })));
  }
}

/** Stores series, bit for bit. */
export async function insertTraces(tx: Tx, series: readonly TraceSeries[]): Promise<void> {
  await insertPacked(tx, packTraces(series));
}

/** The channels of some runs, in the order of their logs' columns. */
export async function readTraces(tx: Tx, runIds: readonly string[], log?: "frames" | "sensors"): Promise<TraceSeries[]> {
  if (runIds.length === 0) return [];
  const rows = await tx
    .select()
    .from(traces)
    .where(and(inArray(traces.runId, [...runIds]), log ? eq(traces.log, log) : undefined))
    .orderBy(asc(traces.runId), asc(traces.log), asc(traces.position));
  return rows.map((row) => ({
    runId: row.runId,
    log: row.log as "frames" | "sensors",
    position: row.position,
    channel: row.channel,
    unit: row.unit,
    values: decodeTrace({ codec: row.codec as TraceCodec, count: row.count, bytes: row.bytes }),
  }));
}

/** Which logs each of some runs has, with the hash of their first channel's content; without reading the series. */
export async function readTraceHashes(tx: Tx, runIds: readonly string[]): Promise<Map<string, string[]>> {
  const hashes = new Map<string, string[]>();
  if (runIds.length === 0) return hashes;
  const rows = await tx
    .select({ runId: traces.runId, log: traces.log, position: traces.position, channel: traces.channel, unit: traces.unit, sha256: traces.sha256 })
    .from(traces)
    .where(inArray(traces.runId, [...runIds]))
    .orderBy(asc(traces.runId), asc(traces.log), asc(traces.position));
  for (const row of rows) {
    const text = `${row.log}/${row.position}/${row.channel}_${row.unit}/${row.sha256}`;
    hashes.set(row.runId, [...(hashes.get(row.runId) ?? []), text]);
  }
  return hashes;
}
