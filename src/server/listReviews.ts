import { asc, desc } from "drizzle-orm";
import { gapsOf, type ReviewLine, type ReviewModel } from "@/core/report";
import { reports, reviews } from "@/db/schema";
import { loadReview } from "./loadReview";
import { remembered } from "./remembered";
import type { Deps } from "./useCase";

const lineOf = (model: ReviewModel): ReviewLine => ({
  id: model.id,
  title: model.title,
  question: model.question,
  embargoUntil: model.embargoUntil,
  setups: model.setups.length,
  tests: model.tests.length,
  gaps: gapsOf(model),
  publishedVersion: model.reports.at(-1)?.version ?? null,
});

/** The reviews' names alone, for finding one. */
export async function listReviewTitles({ database }: Deps): Promise<{ id: string; title: string }[]> {
  return database.select({ id: reviews.id, title: reviews.title }).from(reviews).orderBy(asc(reviews.title), asc(reviews.id));
}

/** All reviews of the lab, by title; remembered as one answer, as a lab may have more reviews than are kept singly. */
export async function listReviews(deps: Deps): Promise<ReviewLine[]> {
  return remembered(deps, "lines", () => readLines(deps));
}

async function readLines(deps: Deps): Promise<ReviewLine[]> {
  const rows = await deps.database.select({ id: reviews.id }).from(reviews).orderBy(asc(reviews.title), asc(reviews.id));
  const models = await Promise.all(rows.map(({ id }) => loadReview(deps, id)));
  return models.flatMap((model) => (model ? [lineOf(model)] : []));
}

/** The newest report of each review whose embargo has passed, for the published front page. */
export async function listReports(deps: Deps): Promise<{ slug: string; title: string; publishedAt: string }[]> {
  const rows = await deps.database.select().from(reports).orderBy(desc(reports.publishedAt));
  const open = rows.filter(({ embargoUntil }) => !embargoUntil || embargoUntil <= deps.now());
  return open
    .filter((row, i) => open.findIndex(({ slug }) => slug === row.slug) === i)
    .map(({ slug, snapshot, publishedAt }) => ({ slug, title: (snapshot as { title: string }).title, publishedAt: publishedAt.toISOString() }));
}
