import { and, eq, sql } from "drizzle-orm";
import { FRAME_METHOD_VERSION, type Recording } from "@/core/capture";
import type { StepState } from "@/core/plan";
import type { SheetModel } from "@/core/report";
import type { Tx } from "@/db/client";
import { runStatistics, runs, runValues, sessions, tests } from "@/db/schema";
import { insertTraces } from "@/db/traces";
import { checkAllReviews } from "./checkReviews";
import { deriveRun } from "./deriveRun";
import { seriesOf } from "./runSeries";
import { type Actor, type Deps, recordAudit } from "./useCase";

/** A run as a sheet files it. */
interface FiledRun {
  model: SheetModel;
  state: StepState;
  status: "valid" | "failed";
  reason: string | null;
  recording: Recording | null;
  result: number | null;
  endedMs: number;
}

/** Files a run of the sheet with its logs and statistics under the next free number of its cell; returns its id. The checks run again. */
export async function fileRun(tx: Tx, deps: Deps, actor: Actor, { model, state, status, reason, recording, result, endedMs }: FiledRun): Promise<string> {
  const [testId, version] = (state.step.testKey as string).split("@") as [string, string];
  const testVersion = Number(version);
  const cell = and(eq(runs.setupId, state.step.setupId), eq(runs.testId, testId), eq(runs.testVersion, testVersion));
  const [last] = await tx
    .select({ n: sql<number>`coalesce(max(${runs.number}), 0)::integer` })
    .from(runs)
    .where(cell);
  const number = (last?.n ?? 0) + 1;
  const id = `${state.step.setupId}-${testId}-v${version}-${number}`.slice(0, 120);
  const sessionId = `${model.review.id}-plan${model.planNumber}-${model.bench.id}`;
  await tx
    .insert(sessions)
    .values({
      id: sessionId,
      benchId: model.bench.id,
      benchRevision: model.bench.revision,
      operator: actor.name,
      startedAt: new Date(model.events[0]?.atMs ?? endedMs),
    })
    .onConflictDoNothing();
  const ambient = recording?.sensors?.channels.find(({ name }) => name === "ambient_c")?.values.find((value) => !Number.isNaN(value)) ?? null;
  const gaps = (recording?.gaps ?? []).map(
    ({ instrument, fromS, toS, reason: why }) =>
      `${instrument} gone at ${fromS.toFixed(1)} s${toS === null ? " for good" : `, back at ${toS.toFixed(1)} s`}: ${why}`,
  );
  const title = state.step.title.startsWith("Check for drift");
  await tx.insert(runs).values({
    id,
    setupId: state.step.setupId,
    testId,
    testVersion,
    number,
    sessionId,
    block: title ? (state.step.blockIndex === 0 ? "first" : "last") : null,
    startedAt: state.startedMs === null ? null : new Date(state.startedMs),
    endedAt: new Date(endedMs),
    ambientC: ambient,
    status,
    reason,
    note: [...state.notes, ...gaps].join("; ") || null,
  });
  const frames = recording && recording.frameTimesMs.length > 0 ? recording.frameTimesMs : null;
  if (recording) {
    await insertTraces(tx, seriesOf(id, { frames, sensors: recording.sensors }));
    await tx.insert(runStatistics).values({ runId: id, methodVersion: FRAME_METHOD_VERSION, ...deriveRun(frames, recording.sensors, []) });
  }
  if (result !== null) {
    const [test] = await tx
      .select({ unit: tests.unit })
      .from(tests)
      .where(and(eq(tests.id, testId), eq(tests.version, testVersion)));
    await tx.insert(runValues).values({ runId: id, metric: "result", value: result, unit: test?.unit ?? "" });
  }
  await checkAllReviews(tx, deps);
  await recordAudit(tx, deps, actor, { action: "file run", subject: `run:${id}`, detail: { status, reason, frames: frames?.length ?? 0 } });
  return id;
}
