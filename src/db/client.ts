import { drizzle, type NodePgDatabase } from "drizzle-orm/node-postgres";
import { migrate } from "drizzle-orm/node-postgres/migrator";
import pg from "pg";
import * as schema from "./schema";

export type Database = NodePgDatabase<typeof schema> & { $client: pg.Pool };
/** A transaction or the database itself: what queries take. */
export type Tx = Parameters<Parameters<Database["transaction"]>[0]>[0] | Database;

/** Opens a pool on a PostgreSQL address. The caller ends it with `database.$client.end()`. */
export function openDatabase(url: string): Database {
  const pool = new pg.Pool({ connectionString: url, max: 8, application_name: "parvex" });
  // A server that goes away while a connection idles must not end the process; the next query says so.
  pool.on("error", () => {});
  // Nor one that goes away in the middle of a transaction: the query under way fails, and that says it.
  pool.on("connect", (client) => client.on("error", () => {}));
  return drizzle(pool, { schema, casing: "snake_case" });
}

/** Brings a database to the newest migration. */
export async function migrateDatabase(database: Database, folder: string): Promise<void> {
  await migrate(database, { migrationsFolder: folder });
}
