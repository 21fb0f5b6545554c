import { randomBytes } from "node:crypto";
import { sql } from "drizzle-orm";
import pg from "pg";
import { ProblemList } from "@/core/exchange";
import { type Database, migrateDatabase, openDatabase } from "@/db/client";
import { exportFiles } from "@/server/exportPackage";
import { importPackage } from "@/server/importPackage";
import type { PackageSource } from "@/server/packageSource";
import type { Actor, Deps } from "@/server/useCase";

export const EDITOR: Actor = { personId: "editor", name: "Idris" };
export const SECOND: Actor = { personId: "second-editor", name: "Maely" };

/** A migrated, empty lab in a database of its own on the test server, and the way to drop it. */
export async function emptyLab(now = new Date("2026-11-20T16:00:00Z")): Promise<{ deps: Deps; drop: () => Promise<void> }> {
  const url = new URL(process.env.DATABASE_URL ?? "");
  const name = `test_${randomBytes(6).toString("hex")}`;
  const admin = new pg.Client({ connectionString: url.href });
  await admin.connect();
  await admin.query(`create database ${name}`);
  const database = openDatabase(Object.assign(new URL(url.href), { pathname: `/${name}` }).href);
  await migrateDatabase(database, "src/db/migrations");
  const drop = async () => {
    await database.$client.end();
    await admin.query(`drop database ${name} with (force)`);
    await admin.end();
  };
  return { deps: { database, now: () => now, today: "2026-11-20", dataDir: ".parvex/test/data" }, drop };
}

/** A package in memory. */
export function memorySource(files: Record<string, string | Uint8Array>): PackageSource {
  const encoder = new TextEncoder();
  const bytes = new Map(Object.entries(files).map(([name, content]) => [name, typeof content === "string" ? encoder.encode(content) : content]));
  return {
    names: [...bytes.keys()].sort(),
    sizeOf: (name) => bytes.get(name)?.length ?? 0,
    read: async (name) => bytes.get(name) as Uint8Array,
    close: async () => {},
  };
}

/** Imports a package held in memory. */
export async function importFiles(deps: Deps, files: Record<string, string | Uint8Array>, more: Partial<Parameters<typeof importPackage>[2]> = {}) {
  return importPackage(deps, EDITOR, { source: memorySource(files), problems: new ProblemList(), label: "test", ...more });
}

/** All files of an export, by name. */
export async function exported(deps: Deps, reviewId?: string): Promise<Record<string, string>> {
  const files: Record<string, string> = {};
  for await (const { name, content } of exportFiles(deps.database, { reviewId })) files[name] = content;
  return files;
}

/** Row counts of every table that an import may touch: the database as it was, or not. */
export async function rowCounts(database: Database): Promise<Record<string, number>> {
  const tables = ["regions", "parts", "offers", "benches", "tests", "setups", "reviews", "runs", "run_values", "traces", "run_statistics", "findings", "audit"];
  const counts: Record<string, number> = {};
  for (const table of tables) {
    const { rows } = await database.execute<{ n: number }>(sql`select count(*)::integer as n from ${sql.identifier(table)}`);
    counts[table] = rows[0]?.n ?? -1;
  }
  return counts;
}

const manifest = (names: string[]) => JSON.stringify({ name: "small", parvex_format: 1, resources: names.map((name) => ({ name, path: `${name}.csv` })) });

/** Frame times of a steady scene at a rate, with a little deterministic jitter. */
export const frames = (fps: number, count = 400) =>
  `frame_time_ms\n${Array.from({ length: count }, (_, i) => ((1000 / fps) * (1 + 0.12 * Math.sin(i / 7) + 0.04 * Math.sin(i * 2.3))).toFixed(4)).join("\n")}\n`;

