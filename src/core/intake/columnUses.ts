import { z } from "zod";
import { fail, ok, type Result } from "@/core/result";
import type { LogProblem, LogShape } from "./logShape";

const TIME_UNITS = ["s", "ms", "us", "ns"] as const;
export type TimeUnit = (typeof TIME_UNITS)[number];

/** Units a sensor's column may be in, with the unit it is stored in and how to get there. */
export const SENSOR_UNITS = {
  "°C": { stored: "c", convert: (x: number) => x },
  "°F": { stored: "c", convert: (x: number) => (x - 32) / 1.8 },
  W: { stored: "w", convert: (x: number) => x },
  mW: { stored: "w", convert: (x: number) => x / 1000 },
  GHz: { stored: "ghz", convert: (x: number) => x },
  MHz: { stored: "ghz", convert: (x: number) => x / 1000 },
  "%": { stored: "ratio", convert: (x: number) => x / 100 },
  ratio: { stored: "ratio", convert: (x: number) => x },
  rpm: { stored: "rpm", convert: (x: number) => x },
  dBA: { stored: "dba", convert: (x: number) => x },
  GiB: { stored: "gib", convert: (x: number) => x },
  MiB: { stored: "gib", convert: (x: number) => x / 1024 },
  GB: { stored: "gib", convert: (x: number) => (x * 1e9) / 2 ** 30 },
  MB: { stored: "gib", convert: (x: number) => (x * 1e6) / 2 ** 30 },
  V: { stored: "v", convert: (x: number) => x },
  A: { stored: "a", convert: (x: number) => x },
} as const;
export type SensorUnit = keyof typeof SENSOR_UNITS;
const SENSOR_UNIT_NAMES = Object.keys(SENSOR_UNITS) as [SensorUnit, ...SensorUnit[]];

/** What a column is read as. Times of frames are "frame-stamp"; times of rows of sensors are "time". */
export const ColumnUse = z.discriminatedUnion("use", [
  z.object({ use: z.literal("ignore") }),
  z.object({ use: z.literal("frame-time"), unit: z.enum(TIME_UNITS) }),
  z.object({ use: z.literal("frame-stamp"), unit: z.enum([...TIME_UNITS, "clock"]) }),
  z.object({ use: z.literal("fps") }),
  z.object({ use: z.literal("time"), unit: z.enum([...TIME_UNITS, "clock"]) }),
  z.object({
    use: z.literal("channel"),
    channel: z.string().regex(/^[a-z][a-z0-9_]*$/, "small letters, digits and underscores"),
    unit: z.enum(SENSOR_UNIT_NAMES),
  }),
]);
export type ColumnUse = z.infer<typeof ColumnUse>;

/** The name a channel is stored under: `gpu` in °F is `gpu_c`. */
export function storedChannel(use: Extract<ColumnUse, { use: "channel" }>): string {
  return `${use.channel}_${SENSOR_UNITS[use.unit].stored}`;
}

/** What a log gives once its columns are known. */
export type LogKind = "frames" | "sensors" | "both";

/** Whether the uses of columns make a log, and which; a sentence where they do not. */
export function judgeUses(uses: readonly ColumnUse[]): Result<LogKind, LogProblem> {
  const refuse = (reason: string) => fail<LogProblem>({ kind: "bad-log", line: 0, column: null, reason });
  const count = (...names: ColumnUse["use"][]) => uses.filter(({ use }) => names.includes(use)).length;
  const frames = count("frame-time", "frame-stamp", "fps");
  if (frames > 1) return refuse("more than one column gives the frames; choose one of them");
  if (count("time") > 1) return refuse("more than one column gives the time; choose one of them");
  const channels = uses.flatMap((use) => (use.use === "channel" ? [storedChannel(use)] : []));
  const twice = channels.find((name, i) => channels.indexOf(name) !== i);
  if (twice) return refuse(`two columns are read as ${twice}; give one of them another name`);
  if (frames === 0 && channels.length === 0) return refuse("no column gives frames or a sensor; say what at least one column is");
  if (frames === 0 && count("time") === 0) return refuse("a log of sensors needs a column with the time of each row");
  return ok(frames === 0 ? "sensors" : channels.length === 0 ? "frames" : "both");
}

/** What a sample of a column's numbers looks like. */
interface ColumnFacts {
  words: string;
  unit: string;
  numbers: number[];
  clocks: boolean;
  rises: boolean;
  median: number;
}

