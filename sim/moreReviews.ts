import { writeFile } from "node:fs/promises";
import path from "node:path";
import type { Random } from "@/core/random";
import type { Cell } from "./demoPackage";
import { recordFrames } from "./recorder";
import { cardFps, trueFps, trueRunSpread } from "./truth";
import { CARDS, type CardTruth, GAMES, type GameTruth } from "./world";

/** A processor of the demo world with the hidden truth behind it. */
export interface CpuTruth {
  id: string;
  maker: string;
  name: string;
  releasedOn: string;
  role: "subject" | "peer" | "owned";
  socket: string;
  cores: number;
  boostGhz: number;
  powerW: number;
  architecture: string;
  /** Speed in games against the bench's own processor. */
  gameSpeed: number;
  /** Work per clock of one core. */
  perClock: number;
}

export const CPUS: readonly CpuTruth[] = [
  {
    id: "hexad-6",
    maker: "Ilvane",
    name: "Ilvane Hexad 6",
    releasedOn: "2026-09-08",
    role: "subject",
    socket: "K4",
    cores: 6,
    boostGhz: 5,
    powerW: 88,
    architecture: "Ilvane two",
    gameSpeed: 1.03,
    perClock: 1.08,
  },
  {
    id: "ilvane-8",
    maker: "Ilvane",
    name: "Ilvane Octet 8",
    releasedOn: "2025-04-15",
    role: "peer",
    socket: "K4",
    cores: 8,
    boostGhz: 4.9,
    powerW: 120,
    architecture: "Ilvane one",
    gameSpeed: 1,
    perClock: 1,
  },
  {
    id: "marrowgate-m9",
    maker: "Marrowgate",
    name: "Marrowgate M9",
    releasedOn: "2026-06-02",
    role: "peer",
    socket: "Q2",
    cores: 12,
    boostGhz: 5.1,
    powerW: 142,
    architecture: "Marrowgate C",
    gameSpeed: 1.11,
    perClock: 1.05,
  },
  {
    id: "marrowgate-m5",
    maker: "Marrowgate",
    name: "Marrowgate M5",
    releasedOn: "2026-06-02",
    role: "peer",
    socket: "Q2",
    cores: 6,
    boostGhz: 4.7,
    powerW: 75,
    architecture: "Marrowgate C",
    gameSpeed: 0.94,
    perClock: 1.02,
  },
  {
    id: "quartet-4",
    maker: "Ilvane",
    name: "Ilvane Quartet 4",
    releasedOn: "2022-03-22",
    role: "owned",
    socket: "K3",
    cores: 4,
    boostGhz: 4.1,
    powerW: 65,
    architecture: "Ilvane zero",
    gameSpeed: 0.61,
    perClock: 0.86,
  },
];

const BOARD_OF: Readonly<Record<string, string>> = { K4: "stellmark-b4", Q2: "stellmark-q2", K3: "stellmark-k3" };
const CPU_GAMES = ["brackwater-oath", "copperfen", "gantry-41", "mossgrave-toll", "saltpan-courier", "oriel-drift"] as const;
const CPU_RESOLUTIONS = ["1920x1080", "2560x1440"] as const;
const DRIVER_GAMES = ["brackwater-oath", "copperfen", "lanternwick", "oriel-drift", "tidewright", "winterglass-keep"] as const;
/** What the newer driver does, log scale: two games move, the others do not. */
const DRIVER_GAINS: Readonly<Record<string, number>> = { lanternwick: 0.09, tidewright: -0.05 };
/** What one memory stick costs each game, log scale, on average and in the lows. */
const ONE_STICK: Readonly<Record<string, number>> = {
  "brackwater-oath": 0.06,
  copperfen: 0.11,
  "gantry-41": 0.04,
  "mossgrave-toll": 0.13,
  "saltpan-courier": 0.08,
  "oriel-drift": 0.1,
};

/** Timed work: seconds on the bench's own processor, how far cores help, and what comes out. */
const JOBS = [
  { id: "reel-quick", workload: "reel", name: "Reelwright, quick preset", preset: "quick", seconds: 92, parallel: 0.94, megabytes: 612, mediaS: 600 },
  { id: "reel-even", workload: "reel", name: "Reelwright, even preset", preset: "even", seconds: 171, parallel: 0.96, megabytes: 507, mediaS: 600 },
  { id: "reel-small", workload: "reel", name: "Reelwright, small preset", preset: "small", seconds: 418, parallel: 0.97, megabytes: 471, mediaS: 600 },
  { id: "steeple-build", workload: "steeple", name: "Steeplefold, whole build", preset: null, seconds: 244, parallel: 0.95, megabytes: null, mediaS: null },
  { id: "ink-render", workload: "ink", name: "Inkmere, still of 40 million", preset: null, seconds: 133, parallel: 0.99, megabytes: null, mediaS: null },
] as const;

