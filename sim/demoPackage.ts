import { mkdir, rm, writeFile } from "node:fs/promises";
import path from "node:path";
import { createRandom, type Random } from "@/core/random";
import { recordMoreReviews } from "./moreReviews";
import { recordFrames, recordPower } from "./recorder";
import { hiddenTruth, trueFps, truePowerW, trueRunSpread } from "./truth";
import { CARDS, GAMES, LAUNCH_UNITS, NEW_CARDS, REGION_FACTOR, REGIONS, RESOLUTIONS, SHOPS } from "./world";

/** The demo's day stands still, so that the ages of its prices stay what they were made to be. */
export const DEMO_TODAY = "2026-11-20";

const RUNS = 3;

/** A mistake planted in the demo, for the checks to find. */
export interface PlantedMistake {
  kind: "frame cap" | "swapped resolutions" | "outlier run" | "scatter" | "too few runs" | "stale price";
  setup: string;
  game?: string;
  resolution?: string;
  otherResolution?: string;
  run?: number;
  capFps?: number;
  region?: string;
}

export const PLANTED: readonly PlantedMistake[] = [
  { kind: "frame cap", setup: "halyard-9", game: "umber-regatta", resolution: "1920x1080", capFps: 165 },
  { kind: "swapped resolutions", setup: "sorrel-60", game: "tidewright", resolution: "2560x1440", otherResolution: "3840x2160" },
  { kind: "outlier run", setup: "sorrel-70", game: "copperfen", resolution: "2560x1440", run: 2 },
  { kind: "scatter", setup: "halyard-6", game: "lanternwick", resolution: "3840x2160" },
  { kind: "too few runs", setup: "grebe-8", game: "winterglass-keep", resolution: "3840x2160", run: 3 },
  { kind: "stale price", setup: "halyard-6", region: "PL" },
];

export type Cell = string | number | boolean | null;

