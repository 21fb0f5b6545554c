import { and, asc, desc, eq, inArray } from "drizzle-orm";
import { type LowSchool, testKey } from "@/core/bench";
import { cellKey, cellsOf, poolRepeatability } from "@/core/cell";
import { LabHours, PlanChoices, type PlanModel, type PlanSetup, StoredPlan, type TimeObservation } from "@/core/plan";
import type { Tx } from "@/db/client";
import * as t from "@/db/schema";
import { loadRuns, loadSuiteTests } from "./loadRuns";
import { loadPlanSetups } from "./loadSetups";
import type { Deps } from "./useCase";

/** The lab's hours with their version. */
export async function loadLabHours(tx: Tx): Promise<{ hours: LabHours; rowVersion: number }> {
  const [row] = await tx.select().from(t.labSettings).where(eq(t.labSettings.id, "lab"));
  return { hours: LabHours.parse(row?.hours), rowVersion: row?.rowVersion ?? 1 };
}

/** The plan in force of a review, or undefined where there is none. */
export async function loadStoredPlan(tx: Tx, reviewId: string) {
  const [row] = await tx.select().from(t.reviewPlans).where(eq(t.reviewPlans.reviewId, reviewId)).orderBy(desc(t.reviewPlans.number)).limit(1);
  return row && { ...row, choices: PlanChoices.parse(row.choices), plan: StoredPlan.parse(row.plan) };
}

/** Tests of a suite as plans need them. */
export async function loadPlanTests(tx: Tx, suiteId: string | null): Promise<PlanModel["tests"]> {
  if (!suiteId) return [];
  const suite = await loadSuiteTests(tx, suiteId);
  const rows =
    suite.length === 0
      ? []
      : await tx
          .select()
          .from(t.tests)
          .where(inArray(t.tests.id, [...new Set(suite.map(({ id }) => id))]));
  const rowOf = new Map(rows.map((row) => [testKey(row.id, row.version), row]));
  return suite.map((test) => {
    const row = rowOf.get(test.key);
    return {
      key: test.key,
      name: test.name,
      workloadId: test.workloadId,
      workloadName: test.workloadName,
      kind: test.kind,
      loads: row?.loads ?? null,
      resolution: test.resolution,
      runsWanted: test.runsWanted,
      loadS: row?.loadS ?? null,
      warmupS: row?.warmupS ?? null,
      lengthS: row?.lengthS ?? null,
      resetS: row?.resetS ?? null,
      settings: test.settings,
      startAt: row?.startAt ?? null,
      stopAt: row?.stopAt ?? null,
    };
  });
}

/** Times that the lab's sheets really took. */
export async function loadObservations(tx: Tx): Promise<TimeObservation[]> {
  const rows = await tx.select().from(t.stepTimes).orderBy(asc(t.stepTimes.id));
  return rows.map(({ activity, detail, seconds }) => ({ activity: activity as TimeObservation["activity"], detail, seconds }));
}

/** Every bench in its newest revision and in every revision that some setups stand on, with declared twins both ways. */
async function loadPlanBenches(tx: Tx, setups: readonly PlanSetup[]): Promise<PlanModel["benches"]> {
  const rows = await tx.select().from(t.benches).orderBy(asc(t.benches.id), desc(t.benches.revision));
  const twins = await tx.select().from(t.benchTwins);
  const newest = new Map<string, number>();
  for (const { id, revision } of rows) if (!newest.has(id)) newest.set(id, revision);
  return rows
    .filter(({ id, revision }) => newest.get(id) === revision || setups.some((setup) => setup.benchId === id && setup.benchRevision === revision))
    .map(({ id, revision, name }) => ({
      id,
      revision,
      name,
      twinOf: twins.flatMap((twin) => {
        if (twin.benchId === id && twin.revision === revision) return [{ id: twin.twinBenchId, revision: twin.twinRevision }];
        return twin.twinBenchId === id && twin.twinRevision === revision ? [{ id: twin.benchId, revision: twin.revision }] : [];
      }),
    }));
}

/** Loads all that planning a review needs; undefined where there is no such review. */
export async function loadPlan(deps: Deps, reviewId: string): Promise<PlanModel | undefined> {
  const tx = deps.database;
  const [review] = await tx.select().from(t.reviews).where(eq(t.reviews.id, reviewId));
  if (!review) return undefined;
  const members = await tx.select().from(t.reviewSetups).where(eq(t.reviewSetups.reviewId, reviewId)).orderBy(asc(t.reviewSetups.position));
  const setups = await loadPlanSetups(
    tx,
    members.map(({ setupId }) => setupId),
  );
  const tests = await loadPlanTests(tx, review.suiteId);
  const labTests = review.suiteId ? await loadSuiteTests(tx, review.suiteId) : [];
  const runs = await loadRuns(tx, labTests, { forChecks: false });
  const cells = cellsOf(runs, { metric: "result", school: (review.lowSchool as LowSchool | null) ?? "percentile", powerAt: "device" });
  const testOf = new Map(labTests.map((test) => [test.key, test]));
  const logSpeed: PlanModel["history"]["logSpeed"] = [];
  const kept = [...cells.values()].filter(({ values }) => values.length > 0);
  for (const { key, testKey: of, values } of kept) {
    const better = testOf.get(of)?.better;
    if (better === "none") continue;
    const log = Math.log(values.reduce((sum, value) => sum + value, 0) / values.length);
    logSpeed.push([key, better === "lower" ? -log : log]);
  }
  const pooled = poolRepeatability(kept.map(({ testKey: of, values }) => ({ testKey: of, group: testOf.get(of)?.group ?? "", values })));
  const { hours, rowVersion } = await loadLabHours(tx);
  const stored = await loadStoredPlan(tx, reviewId);
  const [event] = stored
    ? await tx
        .select({ n: t.sheetEvents.sequence })
        .from(t.sheetEvents)
        .where(and(eq(t.sheetEvents.reviewId, reviewId), eq(t.sheetEvents.planNumber, stored.number)))
        .limit(1)
    : [];
  return {
    review: {
      id: review.id,
      title: review.title,
      baselineId: review.baselineSetupId,
      subjectIds: members.filter(({ role }) => role === "subject").map(({ setupId }) => setupId),
      deadlineMs: review.embargoUntil?.getTime() ?? null,
    },
    setups,
    tests,
    benches: await loadPlanBenches(tx, setups),
    runsDone: setups.flatMap(({ id }) => tests.map((test): [string, number] => [cellKey(id, test.key), cells.get(cellKey(id, test.key))?.values.length ?? 0])),
    observations: await loadObservations(tx),
    history: { logSpeed, spread: [...pooled].map(([key, { sLog, df }]) => [key, { sLog, df }]) },
    hours,
    hoursVersion: rowVersion,
    saved: stored
      ? {
          number: stored.number,
          choices: stored.choices,
          plan: stored.plan,
          plannedSeconds: stored.plannedSeconds,
          plannedSd: stored.plannedSd,
          madeBy: stored.madeBy,
          madeAt: stored.madeAt.toISOString(),
          started: event !== undefined,
        }
      : null,
  };
}
