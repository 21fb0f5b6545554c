import { asc, eq } from "drizzle-orm";
import { type PartKind, testKey } from "@/core/bench";
import { cellsOf } from "@/core/cell";
import type { KnownSuite } from "@/core/plan";
import type { AskModel } from "@/core/report";
import { mean } from "@/core/stats";
import { majorUnits } from "@/core/units";
import { type Offer, priceOf as offerPrice } from "@/core/value";
import * as t from "@/db/schema";
import { loadRegions, toOffer } from "./loadReview";
import { loadRuns, loadSuiteTests } from "./loadRuns";
import type { Deps } from "./useCase";

/** Loads the lab as questions go by it. Prices are of the first region; the index is the mean log over the common tests of a suite. */
export async function loadAsk(deps: Deps): Promise<AskModel> {
  const tx = deps.database;
  const [setups, parts, members, offers, suites, regions, benches, reviews] = await Promise.all([
    tx.select().from(t.setups).orderBy(asc(t.setups.label)),
    tx.select().from(t.parts).orderBy(asc(t.parts.kind), asc(t.parts.name)),
    tx.select().from(t.setupParts).where(eq(t.setupParts.underTest, true)).orderBy(asc(t.setupParts.role)),
    tx.select().from(t.offers),
    tx.select().from(t.suites).orderBy(asc(t.suites.name)),
    loadRegions(tx),
    tx.select().from(t.benches).orderBy(asc(t.benches.id), asc(t.benches.revision)),
    tx.select({ id: t.reviews.id }).from(t.reviews),
  ]);
  const region = regions[0];
  const testRows = new Map((await tx.select().from(t.tests)).map((row) => [testKey(row.id, row.version), row]));
  const indices = new Map<string, number>();
  const runsOf = new Map<string, number>();
  const known: KnownSuite[] = [];
  for (const suite of suites) {
    const tests = await loadSuiteTests(tx, suite.id);
    const runs = await loadRuns(tx, tests, { forChecks: false });
    const cells = [...cellsOf(runs, { metric: "result", school: "percentile", powerAt: "device" }).values()].filter(({ values }) => values.length > 0);
    const measured = new Set(cells.map(({ setupId }) => setupId));
    const rows = tests.map(({ key }) => testRows.get(key));
    known.push({
      suiteId: suite.id,
      name: suite.name,
      loads: [...new Set(rows.flatMap((row) => row?.loads ?? []))],
      groups: [...new Set(tests.map(({ group }) => group))],
      resolutions: [...new Set(tests.flatMap(({ resolution }) => resolution ?? []))],
      setupsMeasured: measured.size,
    });
    // Most setups share the widest suite; the index is over the tests that nearly all of them have.
    const widest = tests.filter(({ key, better }) => better === "higher" && cells.filter((cell) => cell.testKey === key).length >= 0.9 * measured.size);
    for (const setupId of measured) {
      const own = widest.flatMap(({ key }) => cells.find((cell) => cell.setupId === setupId && cell.testKey === key)?.values ?? []);
      runsOf.set(
        setupId,
        Math.max(
          runsOf.get(setupId) ?? 0,
          cells.filter((cell) => cell.setupId === setupId).reduce((sum, { values }) => sum + values.length, 0),
        ),
      );
      if (own.length > 0 && !indices.has(setupId) && widest.length > 2) indices.set(setupId, mean(own.map(Math.log)));
    }
  }
  const partOf = new Map(parts.map((part) => [part.id, part]));
  const priceOf = (setupId: string): number | null => {
    if (!region) return null;
    const own = members.filter((member) => member.setupId === setupId);
    let sum = 0;
    for (const { partId, quantity } of own) {
      const its: Offer[] = offers.filter((offer) => offer.partId === partId && offer.region === region.code).map(toOffer);
      const offer = offerPrice(partId, its, region, "street_lowest", deps.today);
      if (!offer.ok) return null;
      sum += majorUnits(offer.value.money) * (quantity ?? 1);
    }
    return own.length > 0 && sum > 0 ? sum : null;
  };
  return {
    setups: setups.map((setup) => {
      const first = members.find(({ setupId }) => setupId === setup.id);
      const part = first && partOf.get(first.partId);
      return {
        setupId: setup.id,
        label: setup.label,
        kind: (part?.kind ?? "system") as PartKind,
        maker: part?.maker ?? null,
        releasedOn: part?.releasedOn ?? null,
        price: priceOf(setup.id),
        logIndex: indices.get(setup.id) ?? null,
        validRuns: runsOf.get(setup.id) ?? 0,
      };
    }),
    suites: known,
    benches: benches.map(({ id, revision, name }) => ({ id, revision, name })),
    parts: parts.map(({ id, name, kind, maker }) => ({ id, name, kind, maker })),
    region: region ? { code: region.code, currency: region.currency } : null,
    reviewIds: reviews.map(({ id }) => id),
  };
}
