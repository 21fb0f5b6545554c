import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { strFromU8, unzipSync, type Zippable, zipSync } from "fflate";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { ProblemList } from "@/core/exchange";
import { exportZip } from "@/server/exportPackage";
import { importPackage, previewImport } from "@/server/importPackage";
import { loadReview } from "@/server/loadReview";
import { openFolder, openZip } from "@/server/packageSource";
import { updateOffer } from "@/server/updateOffer";
import type { Deps } from "@/server/useCase";
import { changed, EDITOR, emptyLab, exported, importFiles, memorySource, rowCounts, smallPackage } from "../helpers/testLab";

let deps: Deps;
let drop: () => Promise<void>;
let folder: string;
beforeAll(async () => {
  ({ deps, drop } = await emptyLab());
  folder = await mkdtemp(path.join(tmpdir(), "parvex-exchange-"));
});
afterAll(async () => {
  await drop();
  await rm(folder, { recursive: true, force: true });
});

const zipFile = async (name: string, files: Record<string, string>) => {
  const entries: Zippable = Object.fromEntries(Object.entries(files).map(([entry, text]) => [entry, new TextEncoder().encode(text)]));
  const file = path.join(folder, name);
  await writeFile(file, zipSync(entries));
  return file;
};

/** Imports a zip on disk and gives the problems it is refused for. */
async function refusalOfZip(file: string, limits?: Parameters<typeof openZip>[2]) {
  const problems = new ProblemList();
  const source = await openZip(file, problems, limits);
  const result = await importPackage(deps, EDITOR, { source, problems, label: "zip" });
  await source.close();
  if (result.ok || result.problem.kind !== "refused") throw new Error("it was not refused");
  return result.problem.problems;
}

