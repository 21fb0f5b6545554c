import { eq, sql } from "drizzle-orm";
import type { RefusedFile } from "@/core/intake";
import { fail, ok, type Result } from "@/core/result";
import type { Tx } from "@/db/client";
import type { PackedTrace } from "@/db/packTraces";
import { intakes, runStatistics, runs, traces } from "@/db/schema";
import { insertPacked } from "@/db/traces";
import { contentSha256, type PreparedRun } from "./prepareRun";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, recordAudit } from "./useCase";

/** What became of a file of an intake. */
export interface FileOutcome {
  path: string;
  stamp: string;
  state: "stored" | "present" | "refused";
  reason: string | null;
  runId: string | null;
}

interface ExistingRun {
  id: string;
  content: string;
}

const placeKey = (setupId: string, testKey: string, number: number) => `${setupId}\n${testKey}\n${number}`;

/** The lab's runs in the places asked for, with the hash of their content. */
async function existingRuns(tx: Tx, prepared: readonly PreparedRun[]): Promise<Map<string, ExistingRun>> {
  const places = prepared.map(({ place }) => ({ s: place.setupId, t: place.testKey, n: place.number }));
  const { rows } = await tx.execute<{ id: string; setup_id: string; test_key: string; number: number; series: PackedTrace[] | null }>(sql`
    select r.id, r.setup_id, r.test_id || '@' || r.test_version as test_key, r.number,
      (select json_agg(json_build_object('log', t.log, 'position', t.position, 'channel', t.channel, 'unit', t.unit, 'sha256', t.sha256))
       from ${traces} t where t.run_id = r.id) as series
    from ${runs} r
    join json_to_recordset(${JSON.stringify(places)}::json) as p(s text, t text, n integer)
      on r.setup_id = p.s and r.test_id || '@' || r.test_version = p.t and r.number = p.n`);
  return new Map(
    rows.map(({ id, setup_id, test_key, number, series }) => [placeKey(setup_id, test_key, number), { id, content: contentSha256(series ?? []) }]),
  );
}

/** Runs of the same cell with the same content under another number, by place: a log filed twice. */
async function sameContent(tx: Tx, prepared: readonly PreparedRun[]): Promise<Map<string, { id: string; number: number; status: string }>> {
  const places = prepared.map(({ place, contentSha256: content }) => ({ s: place.setupId, t: place.testKey, n: place.number, c: content }));
  const { rows } = await tx.execute<{ s: string; t: string; n: number; id: string; number: number; status: string }>(sql`
    select p.s, p.t, p.n, r.id, r.number, r.status
    from ${runs} r
    join json_to_recordset(${JSON.stringify(places)}::json) as p(s text, t text, n integer, c text)
      on r.setup_id = p.s and r.test_id || '@' || r.test_version = p.t and r.source_sha256 = p.c and r.number <> p.n
    order by r.number desc`);
  return new Map(rows.map(({ s, t, n, id, number, status }) => [placeKey(s, t, n), { id, number, status }]));
}

/** Ids of runs read like what they are; where one is taken by another place, its content tells them apart. */
async function freshIds(tx: Tx, prepared: readonly PreparedRun[]): Promise<Map<PreparedRun, string>> {
  const wanted = prepared.map(({ place }) => `${place.setupId}-${place.testKey.replace("@", "-v")}-${place.number}`.slice(0, 110));
  const { rows } = await tx.execute<{ id: string }>(sql`select id from ${runs} where id = any(${sql.param(wanted)}::text[])`);
  const taken = new Set(rows.map(({ id }) => id));
  return new Map(
    prepared.map((run, i) => {
      const id = taken.has(wanted[i] as string) ? `${wanted[i]}-${run.contentSha256.slice(0, 8)}` : (wanted[i] as string);
      taken.add(id);
      return [run, id];
    }),
  );
}

/**
 * Stores runs of an open intake, all of these or none, with what became of each of their files. A run that is there already
 * with the same content is passed over; one that is there with other content is refused, and so is a log that the cell has
 * under another number. Sending the same again changes nothing.
 */
