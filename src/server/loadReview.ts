import { and, asc, eq, inArray, sql } from "drizzle-orm";
import { benchProperties, type LowSchool, type PartKind, type SetupRole } from "@/core/bench";
import { cellKey, type RunSummary } from "@/core/cell";
import { NO_CUTS, timesOf, workLeft } from "@/core/plan";
import type { ReviewFinding, ReviewModel, ReviewSetup } from "@/core/report";
import type { Offer, Region } from "@/core/value";
import type { Tx } from "@/db/client";
import * as t from "@/db/schema";
import { loadRevisions } from "./loadBenches";
import { limitsOfReview, loadMachines, loadThresholds, type SetupMachine } from "./loadChecks";
import { heldOfReview } from "./loadHeld";
import { loadObservations, loadPlanTests } from "./loadPlan";
import { loadRuns, loadSuiteTests } from "./loadRuns";
import { remembered } from "./remembered";
import type { Deps } from "./useCase";

const DEFAULT_MARGIN = 0.03;

async function loadSetups(tx: Tx, reviewId: string): Promise<ReviewSetup[]> {
  const rows = await tx
    .select()
    .from(t.reviewSetups)
    .innerJoin(t.setups, eq(t.setups.id, t.reviewSetups.setupId))
    .where(eq(t.reviewSetups.reviewId, reviewId))
    .orderBy(asc(t.reviewSetups.position));
  const parts = await tx
    .select()
    .from(t.setupParts)
    .innerJoin(t.parts, eq(t.parts.id, t.setupParts.partId))
    .where(
      and(
        inArray(
          t.setupParts.setupId,
          rows.map((row) => row.setups.id),
        ),
        eq(t.setupParts.underTest, true),
      ),
    )
    .orderBy(asc(t.setupParts.role), asc(t.setupParts.partId));
  const specs = await tx
    .select()
    .from(t.partSpecs)
    .where(
      inArray(
        t.partSpecs.partId,
        parts.map((row) => row.parts.id),
      ),
    )
    .orderBy(asc(t.partSpecs.key));
  const all = await tx
    .select()
    .from(t.setupParts)
    .innerJoin(t.parts, eq(t.parts.id, t.setupParts.partId))
    .where(
      inArray(
        t.setupParts.setupId,
        rows.map((row) => row.setups.id),
      ),
    )
    .orderBy(asc(t.setupParts.role), asc(t.setupParts.partId));
  const states = await tx
    .select()
    .from(t.setupState)
    .where(
      inArray(
        t.setupState.setupId,
        rows.map((row) => row.setups.id),
      ),
    );
  const revisions = await loadRevisions(tx);
  const machines = await loadMachines(
    tx,
    rows.map((row) => row.setups.id),
  );
  return rows.map(({ setups: setup, review_setups: membership }) => {
    const bench = revisions.find(({ id, revision }) => id === setup.benchId && revision === setup.benchRevision);
    const properties = benchProperties(bench ?? { parts: [], state: [] });
    for (const row of all) if (row.setup_parts.setupId === setup.id) properties.set(`part:${row.setup_parts.role}`, row.parts.name);
    for (const { setupId, key, value, unit } of states) if (setupId === setup.id) properties.set(key, unit ? `${value} ${unit}` : value);
    const machine = machines.find(({ id }) => id === setup.id);
    const own = parts.filter((row) => row.setup_parts.setupId === setup.id);
    return {
      id: setup.id,
      label: setup.label,
      role: membership.role as SetupRole | null,
      position: membership.position,
      benchId: setup.benchId,
      benchRevision: setup.benchRevision,
      partIds: own.flatMap((row) => Array.from({ length: row.setup_parts.quantity ?? 1 }, () => row.parts.id)),
      maker: own[0]?.parts.maker ?? null,
      kinds: [...new Set(own.map((row) => row.parts.kind as PartKind))],
      cpuId: machine?.cpuId ?? null,
      gpuId: machine?.gpuId ?? null,
      properties: Object.fromEntries(properties),
      releasedOn: own[0]?.parts.releasedOn ?? null,
      facts: specs.filter((spec) => own.some((row) => row.parts.id === spec.partId)).map(({ key, value, unit }) => ({ key, value, unit })),
    };
  });
}

