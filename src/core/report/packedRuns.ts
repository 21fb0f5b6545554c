import type { PowerAt } from "@/core/bench";
import type { RunSummary } from "@/core/cell";

/** Runs on their way to a page: names once, numbers in the order of their fields. A review of thousands of runs has a third of its size. */
export type PackedRuns = string;

type PackedFrames = [frames: number, durationS: number, averageFps: number, low1: [number, number, number], low01: [number, number, number]];
type PackedRun = [
  id: string,
  setup: number,
  test: number,
  number: number,
  status: RunSummary["status"],
  rowVersion: number,
  typed: 0 | 1,
  startedAt: string | null,
  frames: PackedFrames | null,
  /** Joules and mean watts by place; places follow the order of `places`. */
  energy: ([number, number] | null)[],
  cpuLoad: number | null,
  rest: Partial<Pick<RunSummary, (typeof SELDOM)[number]>> | null,
];

/** Fields that most runs of a review leave empty. */
const SELDOM = ["reason", "block", "ambientC", "result", "outputBytes", "opinion"] as const;

type Lows = NonNullable<RunSummary["frames"]>["low1"];
const packLows = ({ percentileFps, tailMeanFps, timeShareFps }: Lows): [number, number, number] => [percentileFps, tailMeanFps, timeShareFps];
const unpackLows = ([percentileFps, tailMeanFps, timeShareFps]: [number, number, number]): Lows => ({ percentileFps, tailMeanFps, timeShareFps });

/** Packed once for each list of runs: the same review is sent to many readers. */
const packedOf = new WeakMap<readonly RunSummary[], PackedRuns>();
/** The last ones unpacked: a page is drawn on the server from what it is sent, and the same is sent again and again. */
let unpacked: { packed: PackedRuns; runs: RunSummary[] } | undefined;

/** Packs runs for a page; pacing, facts and content, which only the checks ask for, stay behind. Every number comes back bit for bit. */
export function packRuns(runs: readonly RunSummary[]): PackedRuns {
  const known = packedOf.get(runs) ?? pack(runs);
  packedOf.set(runs, known);
  return known;
}

function pack(runs: readonly RunSummary[]): PackedRuns {
  const setups = new Map<string, number>();
  const tests = new Map<string, number>();
  const place = (names: Map<string, number>, name: string) => {
    const known = names.get(name) ?? names.size;
    names.set(name, known);
    return known;
  };
  const places = [...new Set(runs.flatMap(({ energy }) => Object.keys(energy)))] as PowerAt[];
  const rows = runs.map((run): PackedRun => {
    const seldom = SELDOM.filter((field) => run[field] !== null);
    return [
      run.id,
      place(setups, run.setupId),
      place(tests, run.testKey),
      run.number,
      run.status,
      run.rowVersion,
      run.typed ? 1 : 0,
      run.startedAt,
      run.frames && [run.frames.frames, run.frames.durationS, run.frames.averageFps, packLows(run.frames.low1), packLows(run.frames.low01)],
      places.map((at): [number, number] | null => {
        const metered = run.energy[at];
        return metered ? [metered.joules, metered.meanW] : null;
      }),
      run.cpuLoad,
      seldom.length > 0 ? Object.fromEntries(seldom.map((field) => [field, run[field]])) : null,
    ];
  });
  return JSON.stringify({ setups: [...setups.keys()], tests: [...tests.keys()], places, rows });
}

/** The runs again; shared, not to be changed. Errors: SyntaxError or TypeError on anything that `packRuns` did not make. */
export function unpackRuns(packed: PackedRuns): RunSummary[] {
  if (unpacked?.packed !== packed) unpacked = { packed, runs: unpack(packed) };
  return unpacked.runs;
}

function unpack(packed: PackedRuns): RunSummary[] {
  const { setups, tests, places, rows } = JSON.parse(packed) as { setups: string[]; tests: string[]; places: PowerAt[]; rows: PackedRun[] };
  return rows.map(
    ([id, setup, test, number, status, rowVersion, typed, startedAt, frames, energy, cpuLoad, rest]): RunSummary => ({
      id,
      setupId: setups[setup] as string,
      testKey: tests[test] as string,
      number,
      status,
      startedAt,
      frames: frames && { frames: frames[0], durationS: frames[1], averageFps: frames[2], low1: unpackLows(frames[3]), low01: unpackLows(frames[4]) },
      pacing: null,
      facts: null,
      content: null,
      energy: Object.fromEntries(energy.flatMap((metered, i) => (metered ? [[places[i], { joules: metered[0], meanW: metered[1] }]] : []))),
      typed: typed === 1,
      rowVersion,
      reason: rest?.reason ?? null,
      block: rest?.block ?? null,
      ambientC: rest?.ambientC ?? null,
      result: rest?.result ?? null,
      outputBytes: rest?.outputBytes ?? null,
      cpuLoad,
      opinion: rest?.opinion ?? null,
    }),
  );
}
