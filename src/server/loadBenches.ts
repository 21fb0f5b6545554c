import { asc, desc } from "drizzle-orm";
import { type BenchRevision, type FitPart, judgeFit, type PartKind } from "@/core/bench";
import type { BenchesModel } from "@/core/report";
import type { Tx } from "@/db/client";
import * as t from "@/db/schema";
import type { Deps } from "./useCase";

/** Every revision of every bench, newest first within a bench. */
export async function loadRevisions(tx: Tx): Promise<BenchRevision[]> {
  // One after the other: within a transaction there is one connection.
  const rows = await tx.select().from(t.benches).orderBy(asc(t.benches.id), desc(t.benches.revision));
  const parts = await tx.select().from(t.benchParts);
  const state = await tx.select().from(t.benchState).orderBy(asc(t.benchState.key));
  const names = new Map((await tx.select({ id: t.parts.id, name: t.parts.name }).from(t.parts)).map(({ id, name }) => [id, name]));
  return rows.map(({ id, revision, name, createdOn }) => ({
    id,
    revision,
    name,
    createdOn,
    parts: parts
      .filter((part) => part.benchId === id && part.revision === revision)
      .map(({ partId, role, slot, quantity }) => ({ partId, name: names.get(partId) ?? partId, role, slot, quantity }))
      .sort((a, b) => (a.role < b.role ? -1 : 1)),
    state: state.filter((one) => one.benchId === id && one.revision === revision).map(({ key, value }) => ({ key, value })),
  }));
}

/** All parts as compatibility takes them. */
export async function loadFitParts(tx: Tx): Promise<Map<string, FitPart>> {
  const parts = await tx.select().from(t.parts);
  const specs = await tx.select().from(t.partSpecs);
  const found = new Map<string, FitPart>(parts.map(({ id, kind, name }) => [id, { id, kind: kind as PartKind, name, specs: {} }]));
  for (const { partId, key, value, unit } of specs) {
    const part = found.get(partId);
    if (part) found.set(partId, { ...part, specs: { ...part.specs, [key]: { value, unit } } });
  }
  return found;
}

/** A bench's parts with some of a setup's in their place, by kind. */
export function fittedParts(bench: Pick<BenchRevision, "parts">, underTest: readonly string[], parts: ReadonlyMap<string, FitPart>): FitPart[] {
  const own = underTest.flatMap((id) => parts.get(id) ?? []);
  const kinds = new Set(own.map(({ kind }) => kind));
  return [...bench.parts.flatMap(({ partId }) => parts.get(partId) ?? []).filter(({ kind }) => !kinds.has(kind)), ...own];
}

/** The benches of the lab with what they are built of, which twins are declared, and whether their own parts go together. */
export async function loadBenches(deps: Deps): Promise<BenchesModel> {
  const [revisions, parts, twins, partRows] = await Promise.all([
    loadRevisions(deps.database),
    loadFitParts(deps.database),
    deps.database.select().from(t.benchTwins),
    deps.database.select({ id: t.parts.id, name: t.parts.name, kind: t.parts.kind }).from(t.parts).orderBy(asc(t.parts.kind), asc(t.parts.name)),
  ]);
  return {
    revisions: revisions.map((bench) => ({
      ...bench,
      fit: judgeFit(fittedParts(bench, [], parts), Object.fromEntries(bench.state.map(({ key, value }) => [key, value]))),
    })),
    twins: twins.map(({ benchId, revision, twinBenchId, twinRevision, declaredBy, why }) => ({
      benchId,
      revision,
      twinBenchId,
      twinRevision,
      declaredBy,
      why,
    })),
    parts: partRows,
  };
}
