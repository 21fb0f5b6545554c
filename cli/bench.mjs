// npm run bench [-- --logs N | --growth] [-- --browser]: measures the heavy work on a throw-away database, prints a table and
// writes it as JSON. --growth imports 500, 1,000, 2,000 and 4,104 logs; --browser opens the review in headless Chromium.
import { rmSync } from "node:fs";
import path from "node:path";
import { startCluster } from "./machine/postgres.mjs";
import {
  answers,
  checkNode,
  endChild,
  ensureBuild,
  ensureDebianPackages,
  ensureNpmPackages,
  ensureStateDir,
  freePort,
  run,
  startServer,
  stateDir,
  stop,
} from "./machine/setUp.mjs";

const browser = process.argv.includes("--browser");
const asked = process.argv.slice(2).filter((argument) => argument !== "--browser");

checkNode();
ensureStateDir();
await ensureDebianPackages(browser ? ["postgresql", "chromium"] : ["postgresql"]);
await ensureNpmPackages();
if (browser) await ensureBuild();
const folder = path.join(stateDir, "bench");
const cluster = await startCluster(path.join(stateDir, `bench-cluster-${process.pid}`), { throwAway: true });
const env = { DATABASE_URL: cluster.url, PARVEX_DATA_DIR: folder, PARVEX_TODAY: "2026-11-20", NEXT_TELEMETRY_DISABLED: "1" };
let code = 1;
let web;
try {
  const more = [];
  if (browser) {
    const port = await freePort(3500);
    const address = `http://127.0.0.1:${port}`;
    web = startServer(process.execPath, ["node_modules/next/dist/bin/next", "start", "-H", "127.0.0.1", "-p", String(port)], {
      ...env,
      NODE_ENV: "production",
    });
    // Before anything is imported only the server itself can answer.
    if (!(await answers(`${address}/icon.svg`, web, 60_000))) stop("The server for the browser's figures did not start.");
    more.push("--address", address);
  }
  ({ code } = await run(process.execPath, ["--import", "tsx", "cli/bench.ts", folder, ...asked, ...more], { env }));
} finally {
  if (web) await endChild(web, "SIGTERM", 8000);
  await cluster.stop();
  cluster.remove();
  rmSync(path.join(folder, "logs"), { recursive: true, force: true });
}
process.exit(code);
