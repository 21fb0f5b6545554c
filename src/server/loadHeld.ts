import { asc, eq } from "drizzle-orm";
import { benchProperties, heldDifferences, judgeFit } from "@/core/bench";
import type { HeldModel } from "@/core/report";
import type { Tx } from "@/db/client";
import * as t from "@/db/schema";
import { fittedParts, loadFitParts, loadRevisions } from "./loadBenches";
import { loadPlanSetups } from "./loadSetups";

/** Differences of a review's rows in what was to be held constant. */
export async function heldOfReview(tx: Tx, reviewId: string): Promise<HeldModel> {
  const members = await tx.select().from(t.reviewSetups).where(eq(t.reviewSetups.reviewId, reviewId)).orderBy(asc(t.reviewSetups.position));
  // One after the other: the checks ask within a transaction, which has one connection.
  const setups = await loadPlanSetups(
    tx,
    members.map(({ setupId }) => setupId),
  );
  const revisions = await loadRevisions(tx);
  const parts = await loadFitParts(tx);
  const declared = await tx.select().from(t.declaredDifferences).where(eq(t.declaredDifferences.reviewId, reviewId));
  const ownParts = await tx.select().from(t.setupParts);
  const rows = setups.map((setup) => {
    const bench = revisions.find(({ id, revision }) => id === setup.benchId && revision === setup.benchRevision);
    const tested = new Set<string>(setup.parts.map(({ kind }) => kind));
    const properties = benchProperties(bench ?? { parts: [], state: [] });
    // What is under test is what differs on purpose; what a setup brings beside it replaces the bench's own.
    for (const property of [...properties.keys()]) if (tested.has(property.replace("part:", "").split(" ")[0] as string)) properties.delete(property);
    for (const { setupId, role, partId, underTest } of ownParts) {
      if (setupId === setup.id && !underTest) properties.set(`part:${role}`, parts.get(partId)?.name ?? partId);
    }
    return { setup, bench, properties };
  });
  const differences = heldDifferences(rows.map(({ setup, properties }) => ({ setupId: setup.id, properties })));
  const differing = new Set(differences.map(({ property }) => property));
  return {
    differences: differences.map((difference) => {
      const row = declared.find(({ property }) => property === difference.property);
      return {
        ...difference,
        declared: row ? { property: row.property, decision: row.decision as "declared" | "split", why: row.why, who: row.who, at: row.at.toISOString() } : null,
      };
    }),
    setups: rows.map(({ setup, bench }) => {
      const state = Object.fromEntries((bench?.state ?? []).map(({ key, value }) => [key, value]));
      return {
        id: setup.id,
        benchId: setup.benchId,
        benchRevision: setup.benchRevision,
        benchName: bench?.name ?? setup.benchId,
        newestRevision: Math.max(...revisions.filter(({ id }) => id === setup.benchId).map(({ revision }) => revision)),
        state: Object.entries(setup.state)
          .map(([key, value]) => `${key.replaceAll("_", " ")} ${value}`)
          .join(", "),
        fit: judgeFit(
          fittedParts(
            bench ?? { parts: [] },
            setup.parts.map(({ partId }) => partId),
            parts,
          ),
          state,
        ),
      };
    }),
    common: [...(rows[0]?.properties ?? [])].filter(([property]) => !differing.has(property)).map(([property, value]) => ({ property, value })),
  };
}
