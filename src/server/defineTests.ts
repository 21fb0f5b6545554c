import { eq, inArray } from "drizzle-orm";
import { z } from "zod";
import { Slug, TestDefinition } from "@/core/bench";
import { fail, ok, type Result } from "@/core/result";
import { tests, workloads } from "@/db/schema";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, recordAudit } from "./useCase";

/** Tests to be defined, with their workload where it is new. A test whose id is known becomes its next version. */
export const TestsDraft = z.object({
  workload: z.object({
    id: Slug,
    name: z.string().trim().min(1, "A workload needs a name.").max(80),
    group: z.string().trim().min(1, "A workload needs a group, such as games or production.").max(40),
    dataSet: z.string().trim().max(300).nullable(),
    sha256: z
      .string()
      .regex(/^[0-9a-f]{64}$/, "A SHA-256 has 64 hexadecimal digits.")
      .nullable(),
  }),
  tests: z.array(TestDefinition).min(1, "There is no test to define.").max(400, "At most 400 tests in one go."),
});
export type TestsDraft = z.infer<typeof TestsDraft>;

const FIELDS = Object.keys(TestDefinition.shape) as (keyof TestDefinition)[];

/**
 * Defines tests. A known id with a changed definition becomes the next version, which never mixes with the old one; one
 * that is already defined just so is left as it is.
 */
export async function defineTests(deps: Deps, actor: Actor, input: TestsDraft): Promise<Result<{ added: string[]; same: number }, UseCaseProblem>> {
  if (new Set(input.tests.map(({ id }) => id)).size !== input.tests.length) return fail({ kind: "invalid", reason: "Two of these tests have the same id." });
  return deps.database.transaction(async (tx) => {
    const [known] = await tx.select().from(workloads).where(eq(workloads.id, input.workload.id));
    if (!known) await tx.insert(workloads).values(input.workload);
    const rows = await tx
      .select()
      .from(tests)
      .where(
        inArray(
          tests.id,
          input.tests.map(({ id }) => id),
        ),
      );
    const added: string[] = [];
    for (const test of input.tests) {
      if (test.workloadId !== input.workload.id) return fail({ kind: "invalid", reason: `${test.name} is of another workload.` });
      const last = rows.filter(({ id }) => id === test.id).sort((a, b) => b.version - a.version)[0];
      if (last && FIELDS.every((field) => (last as Record<string, unknown>)[field] === test[field])) continue;
      const version = (last?.version ?? 0) + 1;
      await tx.insert(tests).values({ ...test, version });
      added.push(`${test.id}@${version}`);
    }
    await recordAudit(tx, deps, actor, { action: "define tests", subject: `workload:${input.workload.id}`, detail: { added } });
    return ok({ added, same: input.tests.length - added.length });
  });
}