describe("what is wrong with a package", () => {
  const BROKEN: [string, Record<string, string | Uint8Array>, { file: string; line?: number; column?: string; reason: RegExp }][] = [
    ["a missing file", (({ "parts.csv": _, ...rest }) => rest)(smallPackage()), { file: "parts.csv", reason: /missing/ }],
    [
      "a missing log",
      (({ "frames/card-a-mill-2.csv": _, ...rest }) => rest)(smallPackage()),
      { file: "runs.csv", column: "frames_path", reason: /names frames\/card-a-mill-2\.csv, which is missing/ },
    ],
    [
      "an unknown id",
      changed("offers.csv", (text) => text.replace("offer-b,card-b", "offer-b,card-x")),
      { file: "offers.csv", line: 3, column: "part_id", reason: /parts has no "card-x"/ },
    ],
    [
      "a baseline that is none of the review's setups",
      changed("reviews.csv", (text) => text.replace(",card-a,pair", ",card-z,pair")),
      { file: "reviews.csv", line: 2, column: "baseline_setup_id", reason: /review_setups has no/ },
    ],
    [
      "a wrong column",
      changed("parts.csv", (text) => text.replace("maker", "brand")),
      { file: "parts.csv", line: 1, column: "brand", reason: /not a column of parts/ },
    ],
    [
      "a missing required column",
      changed("regions.csv", (text) => text.replaceAll(/,NOK|,currency/g, "")),
      { file: "regions.csv", line: 1, column: "currency", reason: /required column currency is missing/ },
    ],
    ["a row cut off", changed("runs.csv", (text) => text.trimEnd().slice(0, -60)), { file: "runs.csv", line: 13, reason: /cut off/ }],
    ["a binary table", { ...smallPackage(), "parts.csv": Uint8Array.of(1, 0, 2, 0) }, { file: "parts.csv", reason: /binary/ }],
    [
      "a table that is not UTF-8",
      { ...smallPackage(), "parts.csv": Uint8Array.from([...new TextEncoder().encode("id,kind,name\na,gpu,caf"), 0xe9, 0x0a]) },
      { file: "parts.csv", reason: /not UTF-8/ },
    ],
    [
      "a decimal comma in a table",
      changed("run_values.csv", (text) => text.replace("151.5", '"151,5"')),
      { file: "run_values.csv", line: 2, column: "value", reason: /decimal comma/ },
    ],
    [
      "a decimal comma in a log",
      changed("frames/card-a-mill-1.csv", (text) => text.replace(/(\d+)\.(\d+)/, "$1,$2")),
      { file: "frames/card-a-mill-1.csv", line: 2, column: "frame_time_ms", reason: /decimal comma/ },
    ],
    [
      "a negative frame time",
      changed("frames/card-b-quay-3.csv", (text) => text.replace("\n", "\n-5\n")),
      { file: "frames/card-b-quay-3.csv", line: 2, column: "frame_time_ms", reason: /above 0/ },
    ],
    [
      "a frame time of 0",
      changed("frames/card-b-quay-3.csv", (text) => `${text}0\n`),
      { file: "frames/card-b-quay-3.csv", line: 402, column: "frame_time_ms", reason: /above 0/ },
    ],
    [
      "a frame time that is NaN",
      changed("frames/card-b-quay-3.csv", (text) => `${text}NaN\n`),
      { file: "frames/card-b-quay-3.csv", line: 402, reason: /not a number/ },
    ],
    ["a truncated log", changed("frames/card-b-quay-3.csv", (text) => text.slice(0, -3)), { file: "frames/card-b-quay-3.csv", line: 401, reason: /cut off/ }],
    ["a price of 0", changed("offers.csv", (text) => text.replace("4999.9", "0")), { file: "offers.csv", line: 2, column: "price", reason: /not a price/ }],
    [
      "more decimals than the currency has",
      changed("offers.csv", (text) => text.replace("5999", "5999.125")),
      { file: "offers.csv", line: 3, column: "price", reason: /NOK has 2 decimal places/ },
    ],
    [
      "a time without zone",
      changed("runs.csv", (text) => text.replace("10:00:00+02:00", "10:00:00")),
      { file: "runs.csv", line: 2, column: "started_at", reason: /with its zone/ },
    ],
    ["the same id twice", changed("workloads.csv", (text) => `${text}mill,Again,games\n`), { file: "workloads.csv", line: 4, column: "id", reason: /line 2/ }],
    [
      "a discarded run without reason",
      changed("runs.csv", (text) => text.replace("1,1,valid", "1,1,discarded")),
      { file: "runs.csv", line: 2, column: "reason", reason: /needs a reason/ },
    ],
    ["a log that no run names", { ...smallPackage(), "frames/stray.csv": "frame_time_ms\n1\n" }, { file: "frames/stray.csv", reason: /no run/ }],
    ["a file that is none of the format", { ...smallPackage(), "prices.csv": "a\n1\n" }, { file: "prices.csv", reason: /not a file of the format/ }],
    ["no manifest", (({ "datapackage.json": _, ...rest }) => rest)(smallPackage()), { file: "datapackage.json", reason: /missing/ }],
    [
      "another format version",
      changed("datapackage.json", (text) => text.replace('"parvex_format":1', '"parvex_format":2')),
      { file: "datapackage.json", reason: /must be 1/ },
    ],
    ["a manifest that is not JSON", changed("datapackage.json", (text) => text.slice(0, 40)), { file: "datapackage.json", reason: /not JSON/ }],
    ["semicolons", changed("parts.csv", () => "id;kind;name\na;gpu;b\n"), { file: "parts.csv", line: 1, reason: /semicolons/ }],
  ];
  for (const [name, files, wanted] of BROKEN) {
    it(`refuses ${name} with file, line, column and reason, and leaves the database as it was`, async () => {
      const before = await rowCounts(deps.database);
      const result = await importFiles(deps, files);
      if (result.ok || result.problem.kind !== "refused") throw new Error("it was not refused");
      const found = result.problem.problems.find(({ file, reason }) => file === wanted.file && wanted.reason.test(reason));
      expect(found, JSON.stringify(result.problem.problems.slice(0, 3))).toBeDefined();
      if (wanted.line !== undefined) expect(found?.line).toBe(wanted.line);
      if (wanted.column !== undefined) expect(found?.column).toBe(wanted.column);
      expect(await rowCounts(deps.database)).toEqual(before);
    });
  }

  it("lists the first hundred mistakes and counts the rest", async () => {
    const result = await importFiles(
      deps,
      changed(
        "offers.csv",
        (text) => `${text}${Array.from({ length: 250 }, (_, i) => `o${i},card-x,NO,street,new,1,NOK,true,,true,s,2026-11-01`).join("\n")}\n`,
      ),
    );
    expect(!result.ok && result.problem.kind === "refused" && [result.problem.problems.length, result.problem.total]).toEqual([100, 250]);
  });

  it("refuses names that lead outside a zip, a cut-off zip, and what is no zip", async () => {
    const outside = await refusalOfZip(await zipFile("outside.zip", { "../evil.csv": "a\n", "datapackage.json": "{}" }));
    expect(outside[0]).toMatchObject({ file: "../evil.csv", reason: expect.stringContaining("outside the package") });
    const whole = await zipFile("whole.zip", smallPackage());
    const { readFile } = await import("node:fs/promises");
    await writeFile(path.join(folder, "cut.zip"), (await readFile(whole)).subarray(0, 2000));
    expect((await refusalOfZip(path.join(folder, "cut.zip")))[0]?.reason).toContain("cut off");
    await writeFile(path.join(folder, "text.zip"), "hello, this is text");
    expect((await refusalOfZip(path.join(folder, "text.zip")))[0]?.reason).toContain("not a zip");
  });

  it("refuses by name a file over the limit and a zip that unpacks beyond it, before reading them", async () => {
    const bomb = await zipFile("bomb.zip", { ...smallPackage(), "frames/card-a-mill-1.csv": "0".repeat(3_000_000) });
    const large = await refusalOfZip(bomb, { fileBytes: 1_000_000, totalBytes: 1e9, files: 1000 });
    expect(large).toEqual([expect.objectContaining({ file: "frames/card-a-mill-1.csv", reason: expect.stringContaining("the limit for one file is") })]);
    const total = await refusalOfZip(bomb, { fileBytes: 1e9, totalBytes: 2_000_000, files: 1000 });
    expect(total[0]?.reason).toContain("unpacks to");
    const many = await refusalOfZip(bomb, { fileBytes: 1e9, totalBytes: 1e9, files: 5 });
    expect(many.at(-1)?.reason).toContain("the limit is 5");
  });

  it("refuses a file over 1 GB in a folder without reading it", async () => {
    const { open, mkdir } = await import("node:fs/promises");
    const sparse = path.join(folder, "sparse");
    await mkdir(path.join(sparse, "frames"), { recursive: true });
    const handle = await open(path.join(sparse, "frames", "huge.csv"), "w");
    await handle.truncate(2 ** 30 + 1);
    await handle.close();
    const problems = new ProblemList();
    await openFolder(sparse, problems);
    expect(problems.first).toEqual([expect.objectContaining({ file: "frames/huge.csv", reason: expect.stringContaining("1.00 GB") })]);
  });
});