export async function storeRuns(
  deps: Deps,
  actor: Actor,
  input: { intakeId: string; prepared: readonly PreparedRun[]; refused: readonly RefusedFile[] },
): Promise<Result<FileOutcome[], UseCaseProblem>> {
  const { intakeId, prepared } = input;
  return deps.database.transaction(async (tx) => {
    const [intake] = await tx.select().from(intakes).where(eq(intakes.id, intakeId)).for("share");
    if (!intake) return fail({ kind: "not-found", what: "import", id: intakeId });
    if (intake.state !== "open") return fail({ kind: "invalid", reason: "This import has ended; drop the files again to start another." });
    // Two tabs may send the same run: the second waits here and then finds it present.
    await tx.execute(sql`select pg_advisory_xact_lock(hashtext('parvex import'))`);
    const existing = await existingRuns(tx, prepared);
    const elsewhere = await sameContent(tx, prepared);
    const outcomes: FileOutcome[] = input.refused.map(({ path, stamp, reason }) => ({ path, stamp, state: "refused", reason, runId: null }));
    const fresh: PreparedRun[] = [];
    const inThis = new Set<string>();
    const contentInThis = new Map<string, number>();
    for (const run of prepared) {
      const key = placeKey(run.place.setupId, run.place.testKey, run.place.number);
      const there = existing.get(key);
      const tell = (state: FileOutcome["state"], reason: string | null, runId: string | null) =>
        outcomes.push(...run.place.files.map(({ path, stamp }) => ({ path, stamp, state, reason, runId })));
      if (there && there.content === run.contentSha256) tell("present", null, there.id);
      else if (there || inThis.has(key))
        tell(
          "refused",
          `the lab has another run ${run.place.number} in this cell (${there?.id ?? "of this import"}); give this one a free number`,
          there?.id ?? null,
        );
      else {
        const cellContent = `${run.place.setupId}\n${run.place.testKey}\n${run.contentSha256}`;
        const twin = elsewhere.get(key);
        const number = twin?.number ?? contentInThis.get(cellContent);
        if (number !== undefined) {
          const discarded = twin?.status === "discarded" ? ", which was discarded; bring it back there if it is to count" : "";
          tell("refused", `it holds the same log as run ${number} of this cell${discarded}; it was not filed a second time`, twin?.id ?? null);
          continue;
        }
        inThis.add(key);
        contentInThis.set(cellContent, run.place.number);
        fresh.push(run);
      }
    }
    const ids = await freshIds(tx, fresh);
    if (fresh.length > 0) {
      const idOf = (run: PreparedRun) => ids.get(run) as string;
      await tx.insert(runs).values(
        fresh.map((run) => {
          const cut = run.place.testKey.lastIndexOf("@");
          return {
            id: idOf(run),
            setupId: run.place.setupId,
            testId: run.place.testKey.slice(0, cut),
            testVersion: Number(run.place.testKey.slice(cut + 1)),
            number: run.place.number,
            status: "valid",
            sourceSha256: run.contentSha256,
            note: run.place.files.length > 0 ? `from ${run.place.files.map(({ path }) => path).join(" and ")}` : null,
          };
        }),
      );
      await insertPacked(
        tx,
        fresh.flatMap((run) => run.packed.map((trace) => ({ ...trace, runId: idOf(run) }))),
      );
      await tx.insert(runStatistics).values(fresh.map((run) => ({ runId: idOf(run), ...run.derived })));
      for (const run of fresh) outcomes.push(...run.place.files.map((file) => ({ ...file, state: "stored" as const, reason: null, runId: idOf(run) })));
    }
    await tx.execute(sql`
      update intake_files f set state = o.state, reason = o.reason, run_id = o."runId", stamp = o.stamp
      from json_to_recordset(${JSON.stringify(outcomes)}::json) as o(path text, stamp text, state text, reason text, "runId" text)
      where f.intake_id = ${intakeId} and f.path = o.path`);
    await recordAudit(tx, deps, actor, {
      action: "take in logs",
      subject: `intake:${intakeId}`,
      detail: { stored: fresh.length, files: outcomes.length },
    });
    return ok(outcomes);
  });
}
