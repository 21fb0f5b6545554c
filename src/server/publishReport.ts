import { and, desc, eq } from "drizzle-orm";
import { z } from "zod";
import { buildSnapshot, Computation, chartModel, checkClaim, gapsOf, migrateSnapshot, SNAPSHOT_VERSION, type Snapshot } from "@/core/report";
import { fail, ok, type Result } from "@/core/result";
import { reports } from "@/db/schema";
import { loadReview } from "./loadReview";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, recordAudit } from "./useCase";

export const Publication = z.object({
  reviewId: z.string(),
  /** Publishing with open doubts is possible, but only knowingly: they are printed on the page. */
  acknowledgeDoubts: z.boolean(),
});

/**
 * Freezes a review as the next version of its report. Every claim must hold on the data at this moment; open doubts must be
 * acknowledged. A report is never edited afterwards, only superseded.
 */
export async function publishReport(
  deps: Deps,
  actor: Actor,
  input: z.infer<typeof Publication>,
): Promise<Result<{ slug: string; version: number }, UseCaseProblem>> {
  const model = await loadReview(deps, input.reviewId);
  if (!model) return fail({ kind: "not-found", what: "review", id: input.reviewId });
  const broken = model.claims.find(({ computation }) => !checkClaim(model, Computation.parse(JSON.parse(computation))).holds);
  if (broken) return fail({ kind: "invalid", reason: `This sentence no longer holds: “${broken.sentence}” Remove it or write it anew.` });
  const { openFindings } = gapsOf(model);
  if (openFindings > 0 && !input.acknowledgeDoubts) {
    return fail({ kind: "invalid", reason: `${openFindings} doubts are open. Decide them in Check, or tick that they are printed with the report.` });
  }
  const snapshot = buildSnapshot(chartModel(model, null));
  if (!snapshot.rankings.some(({ rows }) => rows.length > 0))
    return fail({ kind: "invalid", reason: "No test is complete for all setups yet; there is nothing to publish." });
  return deps.database.transaction(async (tx) => {
    const [last] = await tx.select({ version: reports.version }).from(reports).where(eq(reports.slug, model.id)).orderBy(desc(reports.version)).limit(1);
    const version = (last?.version ?? 0) + 1;
    await tx.insert(reports).values({
      id: `${model.id}-v${version}`,
      reviewId: model.id,
      slug: model.id,
      version,
      schemaVersion: SNAPSHOT_VERSION,
      methodVersion: snapshot.methodVersion,
      publishedAt: deps.now(),
      publishedBy: actor.personId,
      embargoUntil: model.embargoUntil ? new Date(model.embargoUntil) : null,
      snapshot,
    });
    await recordAudit(tx, deps, actor, { action: "publish report", subject: `report:${model.id}-v${version}`, detail: { doubts: openFindings } });
    return ok({ slug: model.id, version });
  });
}

/** A published report as its page shows it. */
export interface PublishedReport {
  slug: string;
  version: number;
  newestVersion: number;
  publishedAt: string;
  snapshot: Snapshot;
}

/** A report for its readers, the newest version or a given one; undefined where there is none or its embargo still holds. */
export async function loadReport(deps: Deps, slug: string, version?: number): Promise<PublishedReport | undefined> {
  const [newest] = await deps.database.select().from(reports).where(eq(reports.slug, slug)).orderBy(desc(reports.version)).limit(1);
  if (!newest) return undefined;
  const [row] =
    version === undefined
      ? [newest]
      : await deps.database
          .select()
          .from(reports)
          .where(and(eq(reports.slug, slug), eq(reports.version, version)));
  if (!row || (row.embargoUntil && row.embargoUntil > deps.now())) return undefined;
  return { slug, version: row.version, newestVersion: newest.version, publishedAt: row.publishedAt.toISOString(), snapshot: migrateSnapshot(row.snapshot) };
}
