import { quickLab } from "#sim/quickLab";
import { recordFrames } from "#sim/recorder";
import { DEMO_TESTS, runOf } from "#sim/summaries";
import { CARDS, GAMES } from "#sim/world";
import { testKey } from "@/core/bench";
import { frameStatistics, measurePacing, type RunFacts, runFacts } from "@/core/capture";
import type { RunSummary } from "@/core/cell";
import { type CheckedSetup, type CheckInput, type CheckName, checkCells, DEFAULT_THRESHOLDS, type Finding } from "@/core/check";
import { createRandom, type Random } from "@/core/random";

/** How often a planted fault was found, over seeded labs. */
export interface FaultRecall {
  fault: string;
  check: string;
  labs: number;
  found: number;
}

/** False alarms of clean labs, by check. */
export interface FalseAlarms {
  labs: number;
  cells: number;
  byCheck: Map<CheckName, number>;
}

/** A lab as the checks take it; faults bend it before it is checked. */
interface TrialLab {
  input: CheckInput;
  runs: RunSummary[];
  random: Random;
}

const TODAY = "2026-11-20";
/** Lows repeat less well than averages: about 2.2 % on this bench. */
const LOW_SPREAD = 0.022;

const SETUPS: CheckedSetup[] = CARDS.map(({ id, name, vramGib, boostGhz, maker, speed }) => ({
  id,
  label: name,
  benchId: "alder",
  benchRevision: 3,
  state: { gpu_driver: "of 2026-10-28", firmware: "2.18", os_build: "26.4" },
  partIds: [id],
  // Paper that allows what each card truly does; makers differ in architecture.
  paper: { kind: "gpu", architecture: maker, clockGhz: boostGhz, units: Math.round((2000 * speed) / boostGhz), bandwidthGbs: null },
  vramGib,
  newestOffers: [{ partId: id, region: "NO", seenOn: "2026-11-17" }],
}));

const cleanFacts = (random: Random): RunFacts => ({
  gpuLoad: 0.98 + 0.005 * random.normal(),
  cpuLoad: 0.4,
  gpuGhz: 2.6,
  cpuGhz: 4.9,
  vramGib: 6,
  ambientC: 22 + 0.3 * random.normal(),
  hottestGpuC: 68,
  hottestCpuC: 70,
  throttling: { part: "gpu", clockRatio: 0.995 + 0.004 * random.normal(), fromS: 30, temperatureC: 68 },
});

/** A clean lab of six cards, fourteen games, three resolutions and three runs with 1.2 % run-to-run spread. */
function trialLab(seed: number): TrialLab {
  const random = createRandom(seed ^ 0x5eed);
  const runs = quickLab(seed, { planted: false }).map((run): RunSummary => {
    const noise = random.fork(run.id);
    const low = run.fps * 0.74 * Math.exp(LOW_SPREAD * noise.normal());
    const lows = { percentileFps: low, tailMeanFps: low * 0.93, timeShareFps: low * 0.9 };
    return runOf({
      id: run.id,
      setupId: run.card,
      testKey: testKey(`${run.game}-${run.resolution.split("x")[1]}`, 1),
      number: run.number,
      frames: { frames: Math.round(run.fps * 60), durationS: 60, averageFps: run.fps, low1: lows, low01: lows },
      pacing: { intervalMs: 1000 / run.fps, shareWithin1Percent: 0.05 + 0.02 * noise.next(), shareWithin10Percent: 0.5, shareFaster: 0.2 },
      facts: cleanFacts(noise),
      content: run.id,
    });
  });
  const input: CheckInput = {
    tests: DEMO_TESTS,
    setups: SETUPS,
    otherSetups: [],
    runs,
    runsWanted: new Map(DEMO_TESTS.map(({ key }) => [key, 3])),
    differences: [],
    newerVersions: new Map(),
    today: TODAY,
    thresholds: DEFAULT_THRESHOLDS,
  };
  return { input, runs, random };
}

const pick = <T>(random: Random, list: readonly T[]): T => list[Math.floor(random.next() * list.length)] as T;

