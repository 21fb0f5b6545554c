import { eq } from "drizzle-orm";
import { z } from "zod";
import { Slug, testKey } from "@/core/bench";
import { fail, ok, type Result } from "@/core/result";
import { runs, suites, suiteTests, tests } from "@/db/schema";
import { checkAllReviews } from "./checkReviews";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, recordAudit } from "./useCase";

/** A suite as edited; `rowVersion` 0 makes a new one. */
export const SuiteDraft = z.object({
  id: Slug,
  name: z.string().trim().min(1, "A suite needs a name.").max(80),
  rowVersion: z.int().min(0),
  tests: z
    .array(z.object({ testKey: z.string(), runs: z.int("Runs are whole.").min(1, "At least one run.").max(100, "At most 100 runs.") }))
    .max(500, "At most 500 tests.")
    .refine((list) => new Set(list.map(({ testKey: key }) => key)).size === list.length, "A test is in the suite twice."),
});
export type SuiteDraft = z.infer<typeof SuiteDraft>;

/** Makes a suite or changes its tests, their order and run counts. Versions of one test never stand in one suite. */
export async function editSuite(deps: Deps, actor: Actor, input: SuiteDraft): Promise<Result<{ rowVersion: number }, UseCaseProblem>> {
  return deps.database.transaction(async (tx) => {
    const [row] = await tx.select().from(suites).where(eq(suites.id, input.id)).for("update");
    if (input.rowVersion === 0 && row) return fail({ kind: "invalid", reason: `There is a suite ${input.id} already; choose another id.` });
    if (input.rowVersion > 0 && row?.rowVersion !== input.rowVersion)
      return fail({
        kind: "changed-meanwhile",
        what: "suite",
        who: "Somebody",
        at: deps.now().toISOString(),
        now: row ? `“${row.name}”, version ${row.rowVersion}` : "nothing",
      });
    const known = new Map((await tx.select({ id: tests.id, version: tests.version }).from(tests)).map((test) => [testKey(test.id, test.version), test]));
    const chosen = input.tests.map(({ testKey: key, runs: count }) => ({ test: known.get(key), key, count }));
    const unknown = chosen.find(({ test }) => !test);
    if (unknown) return fail({ kind: "not-found", what: "test", id: unknown.key });
    const ids = chosen.map(({ test }) => test?.id);
    const twice = ids.find((id, i) => ids.indexOf(id) !== i);
    if (twice) return fail({ kind: "invalid", reason: `${twice} is in the suite in two versions; versions are never mixed.` });
    const rowVersion = input.rowVersion + 1;
    if (row) await tx.update(suites).set({ name: input.name, rowVersion }).where(eq(suites.id, input.id));
    else await tx.insert(suites).values({ id: input.id, name: input.name, rowVersion });
    await tx.delete(suiteTests).where(eq(suiteTests.suiteId, input.id));
    if (chosen.length > 0)
      await tx.insert(suiteTests).values(
        chosen.map(({ test, count }, i) => ({
          suiteId: input.id,
          testId: test?.id as string,
          testVersion: test?.version as number,
          runs: count,
          position: i + 1,
        })),
      );
    await recordAudit(tx, deps, actor, { action: row ? "change suite" : "make suite", subject: `suite:${input.id}`, detail: { tests: chosen.length } });
    const [any] = await tx.select({ id: runs.id }).from(runs).limit(1);
    if (row && any) await checkAllReviews(tx, deps);
    return ok({ rowVersion });
  });
}
