import { sql } from "drizzle-orm";
import { migrateDatabase, openDatabase } from "@/db/client";
import { refreshStatistics } from "@/server/recomputeRuns";

/** Migrates the database and, with --demo, fills an empty lab with the demo review. Thin: all work is in use cases. */
const DEMO_SEED = 20261119;

async function main(): Promise<void> {
  const database = openDatabase(process.env.DATABASE_URL ?? "");
  try {
    await migrateDatabase(database, "src/db/migrations");
    const refreshed = await refreshStatistics(database);
    if (refreshed > 0) console.log(`  the statistics of ${refreshed} runs were made anew by the present method`);
    if (!process.argv.includes("--demo")) return;
    const [row] = (await database.execute<{ filled: boolean }>(sql`select exists (select 1 from parts) as filled`)).rows;
    if (row?.filled) {
      console.log("  the lab has data; kept");
      return;
    }
    // Loaded only where there is something to fill: a second start is to take seconds.
    const [{ ProblemList }, { importPackage }, { openFolder }, { DEMO_TODAY, writeDemoPackage }] = await Promise.all([
      import("@/core/exchange"),
      import("@/server/importPackage"),
      import("@/server/packageSource"),
      import("#sim/demoPackage"),
    ]);
    const folder = `${process.env.PARVEX_DATA_DIR ?? ".parvex/data"}/demo`;
    let started = Date.now();
    // The review still to be run is due in eight days, whenever the demo is started; everything else stands still.
    const embargo = `${new Date(Date.now() + 8 * 86_400_000).toISOString().slice(0, 10)}T14:00:00Z`;
    const made = await writeDemoPackage(folder, DEMO_SEED, embargo);
    console.log(
      `  recorded ${made.runs} runs, ${(made.frames / 1e6).toFixed(1)} million frames, on the simulated bench in ${((Date.now() - started) / 1000).toFixed(1)} s`,
    );
    started = Date.now();
    const problems = new ProblemList();
    const source = await openFolder(folder, problems);
    let shown = 0;
    const result = await importPackage(
      { database, now: () => new Date(), today: DEMO_TODAY, dataDir: folder },
      { personId: "operator", name: "Runa" },
      {
        source,
        problems,
        label: "demo lab",
        onProgress: ({ phase, done, of }) => {
          if (phase !== "logs" || (done - shown < of / 5 && done < of)) return;
          shown = done;
          console.log(`  imported ${done} of ${of} runs`);
        },
      },
    );
    if (!result.ok) throw new Error(`the demo package was refused: ${JSON.stringify(result.problem).slice(0, 2000)}`);
    const [size] = (await database.execute<{ bytes: string }>(sql`select pg_database_size(current_database())::text as bytes`)).rows;
    console.log(`  imported in ${((Date.now() - started) / 1000).toFixed(1)} s; the database has ${(Number(size?.bytes) / 1e6).toFixed(0)} MB`);
  } finally {
    await database.$client.end();
  }
}

await main();
