// npm test: the same set-up as the demo on a throw-away cluster, then every check; ends with one line that counts them all.
import { existsSync, mkdirSync, readFileSync, rmSync } from "node:fs";
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
  say,
  startServer,
  stateDir,
} from "./machine/setUp.mjs";

checkNode();
ensureStateDir();
await ensureDebianPackages(["postgresql", "chromium", "time"]);
await ensureNpmPackages();

const workDir = path.join(stateDir, "test");
rmSync(workDir, { recursive: true, force: true });
mkdirSync(workDir, { recursive: true });
const cluster = await startCluster(path.join(stateDir, `test-cluster-${process.pid}`), { throwAway: true });
const env = { DATABASE_URL: cluster.url, PARVEX_DATA_DIR: path.join(workDir, "data"), PARVEX_TODAY: "2026-11-20", NEXT_TELEMETRY_DISABLED: "1" };

let web;
let instruments;
let ending = false;
async function tidyUp() {
  if (ending) return;
  ending = true;
  if (instruments) await endChild(instruments, "SIGTERM", 2000);
  if (web) await endChild(web, "SIGTERM", 8000);
  await cluster.stop();
  cluster.remove();
}
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => void tidyUp().then(() => process.exit(1)));

let passed = 0;
let failed = 0;
let skipped = 0;
const count = (name, result) => {
  passed += result.passed;
  failed += result.failed;
  skipped += result.skipped ?? 0;
  say(`${name}: ${result.passed} passed, ${result.failed} failed`);
};
const readJson = (file) => (existsSync(file) ? JSON.parse(readFileSync(file, "utf8")) : undefined);

async function single(name, command) {
  say(name);
  const { code } = await run(process.execPath, command, { env });
  count(name, { passed: code === 0 ? 1 : 0, failed: code === 0 ? 0 : 1 });
}

async function vitest(project) {
  const outputFile = path.join(workDir, `${project}.json`);
  say(`${project} tests`);
  const { code } = await run(
    process.execPath,
    ["node_modules/vitest/vitest.mjs", "run", "--project", project, "--reporter=default", "--reporter=json", `--outputFile.json=${outputFile}`],
    { env },
  );
  const report = readJson(outputFile);
  const result = { passed: report?.numPassedTests ?? 0, failed: report?.numFailedTests ?? 0, skipped: report?.numPendingTests ?? 0 };
  // A file that does not load, or a run without tests, is a failure even where no test says so.
  if (result.failed === 0 && (code !== 0 || result.passed === 0)) result.failed = 1;
  count(`${project} tests`, result);
}

async function browser(prepared) {
  const filled = await prepared;
  instruments = startServer(process.execPath, ["--import", "tsx", "cli/instruments.ts"], env);
  const port = await freePort(3200);
  const address = `http://127.0.0.1:${port}`;
  web = startServer(process.execPath, ["node_modules/next/dist/bin/next", "start", "-H", "127.0.0.1", "-p", String(port)], { ...env, NODE_ENV: "production" });
  let log = "";
  for (const stream of [web.stdout, web.stderr]) stream.on("data", (chunk) => (log += chunk));
  if (filled.code !== 0 || !(await answers(address, web, 60_000))) {
    console.error(log);
    return count("browser tests", { passed: 0, failed: 1 });
  }
  say("browser tests");
  const { code } = await run(process.execPath, ["node_modules/@playwright/test/cli.js", "test"], { env: { ...env, PARVEX_TEST_ADDRESS: address } });
  const stats = readJson(path.join(workDir, "browser.json"))?.stats;
  const result = { passed: (stats?.expected ?? 0) + (stats?.flaky ?? 0), failed: stats?.unexpected ?? 0, skipped: stats?.skipped ?? 0 };
  if (result.failed === 0 && (code !== 0 || result.passed === 0)) result.failed = 1;
  if (result.failed > 0) console.error(log.slice(-4000));
  count("browser tests", result);
}

try {
  await single("lint", ["node_modules/@biomejs/biome/bin/biome", "check", "."]);
  await single("types", ["node_modules/typescript/bin/tsc", "--noEmit"]);
  // The build and the demo lab need nothing of the tests: they are made meanwhile.
  const prepared = ensureBuild().then(() => run(process.execPath, ["--import", "tsx", "cli/fillDemo.ts", "--demo"], { env }));
  await vitest("unit");
  // A browser waits more than it works: the database tests, each on a database of their own, go on beside it.
  await Promise.all([vitest("database"), browser(prepared)]);
} finally {
  await tidyUp();
}
console.log(`\n${passed} passed, ${failed} failed${skipped > 0 ? `, ${skipped} skipped` : ""}`);
process.exit(failed === 0 ? 0 : 1);
