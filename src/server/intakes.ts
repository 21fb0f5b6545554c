import { randomUUID } from "node:crypto";
import { and, desc, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { testKey } from "@/core/bench";
import { ColumnUse, type IntakeModel, LogShape, type OpenIntake, type PastIntake, PathPattern, shapeFingerprint } from "@/core/intake";
import { fail, ok, type Result } from "@/core/result";
import type { Tx } from "@/db/client";
import { importProfiles, intakeFiles, intakes, pathPatterns, runs, setups, tests, workloads } from "@/db/schema";
import { checkAllReviews } from "./checkReviews";
import { settingsOf } from "./loadRuns";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, recordAudit } from "./useCase";

/** The files of a large import with their places, before any is read. */
export const IntakeDraft = z.object({
  label: z.string().trim().min(1).max(200),
  files: z
    .array(
      z.object({
        path: z.string().min(1).max(1000),
        stamp: z.string().max(80),
        setupId: z.string().min(1),
        testKey: z.string().regex(/^.+@\d+$/),
        number: z.int().min(1),
      }),
    )
    .min(1)
    .max(100_000),
});
export type IntakeDraft = z.infer<typeof IntakeDraft>;

const FILES_PER_STATEMENT = 5000;

/**
 * Opens an import, or goes on with the one of this name that was left open. Answers which files have come to something
 * already and have not changed since: those need not be read again.
 */
export async function openIntake(deps: Deps, actor: Actor, draft: IntakeDraft): Promise<Result<{ intakeId: string; settled: string[] }, UseCaseProblem>> {
  return deps.database.transaction(async (tx) => {
    const known = new Set((await tx.select({ id: setups.id }).from(setups)).map(({ id }) => id));
    const keys = new Set((await tx.select({ id: tests.id, version: tests.version }).from(tests)).map(({ id, version }) => testKey(id, version)));
    const lost = draft.files.find(({ setupId, testKey: key }) => !known.has(setupId) || !keys.has(key));
    if (lost) return fail({ kind: "invalid", reason: `${lost.path} belongs to ${lost.setupId} and ${lost.testKey}, which the lab does not have.` });
    const [open] = await tx
      .select()
      .from(intakes)
      .where(and(eq(intakes.label, draft.label), eq(intakes.state, "open")))
      .orderBy(desc(intakes.madeAt))
      .limit(1);
    const intakeId = open?.id ?? randomUUID();
    if (!open) await tx.insert(intakes).values({ id: intakeId, label: draft.label, state: "open", madeBy: actor.name, madeAt: deps.now() });
    for (let from = 0; from < draft.files.length; from += FILES_PER_STATEMENT) {
      const rows = draft.files.slice(from, from + FILES_PER_STATEMENT).map(({ testKey: key, ...file }) => {
        const cut = key.lastIndexOf("@");
        return { ...file, testId: key.slice(0, cut), version: Number(key.slice(cut + 1)) };
      });
      // A file that has its run keeps it, unless the file or its place has changed.
      await tx.execute(sql`
        insert into intake_files (intake_id, path, stamp, setup_id, test_id, test_version, number, state)
        select ${intakeId}, f.path, f.stamp, f."setupId", f."testId", f.version, f.number, 'waiting'
        from json_to_recordset(${JSON.stringify(rows)}::json) as f(path text, stamp text, "setupId" text, "testId" text, version integer, number integer)
        on conflict (intake_id, path) do update set
          stamp = excluded.stamp, setup_id = excluded.setup_id, test_id = excluded.test_id, test_version = excluded.test_version, number = excluded.number,
          state = case when intake_files.state in ('stored', 'present') and (intake_files.stamp, intake_files.setup_id, intake_files.test_id, intake_files.test_version, intake_files.number)
            = (excluded.stamp, excluded.setup_id, excluded.test_id, excluded.test_version, excluded.number) then intake_files.state else 'waiting' end`);
    }
    const settled = await tx
      .select({ path: intakeFiles.path })
      .from(intakeFiles)
      .where(and(eq(intakeFiles.intakeId, intakeId), sql`${intakeFiles.state} in ('stored', 'present')`));
    return ok({ intakeId, settled: settled.map(({ path }) => path) });
  });
}

/** Ends an import: done when nothing waits any more, or cancelled; what is stored stays. The checks run over what came in. */
export const IntakeEnd = z.object({ intakeId: z.string(), state: z.enum(["done", "cancelled"]) });

export async function endIntake(
  deps: Deps,
  actor: Actor,
  { intakeId, state }: z.infer<typeof IntakeEnd>,
): Promise<Result<Record<string, number>, UseCaseProblem>> {
  return deps.database.transaction(async (tx) => {
    const [intake] = await tx.select().from(intakes).where(eq(intakes.id, intakeId)).for("update");
    if (!intake) return fail({ kind: "not-found", what: "import", id: intakeId });
    const counted = await tx
      .select({ state: intakeFiles.state, n: sql<number>`count(*)::integer` })
      .from(intakeFiles)
      .where(eq(intakeFiles.intakeId, intakeId))
      .groupBy(intakeFiles.state);
    const counts = Object.fromEntries(counted.map((row) => [row.state, row.n]));
    if (state === "done" && (counts.waiting ?? 0) > 0)
      return fail({ kind: "invalid", reason: `${counts.waiting} files have not been read yet; go on with the import, or cancel it.` });
    if (intake.state === "open") {
      await tx.update(intakes).set({ state, endedAt: deps.now() }).where(eq(intakes.id, intakeId));
      await checkAllReviews(tx, deps);
      await recordAudit(tx, deps, actor, { action: `${state === "done" ? "end" : "cancel"} import`, subject: `intake:${intakeId}`, detail: counts });
    }
    return ok(counts);
  });
}