/** A run with its rate, and the lows with it, times a factor. */
function scaled(run: RunSummary, factor: number, lowFactor = factor): RunSummary {
  const frames = run.frames as NonNullable<RunSummary["frames"]>;
  const low = (lows: typeof frames.low1) => ({
    percentileFps: lows.percentileFps * lowFactor,
    tailMeanFps: lows.tailMeanFps * lowFactor,
    timeShareFps: lows.timeShareFps * lowFactor,
  });
  return { ...run, frames: { ...frames, averageFps: frames.averageFps * factor, low1: low(frames.low1), low01: low(frames.low01) } };
}

/** A planted fault: the lab bent, and whether a finding is the one wanted. Undefined where this lab has no place for it. */
type Planted = { input: CheckInput; hit: (finding: Finding) => boolean } | undefined;

interface FaultTrial {
  fault: string;
  /** The checks that may name it. */
  checks: readonly CheckName[];
  plant: (lab: TrialLab) => Planted;
}

const inCell = (setupId: string, testKey: string) => (finding: Finding) =>
  (finding.setupId === setupId && finding.testKey === testKey) || (finding.fits?.setupId === setupId && finding.fits.testKey === testKey);

const replaced = ({ input, runs }: TrialLab, change: (run: RunSummary) => RunSummary): CheckInput => ({ ...input, runs: runs.map(change) });

const oneRunOff =
  (factor: number): FaultTrial["plant"] =>
  (lab) => {
    const target = pick(lab.random, lab.runs);
    return { input: replaced(lab, (run) => (run === target ? scaled(run, factor) : run)), hit: inCell(target.setupId, target.testKey) };
  };

const cellMean = (lab: TrialLab, setupId: string, testKey: string) => {
  const values = lab.runs.filter((run) => run.setupId === setupId && run.testKey === testKey).map((run) => run.frames?.averageFps as number);
  return values.reduce((sum, value) => sum + value, 0) / values.length;
};

/** Exchanges two cells' runs, keeping the labels. */
function exchanged(lab: TrialLab, a: { setupId: string; testKey: string }, b: { setupId: string; testKey: string }): CheckInput {
  const is = (run: RunSummary, cell: typeof a) => run.setupId === cell.setupId && run.testKey === cell.testKey;
  return replaced(lab, (run) => (is(run, a) ? { ...run, ...b } : is(run, b) ? { ...run, ...a } : run));
}

function swapResolutions(lab: TrialLab): Planted {
  const { setupId, testKey } = pick(lab.random, lab.runs);
  const family = DEMO_TESTS.filter(({ workloadId }) => workloadId === DEMO_TESTS.find(({ key }) => key === testKey)?.workloadId);
  const other = pick(
    lab.random,
    family.filter(({ key }) => key !== testKey),
  );
  const ratio = cellMean(lab, setupId, testKey) / cellMean(lab, setupId, other.key);
  if (Math.abs(Math.log(ratio)) < Math.log(1.1)) return undefined;
  const [a, b] = [
    { setupId, testKey },
    { setupId, testKey: other.key },
  ];
  const keys = new Set(family.map(({ key }) => key));
  return { input: exchanged(lab, a, b), hit: (finding) => finding.setupId === setupId && (keys.has(finding.testKey) || keys.has(finding.fits?.testKey ?? "")) };
}

function swapSetups(lab: TrialLab): Planted {
  const { setupId, testKey } = pick(lab.random, lab.runs);
  const other = pick(
    lab.random,
    SETUPS.filter(({ id }) => id !== setupId),
  ).id;
  if (Math.abs(Math.log(cellMean(lab, setupId, testKey) / cellMean(lab, other, testKey))) < Math.log(1.1)) return undefined;
  const hit = (finding: Finding) => inCell(setupId, testKey)(finding) || inCell(other, testKey)(finding);
  return { input: exchanged(lab, { setupId, testKey }, { setupId: other, testKey }), hit };
}