function factsOf(shape: LogShape, rows: readonly string[][], i: number): ColumnFacts {
  const column = shape.columns[i] as LogShape["columns"][number];
  const cells = rows.map((row) => row[i] ?? "");
  const numbers = cells.map((cell) => Number(shape.decimal === "," ? cell.replace(",", ".") : cell || "x")).filter(Number.isFinite);
  const sorted = [...numbers].sort((a, b) => a - b);
  return {
    words: ` ${column.name
      .replace(/([a-z])([A-Z])/g, "$1 $2")
      .toLowerCase()
      .replace(/[^a-z0-9°%µμ]+/g, " ")} `,
    unit: (column.unit ?? "").toLowerCase().replaceAll("μ", "µ"),
    numbers,
    clocks: cells.some((cell) => /\d{1,2}:\d{2}:\d{2}/.test(cell)),
    rises:
      numbers.length > 2 && numbers.every((value, k) => k === 0 || value >= (numbers[k - 1] as number)) && (numbers.at(-1) as number) > (numbers[0] as number),
    median: sorted[Math.floor(sorted.length / 2)] ?? Number.NaN,
  };
}

const has = ({ words }: ColumnFacts, pattern: RegExp) => pattern.test(words);

/** A unit of time by its name, or by how large the numbers are: frames take about 1 to 100 ms. */
function timeUnit({ unit, words, median }: ColumnFacts, guess: (median: number) => TimeUnit): TimeUnit {
  const named = `${unit} ${words}`;
  if (/(^| )(ms|msec|milliseconds?)( |$)/.test(named)) return "ms";
  if (/(^| )(us|µs|microseconds?|usec)( |$)/.test(named)) return "us";
  if (/(^| )(ns|nanoseconds?)( |$)/.test(named)) return "ns";
  if (/(^| )(s|sec|secs|seconds?)( |$)/.test(named)) return "s";
  return guess(median);
}
const frameUnit = (median: number): TimeUnit => (median < 0.5 ? "s" : median < 500 ? "ms" : median < 500_000 ? "us" : "ns");
/** Rows of a log lie between a ten-thousandth of a second and some seconds apart. */
const stampUnit = (step: number): TimeUnit => (step < 2.5 ? "s" : step < 5000 ? "ms" : step < 5e6 ? "us" : "ns");

const UNIT_WORDS: readonly [RegExp, SensorUnit][] = [
  [/^(°f|f|deg ?f|fahrenheit)$/, "°F"],
  [/^(°c|c|deg ?c|celsius)$/, "°C"],
  [/^mw$/, "mW"],
  [/^(w|watts?)$/, "W"],
  [/^mhz$/, "MHz"],
  [/^ghz$/, "GHz"],
  [/^(%|percent)$/, "%"],
  [/^ratio$/, "ratio"],
  [/^rpm$/, "rpm"],
  [/^(dba|db\(a\)|db)$/, "dBA"],
  [/^gib$/, "GiB"],
  [/^mib$/, "MiB"],
  [/^gb$/, "GB"],
  [/^mb$/, "MB"],
  [/^v$/, "V"],
  [/^a$/, "A"],
];

/** The quantity a column's words speak of, with the unit its numbers suggest where none is written. */
const QUANTITY_WORDS: readonly [RegExp, (median: number) => SensorUnit][] = [
  [/ (temp|temperature|hot ?spot|junction|ambient|room|°c|°f) /, () => "°C"],
  [/ (power|watts?|consumption|draw) /, (median) => (median > 5000 ? "mW" : "W")],
  [/ (clock|freq|frequency|mhz|ghz) /, (median) => (median > 20 ? "MHz" : "GHz")],
  [/ (load|usage|util|utili[sz]ation|busy|percent|%) /, (median) => (median > 1 ? "%" : "ratio")],
  [/ (fan|rpm) /, () => "rpm"],
  [/ (noise|sound|spl|dba) /, () => "dBA"],
  [/ (vram|memory|mem|ram) .*(used|use|usage|alloc|allocated|committed)? ?/, (median) => (median > 200 ? "MiB" : "GiB")],
  [/ (volt|voltage) /, () => "V"],
  [/ (current|amps?|ampere) /, () => "A"],
];

/** Which component a column speaks of, in the product's words. */
function subjectOf(facts: ColumnFacts, stored: string): string {
  if (stored === "dba") return "noise";
  const number = /(\d+)/.exec(facts.words)?.[1] ?? "";
  if (stored === "rpm") return `fan${number || "1"}`;
  if (stored === "gib") return has(facts, /vram|video|gpu|graphics|device|local/) ? "vram" : "ram";
  if (has(facts, / hot ?spot /)) return "hotspot";
  if (has(facts, / (ambient|room|air) /)) return "ambient";
  if (has(facts, / (regulator|vrm|phase) /)) return "regulator";
  if (has(facts, / (wall|mains|socket|outlet|plug|meter|whole|total|system) /)) return "wall";
  const part = has(facts, / (gpu|graphics|card|video|device) /) ? "gpu" : has(facts, / (cpu|processor|package|core|cores) /) ? "cpu" : undefined;
  const memory = has(facts, / (memory|mem|vram|ram) /);
  const base = part
    ? memory
      ? `${part}_memory`
      : part
    : memory
      ? "memory"
      : facts.words
          .trim()
          .replace(/[^a-z0-9]+/g, "_")
          .replace(/^(\d)/, "x$1") || "sensor";
  return stored === "ratio" ? `${base}_load` : base;
}