/** A small whole package: two cards, two workloads, three runs each, one region, power of some runs, an author's own column. */
export function smallPackage(): Record<string, string> {
  const cells = ["card-a", "card-b"].flatMap((card, c) =>
    ["mill", "quay"].flatMap((work, w) =>
      [1, 2, 3].map((number) => ({ id: `${card}-${work}-${number}`, card, work, number, fps: 80 + 30 * c + 15 * w + number * 0.4 })),
    ),
  );
  const tables: Record<string, string> = {
    regions: "code,name,currency,tax_included,tax_rate,tariff_per_kwh\nNO,Norway,NOK,true,0.25,1.35\n",
    fx_rates: "from,to,rate,on,source\nNOK,PLN,0.37,2026-11-01,invented\n",
    parts: 'id,kind,maker,name,released_on,x_colour\ncard-a,gpu,Velm,"Velm, the first",2026-01-05,"sea ""green"""\ncard-b,gpu,Orrisk,Orrisk Two,,\n',
    part_specs: "part_id,key,value,unit,source,as_of\ncard-a,vram,12,GiB,sheet,2026-10-01\n",
    offers:
      "id,part_id,region,kind,condition,price,currency,tax_included,shipping,in_stock,shop,seen_on\noffer-a,card-a,NO,street,new,4999.9,NOK,true,0,true,Brattelid,2026-11-18\noffer-b,card-b,NO,street,new,5999,NOK,true,,true,Brattelid,2026-11-18\n",
    benches: "id,revision,name,created_on\noak,1,Bench Oak,2026-10-01\n",
    bench_state: 'bench_id,revision,key,value\noak,1,os_build,"build\n26.4"\n',
    workloads: "id,name,group\nmill,Mill,games\nquay,Quay,games\n",
    tests:
      "id,version,workload_id,name,kind,unit,better,resolution,warmup_s\nmill,1,mill,Mill,frames,fps,higher,2560x1440,7.5\nquay,1,quay,Quay,frames,fps,higher,2560x1440,\n",
    suites: "id,name\npair,A pair\n",
    suite_tests: "suite_id,test_id,test_version,runs,position\npair,mill,1,3,1\npair,quay,1,3,2\n",
    setups: "id,bench_id,bench_revision,label\ncard-a,oak,1,Velm One\ncard-b,oak,1,Orrisk Two\n",
    setup_parts: "setup_id,part_id,role,quantity,under_test\ncard-a,card-a,gpu,1,true\ncard-b,card-b,gpu,1,true\n",
    setup_state: "setup_id,key,value,unit\ncard-a,power_limit,120,W\n",
    reviews: "id,title,question,baseline_setup_id,suite_id,embargo_until\nduel,Two cards,Which?,card-a,pair,2026-11-21T12:00:00+01:00\n",
    review_setups: "review_id,setup_id,position,role\nduel,card-a,1,peer\nduel,card-b,2,subject\n",
    mounts: "id,setup_id,number,paste\nm1,card-a,1,grey\n",
    runs: `id,setup_id,test_id,test_version,number,status,reason,frames_path,sensors_path,started_at\n${cells.map(({ id, card, work, number }) => `${id},${card},${work},1,${number},valid,,frames/${id}.csv,${number === 1 ? `sensors/${id}.csv` : ""},2026-11-02T10:00:00+02:00`).join("\n")}\n`,
    run_values: "run_id,metric,value,unit,at\ncard-a-mill-2,power,151.5,W,device\n",
    opinions: "run_id,who,screen,blind,score,text\ncard-a-mill-1,Runa,ultrawide,true,4,smooth\n",
    trace_edits: "run_id,from_s,to_s,reason,who,at,undone_at\ncard-a-mill-1,0,0.5,menu,Runa,2026-11-02T12:00:00Z,\n",
    claims: 'id,review_id,sentence,computation\nc1,duel,"Two is faster","{""kind"":""unknown""}"\n',
  };
  const files: Record<string, string> = { "datapackage.json": manifest(Object.keys(tables)) };
  for (const [name, content] of Object.entries(tables)) files[`${name}.csv`] = content;
  for (const { id, fps, number } of cells) {
    files[`frames/${id}.csv`] = frames(fps);
    if (number === 1)
      files[`sensors/${id}.csv`] =
        `t_s,gpu_w,hotspot_c\n${Array.from({ length: 20 }, (_, i) => `${(i * 0.5 - 1).toFixed(2)},${150 + i},${i % 3 === 0 ? "" : 60 + i}`).join("\n")}\n`;
  }
  return files;
}

/** The small package with one file changed by a function. */
export function changed(name: string, change: (text: string) => string): Record<string, string> {
  const files = smallPackage();
  return { ...files, [name]: change(files[name] ?? "") };
}
