import { asc } from "drizzle-orm";
import type { PartKind } from "@/core/bench";
import type { PartLine } from "@/core/report";
import type { Region } from "@/core/value";
import { offers, partSpecs, parts } from "@/db/schema";
import { loadRegions, toOffer } from "./loadReview";
import type { Deps } from "./useCase";

/** All parts of the lab with their specifications and offers. */
export async function loadParts(deps: Deps): Promise<{ parts: PartLine[]; regions: Region[]; today: string }> {
  const [partRows, specRows, offerRows, regions] = await Promise.all([
    deps.database.select().from(parts).orderBy(asc(parts.kind), asc(parts.name)),
    deps.database.select().from(partSpecs).orderBy(asc(partSpecs.key)),
    deps.database.select().from(offers).orderBy(asc(offers.id)),
    loadRegions(deps.database),
  ]);
  const lines = partRows.map(
    (part): PartLine => ({
      id: part.id,
      kind: part.kind as PartKind,
      name: part.name,
      maker: part.maker,
      releasedOn: part.releasedOn,
      facts: specRows.filter(({ partId }) => partId === part.id).map(({ key, value, unit }) => ({ key, value, unit })),
      offers: offerRows.filter(({ partId }) => partId === part.id).map(toOffer),
    }),
  );
  // What can be bought comes first; what only stands on the bench after it.
  lines.sort((a, b) => Number(a.offers.length === 0) - Number(b.offers.length === 0));
  return { parts: lines, regions, today: deps.today };
}
