import { mkdtemp, readFile, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { DEMO_TODAY, PLANTED, writeDemoPackage } from "#sim/demoPackage";
import { ProblemList } from "@/core/exchange";
import { matrixOf, type ReviewModel, rankReview } from "@/core/report";
import { importPackage } from "@/server/importPackage";
import { loadReview } from "@/server/loadReview";
import { openFolder } from "@/server/packageSource";
import { EDITOR, emptyLab } from "../helpers/testLab";

interface Truth {
  planted: { kind: string }[];
  cells: { card: string; game: string; resolution: string; fps: number; powerW: number; runSpread: number }[];
}

let lab: Awaited<ReturnType<typeof emptyLab>>;
let folder: string;
let model: ReviewModel;
let truth: Truth;

beforeAll(async () => {
  lab = await emptyLab();
  folder = await mkdtemp(path.join(tmpdir(), "parvex-demo-"));
  const target = path.join(folder, "demo");
  // Another seed than the shipped demo's: what holds must not hold for one seed alone.
  await writeDemoPackage(target, 4711);
  truth = JSON.parse(await readFile(`${target}-truth.json`, "utf8")) as Truth;
  const problems = new ProblemList();
  const started = performance.now();
  const result = await importPackage(lab.deps, EDITOR, { source: await openFolder(target, problems), problems, label: "demo" });
  if (!result.ok) throw new Error(JSON.stringify(result.problem).slice(0, 2000));
  console.log(`demo lab: ${result.value.frames} frames in ${result.value.logs} logs imported in ${((performance.now() - started) / 1000).toFixed(1)} s`);
  const loaded = await loadReview(lab.deps, "sorrel-70-launch");
  if (!loaded) throw new Error("the demo has no review");
  model = loaded;
});
afterAll(async () => {
  await lab.drop();
  await rm(folder, { recursive: true, force: true });
});

const trueCell = (card: string, testId: string) => truth.cells.find((cell) => cell.card === card && `${cell.game}-${cell.resolution.split("x")[1]}` === testId);

describe("the demo lab, recorded by the simulated instruments and imported whole", () => {
  it("has every planted mistake found, each by its own check", () => {
    const raised = model.findings.map(({ check, setupId, testKey }) => `${check} ${setupId.replace("gpu-", "")} ${testKey.replace("@1", "")}`);
    const checkOf: Record<string, string> = { "swapped resolutions": "resolution inversion" };
    for (const mistake of PLANTED) {
      if (mistake.kind === "stale price") continue;
      const tests = [mistake.resolution, mistake.otherResolution].flatMap((one) => (one ? [`${mistake.game}-${one.split("x")[1]}`] : []));
      const wanted = tests.map((test) => `${checkOf[mistake.kind] ?? mistake.kind} ${mistake.setup} ${test}`);
      expect(
        raised.some((one) => wanted.includes(one)),
        `${mistake.kind}; raised: ${raised.join(", ")}`,
      ).toBe(true);
    }
    const cap = model.findings.find(({ check }) => check === "frame cap");
    expect(cap?.numbers.cap_fps).toBeCloseTo(PLANTED.find(({ kind }) => kind === "frame cap")?.capFps as number, 0);
    const stale = model.offers.filter(({ kind, partId, region }) => kind === "street" && partId === "halyard-6" && region === "PL");
    expect(stale.every(({ seenOn }) => seenOn < "2026-11-06")).toBe(true);
    expect(model.today).toBe(DEMO_TODAY);
  });

  it("gives back the hidden rate of every clean cell within four standard errors, and its power within 2.5 %", () => {
    const faulty = new Set(PLANTED.flatMap(({ setup, game }) => (game ? [`${setup} ${game}`] : [])));
    let compared = 0;
    for (const test of model.tests) {
      for (const setup of model.setups) {
        const card = setup.id.replace("gpu-", "");
        const hidden = trueCell(card, test.id);
        if (!hidden || faulty.has(`${card} ${hidden.game}`)) continue;
        const runs = model.runs.filter((run) => run.setupId === setup.id && run.testKey === test.key);
        const rates = runs.map((run) => run.frames?.averageFps as number);
        const off = Math.log(rates.reduce((a, b) => a + b, 0) / rates.length / hidden.fps);
        expect(Math.abs(off), `${card} ${test.id}`).toBeLessThan((4 * hidden.runSpread) / Math.sqrt(3));
        for (const run of runs) expect(Math.abs((run.energy.device?.meanW as number) / hidden.powerW - 1), run.id).toBeLessThan(0.04);
        const meanW = runs.reduce((sum, run) => sum + (run.energy.device?.meanW as number), 0) / runs.length;
        expect(Math.abs(meanW / hidden.powerW - 1), `${card} ${test.id}`).toBeLessThan(0.025);
        compared += 1;
      }
    }
    expect(compared).toBeGreaterThan(220);
  });

  it("ranks the rows whose cells are clean within their interval of the truth", () => {
    const ranking = rankReview(model, matrixOf(model, "result", "percentile"), { baselineId: "gpu-grebe-12", resolution: "1920x1080" });
    const row = ranking.rows.find(({ setupId }) => setupId === "gpu-sorrel-70");
    const logs = ranking.testKeys.map((key) => {
      const id = key.replace("@1", "");
      return Math.log((trueCell("sorrel-70", id)?.fps as number) / (trueCell("grebe-12", id)?.fps as number));
    });
    const hidden = Math.exp(logs.reduce((a, b) => a + b, 0) / logs.length);
    expect(row?.low).toBeLessThan(hidden);
    expect(row?.high).toBeGreaterThan(hidden);
  });
});