const LEVELS = [
  { level: 1, name: "lightest", cpuShare: 0.1 },
  { level: 2, name: "light", cpuShare: 0.18 },
  { level: 3, name: "middle", cpuShare: 0.29 },
  { level: 4, name: "heavy", cpuShare: 0.42 },
  { level: 5, name: "heaviest", cpuShare: 0.58 },
] as const;

/** Two whole systems, one about six times dearer. */
const SYSTEMS = [
  { id: "pennick-home", maker: "Pennick", name: "Pennick Home 2", price: 4990, card: "grebe-8", cpu: "quartet-4" },
  { id: "hallbeck-tower", maker: "Hallbeck", name: "Hallbeck Tower", price: 30900, card: "halyard-9", cpu: "marrowgate-m9" },
] as const;

const card = (id: string) => CARDS.find((one) => one.id === id) as CardTruth;
const game = (id: string) => GAMES.find((one) => one.id === id) as GameTruth;
const cpu = (id: string) => CPUS.find((one) => one.id === id) as CpuTruth;
const short = (resolution: string) => resolution.split("x")[1] as string;

/** The true seconds of a job on a processor: Amdahl's law over its cores, times clock and work per clock. */
export function trueSeconds(job: (typeof JOBS)[number], { cores, boostGhz, perClock }: CpuTruth): number {
  const bench = cpu("ilvane-8");
  const speed = (one: CpuTruth, n: number) => one.boostGhz * one.perClock * (1 / (1 - job.parallel + job.parallel / n));
  return (job.seconds * speed(bench, bench.cores)) / speed({ ...bench, boostGhz, perClock }, cores);
}

type Tables = Record<string, Record<string, Cell>[]>;

/** Adds rows to tables by name. */
function adder(tables: Tables) {
  return (name: string, ...rows: Record<string, Cell>[]) => {
    tables[name] = [...(tables[name] ?? []), ...rows];
  };
}

const BENCH_STATE: readonly [string, string][] = [
  ["os_build", "desktop build 26.4.1180"],
  ["firmware", "newest of each board"],
  ["memory_profile", "on"],
  ["memory_rate", "6000 MT/s, read back"],
  ["power_plan", "balanced"],
  ["room", "22 °C ± 1"],
];

