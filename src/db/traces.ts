import { and, asc, eq, inArray, sql } from "drizzle-orm";
import { decodeTrace, type TraceCodec } from "@/core/capture";
import type { Tx } from "./client";
import { type PackedTrace, packTraces, type TraceSeries } from "./packTraces";
import { traces } from "./schema";

const BYTES_PER_STATEMENT = 8 * 2 ** 20;

/**
 * Stores packed series. All their bytes go as one value that the statement cuts up: a parameter a series would cost more
 * than the series themselves, most of which have a few hundred bytes.
 */
export async function insertPacked(tx: Tx, packed: readonly PackedTrace[]): Promise<void> {
  for (let from = 0; from < packed.length; ) {
    let to = from;
    let size = 0;
    const rows: (Omit<PackedTrace, "bytes"> & { at: number; size: number })[] = [];
    for (; to < packed.length && (to === from || size + (packed[to] as PackedTrace).bytes.length <= BYTES_PER_STATEMENT); to += 1) {
      const { bytes, ...row } = packed[to] as PackedTrace;
      rows.push({ ...row, at: size + 1, size: bytes.length });
      size += bytes.length;
    }
    const whole = Buffer.concat(
      packed.slice(from, to).map(({ bytes }) => bytes),
      size,
    );
    await tx.execute(sql`
      insert into ${traces} (run_id, log, position, channel, unit, codec, count, sha256, bytes)
      select p."runId", p.log, p.position, p.channel, p.unit, p.codec, p.count, p.sha256, substring(b.whole from p.at for p.size)
      from (select ${whole}::bytea as whole) b,
        json_to_recordset(${JSON.stringify(rows)}::json) as p("runId" text, log text, position integer, channel text, unit text,
          codec text, count integer, sha256 text, at integer, size integer)`);
    from = to;
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
