import { existsSync, readFileSync } from "node:fs";
import path from "node:path";

const STATE_DIR = path.resolve(import.meta.dirname, "../.parvex");

/** The address of the lab's database: DATABASE_URL, or the demo's own cluster while it runs; undefined where neither is there. */
export function runningDatabase(): string | undefined {
  if (process.env.DATABASE_URL) return process.env.DATABASE_URL;
  const [pidFile, passwordFile] = [path.join(STATE_DIR, "cluster", "postmaster.pid"), path.join(STATE_DIR, "cluster.password")];
  if (!existsSync(pidFile) || !existsSync(passwordFile)) return undefined;
  const port = readFileSync(pidFile, "utf8").split("\n")[3];
  return `postgres://parvex:${readFileSync(passwordFile, "utf8").trim()}@127.0.0.1:${port}/parvex`;
}