/** A run recorded frame by frame under a limit that costs the given share. */
function capped(lab: TrialLab): Planted {
  const { setupId, testKey } = pick(lab.random, lab.runs);
  const game = GAMES.find(({ id }) => testKey.startsWith(`${id}-`)) as (typeof GAMES)[number];
  // Limits near the free rate catch half of the frames only: the cost of the whole is what is asked for.
  const share = 0.5 + 0.42 * lab.random.next();
  let cost = 0;
  const input = replaced(lab, (run) => {
    if (run.setupId !== setupId || run.testKey !== testKey) return run;
    const fps = run.frames?.averageFps as number;
    const frames = recordFrames({ fps, lengthS: 20, frameSpread: game.frameSpread, stutterShare: game.stutterShare, capFps: fps * share }, lab.random);
    const { frames: n, durationS, averageFps, low1, low01 } = frameStatistics(frames);
    cost = 1 - averageFps / fps;
    return { ...run, frames: { frames: n, durationS, averageFps, low1, low01 }, pacing: measurePacing(frames) };
  });
  return cost < 0.1 ? undefined : { input, hit: (finding) => finding.check === "frame cap" && inCell(setupId, testKey)(finding) };
}

/** A sensor log in which the clock falls by 5 % once the ceiling is reached, with the jitter a real one has. */
function throttled(random: Random): RunFacts {
  const n = 120;
  const timeS = Float64Array.from({ length: n }, (_, i) => i * 0.5);
  const temperature = timeS.map((t) => Math.round(10 * Math.min(83, 55 + 1.1 * t) + 2 * random.normal()) / 10);
  const clock = timeS.map((t) => 2.6 * (55 + 1.1 * t >= 83 ? 0.95 : 1) * (1 + 0.004 * random.normal()));
  return runFacts({
    timeS,
    channels: [
      { name: "gpu_c", values: temperature },
      { name: "gpu_ghz", values: clock },
    ],
  });
}

function drifted(lab: TrialLab): Planted {
  const baseline = pick(lab.random, SETUPS).id;
  const games = GAMES.map(({ id }) => `${id}-1440@1`);
  const last = lab.runs
    .filter((run) => run.setupId === baseline && games.includes(run.testKey) && run.number === 1)
    .map((run) => {
      const again = scaled(run, 0.97 * Math.exp(0.012 * (lab.random.normal() - 0)));
      return { ...again, id: `${run.id}-last`, content: `${run.id}-last`, number: 4, block: "last" };
    });
  const first = lab.runs.map((run) => (run.setupId === baseline && games.includes(run.testKey) && run.number === 1 ? { ...run, block: "first" } : run));
  return { input: { ...lab.input, runs: [...first, ...last] }, hit: ({ check, setupId }) => check === "drift" && setupId === baseline };
}

const ofCheck = (check: CheckName, setupId: string) => (finding: Finding) => finding.check === check && finding.setupId === setupId;