const csvText = (value: Cell) => {
  const text = value === null ? "" : String(value);
  return /[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
};

/** A table as CSV, its columns those of all its rows. */
const csv = (rows: readonly Record<string, Cell>[]) => {
  const columns = [...new Set(rows.flatMap((row) => Object.keys(row)))];
  return `${[columns.join(","), ...rows.map((row) => columns.map((column) => csvText(row[column] ?? null)).join(","))].join("\n")}\n`;
};

const USUAL_CONSTANTS = "board; memory kit and rate; cooler; power supply; OS build; drivers; firmware; power plan; room";

const isoDay = (daysBefore: number) => new Date(Date.parse(`${DEMO_TODAY}T00:00:00Z`) - daysBefore * 86_400_000).toISOString().slice(0, 10);
const short = (resolution: string) => resolution.split("x")[1] as string;
const testId = (game: string, resolution: string) => `${game}-${short(resolution)}`;
const setupId = (card: string) => `gpu-${card}`;

const BENCH_PARTS = [
  { id: "ilvane-8", kind: "cpu", maker: "Ilvane", name: "Ilvane Octet 8", specs: { socket: "K4", package_power: "120 W", needs_firmware: "B4 2.10" } },
  {
    id: "stellmark-b4",
    kind: "board",
    maker: "Stellmark",
    name: "Stellmark B4 Open",
    specs: { socket: "K4", memory_type: "DDR-V", memory_rate_max: "6400 MT/s" },
  },
  { id: "foldern-32", kind: "memory", maker: "Foldern", name: "Foldern Pair 2 × 16 GiB", specs: { memory_type: "DDR-V", memory_rate: "6000 MT/s" } },
  { id: "pellwick-s1", kind: "storage", maker: "Pellwick", name: "Pellwick S1 2 TB", specs: {} },
  { id: "haskett-850", kind: "psu", maker: "Haskett", name: "Haskett 850", specs: { rated_power: "850 W", gpu_connectors: "4 × 8-pin" } },
  { id: "nordrill-t2", kind: "cooler", maker: "Nordrill", name: "Nordrill T2", specs: { sockets: "K3, K4", rated_power: "180 W", height: "152 mm" } },
] as const;

/** The demo's bench as it is, as it was a revision before, and its twin. */
const BENCHES = [
  { id: "alder", revision: 2, name: "Bench Alder", created_on: "2026-08-03", firmware: "B4 2.09", driver: "each maker's of 2026-07-30" },
  { id: "alder", revision: 3, name: "Bench Alder", created_on: "2026-10-12", firmware: "B4 2.18", driver: "each maker's of 2026-10-28" },
  { id: "rowan", revision: 1, name: "Bench Rowan", created_on: "2026-10-12", firmware: "B4 2.18", driver: "each maker's of 2026-10-28" },
] as const;

const benchState = ({ firmware, driver }: (typeof BENCHES)[number]) =>
  [
    ["os_build", "desktop build 26.4.1180"],
    ["gpu_driver", driver],
    ["firmware", firmware],
    ["memory_profile", "on"],
    ["memory_rate", "6000 MT/s, read back"],
    ["memory_channels", "2"],
    ["power_plan", "balanced"],
    ["gpu_clearance_mm", "330"],
    ["cooler_clearance_mm", "open"],
    ["wall_meter", "plug-in, rated 16 A"],
    ["room", "22 °C ± 1"],
  ] as const;

/** "120 W" as value and unit; anything else is a value alone. */
const factOf = (text: string) => {
  const match = text.match(/^(\d+(?:\.\d+)?) (W|mm|MT\/s|GHz|GiB)$/);
  return { value: match?.[1] ?? text, unit: match?.[2] ?? null };
};

/** The tables that say what the lab is: regions, parts, bench, tests, setups, the review. */
function labTables(embargo: string): Record<string, Record<string, Cell>[]> {
  const cards = [...CARDS, ...NEW_CARDS];
  return {
    regions: REGIONS.map(({ code, name, currency, taxIncluded, taxRate, tariff }) => ({
      code,
      name,
      currency,
      tax_included: taxIncluded,
      tax_rate: taxRate,
      tariff_per_kwh: tariff,
    })),
    parts: [
      ...cards.map(({ id, maker, name, releasedOn }) => ({ id, kind: "gpu", maker, name, released_on: releasedOn })),
      ...BENCH_PARTS.map(({ id, kind, maker, name }) => ({ id, kind, maker, name, released_on: null })),
    ],
    part_specs: [
      ...cards.flatMap((card) =>
        [
          ["vram", card.vramGib, "GiB"],
          ["board_power", card.boardPowerW, "W"],
          ["boost_clock", card.boostGhz, "GHz"],
          ["length", card.lengthMm, "mm"],
          ["power_connectors", card.connectors, null],
        ].map(
          ([key, value, unit]): Record<string, Cell> => ({
            part_id: card.id,
            key: key as string,
            value: value as string,
            unit: unit as string,
            source: "maker's sheet",
            as_of: "2026-10-01",
          }),
        ),
      ),
      ...BENCH_PARTS.flatMap(({ id, specs }) =>
        Object.entries(specs).map(([key, text]) => ({ part_id: id, key, ...factOf(text), source: "maker's sheet", as_of: "2026-10-01" })),
      ),
    ],
    samples: cards.map(({ id }) => ({ id: `${id}-s1`, part_id: id, label: "sample 1", source: "bought" })),
    benches: BENCHES.map(({ id, revision, name, created_on }) => ({ id, revision, name, created_on })),
    bench_parts: BENCHES.flatMap(({ id: bench_id, revision }) =>
      BENCH_PARTS.map(({ id, kind }) => ({ bench_id, revision, part_id: id, role: kind, quantity: 1 })),
    ),
    bench_state: BENCHES.flatMap((bench) => benchState(bench).map(([key, value]) => ({ bench_id: bench.id, revision: bench.revision, key, value }))),
    bench_twins: [
      {
        bench_id: "rowan",
        revision: 1,
        twin_bench_id: "alder",
        twin_revision: 3,
        declared_by: "Idris",
        why: "same parts from the same batches, level within 0.4 % in six tests",
      },
    ],
    workloads: GAMES.map(({ id, name }) => ({ id, name, group: "games", data_set: "build of 2026-10" })),
    tests: GAMES.flatMap((game) =>
      RESOLUTIONS.map((resolution) => ({
        id: testId(game.id, resolution),
        version: 1,
        workload_id: game.id,
        name: `${game.name} ${short(resolution)}`,
        kind: "frames",
        unit: "fps",
        better: "higher",
        loads: "gpu",
        scene: game.scene,
        resolution,
        render_resolution: resolution,
        preset: game.preset,
        ray_tracing: "off",
        upscaling: "off",
        frame_generation: "off",
        api: game.api,
        start_at: "first movement",
        stop_at: "60 s later, by the recorder",
        load_s: 40,
        warmup_s: 60,
        length_s: 60,
        reset_s: 15,
      })),
    ),
    suites: [{ id: "gpu-2026b", name: "Graphics cards, autumn 2026" }],
    suite_tests: GAMES.flatMap((game, i) =>
      RESOLUTIONS.map((resolution, j) => ({
        suite_id: "gpu-2026b",
        test_id: testId(game.id, resolution),
        test_version: 1,
        runs: RUNS,
        position: i * RESOLUTIONS.length + j + 1,
      })),
    ),
    setups: cards.map(({ id, name }) => ({ id: setupId(id), bench_id: "alder", bench_revision: 3, label: name })),
    setup_parts: cards.map(({ id }) => ({ setup_id: setupId(id), part_id: id, sample_id: `${id}-s1`, role: "gpu", quantity: 1, under_test: true })),
    setup_state: cards.map(({ id }) => ({ setup_id: setupId(id), key: "clocks", value: "stock", unit: null })),
    reviews: [
      {
        id: "sorrel-70-launch",
        title: "Velm Sorrel 70",
        question_kind: "launch",
        question: "Is the Sorrel 70 the card to buy for 2560 × 1440?",
        baseline_setup_id: setupId("grebe-12"),
        suite_id: "gpu-2026b",
        margin: 0.03,
        low_school: "percentile",
        price_rule: "street_lowest",
        embargo_until: "2026-11-20T14:00:00Z",
        x_constants: USUAL_CONSTANTS,
      },
      {
        id: "halyard-7-launch",
        title: "Orrisk Halyard 7",
        question_kind: "launch",
        question: "Is the Halyard 7 the one to buy in its price band?",
        baseline_setup_id: setupId("grebe-12"),
        suite_id: "gpu-2026b",
        margin: 0.03,
        low_school: "percentile",
        price_rule: "street_lowest",
        embargo_until: embargo,
        x_constants: USUAL_CONSTANTS,
      },
    ],
    review_setups: [
      ...CARDS.map(({ id, role }, i) => ({ review_id: "sorrel-70-launch", setup_id: setupId(id), position: i + 1, role })),
      ...[
        ["halyard-7", "subject"],
        ["grebe-12", "peer"],
        ["sorrel-70", "peer"],
        ["sorrel-65", "peer"],
        ["grebe-10", "peer"],
        ["grebe-8", "owned"],
      ].map(([id, role], i) => ({
        review_id: "halyard-7-launch",
        setup_id: setupId(id as string),
        position: i + 1,
        role: role as string,
      })),
    ],
    sessions: CARDS.map(({ id }, i) => ({
      id: `session-${i + 1}-${id}`,
      bench_id: "alder",
      bench_revision: 3,
      operator: "Runa",
      started_at: `2026-11-${String(4 + 2 * i).padStart(2, "0")}T08:30:00Z`,
      ambient_c: 22.1,
    })),
  };
}

/** Prices: the launch price and two shops a region, each seen within the last days, but for the one planted as stale. */
function offerTable(random: Random): Record<string, Cell>[] {
  const rows: Record<string, Cell>[] = [];
  // The cards that came last stand last, so that the others' prices stay what they were.
  for (const card of [...CARDS, ...NEW_CARDS]) {
    for (const region of REGIONS) {
      const unit = LAUNCH_UNITS[card.id] as number;
      const round = (price: number) => {
        const step = region.usd > 100 ? 500 : region.usd > 9 ? 50 : 10;
        const rounded = Math.max(step, Math.round(price / step) * step) - (region.exponent === 0 ? 20 : 1);
        return region.exponent === 0 ? String(rounded) : `${rounded}.00`;
      };
      const level = (REGION_FACTOR[region.code]?.[card.id] as number) * region.usd;
      const base = { part_id: card.id, region: region.code };
      const money = { currency: region.currency, tax_included: true };
      rows.push({
        id: `launch-${card.id}-${region.code.toLowerCase()}`,
        ...base,
        kind: "launch",
        condition: "new",
        price: round(unit * level * 0.96),
        ...money,
        shipping: 0,
        in_stock: null,
        shop: null,
        seen_on: card.releasedOn,
      });
      if (card.role === "owned") {
        // No longer sold new: only what used ones went for, so it has no street price, which is not a price of 0.
        rows.push({
          id: `used-${card.id}-${region.code.toLowerCase()}`,
          ...base,
          kind: "used_sold",
          condition: "used",
          price: round(unit * level * 0.5),
          ...money,
          shipping: null,
          in_stock: null,
          shop: null,
          seen_on: isoDay(3 + Math.floor(random.next() * 6)),
        });
        continue;
      }
      const stale = PLANTED.some((mistake) => mistake.kind === "stale price" && mistake.setup === card.id && mistake.region === region.code);
      (SHOPS[region.code] as readonly string[]).forEach((shop, i) => {
        rows.push({
          id: `street-${card.id}-${region.code.toLowerCase()}-${i + 1}`,
          ...base,
          kind: "street",
          condition: "new",
          price: round(unit * level * (0.97 + 0.08 * random.next())),
          ...money,
          shipping: 0,
          in_stock: !(i === 1 && random.next() < 0.25),
          shop,
          seen_on: isoDay((stale ? 31 : 1) + Math.floor(random.next() * 6)),
        });
      });
    }
  }
  return rows;
}

/** How a run's rate is bent by the mistake planted in its cell, and under which resolution's truth it was recorded. */
export function plantedIn(card: string, game: string, resolution: string, run: number) {
  const here = PLANTED.filter((mistake) => mistake.setup === card && mistake.game === game);
  const swap = here.find((one) => one.kind === "swapped resolutions");
  const at = (kind: PlantedMistake["kind"]) => here.find((one) => one.kind === kind && one.resolution === resolution);
  const swapped = swap && (resolution === swap.resolution ? swap.otherResolution : resolution === swap.otherResolution ? swap.resolution : undefined);
  return {
    recordedResolution: swapped ?? resolution,
    factor: (at("outlier run")?.run === run ? 0.905 : 1) * (at("scatter") ? ([0.935, 1.06, 1.0][run - 1] as number) : 1),
    capFps: at("frame cap")?.capFps,
    fails: at("too few runs")?.run === run,
  };
}

/**
 * Writes the demo lab as an exchange package: six cards, fourteen games, three resolutions, three runs, device power,
 * four regions, with the planted mistakes; a second review of cards that are still to be run, due at `embargo`; and the
 * smaller reviews of `moreReviews.ts`.
 * The hidden truth goes beside the folder, never into it.
 */
export async function writeDemoPackage(folder: string, seed: number, embargo = "2026-12-01T14:00:00Z"): Promise<{ runs: number; frames: number }> {
  const random = createRandom(seed);
  await rm(folder, { recursive: true, force: true });
  for (const part of ["frames", "sensors"]) await mkdir(path.join(folder, part), { recursive: true });
  const runs: Record<string, Cell>[] = [];
  let frameCount = 0;
  for (const [cardIndex, card] of CARDS.entries()) {
    let clock = Date.parse(`2026-11-${String(4 + 2 * cardIndex).padStart(2, "0")}T09:00:00Z`);
    for (const game of GAMES) {
      for (const resolution of RESOLUTIONS) {
        for (let number = 1; number <= RUNS; number += 1) {
          const id = `${card.id}-${testId(game.id, resolution)}-${number}`;
          const noise = random.fork(id);
          const planted = plantedIn(card.id, game.id, resolution, number);
          const spread = trueRunSpread(game, resolution);
          const fps = trueFps(card, game, planted.recordedResolution) * Math.exp(spread * noise.normal()) * planted.factor;
          const powerW = truePowerW(card, game, planted.recordedResolution) * Math.exp(0.006 * noise.normal());
          const startedAt = clock;
          clock += 150_000;
          const common = {
            id,
            setup_id: setupId(card.id),
            test_id: testId(game.id, resolution),
            test_version: 1,
            number,
            session_id: `session-${cardIndex + 1}-${card.id}`,
            started_at: new Date(startedAt).toISOString(),
            ended_at: new Date(startedAt + 60_000).toISOString(),
            ambient_c: Math.round(220 + 4 * noise.normal()) / 10,
          };
          if (planted.fails) {
            runs.push({ ...common, status: "failed", reason: "stopped after 41 s: out of video memory", frames_path: null, sensors_path: null });
            continue;
          }
          const frames = recordFrames({ fps, lengthS: 60, frameSpread: game.frameSpread, stutterShare: game.stutterShare, capFps: planted.capFps }, noise);
          const lengthS = frames.reduce((sum, frame) => sum + frame, 0) / 1000;
          const power = recordPower(planted.capFps ? powerW * 0.82 : powerW, lengthS, noise);
          frameCount += frames.length;
          await writeFile(path.join(folder, "frames", `${id}.csv`), `frame_time_ms\n${frames.join("\n")}\n`);
          await writeFile(path.join(folder, "sensors", `${id}.csv`), `t_s,gpu_w\n${power.t.map((t, i) => `${t},${power.watts[i]}`).join("\n")}\n`);
          runs.push({ ...common, status: "valid", reason: null, frames_path: `frames/${id}.csv`, sensors_path: `sensors/${id}.csv` });
        }
      }
    }
  }
  const more = await recordMoreReviews(folder, random.fork("more"));
  frameCount += more.frames;
  const tables: Record<string, Record<string, Cell>[]> = { ...labTables(embargo), offers: offerTable(random.fork("offers")), runs };
  for (const [name, rows] of Object.entries(more.tables)) tables[name] = [...(tables[name] ?? []), ...rows];
  for (const [name, rows] of Object.entries(tables)) await writeFile(path.join(folder, `${name}.csv`), csv(rows));
  const manifest = { name: "parvex-demo", parvex_format: 1, resources: Object.keys(tables).map((name) => ({ name, path: `${name}.csv` })) };
  await writeFile(path.join(folder, "datapackage.json"), `${JSON.stringify(manifest, null, 2)}\n`);
  await writeFile(`${folder}-truth.json`, `${JSON.stringify({ seed, planted: PLANTED, cells: hiddenTruth(), more: more.truth }, null, 1)}\n`);
  return { runs: (tables.runs as unknown[]).length, frames: frameCount };
}
