import { fail, ok, type Result } from "@/core/result";

/** A value as somebody typed it, in the unit of its test. */
export interface TypedValue {
  value: number;
  /** Metric beside the result: the size of an encoder's output. */
  outputBytes: number | null;
}

export interface TypedProblem {
  kind: "bad-value";
  reason: string;
}

const TIME_IN_S: Record<string, number> = { ns: 1e-9, us: 1e-6, µs: 1e-6, ms: 1e-3, s: 1, sec: 1, min: 60, h: 3600 };
const BYTES: Record<string, number> = { b: 1, kb: 1e3, mb: 1e6, gb: 1e9, tb: 1e12, kib: 2 ** 10, mib: 2 ** 20, gib: 2 ** 30, tib: 2 ** 40 };
const PREFIXES: Record<string, number> = { k: 1e3, m: 1e6, g: 1e9 };

const refuse = (reason: string) => fail<TypedProblem>({ kind: "bad-value", reason });

/** A plain number with a point or a comma, grouped by thin or plain blanks; NaN for anything else. */
function plainNumber(text: string): number {
  const tight = text.replace(/(?<=\d)[\s\u202f\u2009\u00a0](?=\d{3}(\D|$))/g, "");
  return /^(\d+([.,]\d*)?|[.,]\d+)$/.test(tight) ? Number(tight.replace(",", ".")) : Number.NaN;
}

/** Seconds of `3:11`, `1:02:03.5`; NaN for what is no time. */
function clockTime(text: string): number {
  const match = /^(?:(\d+):)?(\d{1,3}):(\d{2}(?:[.,]\d+)?)$/.exec(text);
  if (!match) return Number.NaN;
  const [, hours, minutes, seconds] = match;
  const s = Number((seconds as string).replace(",", "."));
  if (s >= 60 || (hours !== undefined && Number(minutes) >= 60)) return Number.NaN;
  return Number(hours ?? 0) * 3600 + Number(minutes) * 60 + s;
}

/** A number with the unit it may carry, brought to the unit of the test. */
function inUnit(text: string, unit: string): Result<number, TypedProblem> {
  const clock = clockTime(text);
  if (!Number.isNaN(clock)) {
    const base = TIME_IN_S[unit];
    return base ? ok(clock / base) : refuse(`“${text}” is a time; this test counts in ${unit}`);
  }
  const match = /^([\d\s.,\u202f\u2009\u00a0]+?)\s*([^\d\s.,:].*)?$/.exec(text);
  const value = match ? plainNumber((match[1] as string).trim()) : Number.NaN;
  if (Number.isNaN(value)) return refuse(`“${text}” is no number, time (mm:ss) or size`);
  const given = match?.[2]?.trim();
  if (!given || given.toLowerCase() === unit.toLowerCase()) return ok(value);
  const [from, to] = [TIME_IN_S[given.toLowerCase()], TIME_IN_S[unit.toLowerCase()]];
  if (from !== undefined && to !== undefined) return ok((value * from) / to);
  const [bytes, per] = [BYTES[given.toLowerCase().replace(/\/s$/, "")], BYTES[unit.toLowerCase().replace(/\/s$/, "")]];
  if (bytes !== undefined && per !== undefined && /\/s$/i.test(given) === /\/s$/i.test(unit)) return ok((value * bytes) / per);
  const prefix = PREFIXES[given.charAt(0).toLowerCase()];
  if (prefix && (given.length === 1 || given.slice(1).toLowerCase() === unit.toLowerCase())) return ok(value * prefix);
  return refuse(`“${given}” does not fit this test, which counts in ${unit}`);
}

/**
 * Reads what was typed into a cell: a number with or without its unit, `mm:ss` or `h:mm:ss` where the test counts time, and
 * after a slash the size of what came out, `3:11 / 1.4 GB`.
 *
 * Units:  the test's own for the value, bytes for the size.
 * Errors: `bad-value` with a sentence; a value must be above 0.
 */
export function parseTypedValue(text: string, unit: string): Result<TypedValue, TypedProblem> {
  const [first, second, third] = text.split(/\s+\/\s+|\s*;\s*/).map((one) => one.trim());
  if (!first) return refuse("there is no value");
  if (third !== undefined) return refuse("one value and one size at most");
  const value = inUnit(first, unit);
  if (!value.ok) return value;
  if (!(value.value > 0) || !Number.isFinite(value.value)) return refuse("a value must be above 0; a run that failed is marked as failed");
  if (!second) return ok({ value: value.value, outputBytes: null });
  const size = inUnit(second, "b");
  if (!size.ok) return size;
  return size.value > 0 ? ok({ value: value.value, outputBytes: Math.round(size.value) }) : refuse("a size must be above 0");
}

/** What stands in a slot of the grid: nothing, a value, or a run that failed and why. */
export type ParsedSlot = { kind: "empty" } | { kind: "value"; value: TypedValue } | { kind: "failed"; reason: string };

/** Reads what was typed into a slot: a value as `parseTypedValue` reads it, `failed: why`, or nothing. */
export function parseSlot(text: string, unit: string): Result<ParsedSlot, TypedProblem> {
  const trimmed = text.trim();
  if (trimmed === "") return ok({ kind: "empty" });
  const failed = /^(?:failed|f)\s*[:,]\s*(.*)$/i.exec(trimmed);
  if (failed) return failed[1] ? ok({ kind: "failed", reason: failed[1] }) : refuse("say why it failed, as in “failed: out of memory”");
  const value = parseTypedValue(trimmed, unit);
  return value.ok ? ok({ kind: "value", value: value.value }) : value;
}

/**
 * Lays a block of text, as a spreadsheet copies it, over slots: rows by line ends, columns by tabs.
 *
 * Shapes: rows of cells, ragged rows as they are; a last empty line is the end of the block, not a row.
 */
export function splitBlock(text: string): string[][] {
  const lines = text.replace(/\r\n?/g, "\n").split("\n");
  if (lines.at(-1) === "") lines.pop();
  return lines.map((line) => line.split("\t").map((cell) => cell.trim()));
}
