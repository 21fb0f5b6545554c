import "server-only";
import { type Database, openDatabase } from "@/db/client";
import { readEnv } from "@/env";
import type { Deps } from "./useCase";

const globals = globalThis as typeof globalThis & { parvexDatabase?: Database };

/** The real dependencies, for Next; the pool is kept across reloads of a development server. */
export function realDeps(): Deps {
  const env = readEnv();
  globals.parvexDatabase ??= openDatabase(env.DATABASE_URL);
  const now = () => new Date();
  return { database: globals.parvexDatabase, now, today: env.PARVEX_TODAY ?? now().toISOString().slice(0, 10), dataDir: env.PARVEX_DATA_DIR };
}
