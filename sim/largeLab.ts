import { createWriteStream } from "node:fs";
import { mkdir } from "node:fs/promises";
import path from "node:path";
import { createRandom, type Random } from "@/core/random";
import { recordFrames } from "./recorder";

/** How large a generated review is. */
export interface LargeLab {
  setups: number;
  workloads: number;
  resolutions: readonly string[];
  runs: number;
}

/** A large review: 57 tests × 2 resolutions × 12 setups × 3 runs, 4,104 logs. */
export const LARGE: LargeLab = { setups: 12, workloads: 57, resolutions: ["1920x1080", "2560x1440"], runs: 3 };

const two = (n: number) => String(n).padStart(2, "0");
const setupId = (i: number) => `gpu-tarn-${two(i + 1)}`;
const workloadId = (i: number) => `scene-${two(i + 1)}`;
const testId = (w: number, resolution: string) => `${workloadId(w)}-${resolution.split("x")[1]}`;

/** The tables of a lab of that size, without any run, as exchange files. */
export function largeLabTables({ setups, workloads, resolutions, runs }: LargeLab): Record<string, string> {
  const each = <T>(n: number, make: (i: number) => T) => Array.from({ length: n }, (_, i) => make(i));
  const tests = each(workloads, (w) => resolutions.map((resolution) => ({ w, resolution }))).flat();
  const tables: Record<string, string[]> = {
    regions: ["code,name,currency,tax_included", "NO,Norway,NOK,true"],
    parts: ["id,kind,maker,name", ...each(setups, (i) => `tarn-${two(i + 1)},gpu,Velm,Velm Tarn ${two(i + 1)}`)],
    part_specs: ["part_id,key,value,unit", ...each(setups, (i) => `tarn-${two(i + 1)},vram,12,GiB`)],
    benches: ["id,revision,name", "alder,1,Bench Alder"],
    workloads: ["id,name,group", ...each(workloads, (w) => `${workloadId(w)},Scene ${two(w + 1)},games`)],
    tests: [
      "id,version,workload_id,name,kind,unit,better,loads,resolution,preset",
      ...tests.map(
        ({ w, resolution }) =>
          `${testId(w, resolution)},1,${workloadId(w)},Scene ${two(w + 1)} ${resolution.split("x")[1]},frames,fps,higher,gpu,${resolution},high`,
      ),
    ],
    suites: ["id,name", "large,A large suite"],
    suite_tests: ["suite_id,test_id,test_version,runs,position", ...tests.map(({ w, resolution }, i) => `large,${testId(w, resolution)},1,${runs},${i + 1}`)],
    setups: ["id,bench_id,bench_revision,label", ...each(setups, (i) => `${setupId(i)},alder,1,Velm Tarn ${two(i + 1)}`)],
    setup_parts: ["setup_id,part_id,role,quantity,under_test", ...each(setups, (i) => `${setupId(i)},tarn-${two(i + 1)},gpu,1,true`)],
    reviews: ["id,title,question,baseline_setup_id,suite_id", `large,Twelve cards,Which?,${setupId(0)},large`],
    review_setups: ["review_id,setup_id,position,role", ...each(setups, (i) => `large,${setupId(i)},${i + 1},${i === 0 ? "subject" : "peer"}`)],
  };
  const files: Record<string, string> = {
    "datapackage.json": JSON.stringify({ name: "large", parvex_format: 1, resources: Object.keys(tables).map((name) => ({ name, path: `${name}.csv` })) }),
  };
  for (const [name, lines] of Object.entries(tables)) files[`${name}.csv`] = `${lines.join("\n")}\n`;
  return files;
}

const HEAD =
  "Elapsed (s),Frame time (ms),Card temperature (°C),Card power (W),Card clock (MHz),Card load (%),Processor load (%),Processor clock (MHz),Processor temperature (°C),Video memory used (MiB),Fan (rpm),Wall power (W)\n";

/** Writes whole numbers of 10^-decimals as digits, without going through strings: fifty million rows are written. */
function writeDecimal(into: Uint8Array, at: number, scaled: number, decimals: number): number {
  let rest = scaled;
  let digits = 1;
  for (let limit = 10; limit <= scaled || digits <= decimals; limit *= 10) digits += 1;
  const end = at + digits + 1;
  for (let i = end - 1; i >= at; i -= 1) {
    if (i === end - 1 - decimals) into[i] = 46;
    else {
      into[i] = 48 + (rest % 10);
      rest = Math.floor(rest / 10);
    }
  }
  return end;
}

/** One log as a frame recorder with many sensors writes it: 12 columns, a row a frame, sensors that change about twice a second. */
export function frameLog(rows: number, fps: number, random: Random): Uint8Array {
  const frames = recordFrames({ fps, lengthS: rows / fps, frameSpread: 0.1, stutterShare: 0.0005 }, random);
  const head = new TextEncoder().encode(HEAD);
  const bytes = new Uint8Array(head.length + frames.length * 110);
  bytes.set(head);
  let at = head.length;
  let elapsed = 0;
  let tail = new Uint8Array(0);
  const every = Math.max(1, Math.round(fps / 2));
  const near = (centre: number, spread: number, decimals: number) => (centre + spread * random.normal()).toFixed(decimals);
  for (let i = 0; i < frames.length; i += 1) {
    if (i % every === 0) {
      const sensors = [
        near(64, 1, 0),
        near(214, 4, 1),
        near(2610, 12, 0),
        near(98.2, 0.4, 1),
        near(38, 3, 1),
        near(4890, 15, 0),
        near(62, 1.2, 1),
        near(7400, 60, 0),
        near(1420, 12, 0),
        near(372, 6, 1),
      ];
      tail = new TextEncoder().encode(`,${sensors.join(",")}\n`);
    }
    const frame = Math.round((frames[i] as number) * 10_000);
    at = writeDecimal(bytes, at, Math.round(elapsed / 100), 5);
    bytes[at++] = 44;
    at = writeDecimal(bytes, at, frame, 4);
    bytes.set(tail, at);
    at += tail.length;
    elapsed += frame;
  }
  return bytes.slice(0, at);
}

/** Writes the logs of a lab of that size below a folder, `setup/Scene 01_1440_run2.csv`; returns how many and how large. */
export async function writeLargeLogs(
  folder: string,
  lab: LargeLab,
  options: { rows: number; seed: number; most?: number },
): Promise<{ logs: number; bytes: number }> {
  const random = createRandom(options.seed);
  let logs = 0;
  let bytes = 0;
  for (let s = 0; s < lab.setups; s += 1) {
    await mkdir(path.join(folder, `Tarn ${two(s + 1)}`), { recursive: true });
    for (let w = 0; w < lab.workloads; w += 1) {
      for (const resolution of lab.resolutions) {
        for (let run = 1; run <= lab.runs; run += 1) {
          if (logs >= (options.most ?? Number.POSITIVE_INFINITY)) return { logs, bytes };
          const noise = random.fork(`${s}-${w}-${resolution}-${run}`);
          const fps = (140 + 3 * w) * (1 + 0.04 * s) * (resolution === "2560x1440" ? 0.68 : 1) * Math.exp(0.012 * noise.normal());
          const log = frameLog(options.rows, fps, noise);
          const file = path.join(folder, `Tarn ${two(s + 1)}`, `Scene ${two(w + 1)}_${resolution.split("x")[1]}_run${run}.csv`);
          await new Promise<void>((resolve, reject) =>
            createWriteStream(file)
              .on("error", reject)
              .end(log, () => resolve()),
          );
          logs += 1;
          bytes += log.length;
        }
      }
    }
  }
  return { logs, bytes };
}
