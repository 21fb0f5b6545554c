import { and, eq } from "drizzle-orm";
import { testKey } from "@/core/bench";
import type { IntakeModel } from "@/core/intake";
import { reviewSetups, reviews, suiteTests, tests } from "@/db/schema";
import { loadIntake } from "./intakes";
import type { Deps } from "./useCase";

/** What recording in a browser starts from: the lab's names, its frame tests, the runs there are, and a review that shows each cell. */
export async function loadRecorder(
  deps: Deps,
): Promise<{ names: IntakeModel["names"]; frameTests: string[]; taken: IntakeModel["taken"]; reviewOf: Record<string, string> }> {
  const { names, taken } = await loadIntake(deps);
  const frames = await deps.database.select({ id: tests.id, version: tests.version }).from(tests).where(eq(tests.kind, "frames")).orderBy(tests.name);
  const cells = await deps.database
    .select({ reviewId: reviews.id, setupId: reviewSetups.setupId, testId: suiteTests.testId, version: suiteTests.testVersion })
    .from(reviews)
    .innerJoin(reviewSetups, eq(reviewSetups.reviewId, reviews.id))
    .innerJoin(suiteTests, and(eq(suiteTests.suiteId, reviews.suiteId)));
  return {
    names,
    frameTests: frames.map(({ id, version }) => testKey(id, version)),
    taken,
    reviewOf: Object.fromEntries(cells.map(({ reviewId, setupId, testId, version }) => [`${setupId}/${testKey(testId, version)}`, reviewId])),
  };
}
