import { and, asc, eq } from "drizzle-orm";
import { judgeFit } from "@/core/bench";
import { revivePlan, type SheetEvent, sheetSteps, timesOf } from "@/core/plan";
import type { SheetModel } from "@/core/report";
import type { Tx } from "@/db/client";
import { benches, benchState, reviews, sheetEvents } from "@/db/schema";
import { liveRecording, sheetKey } from "./liveSheets";
import { fittedParts, loadFitParts, loadRevisions } from "./loadBenches";
import { loadLabHours, loadObservations, loadPlanTests, loadStoredPlan } from "./loadPlan";
import { loadPlanSetups } from "./loadSetups";
import type { Deps } from "./useCase";

/** The events of a sheet, in order. */
export async function loadSheetEvents(tx: Tx, reviewId: string, planNumber: number, benchId: string): Promise<SheetEvent[]> {
  const rows = await tx
    .select()
    .from(sheetEvents)
    .where(and(eq(sheetEvents.reviewId, reviewId), eq(sheetEvents.planNumber, planNumber), eq(sheetEvents.benchId, benchId)))
    .orderBy(asc(sheetEvents.sequence));
  return rows.map(({ sequence, at, who, stepKey, kind, text, runId, pace }) => ({
    sequence,
    atMs: at.getTime(),
    who,
    stepKey,
    kind: kind as SheetEvent["kind"],
    text,
    runId,
    pace,
  }));
}

/** Loads the sheet of one bench under the plan in force; undefined where there is no such plan or bench in it. */
export async function loadSheet({ database }: Pick<Deps, "database">, reviewId: string, benchId: string): Promise<SheetModel | undefined> {
  const tx = database;
  const [review] = await tx.select().from(reviews).where(eq(reviews.id, reviewId));
  const stored = review && (await loadStoredPlan(tx, reviewId));
  const own = stored?.plan.benches.find(({ id }) => id === benchId);
  if (!review || !stored || !own) return undefined;
  const [bench] = await tx
    .select()
    .from(benches)
    .where(and(eq(benches.id, own.id), eq(benches.revision, own.revision)));
  const state = await tx
    .select({ key: benchState.key, value: benchState.value })
    .from(benchState)
    .where(and(eq(benchState.benchId, own.id), eq(benchState.revision, own.revision)))
    .orderBy(asc(benchState.key));
  const plan = revivePlan(stored.plan);
  const blocks = plan.benches.find(({ id }) => id === benchId)?.blocks ?? [];
  const tests = await loadPlanTests(tx, review.suiteId);
  const setups = await loadPlanSetups(tx, [...new Set(blocks.map(({ setupId }) => setupId))]);
  const [parts, revisions] = await Promise.all([loadFitParts(tx), loadRevisions(tx)]);
  const revision = revisions.find((one) => one.id === own.id && one.revision === own.revision);
  const stateOf = Object.fromEntries(state.map(({ key, value }) => [key, value]));
  // A cooler rated below the processor's power must never be left alone during a soak.
  const overRated = setups.filter((setup) =>
    judgeFit(
      fittedParts(
        revision ?? { parts: [] },
        setup.parts.map(({ partId }) => partId),
        parts,
      ),
      stateOf,
    ).some(({ rule, verdict }) => rule === "cooler rating" && verdict !== "fits" && verdict !== "not known"),
  );
  const times = timesOf({ observations: await loadObservations(tx), tests });
  const { hours } = await loadLabHours(tx);
  const key = sheetKey(reviewId, stored.number, benchId);
  return {
    review: { id: review.id, title: review.title, deadlineMs: review.embargoUntil?.getTime() ?? null },
    bench: { id: own.id, revision: own.revision, name: bench?.name ?? own.id, state },
    planNumber: stored.number,
    plannedSeconds: stored.plannedSeconds,
    startAtMs: Date.parse(stored.choices.startAt),
    steps: sheetSteps(
      // Tests that have left the suite since cannot be run from here; what is filed stays.
      blocks.map((block) => ({ ...block, tests: block.tests.filter(({ testKey }) => tests.some((test) => test.key === testKey)) })),
      {
        setups,
        tests,
        times,
        benchName: bench?.name ?? own.id,
        metersTheWall: stateOf.wall_meter !== undefined,
        overRated: new Set(overRated.map(({ id }) => id)),
      },
    ),
    events: await loadSheetEvents(tx, reviewId, stored.number, benchId),
    hours,
    recording: liveRecording(key)?.stepKey ?? null,
  };
}