/** Every fault that the product's table names, planted as it happens. */
const FAULT_TRIALS: readonly FaultTrial[] = [
  { fault: "one run 10 % off", checks: ["outlier run"], plant: oneRunOff(0.9) },
  { fault: "one run 8 % off", checks: ["outlier run"], plant: oneRunOff(0.92) },
  {
    fault: "spread four times the usual",
    checks: ["scatter", "outlier run"],
    plant: (lab) => {
      const { setupId, testKey } = pick(lab.random, lab.runs);
      // Three runs as wide as a spread of 4.8 % makes them on average; a draw that happens to be narrow is no fault to see.
      const turn = lab.random.next() * 2 * Math.PI;
      const at = (number: number) => 1 + 0.048 * Math.SQRT2 * Math.sin(turn + (number * 2 * Math.PI) / 3);
      return {
        input: replaced(lab, (run) => (run.setupId === setupId && run.testKey === testKey ? scaled(run, at(run.number)) : run)),
        hit: inCell(setupId, testKey),
      };
    },
  },
  {
    fault: "a low 40 % down, the average agrees",
    checks: ["glitch"],
    plant: (lab) => {
      const target = pick(lab.random, lab.runs);
      return {
        input: replaced(lab, (run) => (run === target ? scaled(run, 1, 0.6) : run)),
        hit: (finding) => finding.check === "glitch" && inCell(target.setupId, target.testKey)(finding),
      };
    },
  },
  { fault: "a cap that costs 10 % or more, any rate", checks: ["frame cap"], plant: capped },
  { fault: "two resolutions exchanged, 10 % or more apart", checks: ["resolution inversion", "wrong cell"], plant: swapResolutions },
  { fault: "two setups exchanged, 10 % or more apart", checks: ["wrong cell", "too good"], plant: swapSetups },
  {
    fault: "clocks 5 % down at the ceiling",
    checks: ["throttling"],
    plant: (lab) => {
      const { setupId, testKey } = pick(lab.random, lab.runs);
      const input = replaced(lab, (run) => (run.setupId === setupId && run.testKey === testKey ? { ...run, facts: throttled(lab.random) } : run));
      return { input, hit: (finding) => finding.check === "throttling" && inCell(setupId, testKey)(finding) };
    },
  },
  {
    fault: "video memory full, lows collapse",
    checks: ["video memory full"],
    plant: (lab) => {
      const { setupId, testKey } = pick(lab.random, lab.runs);
      const vram = SETUPS.find(({ id }) => id === setupId)?.vramGib as number;
      const input = replaced(lab, (run) =>
        run.setupId === setupId && run.testKey === testKey
          ? { ...scaled(run, 0.93, 0.55), facts: { ...(run.facts as RunFacts), vramGib: vram * (0.96 + 0.03 * lab.random.next()) } }
          : run,
      );
      return { input, hit: (finding) => finding.check === "video memory full" && inCell(setupId, testKey)(finding) };
    },
  },
  ...[1000, 60, 1 / 1000, 1 / 60].map(
    (factor): FaultTrial => ({
      fault: `a factor of ${factor >= 1 ? factor : `1/${Math.round(1 / factor)}`}, one run or the whole cell`,
      checks: ["unit slip"],
      plant: (lab) => {
        const target = pick(lab.random, lab.runs);
        const whole = lab.random.next() < 0.5;
        const input = replaced(lab, (run) =>
          run === target || (whole && run.setupId === target.setupId && run.testKey === target.testKey) ? scaled(run, factor) : run,
        );
        return { input, hit: (finding) => finding.check === "unit slip" && inCell(target.setupId, target.testKey)(finding) };
      },
    }),
  ),
  {
    fault: "a copied trace",
    checks: ["duplicate"],
    plant: (lab) => {
      const [source, target] = [pick(lab.random, lab.runs), pick(lab.random, lab.runs)];
      if (source === target) return undefined;
      const input = replaced(lab, (run) => (run === target ? { ...run, frames: source.frames, content: source.content } : run));
      return { input, hit: ({ check, runIds }) => check === "duplicate" && runIds.includes(target.id) };
    },
  },
  { fault: "3 % drift of the baseline, repeated in 14 tests", checks: ["drift"], plant: drifted },
  {
    fault: "a forgotten driver update",
    checks: ["stale"],
    plant: (lab) => {
      const { id } = pick(lab.random, SETUPS);
      const setups = SETUPS.map((setup) => (setup.id === id ? { ...setup, benchRevision: 2, state: { ...setup.state, gpu_driver: "of 2026-07-30" } } : setup));
      return { input: { ...lab.input, setups }, hit: ofCheck("stale", id) };
    },
  },
  {
    fault: "a price 20 days old",
    checks: ["stale"],
    plant: (lab) => {
      const { id } = pick(lab.random, SETUPS);
      const setups = SETUPS.map((setup) =>
        setup.id === id ? { ...setup, newestOffers: setup.newestOffers.map((offer) => ({ ...offer, seenOn: "2026-10-31" })) } : setup,
      );
      return { input: { ...lab.input, setups }, hit: ofCheck("stale", id) };
    },
  },
  {
    fault: "30 % more than specifications allow",
    checks: ["too good"],
    plant: (lab) => {
      const { setupId, testKey } = pick(lab.random, lab.runs);
      const rivals = CARDS.filter((card) => card.maker === CARDS.find(({ id }) => id === setupId)?.maker);
      if (rivals.length < 2) return undefined;
      const own = SETUPS.find(({ id }) => id === setupId)?.paper;
      const other = SETUPS.find(({ id }) => id !== setupId && rivals.some((rival) => rival.id === id)) as CheckedSetup;
      const allowed = ((own?.clockGhz as number) * (own?.units as number)) / ((other.paper?.clockGhz as number) * (other.paper?.units as number));
      const factor = (1.3 * Math.max(1, allowed) * cellMean(lab, other.id, testKey)) / cellMean(lab, setupId, testKey);
      return {
        input: replaced(lab, (run) => (run.setupId === setupId && run.testKey === testKey ? scaled(run, factor) : run)),
        hit: (finding) => finding.check === "too good" && inCell(setupId, testKey)(finding),
      };
    },
  },
  {
    fault: "a bench property not held and not declared",
    checks: ["not comparable"],
    plant: (lab) => {
      const { id } = pick(lab.random, SETUPS);
      const values = [
        { value: "balanced", setupIds: SETUPS.filter((setup) => setup.id !== id).map((setup) => setup.id) },
        { value: "power saver", setupIds: [id] },
      ];
      return { input: { ...lab.input, differences: [{ property: "power_plan", values, declared: null }] }, hit: ofCheck("not comparable", id) };
    },
  },
  {
    fault: "one run missing",
    checks: ["too few runs"],
    plant: (lab) => {
      const target = pick(lab.random, lab.runs);
      return {
        input: { ...lab.input, runs: lab.runs.filter((run) => run !== target) },
        hit: (finding) => finding.check === "too few runs" && inCell(target.setupId, target.testKey)(finding),
      };
    },
  },
  {
    fault: "a synthetic 6 % under earlier results",
    checks: ["sanity"],
    plant: (lab) => {
      const target = pick(lab.random, lab.runs);
      const tests = DEMO_TESTS.map((test) => (test.key === target.testKey ? { ...test, group: "synthetic" } : test));
      const past = lab.runs
        .filter((run) => run.setupId === target.setupId && run.testKey === target.testKey)
        .map((run) => ({
          ...scaled(run, (1 / 0.94) * Math.exp(0.012 * lab.random.normal())),
          id: `${run.id}-past`,
          content: `${run.id}-past`,
          setupId: "past",
        }));
      const partIds = SETUPS.find(({ id }) => id === target.setupId)?.partIds ?? [];
      // Some clean synthetics give the group its repeatability.
      const others = DEMO_TESTS.filter(({ key }) => key !== target.testKey).slice(0, 8);
      const withGroup = tests.map((test) => (others.some(({ key }) => key === test.key) ? { ...test, group: "synthetic" } : test));
      return {
        input: { ...lab.input, tests: withGroup, runs: [...lab.runs, ...past], otherSetups: [{ id: "past", partIds }] },
        hit: ofCheck("sanity", target.setupId),
      };
    },
  },
  {
    fault: "the room 3 °C warmer within a comparison",
    checks: ["ambient"],
    plant: (lab) => {
      const target = pick(lab.random, lab.runs);
      const tests = DEMO_TESTS.map((test) => (test.key === target.testKey ? { ...test, kind: "soak" as const, unit: "°C", better: "lower" as const } : test));
      const runs = lab.runs.map((run) =>
        run.setupId === target.setupId && run.testKey === target.testKey ? { ...run, ambientC: 25 } : { ...run, ambientC: 22 },
      );
      return { input: { ...lab.input, tests, runs }, hit: ofCheck("ambient", target.setupId) };
    },
  },
];

