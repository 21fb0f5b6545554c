// What a fresh machine needs before anything of the project can run: plain Node, no packages.
import { spawn, spawnSync } from "node:child_process";
import { createHash } from "node:crypto";
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from "node:fs";
import { createServer } from "node:net";
import path from "node:path";
import { fileURLToPath } from "node:url";

export const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), "../..");
export const stateDir = path.join(root, ".parvex");

const started = Date.now();
export const say = (text) => console.log(`[${((Date.now() - started) / 1000).toFixed(1).padStart(5)} s] ${text}`);

/** Ends with a message for a person; no stack. */
export function stop(text) {
  console.error(`\n${text}\n`);
  process.exit(1);
}

export function checkNode() {
  const [major, minor] = process.versions.node.split(".").map(Number);
  if (major < 20 || (major === 20 && minor < 19) || major > 22)
    stop(`Parvex runs on Node 20.19 to 22; this is ${process.versions.node}. Install Node 20 and start again.`);
  say(`Node ${process.versions.node}`);
}

/** Runs a command with its output shown; resolves with the exit code. `env` is added to the environment. */
export function run(command, args, { env = {}, quiet = false, cwd = root } = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { cwd, env: { ...process.env, ...env }, stdio: ["ignore", quiet ? "pipe" : "inherit", quiet ? "pipe" : "inherit"] });
    let output = "";
    if (quiet) for (const stream of [child.stdout, child.stderr]) stream.on("data", (chunk) => (output += chunk));
    child.on("error", reject);
    child.on("close", (code) => resolve({ code: code ?? 1, output }));
  });
}

const installed = (name) => {
  const answer = spawnSync("dpkg-query", ["-s", name], { encoding: "utf8" });
  return answer.status === 0 && answer.stdout.includes("Status: install ok installed");
};

/** Installs missing Debian packages where it may, or says the exact command and stops. */
export async function ensureDebianPackages(packages) {
  const missing = packages.filter((name) => !installed(name));
  if (missing.length === 0) return say(`Debian packages present: ${packages.join(", ")}`);
  const isRoot = process.getuid() === 0;
  const maySudo = !isRoot && spawnSync("sudo", ["-n", "true"]).status === 0;
  const command = `apt-get update && apt-get install -y ${missing.join(" ")}`;
  if (!isRoot && !maySudo) stop(`These Debian packages are missing: ${missing.join(", ")}.\nInstall them and start again:\n\n    sudo sh -c '${command}'`);
  say(`installing Debian packages: ${missing.join(", ")}`);
  const [program, args] = isRoot ? ["sh", ["-c", command]] : ["sudo", ["-n", "sh", "-c", command]];
  const { code, output } = await run(program, args, { env: { DEBIAN_FRONTEND: "noninteractive" }, quiet: true });
  if (code !== 0) stop(`Installing ${missing.join(", ")} failed:\n${output.slice(-3000)}\n\nRun it yourself and start again:\n\n    ${command}`);
}

const sha256 = (text) => createHash("sha256").update(text).digest("hex");

/** Installs the npm packages of the lock file unless they are there already. */
export async function ensureNpmPackages() {
  const lock = sha256(readFileSync(path.join(root, "package-lock.json")));
  const mark = path.join(root, "node_modules", ".parvex-lock");
  if (existsSync(mark) && readFileSync(mark, "utf8") === lock) return say("npm packages present");
  say("installing npm packages (npm ci)");
  const { code, output } = await run("npm", ["ci", "--prefer-offline", "--no-audit", "--no-fund"], { quiet: true });
  if (code !== 0) stop(`npm ci failed:\n${output.slice(-3000)}`);
  writeFileSync(mark, lock);
}

const BUILD_INPUTS = ["src", "package-lock.json", "next.config.ts", "tsconfig.json"];

function hashInputs() {
  const hash = createHash("sha256");
  const visit = (file) => {
    if (statSync(file).isDirectory()) {
      for (const name of readdirSync(file).sort()) visit(path.join(file, name));
    } else if (!/\.test\.tsx?$/.test(file)) {
      hash.update(path.relative(root, file)).update("\0").update(readFileSync(file)).update("\0");
    }
  };
  for (const input of BUILD_INPUTS) visit(path.join(root, input));
  return hash.digest("hex");
}

/** Builds the application if there is no build of exactly these sources. */
export async function ensureBuild() {
  const mark = path.join(root, ".next", "parvex-sources");
  const wanted = hashInputs();
  if (existsSync(mark) && readFileSync(mark, "utf8") === wanted) return say("build is current");
  say("building the application (about a minute)");
  const { code, output } = await run(process.execPath, ["node_modules/next/dist/bin/next", "build"], {
    env: { NEXT_TELEMETRY_DISABLED: "1", NODE_ENV: "production" },
    quiet: true,
  });
  if (code !== 0) stop(`The build failed:\n${output.slice(-6000)}`);
  writeFileSync(mark, wanted);
}

/** The first free port from `from` on, on loopback; 0 asks for any. */
export function freePort(from) {
  return new Promise((resolve, reject) => {
    const server = createServer();
    server.once("error", (error) => (error.code === "EADDRINUSE" && from > 0 && from < 65_000 ? resolve(freePort(from + 1)) : reject(error)));
    server.listen(from, "127.0.0.1", () => {
      const { port } = server.address();
      server.close(() => resolve(port));
    });
  });
}

/** Whether a process is alive and its command line contains a text. */
export function isAlive(pid, contains) {
  try {
    process.kill(pid, 0);
  } catch (error) {
    if (error.code !== "EPERM") return false;
  }
  try {
    return readFileSync(`/proc/${pid}/cmdline`, "utf8").replaceAll("\0", " ").includes(contains);
  } catch {
    return false;
  }
}

export function ensureStateDir() {
  mkdirSync(stateDir, { recursive: true });
}

/** Starts a server in a process group of its own, so that Ctrl-C reaches only us and we stop things in order. */
export function startServer(command, args, env) {
  return spawn(command, args, { cwd: root, env: { ...process.env, ...env }, stdio: ["ignore", "pipe", "pipe"], detached: true });
}

/** Asks a child to end and waits for it; insists after `graceMs`. */
export async function endChild(child, signal, graceMs) {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const ended = new Promise((resolve) => child.once("exit", resolve));
  child.kill(signal);
  const insist = setTimeout(() => child.kill("SIGKILL"), graceMs);
  await ended;
  clearTimeout(insist);
}

/** Waits until an address answers; ends early (false) if the child has gone. */
export async function answers(url, child, withinMs) {
  const until = Date.now() + withinMs;
  while (Date.now() < until) {
    if (child.exitCode !== null) return false;
    try {
      const response = await fetch(url);
      if (response.status < 500) return true;
    } catch {
      // not listening yet
    }
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  return false;
}
