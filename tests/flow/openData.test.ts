import { afterAll, beforeAll, expect, it } from "vitest";
import { matrixOf, rankReview, sparseIndex } from "@/core/report";
import { loadReview } from "@/server/loadReview";
import { emptyLab, importFiles } from "../helpers/testLab";
import { casesOf } from "../reference/cases";

/**
 * Data that nobody here wrote: `Machines` of R's nlme (productivity scores of six workers on three machines, three times each),
 * as an exchange package through import to the index. Expected values: R's lm() and numpy, tests/reference/n-open-data.json.
 * The scores are those of the package nlme 3.1.162 (GPL); cell means in the reference are rounded to six decimals.
 */
const SCORES: Readonly<Record<string, readonly (readonly number[])[]>> = {
  a: [
    [52, 52.8, 53.1],
    [51.8, 52.8, 53.1],
    [60, 60.2, 58.4],
    [51.1, 52.3, 50.3],
    [50.9, 51.8, 51.4],
    [46.4, 44.8, 49.2],
  ],
  b: [
    [62.1, 62.6, 64],
    [59.7, 60, 59],
    [68.6, 65.8, 69.7],
    [63.2, 62.8, 62.2],
    [64.8, 65, 65.4],
    [43.7, 44.2, 43],
  ],
  c: [
    [67.5, 67.2, 66.9],
    [61.5, 61.7, 62.3],
    [70.8, 70.6, 71],
    [64.1, 66.2, 64],
    [72.1, 72, 71.1],
    [62, 61.4, 60.5],
  ],
};

let lab: Awaited<ReturnType<typeof emptyLab>>;
beforeAll(async () => {
  lab = await emptyLab();
});
afterAll(() => lab.drop());

it("an open data set goes through import to the index that R and numpy give for it", async () => {
  const [machines] = casesOf<{ parts: string[] }, { index_percent_of_baseline: Record<string, number>; index_ci95_percent: Record<string, [number, number]> }>(
    "n-open-data",
    "two_way_log_fit",
  );
  if (!machines) throw new Error("no case");
  const rows = SCORES;
  const workers = [1, 2, 3, 4, 5, 6];
  const tables: Record<string, string> = {
    parts: `id,kind,name\n${Object.keys(rows)
      .map((id) => `m-${id},system,Machine ${id}`)
      .join("\n")}\n`,
    benches: "id,revision,name\nshop,1,Shop\n",
    workloads: `id,name,group\n${workers.map((w) => `worker-${w},Worker ${w},production`).join("\n")}\n`,
    tests: `id,version,workload_id,name,kind,unit,better\n${workers.map((w) => `worker-${w},1,worker-${w},Worker ${w},score,points,higher`).join("\n")}\n`,
    suites: "id,name\nworkers,Workers\n",
    suite_tests: `suite_id,test_id,test_version,runs,position\n${workers.map((w) => `workers,worker-${w},1,1,${w}`).join("\n")}\n`,
    setups: `id,bench_id,bench_revision,label\n${Object.keys(rows)
      .map((id) => `${id},shop,1,Machine ${id}`)
      .join("\n")}\n`,
    setup_parts: `setup_id,part_id,role,quantity,under_test\n${Object.keys(rows)
      .map((id) => `${id},m-${id},system,1,true`)
      .join("\n")}\n`,
    reviews: "id,title,baseline_setup_id,suite_id\nmachines,Machines,a,workers\n",
    review_setups: `review_id,setup_id,position\n${Object.keys(rows)
      .map((id, i) => `machines,${id},${i + 1}`)
      .join("\n")}\n`,
    runs: `id,setup_id,test_id,test_version,number,status\n${Object.entries(rows)
      .flatMap(([id, cells]) => cells.flatMap((scores, w) => scores.map((_, n) => `${id}-${w + 1}-${n + 1},${id},worker-${w + 1},1,${n + 1},valid`)))
      .join("\n")}\n`,
    run_values: `run_id,metric,value,unit\n${Object.entries(rows)
      .flatMap(([id, cells]) => cells.flatMap((scores, w) => scores.map((score, n) => `${id}-${w + 1}-${n + 1},result,${score},points`)))
      .join("\n")}\n`,
  };
  const files: Record<string, string> = {
    "datapackage.json": JSON.stringify({ name: "machines", parvex_format: 1, resources: Object.keys(tables).map((name) => ({ name, path: `${name}.csv` })) }),
  };
  for (const [name, content] of Object.entries(tables)) files[`${name}.csv`] = content;
  expect(await importFiles(lab.deps, files)).toMatchObject({ ok: true });
  const model = await loadReview(lab.deps, "machines");
  if (!model) throw new Error("no review");
  const matrix = matrixOf(model, "result", "percentile");
  const ranking = rankReview(model, matrix, { baselineId: "a" });
  const fit = sparseIndex(model, matrix, { baselineId: "a" });
  ["a", "b", "c"].forEach((id, i) => {
    const name = machines.input.parts[i] as string;
    // Six decimals of the reference's cell means leave about 1e-6 of a per cent.
    expect(100 * (ranking.rows[i]?.index as number), id).toBeCloseTo(machines.expected.index_percent_of_baseline[name] as number, 4);
    expect(fit.ok && 100 * Math.exp(fit.value.rows[i]?.log as number), id).toBeCloseTo(machines.expected.index_percent_of_baseline[name] as number, 4);
    expect(fit.ok && 100 * (fit.value.rows[i]?.high as number), id).toBeCloseTo(machines.expected.index_ci95_percent[name]?.[1] as number, 3);
  });
});