const PAST_SHOWN = 8;
const REFUSED_SHOWN = 20;

/** The imports that ended last, with what became of their files. */
async function pastIntakes(tx: Tx): Promise<PastIntake[]> {
  const { rows } = await tx.execute<Omit<PastIntake, "refused"> & { refused: PastIntake["refused"] | null }>(sql`
    select i.id, i.label, i.made_by as "madeBy", to_char(i.made_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as "madeAt", i.state,
      count(*) filter (where f.state = 'stored')::integer as stored, count(*) filter (where f.state = 'present')::integer as present,
      count(*) filter (where f.state = 'waiting')::integer as waiting,
      json_agg(json_build_object('path', f.path, 'reason', f.reason) order by f.path) filter (where f.state = 'refused') as refused
    from (select * from ${intakes} where state <> 'open' order by ended_at desc limit ${PAST_SHOWN}) i
    join ${intakeFiles} f on f.intake_id = i.id
    group by i.id, i.label, i.made_by, i.made_at, i.state, i.ended_at
    order by i.ended_at desc`);
  return rows.map((row) => ({ ...row, refused: (row.refused ?? []).slice(0, REFUSED_SHOWN) }));
}

/** Loads what taking in logs starts from: the lab's names, profiles, patterns, imports left open, and the runs there are. */
export async function loadIntake({ database }: Pick<Deps, "database">): Promise<IntakeModel> {
  const [past, setupRows, testRows, openRows, profiles, patterns, runRows] = await Promise.all([
    pastIntakes(database),
    database.select({ id: setups.id, label: setups.label }).from(setups).orderBy(setups.label, setups.id),
    database.select().from(tests).innerJoin(workloads, eq(workloads.id, tests.workloadId)).orderBy(tests.name, tests.version),
    database.select().from(intakes).where(eq(intakes.state, "open")).orderBy(desc(intakes.madeAt)),
    database.select().from(importProfiles).orderBy(desc(importProfiles.madeAt)),
    database.select().from(pathPatterns).orderBy(desc(pathPatterns.madeAt)),
    database
      .select({
        setupId: runs.setupId,
        testId: runs.testId,
        version: runs.testVersion,
        numbers: sql<number[]>`array_agg(${runs.number} order by ${runs.number})`,
      })
      .from(runs)
      .groupBy(runs.setupId, runs.testId, runs.testVersion),
  ]);
  const open = await Promise.all(
    openRows.map(async ({ id, label, madeBy, madeAt }): Promise<OpenIntake> => {
      const files = await database
        .select({ path: intakeFiles.path, state: intakeFiles.state, reason: intakeFiles.reason })
        .from(intakeFiles)
        .where(eq(intakeFiles.intakeId, id));
      return {
        id,
        label,
        madeBy,
        madeAt: madeAt.toISOString(),
        files: files.length,
        settled: files.filter(({ state }) => state === "stored" || state === "present").length,
        refused: files.flatMap(({ path, state, reason }) => (state === "refused" ? [{ path, reason: reason ?? "" }] : [])),
      };
    }),
  );
  return {
    names: {
      setups: setupRows,
      tests: testRows.map((row) => ({
        key: testKey(row.tests.id, row.tests.version),
        id: row.tests.id,
        name: row.tests.version > 1 ? `${row.tests.name}, version ${row.tests.version}` : row.tests.name,
        workloadId: row.workloads.id,
        workloadName: row.workloads.name,
        resolution: row.tests.resolution,
        settings: settingsOf(row.tests),
      })),
    },
    open,
    past,
    profiles: profiles.flatMap(({ fingerprint, name, uses }) => {
      const parsed = z.array(ColumnUse).safeParse(uses);
      return parsed.success ? [{ fingerprint, name, uses: parsed.data }] : [];
    }),
    patterns: patterns.flatMap(({ template, meanings }) => {
      const parsed = PathPattern.safeParse({ template, meanings });
      return parsed.success ? [parsed.data] : [];
    }),
    taken: Object.fromEntries(runRows.map(({ setupId, testId, version, numbers }) => [`${setupId}/${testKey(testId, version)}`, numbers])),
  };
}

/** How files of one shape are to be read from now on. */
export const ProfileDraft = z.object({
  name: z.string().trim().min(1, "Give the profile a name.").max(120),
  shape: LogShape,
  uses: z.array(ColumnUse).max(2000),
});

export async function saveProfile(deps: Deps, actor: Actor, draft: z.infer<typeof ProfileDraft>): Promise<Result<{ fingerprint: string }, UseCaseProblem>> {
  if (draft.uses.length !== draft.shape.columns.length) return fail({ kind: "invalid", reason: "The profile does not have one use for each column." });
  const fingerprint = shapeFingerprint(draft.shape);
  const row = { name: draft.name, shape: draft.shape, uses: draft.uses, madeBy: actor.name, madeAt: deps.now() };
  await deps.database
    .insert(importProfiles)
    .values({ fingerprint, ...row })
    .onConflictDoUpdate({ target: importProfiles.fingerprint, set: row });
  return ok({ fingerprint });
}

/** Remembers how paths are read. */
export async function savePattern(deps: Deps, actor: Actor, { template, meanings }: PathPattern): Promise<Result<null, UseCaseProblem>> {
  const row = { meanings, madeBy: actor.name, madeAt: deps.now() };
  await deps.database
    .insert(pathPatterns)
    .values({ template, ...row })
    .onConflictDoUpdate({ target: pathPatterns.template, set: row });
  return ok(null);
}
