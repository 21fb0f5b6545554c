import { and, asc, eq, inArray, sql } from "drizzle-orm";
import type { PartKind } from "@/core/bench";
import type { PlanSetup } from "@/core/plan";
import type { Tx } from "@/db/client";
import * as t from "@/db/schema";

/** Setups as plans need them: parts under test with kind and maker, state, and how many samples there are of the scarcest part. */
export async function loadPlanSetups(tx: Tx, setupIds: readonly string[]): Promise<PlanSetup[]> {
  if (setupIds.length === 0) return [];
  const ids = [...setupIds];
  const rows = await tx.select().from(t.setups).where(inArray(t.setups.id, ids));
  const parts = await tx
    .select({ setupId: t.setupParts.setupId, partId: t.parts.id, kind: t.parts.kind, maker: t.parts.maker })
    .from(t.setupParts)
    .innerJoin(t.parts, eq(t.parts.id, t.setupParts.partId))
    .where(and(inArray(t.setupParts.setupId, ids), eq(t.setupParts.underTest, true)))
    .orderBy(asc(t.setupParts.role), asc(t.parts.id));
  const states = await tx.select().from(t.setupState).where(inArray(t.setupState.setupId, ids)).orderBy(asc(t.setupState.key));
  const samples = await tx.select({ partId: t.samples.partId, n: sql<number>`count(*)::integer` }).from(t.samples).groupBy(t.samples.partId);
  const countOf = new Map(samples.map(({ partId, n }) => [partId, n]));
  return ids.flatMap((id): PlanSetup[] => {
    const row = rows.find((one) => one.id === id);
    if (!row) return [];
    const own = parts.filter(({ setupId }) => setupId === id);
    return [
      {
        id,
        label: row.label,
        benchId: row.benchId,
        benchRevision: row.benchRevision,
        parts: own.map(({ partId, kind, maker }) => ({ partId, kind: kind as PartKind, maker })),
        state: Object.fromEntries(states.filter(({ setupId }) => setupId === id).map(({ key, value, unit }) => [key, unit ? `${value} ${unit}` : value])),
        // A part without a listed sample is there once.
        samples: Math.max(1, Math.min(...own.map(({ partId }) => countOf.get(partId) ?? 1), Number.MAX_SAFE_INTEGER)),
      },
    ];
  });
}