describe("a good package", () => {
  it("is previewed without writing, imported, and changes nothing the second time", async () => {
    const empty = await rowCounts(deps.database);
    const preview = await previewImport(deps, { source: memorySource({ ...smallPackage(), "README.md": "notes" }), problems: new ProblemList() });
    expect(preview).toMatchObject({ ok: true, value: { logs: { files: 16, frames: 4800 }, conflicts: [], leftAlone: ["README.md"] } });
    expect(await rowCounts(deps.database)).toEqual(empty);

    expect(await importFiles(deps, smallPackage())).toMatchObject({ ok: true, value: { replaced: 0, frames: 4800 } });
    const filled = await rowCounts(deps.database);
    expect(filled).toMatchObject({ parts: 2, runs: 12, traces: 12 + 4 * 3, run_statistics: 12 });
    expect(await importFiles(deps, smallPackage())).toMatchObject({ ok: true, value: { added: 0, replaced: 0 } });
    expect(await rowCounts(deps.database)).toEqual(filled);
  });

  it("leaves Parvex and enters an empty lab byte for byte, zipped or not", async () => {
    const first = await exported(deps);
    const other = await emptyLab();
    try {
      expect(await importFiles(other.deps, first)).toMatchObject({ ok: true });
      expect(await exported(other.deps)).toEqual(first);
      const zips = await Promise.all([deps, other.deps].map(async (one) => Buffer.from(await new Response(exportZip(one, {})).arrayBuffer())));
      expect(zips[0]?.equals(zips[1] as Buffer)).toBe(true);
      const unzipped = Object.fromEntries(Object.entries(unzipSync(zips[0] as Buffer)).map(([name, bytes]) => [name, strFromU8(bytes)]));
      expect(unzipped).toEqual(first);
    } finally {
      await other.drop();
    }
  });

  it("keeps the author's own columns, quotes and line breaks, and writes amounts with their currency's decimals", async () => {
    const files = await exported(deps);
    expect(files["parts.csv"]).toContain('card-a,gpu,Velm,"Velm, the first",2026-01-05,"sea ""green"""');
    expect(files["bench_state.csv"]).toContain('"build\n26.4"');
    expect(files["offers.csv"]).toContain("4999.90,NOK");
    expect(files["reviews.csv"]).toContain("2026-11-21T11:00:00Z");
  });

  it("exports one review whole: it enters an empty lab and gives the same ranking", async () => {
    const other = await emptyLab();
    try {
      expect(await importFiles(other.deps, await exported(deps, "duel"))).toMatchObject({ ok: true });
      const [here, there] = await Promise.all([loadReview(deps, "duel"), loadReview(other.deps, "duel")]);
      expect(there).toEqual(here);
      expect(here?.runs).toHaveLength(12);
    } finally {
      await other.drop();
    }
  });

  it("takes trimmed stretches out of the statistics and keeps the record whole", async () => {
    const model = await loadReview(deps, "duel");
    const trimmed = model?.runs.find(({ id }) => id === "card-a-mill-1");
    expect(trimmed?.frames?.frames).toBeLessThan(400);
    expect((await exported(deps))["frames/card-a-mill-1.csv"]?.split("\n")).toHaveLength(402);
    expect(trimmed?.energy.device?.joules).toBeGreaterThan(0);
  });

  it("reports an id met again with other content, and replaces it only when told to", async () => {
    const dearer = changed("offers.csv", (text) => text.replace("4999.9", "5099"));
    const refused = await importFiles(deps, dearer);
    expect(refused).toMatchObject({
      ok: false,
      problem: {
        kind: "conflicts",
        conflicts: [{ resource: "offers", key: "offer-a", canReplace: true, differences: [{ column: "price", lab: "4999.90", package: "5099.00" }] }],
      },
    });
    expect(await importFiles(deps, dearer, { choices: { 'offers:["offer-a"]': "keep-lab" } })).toMatchObject({ ok: true, value: { replaced: 0 } });
    expect(await importFiles(deps, dearer, { choices: { 'offers:["offer-a"]': "take-package" } })).toMatchObject({ ok: true, value: { replaced: 1 } });
    expect((await exported(deps))["offers.csv"]).toContain("5099.00");
    const model = await loadReview(deps, "duel");
    const offer = model?.offers.find(({ id }) => id === "offer-a");
    expect(offer?.rowVersion).toBe(2);
    await updateOffer(deps, EDITOR, { offerId: "offer-a", rowVersion: 2, price: "4999.90" });
  });

  it("never replaces a record: another log under a known run is a conflict that can only be kept", async () => {
    const other = changed("frames/card-b-mill-1.csv", (text) => text.replace("\n", "\n9.9999\n"));
    expect(await importFiles(deps, other)).toMatchObject({ ok: false, problem: { kind: "conflicts" } });
    const choices = { "logs:card-b-mill-1": "take-package", 'offers:["offer-a"]': "keep-lab" } as const;
    expect(await importFiles(deps, other, { choices })).toMatchObject({
      ok: false,
      problem: { kind: "conflicts", conflicts: [{ resource: "logs", canReplace: false }] },
    });
  });

  it("imports nothing of a package that is cancelled half-way", async () => {
    const other = await emptyLab();
    try {
      const abort = new AbortController();
      const result = await importFiles(other.deps, smallPackage(), { signal: abort.signal, onProgress: ({ phase }) => phase === "logs" && abort.abort() });
      expect(result).toMatchObject({ ok: false, problem: { kind: "cancelled" } });
      expect(Object.values(await rowCounts(other.deps.database)).every((count) => count === 0)).toBe(true);
    } finally {
      await other.drop();
    }
  });
});
