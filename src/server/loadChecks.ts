import { and, asc, eq, inArray, sql } from "drizzle-orm";
import { testKey } from "@/core/bench";
import type { RunSummary } from "@/core/cell";
import { type CheckedSetup, type CheckInput, CheckThresholds, type JudgedLimit, judgeCap, judgeLimits, type LimitCell } from "@/core/check";
import type { ReviewTest } from "@/core/report";
import { mean } from "@/core/stats";
import type { Tx } from "@/db/client";
import * as t from "@/db/schema";
import { loadFitParts, loadRevisions } from "./loadBenches";
import { heldOfReview } from "./loadHeld";
import { loadRuns, loadSuiteTests } from "./loadRuns";
import { loadPlanSetups } from "./loadSetups";

/** The lab's thresholds of the checks; what the lab has not set is the product's. */
export async function loadThresholds(tx: Tx): Promise<{ thresholds: CheckThresholds; set: Record<string, number>; rowVersion: number }> {
  const [row] = await tx.select().from(t.checkSettings);
  const set = (row?.thresholds ?? {}) as Record<string, number>;
  const parsed = CheckThresholds.safeParse(set);
  return { thresholds: parsed.success ? parsed.data : CheckThresholds.parse({}), set: parsed.success ? set : {}, rowVersion: row?.rowVersion ?? 1 };
}

const numberOf = (spec: { value: string } | undefined): number | null => {
  const value = Number(spec?.value);
  return spec && Number.isFinite(value) && value > 0 ? value : null;
};

/** A review's rows as the checks see them. */
async function loadCheckedSetups(tx: Tx, setupIds: readonly string[]): Promise<CheckedSetup[]> {
  // One after the other: within a transaction there is one connection.
  const setups = await loadPlanSetups(tx, setupIds);
  const revisions = await loadRevisions(tx);
  const parts = await loadFitParts(tx);
  const partIds = setups.flatMap((setup) => setup.parts.map(({ partId }) => partId));
  const newest =
    partIds.length === 0
      ? []
      : await tx
          .select({ partId: t.offers.partId, region: t.offers.region, seenOn: sql<string>`max(${t.offers.seenOn})::text` })
          .from(t.offers)
          .where(and(inArray(t.offers.partId, partIds), eq(t.offers.kind, "street")))
          .groupBy(t.offers.partId, t.offers.region)
          .orderBy(asc(t.offers.partId), asc(t.offers.region));
  return setups.map((setup): CheckedSetup => {
    const bench = revisions.find(({ id, revision }) => id === setup.benchId && revision === setup.benchRevision);
    const own = setup.parts.map(({ partId }) => parts.get(partId)).filter((part) => part !== undefined);
    const [only] = own;
    const gpu =
      own.find(({ kind }) => kind === "gpu") ?? [...(bench?.parts ?? [])].flatMap(({ partId, role }) => (role === "gpu" ? (parts.get(partId) ?? []) : []))[0];
    return {
      id: setup.id,
      label: setup.label,
      benchId: setup.benchId,
      benchRevision: setup.benchRevision,
      state: { ...Object.fromEntries((bench?.state ?? []).map(({ key, value }) => [key, value])), ...setup.state },
      partIds: setup.parts.map(({ partId }) => partId).sort(),
      paper:
        own.length === 1 && only
          ? {
              kind: only.kind,
              architecture: only.specs.architecture?.value ?? null,
              clockGhz: numberOf(only.specs.boost_clock),
              units: numberOf(only.specs.units ?? only.specs.cores),
              bandwidthGbs: numberOf(only.specs.memory_bandwidth),
            }
          : null,
      vramGib: numberOf(gpu?.specs.vram),
      newestOffers: newest.filter(({ partId }) => setup.parts.some((part) => part.partId === partId)),
    };
  });
}

/** Tests of a suite that have a newer version in the lab. */
async function loadNewerVersions(tx: Tx, tests: readonly ReviewTest[]): Promise<CheckInput["newerVersions"]> {
  const rows = await tx.select({ id: t.tests.id, version: t.tests.version }).from(t.tests);
  const newest = new Map<string, number>();
  for (const { id, version } of rows) newest.set(id, Math.max(newest.get(id) ?? 0, version));
  return new Map(
    tests.flatMap(({ key, id, version, name }) =>
      (newest.get(id) ?? 0) > version ? [[key, { key, newer: testKey(id, newest.get(id) as number), name }]] : [],
    ),
  );
}