/** Plants each fault in so many seeded labs and counts in how many it is found. */
export function measureRecall(labs: number, firstSeed = 1, onMeasured: (recall: FaultRecall) => void = () => {}): FaultRecall[] {
  return FAULT_TRIALS.map(({ fault, checks, plant }) => {
    let planted = 0;
    let found = 0;
    for (let seed = firstSeed; planted < labs && seed < firstSeed + 20 * labs; seed += 1) {
      const trial = plant(trialLab(seed));
      if (!trial) continue;
      planted += 1;
      if (checkCells(trial.input).some((finding) => checks.includes(finding.check) && trial.hit(finding))) found += 1;
    }
    const recall = { fault, check: checks.join(" or "), labs: planted, found };
    onMeasured(recall);
    return recall;
  });
}

/** Checks clean labs with all checks and counts what they raise. */
export function measureFalseAlarms(labs: number, firstSeed = 50_001): FalseAlarms {
  const byCheck = new Map<CheckName, number>();
  for (let seed = firstSeed; seed < firstSeed + labs; seed += 1) {
    for (const { check } of checkCells(trialLab(seed).input)) byCheck.set(check, (byCheck.get(check) ?? 0) + 1);
  }
  return { labs, cells: labs * SETUPS.length * DEMO_TESTS.length, byCheck };
}

/** False alarms per 1,000 clean cells over all checks together. */
export const alarmsPerThousand = ({ cells, byCheck }: FalseAlarms) => (1000 * [...byCheck.values()].reduce((sum, count) => sum + count, 0)) / cells;