/** What the lab is beyond the graphics review: processors, boards, a second bench, further workloads, setups and reviews. */
function describe(add: ReturnType<typeof adder>): void {
  for (const one of CPUS) {
    if (one.id !== "ilvane-8") add("parts", { id: one.id, kind: "cpu", maker: one.maker, name: one.name, released_on: one.releasedOn });
    for (const [key, value, unit] of [
      ["cores", one.cores, null],
      ["boost_clock", one.boostGhz, "GHz"],
      ["tdp", one.powerW, "W"],
      ["architecture", one.architecture, null],
      ...(one.id === "ilvane-8"
        ? []
        : [
            ["socket", one.socket, null],
            ["package_power", one.powerW, "W"],
          ]),
    ] as [string, Cell, string | null][])
      add("part_specs", { part_id: one.id, key, value, unit, source: "maker's sheet", as_of: "2026-10-01" });
    add("offers", {
      id: `street-${one.id}-no`,
      part_id: one.id,
      region: "NO",
      kind: "street",
      condition: one.role === "owned" ? "used" : "new",
      price: `${Math.round((one.cores * 260 + one.boostGhz * 120) / 50) * 50}.00`,
      currency: "NOK",
      tax_included: true,
      shipping: 0,
      in_stock: true,
      shop: "Brattelid",
      seen_on: "2026-11-17",
    });
  }
  for (const [id, price, used] of [
    ["stellmark-b4", 1790, false],
    ["stellmark-q2", 2190, false],
    ["stellmark-k3", 690, true],
  ] as const)
    add("offers", {
      id: `street-${id}-no`,
      part_id: id,
      region: "NO",
      kind: "street",
      condition: used ? "used" : "new",
      price: `${price}.00`,
      currency: "NOK",
      tax_included: true,
      shipping: 0,
      in_stock: true,
      shop: "Brattelid",
      seen_on: "2026-11-17",
    });
  for (const [id, name, socket] of [
    ["stellmark-q2", "Stellmark Q2 Open", "Q2"],
    ["stellmark-k3", "Stellmark K3", "K3"],
  ]) {
    add("parts", { id: id as string, kind: "board", maker: "Stellmark", name: name as string, released_on: null });
    for (const [key, value] of [
      ["socket", socket],
      ["memory_type", "DDR-V"],
    ])
      add("part_specs", { part_id: id as string, key: key as string, value: value as string, unit: null, source: "maker's sheet", as_of: "2026-10-01" });
  }
  for (const [revision, driver] of [
    [1, "each maker's of 2026-10-28"],
    [2, "each maker's of 2026-11-14"],
  ] as const) {
    add("benches", { id: "hazel", revision, name: "Bench Hazel", created_on: revision === 1 ? "2026-10-14" : "2026-11-14" });
    for (const [part, role] of [
      ["ilvane-8", "cpu"],
      ["stellmark-b4", "board"],
      ["foldern-32", "memory"],
      ["pellwick-s1", "storage"],
      ["haskett-850", "psu"],
      ["nordrill-t2", "cooler"],
    ])
      add("bench_parts", { bench_id: "hazel", revision, part_id: part as string, role: role as string, quantity: 1 });
    for (const [key, value] of [...BENCH_STATE, ["gpu_driver", driver], ["memory_channels", "2"]] as [string, string][])
      add("bench_state", { bench_id: "hazel", revision, key, value });
  }
  add("benches", { id: "floor", revision: 1, name: "Floor stand", created_on: "2026-10-20" });
  for (const [key, value] of BENCH_STATE.filter(([key]) => key === "os_build" || key === "room"))
    add("bench_state", { bench_id: "floor", revision: 1, key, value });

  for (const [id, name, group, set] of [
    ["reel", "Reelwright transcode", "production", "ten minutes of harbour footage, frozen"],
    ["steeple", "Steeplefold build", "production", "sources of 2026-03"],
    ["ink", "Inkmere render", "production", "plate 7"],
    ["grind-one", "Whetwheel, one core", "synthetic", null],
    ["grind-all", "Whetwheel, all cores", "synthetic", null],
    ["copperfen-live", "Copperfen while streaming", "streaming", "market walk, encoder on the processor"],
  ] as const)
    add("workloads", { id, name, group, data_set: set });
  for (const job of JOBS)
    add("tests", {
      id: job.id,
      version: 1,
      workload_id: job.workload,
      name: job.name,
      kind: "time",
      unit: "s",
      better: "lower",
      loads: "cpu",
      preset: job.preset,
      cache: "warm",
      start_at: "the command is given",
      stop_at: "the command ends",
      load_s: 5,
      warmup_s: 0,
      length_s: job.seconds,
      reset_s: 10,
      x_media_s: job.mediaS,
    });
  for (const [id, name] of [
    ["grind-one", "Whetwheel, one core"],
    ["grind-all", "Whetwheel, all cores"],
  ])
    add("tests", {
      id: id as string,
      version: 1,
      workload_id: id as string,
      name: name as string,
      kind: "score",
      unit: "points",
      better: "higher",
      loads: "cpu",
      length_s: 60,
    });
  for (const { level, name } of LEVELS)
    add("tests", {
      id: `live-${level}`,
      version: 1,
      workload_id: "copperfen-live",
      name: `Copperfen live, ${name} encoder`,
      kind: "frames",
      unit: "fps",
      better: "higher",
      loads: "cpu",
      scene: "market walk, 60 s",
      resolution: "1920x1080",
      preset: `High, encoder ${name}`,
      api: "explicit",
      load_s: 40,
      warmup_s: 60,
      length_s: 60,
      reset_s: 15,
      ladder_id: "copperfen-live",
      level,
    });
}

/**
 * Records the smaller reviews of the demo: processors with timed work, an upgrade from an old machine, streaming while gaming,
 * one memory stick against two, a driver before and after, and two whole systems of which one is six times dearer.
 */
