import { asc, gt } from "drizzle-orm";
import type { Tx } from "@/db/client";
import { runs } from "@/db/schema";
import { readTraces } from "@/db/traces";
import { type DerivedRun, deriveRun } from "./deriveRun";

const RUNS_PER_READ = 32;

/** Derives every run of the lab again from its stored frames, some at a time in bounded memory; nothing is written. */
export async function* recomputeRuns(tx: Tx): AsyncGenerator<{ runId: string; derived: DerivedRun }> {
  let last = "";
  for (;;) {
    const ids = (await tx.select({ id: runs.id }).from(runs).where(gt(runs.id, last)).orderBy(asc(runs.id)).limit(RUNS_PER_READ)).map(({ id }) => id);
    if (ids.length === 0) return;
    for (const { runId, values } of await readTraces(tx, ids, "frames")) yield { runId, derived: deriveRun(values, null, []) };
    last = ids.at(-1) as string;
  }
}
