// npm run demo: everything from a fresh machine to the running application with the demo lab.
import { existsSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { createInterface } from "node:readline/promises";
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
  isAlive,
  run,
  say,
  startServer,
  stateDir,
  stop,
} from "./machine/setUp.mjs";

const dev = process.argv.includes("--dev");
const reset = process.argv.includes("--reset");
const lockFile = path.join(stateDir, "demo.lock");
const dataDir = path.join(stateDir, "data");
const clusterDir = path.join(stateDir, "cluster");

async function startOver() {
  if (process.env.DATABASE_URL) stop("DATABASE_URL names a server of yours; --reset only empties the demo's own. Drop that database yourself.");
  const question = createInterface({ input: process.stdin, output: process.stdout });
  const answer = await question.question("This deletes the demo's database with everything entered in it. Type yes to go on: ");
  question.close();
  if (answer.trim() !== "yes") stop("Nothing was deleted.");
  rmSync(clusterDir, { recursive: true, force: true });
  rmSync(`${clusterDir}.password`, { force: true });
  rmSync(dataDir, { recursive: true, force: true });
  say("the old demo is deleted");
}

checkNode();
ensureStateDir();
if (existsSync(lockFile)) {
  const [pid, address, webPid, instrumentsPid] = readFileSync(lockFile, "utf8").split("\n");
  if (isAlive(Number(pid), "demo.mjs")) stop(`Parvex is running already: ${address || "it is still starting"} (process ${pid}).`);
  say("the last start did not end cleanly; going on");
  // A web server that outlived it would hold the port.
  if (webPid && isAlive(Number(webPid), "next")) process.kill(Number(webPid), "SIGKILL");
  if (instrumentsPid && isAlive(Number(instrumentsPid), "instruments.ts")) process.kill(Number(instrumentsPid), "SIGKILL");
}
writeFileSync(lockFile, `${process.pid}\n`);
process.on("exit", () => rmSync(lockFile, { force: true }));

let cluster;
let web;
let instruments;
let ending = false;
async function end(code) {
  if (ending) return;
  ending = true;
  if (instruments) await endChild(instruments, "SIGTERM", 2000);
  if (web) await endChild(web, "SIGTERM", 8000);
  if (cluster) await cluster.stop();
  say("stopped");
  process.exit(code);
}
for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"]) process.on(signal, () => void end(0));

if (reset) await startOver();
if (!process.env.DATABASE_URL) await ensureDebianPackages(["postgresql"]);
await ensureNpmPackages();
if (process.env.DATABASE_URL) say("using the server of DATABASE_URL");
else {
  cluster = await startCluster(clusterDir);
  say("database is up");
}
const env = { DATABASE_URL: process.env.DATABASE_URL ?? cluster.url, PARVEX_DATA_DIR: dataDir, PARVEX_TODAY: "2026-11-20", NEXT_TELEMETRY_DISABLED: "1" };
say("migrating; filling the lab if it is empty");
const filled = await run(process.execPath, ["--import", "tsx", "cli/fillDemo.ts", "--demo"], { env });
if (filled.code !== 0 && !ending) {
  console.error("\nThe demo lab could not be filled; see above.\n");
  await end(1);
}
if (!dev && !ending) await ensureBuild();
if (!ending) {
  say("starting the simulated instruments");
  instruments = startServer(process.execPath, ["--import", "tsx", "cli/instruments.ts"], env);
  instruments.stderr.on("data", (chunk) => process.stderr.write(chunk));
  instruments.on("exit", (code) => !ending && console.error(`\nThe simulated instruments went away (${code}); recording needs a new start.\n`));
}
if (!ending) {
  const port = await freePort(3000);
  const address = `http://127.0.0.1:${port}`;
  web = startServer(process.execPath, ["node_modules/next/dist/bin/next", dev ? "dev" : "start", "-H", "127.0.0.1", "-p", String(port)], {
    ...env,
    NODE_ENV: dev ? "development" : "production",
  });
  for (const stream of [web.stdout, web.stderr])
    stream.on("data", (chunk) => (dev ? process.stdout.write(chunk) : /error|warn/i.test(chunk) && process.stderr.write(chunk)));
  web.on("exit", () => !ending && void end(1));
  cluster?.child.on("exit", () => {
    if (ending) return;
    console.error("\nThe database server went away. Start again; what was confirmed is kept.\n");
    void end(1);
  });
  if (!(await answers(address, web, 60_000))) {
    if (!ending) {
      console.error("\nThe application does not answer.\n");
      await end(1);
    }
  } else {
    writeFileSync(lockFile, `${process.pid}\n${address}\n${web.pid}\n${instruments.pid}\n`);
    say(`Parvex is ready: ${address}   (Ctrl-C stops it)`);
  }
}