export async function recordMoreReviews(folder: string, random: Random): Promise<{ tables: Tables; frames: number; truth: unknown }> {
  const tables: Tables = {};
  const add = adder(tables);
  describe(add);
  let frames = 0;
  const truth: { setup: string; test: string; fps?: number; seconds?: number }[] = [];

  const setup = (
    id: string,
    label: string,
    bench: readonly [string, number],
    parts: readonly [part: string, role: string, underTest: boolean][],
    state: readonly [string, string][] = [],
  ) => {
    add("setups", { id, bench_id: bench[0], bench_revision: bench[1], label });
    for (const [part, role, underTest] of parts) add("setup_parts", { setup_id: id, part_id: part, role, quantity: 1, under_test: underTest });
    for (const [key, value] of state) add("setup_state", { setup_id: id, key, value, unit: null });
  };
  const suite = (id: string, name: string, tests: readonly [test: string, runs: number][]) => {
    add("suites", { id, name });
    tests.forEach(([test, runs], i) => {
      add("suite_tests", { suite_id: id, test_id: test, test_version: 1, runs, position: i + 1 });
    });
  };
  const review = (
    id: string,
    title: string,
    kind: string,
    question: string,
    baseline: string,
    suiteId: string,
    rows: readonly [setup: string, role: string][],
  ) => {
    add("reviews", {
      id,
      title,
      question_kind: kind,
      question,
      baseline_setup_id: baseline,
      suite_id: suiteId,
      margin: 0.03,
      low_school: "percentile",
      price_rule: "street_lowest",
    });
    rows.forEach(([setupId, role], i) => {
      add("review_setups", { review_id: id, setup_id: setupId, position: i + 1, role });
    });
  };
  const framesRun = async (
    setupId: string,
    test: string,
    number: number,
    scene: { fps: number; game: GameTruth; spread: number; gpuLoad: number; cpuLoad: number; stutterShare?: number; lowStretch?: number },
  ) => {
    const id = `${setupId}-${test}-${number}`;
    const noise = random.fork(id);
    const log = recordFrames(
      {
        fps: scene.fps * Math.exp(scene.spread * noise.normal()),
        lengthS: 60,
        frameSpread: scene.game.frameSpread * (scene.lowStretch ?? 1),
        stutterShare: scene.stutterShare ?? scene.game.stutterShare,
      },
      noise,
    );
    frames += log.length;
    await writeFile(path.join(folder, "frames", `${id}.csv`), `frame_time_ms\n${log.join("\n")}\n`);
    const load = (mean: number) => Math.min(0.995, Math.max(0.05, mean + 0.008 * noise.normal())).toFixed(3);
    const lines = Array.from({ length: 61 }, (_, t) => `${t},${load(scene.gpuLoad)},${load(scene.cpuLoad)}`);
    await writeFile(path.join(folder, "sensors", `${id}.csv`), `t_s,gpu_load_ratio,cpu_load_ratio\n${lines.join("\n")}\n`);
    add("runs", {
      id,
      setup_id: setupId,
      test_id: test,
      test_version: 1,
      number,
      status: "valid",
      reason: null,
      frames_path: `frames/${id}.csv`,
      sensors_path: `sensors/${id}.csv`,
      ambient_c: 22,
    });
    return id;
  };
  const typed = (setupId: string, test: string, number: number, value: number, unit: string, outputBytes?: number) => {
    const id = `${setupId}-${test}-${number}`;
    add("runs", { id, setup_id: setupId, test_id: test, test_version: 1, number, status: "valid", reason: null, frames_path: null, sensors_path: null });
    add("run_values", { run_id: id, metric: "result", value: Number(value.toPrecision(5)), unit, at: null });
    if (outputBytes !== undefined) add("run_values", { run_id: id, metric: "output_bytes", value: outputBytes, unit: "B", at: null });
  };
  /** The games of a setup: a processor with a card, over some games and resolutions. */
  const play = async (
    setupId: string,
    c: CpuTruth,
    g: CardTruth,
    games: readonly string[],
    resolutions: readonly string[],
    runs: number,
    bend: (game: string) => number = () => 0,
    more: { lowStretch?: number } = {},
  ) => {
    for (const id of games) {
      for (const resolution of resolutions) {
        const one = game(id);
        const fps = trueFps(g, one, resolution, c.gameSpeed) * Math.exp(bend(id));
        const test = `${id}-${short(resolution)}`;
        truth.push({ setup: setupId, test, fps });
        const gpuLoad = Math.min(0.985, fps / cardFps(g, one, resolution));
        const cpuLoad = Math.min(0.97, (0.9 * fps) / (one.cpuCeilingFps * c.gameSpeed) / (c.cores / 6) ** 0.7);
        for (let number = 1; number <= runs; number += 1)
          await framesRun(setupId, test, number, { fps, game: one, spread: trueRunSpread(one, resolution), gpuLoad, cpuLoad, ...more });
      }
    }
  };
  const work = (setupId: string, c: CpuTruth, runs: number) => {
    for (const job of JOBS) {
      const seconds = trueSeconds(job, c);
      truth.push({ setup: setupId, test: job.id, seconds });
      for (let number = 1; number <= runs; number += 1) {
        const noise = random.fork(`${setupId}-${job.id}-${number}`);
        typed(setupId, job.id, number, seconds * Math.exp(0.006 * noise.normal()), "s", job.megabytes === null ? undefined : Math.round(job.megabytes * 1e6));
      }
    }
  };

  // 1 Processors: games with one fast card, timed work, a synthetic.
  const fast = card("halyard-9");
  const cpuTests: [string, number][] = [
    ...CPU_GAMES.flatMap((id) => CPU_RESOLUTIONS.map((resolution): [string, number] => [`${id}-${short(resolution)}`, 3])),
    ...JOBS.map(({ id }): [string, number] => [id, 3]),
    ["grind-one", 2],
    ["grind-all", 2],
  ];
  suite("cpu-2026b", "Processors, autumn 2026", cpuTests);
  for (const one of CPUS) {
    const id = `cpu-${one.id}`;
    const board: [string, string, boolean][] = [[BOARD_OF[one.socket] as string, "board", true]];
    setup(id, one.name, ["hazel", 1], [[one.id, "cpu", true], ["halyard-9", "gpu", false], ...board], [["clocks", "stock"]]);
    await play(id, one, fast, CPU_GAMES, CPU_RESOLUTIONS, 3);
    work(id, one, 3);
    for (let number = 1; number <= 2; number += 1) {
      const noise = random.fork(`grind-${one.id}-${number}`);
      const points = 400 * one.boostGhz * one.perClock * Math.exp(0.004 * noise.normal());
      typed(id, "grind-one", number, points, "points");
      typed(id, "grind-all", number, points * one.cores ** 0.93 * Math.exp(0.004 * noise.normal()), "points");
    }
  }
  review(
    "hexad-6",
    "Ilvane Hexad 6",
    "launch",
    "Six newer cores or eight older ones, and what does either need beside it?",
    "cpu-ilvane-8",
    "cpu-2026b",
    CPUS.map(({ id, role }) => [`cpu-${id}`, role]),
  );

  // 2 An old machine: another card, or another processor as well.
  suite(
    "upgrade",
    "Upgrades",
    CPU_GAMES.flatMap((id) => CPU_RESOLUTIONS.map((resolution): [string, number] => [`${id}-${short(resolution)}`, 2])),
  );
  const machines = [
    ["old-both", "Quartet 4 with Grebe 8", "quartet-4", "grebe-8", "owned"],
    ["old-cpu", "Quartet 4 with Grebe 12", "quartet-4", "grebe-12", "subject"],
    ["new-both", "Hexad 6 with Grebe 12", "hexad-6", "grebe-12", "peer"],
  ] as const;
  for (const [id, label, c, g] of machines) {
    const { socket } = cpu(c);
    const board: [string, string, boolean][] = [[BOARD_OF[socket] as string, "board", true]];
    setup(id, label, ["hazel", 1], [[c, "cpu", true], [g, "gpu", true], ...board]);
    await play(id, cpu(c), card(g), CPU_GAMES, CPU_RESOLUTIONS, 2);
  }
  review(
    "old-machine",
    "A new card for an old machine",
    "upgrade",
    "Is a Grebe 12 worth it with a processor of 2022?",
    "old-both",
    "upgrade",
    machines.map(([id, , , , role]) => [id, role]),
  );

  // 3 Gaming and streaming on one machine: the encoder's levels as a ladder.
  suite(
    "live",
    "Streaming while gaming",
    LEVELS.map(({ level }): [string, number] => [`live-${level}`, 2]),
  );
  const streamers = ["hexad-6", "ilvane-8", "marrowgate-m9", "quartet-4"];
  const market = game("copperfen");
  for (const id of streamers) {
    const c = cpu(id);
    for (const { level, cpuShare } of LEVELS) {
      const taken = cpuShare * (8 / c.cores) ** 1.1;
      const fps = trueFps(fast, market, "1920x1080", Math.max(0.12, c.gameSpeed * (1 - 0.75 * taken)));
      const cpuLoad = Math.min(0.99, 0.42 * (8 / c.cores) ** 0.8 + 0.9 * taken);
      truth.push({ setup: `cpu-${id}`, test: `live-${level}`, fps });
      for (let number = 1; number <= 2; number += 1) {
        const run = await framesRun(`cpu-${id}`, `live-${level}`, number, {
          fps,
          game: market,
          spread: 0.012,
          gpuLoad: Math.min(0.97, fps / cardFps(fast, market, "1920x1080")),
          cpuLoad,
          lowStretch: 1 + 1.5 * Math.max(0, cpuLoad - 0.7),
        });
        if (number === 1)
          add("opinions", {
            run_id: run,
            who: "Runa",
            screen: "27 in, 144 Hz",
            blind: false,
            score: cpuLoad > 0.96 ? 2 : 4,
            text: cpuLoad > 0.96 ? "sluggish, the chat window lags" : "feels responsive",
          });
      }
    }
  }
  review(
    "stream-and-play",
    "Stream and play",
    "play_and_stream",
    "Can one machine game and stream at once?",
    "cpu-ilvane-8",
    "live",
    streamers.map((id) => [`cpu-${id}`, id === "hexad-6" ? "subject" : "peer"]),
  );

  // 4 One memory stick or two.
  suite(
    "memory",
    "Memory study",
    CPU_GAMES.map((id): [string, number] => [`${id}-1080`, 3]),
  );
  for (const sticks of [2, 1]) {
    const id = `sticks-${sticks}`;
    setup(
      id,
      sticks === 2 ? "Octet 8, two sticks" : "Octet 8, one stick",
      ["hazel", 1],
      [
        ["ilvane-8", "cpu", true],
        ["halyard-9", "gpu", false],
      ],
      [["memory_sticks", String(sticks)]],
    );
    await play(id, cpu("ilvane-8"), fast, CPU_GAMES, ["1920x1080"], 3, (name) => (sticks === 1 ? -(ONE_STICK[name] as number) : 0), {
      lowStretch: sticks === 1 ? 1.35 : 1,
    });
  }
  review("memory-sticks", "One memory stick or two", "one_factor", "What does the second stick bring?", "sticks-2", "memory", [
    ["sticks-2", "peer"],
    ["sticks-1", "subject"],
  ]);

  // 5 A driver before and after.
  suite(
    "driver",
    "Driver before and after",
    DRIVER_GAMES.map((id): [string, number] => [`${id}-1440`, 3]),
  );
  for (const revision of [1, 2]) {
    const id = `halyard-6-driver-${revision}`;
    setup(id, revision === 1 ? "Halyard 6, driver 10-28" : "Halyard 6, driver 11-14", ["hazel", revision], [["halyard-6", "gpu", true]]);
    await play(id, cpu("ilvane-8"), card("halyard-6"), DRIVER_GAMES, ["2560x1440"], 3, (name) => (revision === 2 ? (DRIVER_GAINS[name] ?? 0) : 0));
  }
  review("driver-11-14", "Driver of 14 November", "one_factor", "Which games does the new driver move?", "halyard-6-driver-1", "driver", [
    ["halyard-6-driver-1", "peer"],
    ["halyard-6-driver-2", "subject"],
  ]);

  // 6 Whole systems, one six times dearer.
  suite("systems", "Whole systems", [
    ...["brackwater-oath", "copperfen", "saltpan-courier"].map((id): [string, number] => [`${id}-1080`, 2]),
    ...JOBS.map(({ id }): [string, number] => [id, 2]),
  ]);
  for (const one of SYSTEMS) {
    add("parts", { id: one.id, kind: "system", maker: one.maker, name: one.name, released_on: "2026-08-25" });
    add("offers", {
      id: `street-${one.id}-no`,
      part_id: one.id,
      region: "NO",
      kind: "street",
      condition: "new",
      price: `${one.price}.00`,
      currency: "NOK",
      tax_included: true,
      shipping: 0,
      in_stock: true,
      shop: "Fjordnilsen Data",
      seen_on: "2026-11-18",
    });
    setup(`sys-${one.id}`, one.name, ["floor", 1], [[one.id, "system", true]]);
    await play(`sys-${one.id}`, cpu(one.cpu), card(one.card), ["brackwater-oath", "copperfen", "saltpan-courier"], ["1920x1080"], 2);
    work(`sys-${one.id}`, cpu(one.cpu), 2);
  }
  review(
    "two-systems",
    "Entry system or six times dearer",
    "entry_against_dearer",
    "How many times faster is a system that costs six times as much?",
    "sys-pennick-home",
    "systems",
    [
      ["sys-pennick-home", "peer"],
      ["sys-hallbeck-tower", "subject"],
    ],
  );
  return { tables, frames, truth };
}
