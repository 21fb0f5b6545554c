import { asc, desc, sql } from "drizzle-orm";
import { type TestDefinition, testKey } from "@/core/bench";
import type { SuitesModel } from "@/core/report";
import * as t from "@/db/schema";
import type { Deps } from "./useCase";

/** All tests of the lab, newest version first, and all suites. */
export async function loadSuites(deps: Deps): Promise<SuitesModel> {
  const tx = deps.database;
  const [tests, workloads, suites, members, reviews, counts] = await Promise.all([
    tx.select().from(t.tests).orderBy(asc(t.tests.workloadId), asc(t.tests.id), desc(t.tests.version)),
    tx.select().from(t.workloads).orderBy(asc(t.workloads.name)),
    tx.select().from(t.suites).orderBy(asc(t.suites.name)),
    tx.select().from(t.suiteTests).orderBy(asc(t.suiteTests.position), asc(t.suiteTests.testId)),
    tx.select({ id: t.reviews.id, title: t.reviews.title, suiteId: t.reviews.suiteId }).from(t.reviews).orderBy(asc(t.reviews.title)),
    tx.select({ id: t.runs.testId, version: t.runs.testVersion, n: sql<number>`count(*)::integer` }).from(t.runs).groupBy(t.runs.testId, t.runs.testVersion),
  ]);
  const workloadOf = new Map(workloads.map((one) => [one.id, one]));
  const countOf = new Map(counts.map(({ id, version, n }) => [testKey(id, version), n]));
  const newest = new Map<string, number>();
  for (const { id, version } of tests) newest.set(id, Math.max(version, newest.get(id) ?? 0));
  return {
    tests: tests.map(({ extra: _, ladderId: __, level: ___, ...test }) => {
      const workload = workloadOf.get(test.workloadId);
      const key = testKey(test.id, test.version);
      return {
        ...(test as unknown as TestDefinition),
        key,
        version: test.version,
        newest: newest.get(test.id) === test.version,
        workloadName: workload?.name ?? test.workloadId,
        group: workload?.group ?? "",
        dataSet: workload?.dataSet ?? null,
        sha256: workload?.sha256 ?? null,
        runs: countOf.get(key) ?? 0,
      };
    }),
    suites: suites.map(({ id, name, rowVersion }) => ({
      id,
      name,
      rowVersion,
      tests: members.filter(({ suiteId }) => suiteId === id).map(({ testId, testVersion, runs }) => ({ testKey: testKey(testId, testVersion), runs })),
      reviews: reviews.filter(({ suiteId }) => suiteId === id).map((review) => ({ id: review.id, title: review.title })),
    })),
    workloads: workloads.map(({ id, name, group, dataSet, sha256 }) => ({ id, name, group, dataSet, sha256 })),
  };
}