/** The names of the processors and cards that some machines run with. */
async function namesOfParts(tx: Tx, machines: readonly SetupMachine[]): Promise<Record<string, string>> {
  const ids = [...new Set(machines.flatMap(({ cpuId, gpuId }) => [cpuId, gpuId]).filter((id) => id !== null))];
  const rows = ids.length === 0 ? [] : await tx.select({ id: t.parts.id, name: t.parts.name }).from(t.parts).where(inArray(t.parts.id, ids));
  return Object.fromEntries(rows.map(({ id, name }) => [id, name]));
}

async function loadBenches(tx: Tx, setups: readonly ReviewSetup[]): Promise<ReviewModel["bench"]> {
  const wanted = new Map(setups.map((setup) => [`${setup.benchId} ${setup.benchRevision}`, setup]));
  const result: ReviewModel["bench"] = [];
  for (const { benchId, benchRevision } of wanted.values()) {
    const at = and(eq(t.benches.id, benchId), eq(t.benches.revision, benchRevision));
    const [bench] = await tx.select().from(t.benches).where(at);
    const state = await tx
      .select({ key: t.benchState.key, value: t.benchState.value })
      .from(t.benchState)
      .where(and(eq(t.benchState.benchId, benchId), eq(t.benchState.revision, benchRevision)))
      .orderBy(asc(t.benchState.key));
    const parts = await tx
      .select({ role: t.benchParts.role, name: t.parts.name })
      .from(t.benchParts)
      .innerJoin(t.parts, eq(t.parts.id, t.benchParts.partId))
      .where(and(eq(t.benchParts.benchId, benchId), eq(t.benchParts.revision, benchRevision)))
      .orderBy(asc(t.benchParts.role));
    if (bench) result.push({ name: bench.name, revision: bench.revision, state, parts });
  }
  return result;
}

const money = (minor: number | null, currency: string) => (minor === null ? null : { minor, currency });

/** A stored offer as the value domain takes it. */
export function toOffer(row: typeof t.offers.$inferSelect): Offer {
  return {
    id: row.id,
    partId: row.partId,
    region: row.region,
    kind: row.kind as Offer["kind"],
    condition: row.condition as Offer["condition"],
    price: { minor: row.priceMinor, currency: row.currency },
    taxIncluded: row.taxIncluded,
    rebate: money(row.rebateMinor, row.currency),
    rebateKind: row.rebateKind as Offer["rebateKind"],
    shipping: money(row.shippingMinor, row.currency),
    inStock: row.inStock,
    shop: row.shop,
    seenOn: row.seenOn,
    rowVersion: row.rowVersion,
  };
}

/** The regions of the lab. */
export async function loadRegions(tx: Tx): Promise<Region[]> {
  const rows = await tx.select().from(t.regions).orderBy(asc(t.regions.code));
  return rows.map(({ code, name, currency, taxIncluded, taxRate, tariffPerKwh }) => ({ code, name, currency, taxIncluded, taxRate, tariffPerKwh }));
}

/** Findings of the cells of some setups and tests. */
async function loadFindings(tx: Tx, setupIds: ReadonlySet<string>, testKeys: ReadonlySet<string>): Promise<ReviewFinding[]> {
  const rows = await tx.select().from(t.findings).orderBy(asc(t.findings.id));
  return rows.flatMap((row): ReviewFinding[] => {
    const evidence = row.evidence as Pick<
      ReviewFinding,
      "setupId" | "testKey" | "runId" | "sentence" | "advice" | "runIds" | "numbers" | "raised" | "fits"
    > | null;
    if (!evidence || !setupIds.has(evidence.setupId) || (evidence.testKey !== "" && !testKeys.has(evidence.testKey))) return [];
    return [
      {
        ...evidence,
        id: row.id,
        check: row.check,
        subject: row.subject,
        state: row.state as ReviewFinding["state"],
        reason: row.reason,
        who: row.who,
        at: row.at?.toISOString() ?? null,
        rowVersion: row.rowVersion,
      },
    ];
  });
}

