// npm run bench [-- --logs N]: measures the heavy work on a throw-away database, prints a table and writes it as JSON.
import { rmSync } from "node:fs";
import path from "node:path";
import { startCluster } from "./machine/postgres.mjs";
import { checkNode, ensureDebianPackages, ensureNpmPackages, ensureStateDir, run, stateDir } from "./machine/setUp.mjs";

checkNode();
ensureStateDir();
await ensureDebianPackages(["postgresql"]);
await ensureNpmPackages();
const folder = path.join(stateDir, "bench");
const cluster = await startCluster(path.join(stateDir, `bench-cluster-${process.pid}`), { throwAway: true });
let code = 1;
try {
  ({ code } = await run(process.execPath, ["--import", "tsx", "cli/bench.ts", folder, ...process.argv.slice(2)], { env: { DATABASE_URL: cluster.url } }));
} finally {
  await cluster.stop();
  cluster.remove();
  rmSync(path.join(folder, "logs"), { recursive: true, force: true });
}
process.exit(code);