/** Everything that the checks of one review look at; undefined where it has no suite. */
export async function loadChecks(tx: Tx, reviewId: string, today: string): Promise<CheckInput | undefined> {
  const [review] = await tx.select().from(t.reviews).where(eq(t.reviews.id, reviewId));
  if (!review?.suiteId) return undefined;
  const tests = await loadSuiteTests(tx, review.suiteId);
  const members = await tx.select().from(t.reviewSetups).where(eq(t.reviewSetups.reviewId, reviewId)).orderBy(t.reviewSetups.position);
  const setupIds = members.map(({ setupId }) => setupId);
  const synthetic = tests.some(({ group }) => group === "synthetic");
  const others = synthetic ? await tx.select().from(t.setupParts).where(eq(t.setupParts.underTest, true)) : [];
  const otherSetups = new Map<string, string[]>();
  for (const { setupId, partId } of others) otherSetups.set(setupId, [...(otherSetups.get(setupId) ?? []), partId].sort());
  return {
    tests,
    setups: await loadCheckedSetups(tx, setupIds),
    otherSetups: [...otherSetups].map(([id, partIds]) => ({ id, partIds })),
    runs: await loadRuns(tx, tests, { forChecks: true }),
    runsWanted: new Map(tests.map((test) => [test.key, test.runsWanted])),
    differences: (await heldOfReview(tx, reviewId)).differences,
    newerVersions: await loadNewerVersions(tx, tests),
    today,
    thresholds: (await loadThresholds(tx)).thresholds,
  };
}

/** A setup's name, and the processor and card it runs with: its own, or its bench's. */
export interface SetupMachine {
  id: string;
  label: string;
  cpuId: string | null;
  gpuId: string | null;
}

/** The machines of some setups. */
export async function loadMachines(tx: Tx, setupIds: readonly string[]): Promise<SetupMachine[]> {
  if (setupIds.length === 0) return [];
  const rows = await tx
    .select()
    .from(t.setups)
    .where(inArray(t.setups.id, [...setupIds]))
    .orderBy(asc(t.setups.id));
  const own = await tx.select().from(t.setupParts).orderBy(asc(t.setupParts.partId));
  const benchParts = await tx.select().from(t.benchParts).orderBy(asc(t.benchParts.partId));
  const partOf = ({ id, benchId, benchRevision }: (typeof rows)[number], role: string): string | null =>
    own.find((part) => part.setupId === id && part.role === role)?.partId ??
    benchParts.find((part) => part.benchId === benchId && part.revision === benchRevision && part.role === role)?.partId ??
    null;
  return rows.map((row) => ({ id: row.id, label: row.label, cpuId: partOf(row, "cpu"), gpuId: partOf(row, "gpu") }));
}

/** What limited each cell of a review, from its runs with their facts. Cells without frames are not judged. */
export async function limitsOfReview(
  tx: Tx,
  machines: readonly SetupMachine[],
  tests: readonly ReviewTest[],
  runs: readonly RunSummary[],
): Promise<JudgedLimit[]> {
  const { thresholds } = await loadThresholds(tx);
  const setupIds = machines.map(({ id }) => id);
  const checked = await loadCheckedSetups(tx, setupIds);
  const testOf = new Map(tests.map((test) => [test.key, test]));
  const inReview = new Set(setupIds);
  const byCell = new Map<string, RunSummary[]>();
  for (const run of runs) {
    if (run.status !== "valid" || !run.frames || !inReview.has(run.setupId)) continue;
    const key = `${run.setupId}\n${run.testKey}`;
    const list = byCell.get(key);
    if (list) list.push(run);
    else byCell.set(key, [run]);
  }
  const parts = new Map(
    machines.map(({ id, cpuId, gpuId }) => [id, { cpu: cpuId, gpu: gpuId, vram: checked.find((setup) => setup.id === id)?.vramGib ?? null }]),
  );
  const known = (values: (number | null | undefined)[]) => values.filter((value) => value !== null && value !== undefined);
  const cells = [...byCell.values()].flatMap((list): LimitCell[] => {
    const { setupId, testKey: key } = list[0] as RunSummary;
    const test = testOf.get(key);
    const part = parts.get(setupId);
    if (!test || !part) return [];
    const loads = known(list.map(({ facts }) => facts?.gpuLoad));
    const memory = known(list.map(({ facts }) => facts?.vramGib));
    const caps = list.map((run) => judgeCap(run.pacing, run.frames?.frames ?? 0, thresholds));
    const [cap] = caps;
    const rates = list.map(({ frames }) => frames?.averageFps as number);
    return [
      {
        setupId,
        testKey: key,
        cpuId: part.cpu,
        gpuId: part.gpu,
        family: `${test.workloadId}\n${test.settings}`,
        resolution: test.resolution,
        fps: mean(rates),
        lowShare: mean(list.map(({ frames }) => (frames?.low1.percentileFps as number) / (frames?.averageFps as number))),
        gpuLoad: loads.length > 0 ? mean(loads) : null,
        memoryShare: memory.length > 0 && part.vram !== null ? Math.max(...memory) / part.vram : null,
        cappedFps: cap && cap.capped === "yes" && caps.every(({ capped }) => capped === "yes") ? cap.rateFps : null,
      },
    ];
  });
  return judgeLimits(cells);
}