/**
 * Proposes what each column is, from general words, units and the numbers themselves; a person corrects it by clicking.
 * Unknown columns are left out, never guessed at.
 *
 * Shapes: one use a column of the shape, in order. Source: common practice (words of the trade in English).
 */
export function proposeUses(shape: LogShape, rows: readonly string[][]): ColumnUse[] {
  const facts = shape.columns.map((_, i) => factsOf(shape, rows, i));
  const uses: ColumnUse[] = facts.map(() => ({ use: "ignore" }));
  const free = (i: number) => uses[i]?.use === "ignore";
  const pick = (test: (fact: ColumnFacts, i: number) => boolean) => facts.findIndex((fact, i) => free(i) && test(fact, i));
  const positive = (fact: ColumnFacts) => fact.numbers.length > 0 && fact.numbers.filter((value) => value > 0).length >= 0.8 * fact.numbers.length;

  const frameTime = pick(
    (fact) =>
      positive(fact) &&
      !fact.rises &&
      has(fact, / (frame ?time|frametime|frame .*(ms|time|duration|interval|delta)|(ms|delta|time) between .*|interval|dt|delta) /),
  );
  const rate = pick((fact) => positive(fact) && (has(fact, / (fps|frame ?rate|framerate|frames per second) /) || fact.unit === "fps"));
  // A clock in MHz may happen to rise through a sample: what is written in a sensor's unit is no time.
  const mayBeTime = (fact: ColumnFacts) => fact.rises && !UNIT_WORDS.some(([words]) => words.test(fact.unit));
  const rising = pick((fact) => fact.clocks || (mayBeTime(fact) && has(fact, / (time|timestamp|stamp|elapsed|t|date|clock|seconds|when|ms|s|us) /)));
  const stamps = rising >= 0 ? rising : pick((fact) => mayBeTime(fact) && fact.numbers.length === rows.length);
  if (frameTime >= 0) uses[frameTime] = { use: "frame-time", unit: timeUnit(facts[frameTime] as ColumnFacts, frameUnit) };
  else if (shape.columns.length === 1 && facts[0] && positive(facts[0]) && !facts[0].rises) {
    uses[0] = /fps/.test(facts[0].words) ? { use: "fps" } : { use: "frame-time", unit: timeUnit(facts[0], frameUnit) };
  } else if (rate >= 0 && !(stamps >= 0 && stampStep(facts[stamps] as ColumnFacts) > 0.3)) uses[rate] = { use: "fps" };

  for (const [i, fact] of facts.entries()) {
    if (!free(i) || i === stamps || fact.numbers.length === 0) continue;
    const quantity = QUANTITY_WORDS.find(([words]) => has(fact, words));
    const written = UNIT_WORDS.find(([words]) => words.test(fact.unit))?.[1];
    // A unit alone says enough, words alone do too; neither is left out.
    const unit = written ?? quantity?.[1](fact.median);
    if (!unit) continue;
    uses[i] = { use: "channel", channel: subjectOf(fact, SENSOR_UNITS[unit].stored), unit };
  }
  const given = new Set<string>();
  for (const [i, use] of uses.entries()) {
    if (use.use !== "channel") continue;
    if (given.has(storedChannel(use))) uses[i] = { use: "ignore" };
    else given.add(storedChannel(use));
  }

  const hasFrames = uses.some(({ use }) => use === "frame-time" || use === "fps");
  if (stamps >= 0 && free(stamps)) {
    const fact = facts[stamps] as ColumnFacts;
    const unit = fact.clocks ? ("clock" as const) : timeUnit({ ...fact, median: stampStep(fact) }, stampUnit);
    // Times without any sensor beside them are those of frames.
    uses[stamps] = hasFrames || given.size > 0 ? { use: "time", unit } : { use: "frame-stamp", unit };
  }
  return uses;
}

const stampStep = ({ numbers }: ColumnFacts) =>
  numbers.length < 2 ? Number.NaN : ((numbers.at(-1) as number) - (numbers[0] as number)) / (numbers.length - 1);
