import { and, asc, eq, inArray, sql } from "drizzle-orm";
import { testKey } from "@/core/bench";
import type { FrameRates, LabTest, RunSummary } from "@/core/cell";
import type { ReviewTest } from "@/core/report";
import type { Tx } from "@/db/client";
import * as t from "@/db/schema";

/** What sets a test apart from others of its workload, in words. */
export const settingsOf = (test: typeof t.tests.$inferSelect): string =>
  [
    test.scene,
    test.preset && `preset ${test.preset}`,
    test.rayTracing && `ray tracing ${test.rayTracing}`,
    test.upscaling && `upscaling ${test.upscaling}`,
    test.frameGeneration && `frame generation ${test.frameGeneration}`,
    test.api && `${test.api} API`,
    test.cache && `${test.cache} cache`,
  ]
    .filter((one) => one !== null && one !== "")
    .join(" · ");

const toTest = (row: { tests: typeof t.tests.$inferSelect; workloads: typeof t.workloads.$inferSelect }): LabTest => ({
  key: testKey(row.tests.id, row.tests.version),
  id: row.tests.id,
  version: row.tests.version,
  workloadId: row.workloads.id,
  workloadName: row.workloads.name,
  group: row.workloads.group,
  name: row.tests.name,
  kind: row.tests.kind as LabTest["kind"],
  unit: row.tests.unit,
  better: row.tests.better as LabTest["better"],
  resolution: row.tests.resolution,
  settings: settingsOf(row.tests),
  ladder: row.tests.ladderId !== null && row.tests.level !== null ? { id: row.tests.ladderId, level: row.tests.level } : null,
  mediaS: Number(row.tests.extra?.x_media_s) > 0 ? Number(row.tests.extra?.x_media_s) : null,
});

/** The tests of a suite, in its order. */
export async function loadSuiteTests(tx: Tx, suiteId: string): Promise<ReviewTest[]> {
  const rows = await tx
    .select()
    .from(t.suiteTests)
    .innerJoin(t.tests, and(eq(t.tests.id, t.suiteTests.testId), eq(t.tests.version, t.suiteTests.testVersion)))
    .innerJoin(t.workloads, eq(t.workloads.id, t.tests.workloadId))
    .where(eq(t.suiteTests.suiteId, suiteId))
    .orderBy(asc(t.suiteTests.position), asc(t.suiteTests.testId));
  return rows.map((row) => ({ ...toTest(row), runsWanted: row.suite_tests.runs, position: row.suite_tests.position }));
}

/** A run's rates without the statistics that only its own view shows: a review holds thousands of runs. */
function ratesOf(stored: unknown): FrameRates | null {
  if (!stored) return null;
  const { frames, durationS, averageFps, low1, low01 } = stored as FrameRates;
  return { frames, durationS, averageFps, low1, low01 };
}

/** All runs of the lab on some tests, with what was derived from them; pacing, facts and content only where the checks need them. */
export async function loadRuns(tx: Tx, tests: readonly LabTest[], { forChecks }: { forChecks: boolean }): Promise<RunSummary[]> {
  if (tests.length === 0) return [];
  const rows = await tx
    .select({
      id: t.runs.id,
      setupId: t.runs.setupId,
      testId: t.runs.testId,
      testVersion: t.runs.testVersion,
      number: t.runs.number,
      status: t.runs.status,
      reason: t.runs.reason,
      startedAt: t.runs.startedAt,
      frames: t.runStatistics.frames,
      pacing: t.runStatistics.pacing,
      energy: t.runStatistics.energy,
      facts: t.runStatistics.facts,
      block: t.runs.block,
      ambientC: t.runs.ambientC,
      rowVersion: t.runs.rowVersion,
      sessionId: t.runs.sessionId,
      content: forChecks ? t.traces.sha256 : sql<null>`null`,
    })
    .from(t.runs)
    .leftJoin(t.runStatistics, eq(t.runStatistics.runId, t.runs.id))
    .leftJoin(t.traces, forChecks ? and(eq(t.traces.runId, t.runs.id), eq(t.traces.log, "frames"), eq(t.traces.position, 0)) : sql`false`)
    .where(
      inArray(
        sql`(${t.runs.testId}, ${t.runs.testVersion})`,
        tests.map((test) => sql`(${test.id}, ${test.version}::integer)`),
      ),
    )
    .orderBy(asc(t.runs.id));
  const values = await tx
    .select()
    .from(t.runValues)
    .where(
      and(
        inArray(t.runValues.metric, ["result", "power", "energy", "output_bytes", "cpu_load"]),
        sql`${t.runValues.runId} = any(${sql.param(rows.map(({ id }) => id))}::text[])`,
      ),
    );
  const valuesOf = new Map<string, typeof values>();
  for (const value of values) valuesOf.set(value.runId, [...(valuesOf.get(value.runId) ?? []), value]);
  const said = await tx
    .select({ runId: t.opinions.runId, score: sql<number>`avg(${t.opinions.score})::float8` })
    .from(t.opinions)
    .where(sql`${t.opinions.runId} = any(${sql.param(rows.map(({ id }) => id))}::text[])`)
    .groupBy(t.opinions.runId);
  const opinionOf = new Map(said.map(({ runId, score }) => [runId, score]));
  const valueOf = (runId: string, metric: string) => valuesOf.get(runId)?.find((one) => one.metric === metric)?.value ?? null;
  return rows.map((row) => {
    const frames = ratesOf(row.frames);
    const energy = { ...(row.energy as RunSummary["energy"] | null) };
    for (const { metric, value, unit, at } of valuesOf.get(row.id) ?? []) {
      if (!frames || !at) continue;
      const place = at as keyof RunSummary["energy"];
      const inJoules: Record<string, number> = { "power W": value * frames.durationS, "energy J": value, "energy Wh": value * 3600 };
      const joules = inJoules[`${metric} ${unit}`];
      if (joules !== undefined && joules > 0 && !energy[place]) energy[place] = { joules, meanW: joules / frames.durationS };
    }
    return {
      id: row.id,
      setupId: row.setupId,
      testKey: testKey(row.testId, row.testVersion),
      number: row.number,
      status: row.status as RunSummary["status"],
      reason: row.reason,
      startedAt: row.startedAt?.toISOString() ?? null,
      frames,
      pacing: forChecks ? (row.pacing as RunSummary["pacing"]) : null,
      facts: forChecks ? (row.facts as RunSummary["facts"]) : null,
      content: row.content,
      block: row.block,
      ambientC: row.ambientC,
      energy,
      result: valueOf(row.id, "result"),
      outputBytes: valueOf(row.id, "output_bytes"),
      typed: row.frames === null && row.facts === null && row.sessionId === null,
      rowVersion: row.rowVersion,
      cpuLoad: (row.facts as RunSummary["facts"])?.cpuLoad ?? valueOf(row.id, "cpu_load"),
      opinion: opinionOf.get(row.id) ?? null,
    };
  });
}
