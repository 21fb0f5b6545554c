import { eq } from "drizzle-orm";
import type { FrameStatistics, SensorLog } from "@/core/capture";
import type { RunRecord } from "@/core/report";
import { audit, people, runStatistics, runs, runValues, setups, traceEdits, traces } from "@/db/schema";
import { readTraces } from "@/db/traces";
import { logsOf } from "./runSeries";
import type { Deps } from "./useCase";

/** The record of a run; undefined where there is none of that id. */
export async function loadRun(deps: Deps, runId: string): Promise<RunRecord | undefined> {
  const [row] = await deps.database
    .select()
    .from(runs)
    .innerJoin(setups, eq(setups.id, runs.setupId))
    .leftJoin(runStatistics, eq(runStatistics.runId, runs.id))
    .where(eq(runs.id, runId));
  if (!row) return undefined;
  const channels = await deps.database
    .select({ log: traces.log, channel: traces.channel, unit: traces.unit, count: traces.count, sha256: traces.sha256 })
    .from(traces)
    .where(eq(traces.runId, runId))
    .orderBy(traces.log, traces.position);
  const values = await deps.database
    .select({ metric: runValues.metric, value: runValues.value, unit: runValues.unit, at: runValues.at })
    .from(runValues)
    .where(eq(runValues.runId, runId))
    .orderBy(runValues.metric);
  const history = await deps.database
    .select({ who: people.name, action: audit.action, at: audit.at, detail: audit.detail })
    .from(audit)
    .innerJoin(people, eq(people.id, audit.who))
    .where(eq(audit.subject, `run:${runId}`))
    .orderBy(audit.id);
  const edits = await deps.database.select().from(traceEdits).where(eq(traceEdits.runId, runId)).orderBy(traceEdits.fromS, traceEdits.at);
  const { runs: run, setups: setup } = row;
  return {
    id: run.id,
    rowVersion: run.rowVersion,
    setupLabel: setup.label,
    sessionId: run.sessionId,
    startedAt: run.startedAt?.toISOString() ?? null,
    ambientC: run.ambientC,
    note: run.note,
    statistics: (row.run_statistics?.frames ?? null) as FrameStatistics | null,
    channels,
    trims: edits.map(({ fromS, toS, reason, who, at, undoneAt }) => ({ fromS, toS, reason, who, at: at?.toISOString() ?? null, undone: undoneAt !== null })),
    values,
    history: history.map(({ who, action, at, detail }) => ({
      who,
      action,
      at: at.toISOString(),
      reason: (detail as { reason?: string | null }).reason ?? null,
    })),
  };
}

/** A run's frame times as little-endian doubles in milliseconds; undefined where it has none. */
export async function loadFrames(deps: Deps, runId: string): Promise<Float64Array | undefined> {
  const [series] = await readTraces(deps.database, [runId], "frames");
  return series?.values;
}

/** A run's sensor log; undefined where it has none. */
export async function loadSensors(deps: Deps, runId: string): Promise<SensorLog | undefined> {
  return logsOf(await readTraces(deps.database, [runId], "sensors")).sensors ?? undefined;
}
