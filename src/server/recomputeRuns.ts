import { setImmediate } from "node:timers/promises";
import { sql } from "drizzle-orm";
import { decodeTrace, FRAME_METHOD_VERSION, type TraceCodec, type Trim } from "@/core/capture";
import type { Tx } from "@/db/client";
import type { TraceSeries } from "@/db/packTraces";
import { runStatistics, runs, traceEdits, traces } from "@/db/schema";
import { type DerivedRun, deriveRun } from "./deriveRun";
import { logsOf } from "./runSeries";

const RUNS_PER_READ = 16;

type SeriesHead = [log: "frames" | "sensors", position: number, channel: string, unit: string, codec: TraceCodec, count: number, size: number];

interface StoredRun extends Record<string, unknown> {
  id: string;
  series: SeriesHead[] | null;
  bytes: Buffer | null;
  trims: Trim[] | null;
}

/** The next runs by id with their logs: a row a run, as a row a series would cost more than the series. */
async function readRuns(tx: Tx, after: string, staleOnly: boolean): Promise<StoredRun[]> {
  const stale = sql`and exists (select 1 from ${runStatistics} s where s.run_id = r.id and s.method_version <> ${FRAME_METHOD_VERSION})`;
  const { rows } = await tx.execute<StoredRun>(sql`
    select r.id, s.series, s.bytes,
      (select json_agg(json_build_object('fromS', e.from_s, 'toS', e.to_s) order by e.from_s)
       from ${traceEdits} e where e.run_id = r.id and e.undone_at is null) as trims
    from (select id from ${runs} r where id > ${after} ${staleOnly ? stale : sql``} order by id limit ${RUNS_PER_READ}) r,
      lateral (select json_agg(json_build_array(t.log, t.position, t.channel, t.unit, t.codec, t.count, length(t.bytes))) as series,
          string_agg(t.bytes, ''::bytea) as bytes
        from (select * from ${traces} where run_id = r.id order by log, position) t) s
    order by r.id`);
  return rows;
}

function seriesIn({ id, series, bytes }: StoredRun): TraceSeries[] {
  let at = 0;
  return (series ?? []).map(([log, position, channel, unit, codec, count, size]) => {
    const values = decodeTrace({ codec, count, bytes: (bytes as Buffer).subarray(at, at + size) });
    at += size;
    return { runId: id, log, position, channel, unit, values };
  });
}

/**
 * Derives every run that has logs again from what is stored of it, without its trims, some at a time in bounded memory; the
 * next are fetched while these are reckoned. Nothing is written. `staleOnly`: those only whose statistics an older method made.
 */
export async function* recomputeRuns(tx: Tx, options = { staleOnly: false }): AsyncGenerator<{ runId: string; derived: DerivedRun }> {
  // A transaction has one connection, which its caller may want in between.
  const ahead = "$client" in tx;
  let coming: Promise<StoredRun[]> | undefined;
  for (let after = ""; ; ) {
    const stored = await (coming ?? readRuns(tx, after, options.staleOnly));
    const last = stored.at(-1);
    if (!last) return;
    after = last.id;
    coming = ahead ? readRuns(tx, after, options.staleOnly) : undefined;
    // Where nobody waits for them any more, what has become of them is of no interest.
    coming?.catch(() => {});
    for (const run of stored) {
      if (!run.series) continue;
      const { frames, sensors } = logsOf(seriesIn(run));
      yield { runId: run.id, derived: deriveRun(frames, sensors, run.trims ?? []) };
      // What has come in meanwhile is taken off the line, or the server would wait until this batch is done.
      await setImmediate();
    }
  }
}

/** Brings the statistics that an older method made up to the present one, all or nothing. Returns how many runs that were. */
export async function refreshStatistics(tx: Tx): Promise<number> {
  return tx.transaction(async (inner) => {
    let refreshed = 0;
    for await (const { runId, derived } of recomputeRuns(inner, { staleOnly: true })) {
      const now = { methodVersion: FRAME_METHOD_VERSION, ...derived };
      await inner
        .insert(runStatistics)
        .values({ runId, ...now })
        .onConflictDoUpdate({ target: runStatistics.runId, set: now });
      refreshed += 1;
    }
    return refreshed;
  });
}