/** The bench time that each row's open runs still take, by the lab's own times. */
async function workLeftOf(tx: Tx, suiteId: string | null, setups: readonly ReviewSetup[], runs: readonly RunSummary[]): Promise<ReviewModel["workLeft"]> {
  const tests = await loadPlanTests(tx, suiteId);
  const runsDone = new Map<string, number>();
  for (const { setupId, testKey, status } of runs) {
    if (status === "valid") runsDone.set(cellKey(setupId, testKey), (runsDone.get(cellKey(setupId, testKey)) ?? 0) + 1);
  }
  return workLeft({ setups, tests, runsDone, cuts: NO_CUTS, times: timesOf({ observations: await loadObservations(tx), tests }) });
}

/**
 * A review with everything its steps compute from; undefined where there is none of that id. It is read once for each state of
 * the data and shared: it must not be changed.
 */
export async function loadReview(deps: Deps, reviewId: string): Promise<ReviewModel | undefined> {
  return remembered(deps, `review ${reviewId}`, () => readReview(deps, reviewId));
}

async function readReview(deps: Deps, reviewId: string): Promise<ReviewModel | undefined> {
  const tx = deps.database;
  const [review] = await tx.select().from(t.reviews).where(eq(t.reviews.id, reviewId));
  if (!review) return undefined;
  const setups = await loadSetups(tx, reviewId);
  const tests = review.suiteId ? await loadSuiteTests(tx, review.suiteId) : [];
  const partIds = setups.flatMap((setup) => setup.partIds);
  const [runs, findings, claims, regions, offers, bench, reports, held, plans] = await Promise.all([
    loadRuns(tx, tests, { forChecks: true }),
    loadFindings(tx, new Set(setups.map(({ id }) => id)), new Set(tests.map(({ key }) => key))),
    tx.select().from(t.claims).where(eq(t.claims.reviewId, reviewId)).orderBy(asc(t.claims.checkedAt), asc(t.claims.id)),
    loadRegions(tx),
    tx.select().from(t.offers).where(inArray(t.offers.partId, partIds)).orderBy(asc(t.offers.id)),
    loadBenches(tx, setups),
    tx.select().from(t.reports).where(eq(t.reports.reviewId, reviewId)).orderBy(asc(t.reports.version)),
    heldOfReview(tx, reviewId),
    tx
      .select({ number: t.reviewPlans.number, events: sql<number>`count(${t.sheetEvents.sequence})::integer` })
      .from(t.reviewPlans)
      .leftJoin(t.sheetEvents, and(eq(t.sheetEvents.reviewId, t.reviewPlans.reviewId), eq(t.sheetEvents.planNumber, t.reviewPlans.number)))
      .where(eq(t.reviewPlans.reviewId, reviewId))
      .groupBy(t.reviewPlans.number)
      .orderBy(asc(t.reviewPlans.number)),
  ]);
  const plan = plans.at(-1);
  const machines = await loadMachines(tx, [...new Set([...setups.map(({ id }) => id), ...runs.map(({ setupId }) => setupId)])]);
  const limits = await limitsOfReview(tx, machines, tests, runs);
  return {
    id: review.id,
    title: review.title,
    question: review.question,
    questionKind: review.questionKind,
    baselineId: review.baselineSetupId,
    margin: review.margin ?? DEFAULT_MARGIN,
    lowSchool: (review.lowSchool as LowSchool | null) ?? "percentile",
    priceRule: review.priceRule === "launch" ? "launch" : "street_lowest",
    embargoUntil: review.embargoUntil?.toISOString() ?? null,
    today: deps.today,
    setups,
    tests,
    // What only the checks ask for stays here.
    runs: runs.map((run) => ({ ...run, pacing: null, facts: null, content: null })),
    findings,
    limits,
    labSetups: machines,
    partNames: await namesOfParts(tx, machines),
    thresholds: (await loadThresholds(tx)).thresholds,
    claims: claims.map(({ id, sentence, computation, holds, rowVersion }) => ({ id, sentence, computation, holds, rowVersion })),
    regions,
    offers: offers.map(toOffer),
    bench,
    reports: reports.map(({ slug, version, publishedAt }) => ({ slug, version, publishedAt: publishedAt.toISOString() })),
    held,
    suiteId: review.suiteId,
    constants: review.extra?.x_constants?.split("; ") ?? [],
    plan: plan ? { number: plan.number, started: plan.events > 0 } : null,
    workLeft: await workLeftOf(tx, review.suiteId, setups, runs),
  };
}
