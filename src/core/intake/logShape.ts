import { z } from "zod";
import { fail, ok, type Result } from "@/core/result";
import { splitCells } from "./splitCells";

/** How a delimited text is written; everything a reader needs to find its cells. */
export const LogShape = z.object({
  encoding: z.enum(["utf-8", "utf-16le", "utf-16be", "windows-1252"]),
  delimiter: z.enum([",", ";", "\t", "|", " "]),
  decimal: z.enum([".", ","]),
  /** Lines that begin with this are remarks; null where there are none. */
  comment: z.string().max(3).nullable(),
  lineEnd: z.enum(["\n", "\r"]),
  /** Lines from 1; 0 where there is no such line. */
  headerLine: z.int().min(0),
  unitLine: z.int().min(0),
  firstDataLine: z.int().min(1),
  /** As written, or "column 1" … where there is no header. */
  columns: z.array(z.object({ name: z.string(), unit: z.string().nullable() })).max(2000),
});
export type LogShape = z.infer<typeof LogShape>;

/** Why a log cannot be read, where, and what to do about it. Line 0 is the file as a whole. */
export interface LogProblem {
  kind: "bad-log";
  line: number;
  column: string | null;
  reason: string;
}

/** The shape of a text with its first rows as cells, for a person to look at. */
export interface DetectedShape {
  shape: LogShape;
  rows: string[][];
  /** Lines before the header, as written. */
  preamble: string[];
}

const MOST_LINES = 400;
const MOST_COLUMNS = 2000;
const LONGEST_LINE = 1_000_000;

const refuse = (line: number, reason: string) => fail<LogProblem>({ kind: "bad-log", line, column: null, reason });

/** The encoding of a sample by its byte order mark, its zero bytes, or whether it is valid UTF-8. */
function detectEncoding(sample: Uint8Array): LogShape["encoding"] {
  if (sample[0] === 0xff && sample[1] === 0xfe) return "utf-16le";
  if (sample[0] === 0xfe && sample[1] === 0xff) return "utf-16be";
  const look = sample.subarray(0, 4096);
  const zeros = [0, 0];
  for (let i = 0; i < look.length; i += 1) if (look[i] === 0) zeros[i % 2] = (zeros[i % 2] as number) + 1;
  const [even, odd] = zeros as [number, number];
  if (odd > look.length * 0.3 && even === 0) return "utf-16le";
  if (even > look.length * 0.3 && odd === 0) return "utf-16be";
  try {
    // The sample may end inside a letter.
    new TextDecoder("utf-8", { fatal: true }).decode(sample.subarray(0, Math.max(0, sample.length - 4)));
    return "utf-8";
  } catch {
    return "windows-1252";
  }
}

const NUMBER = /^[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?$/;
const CLOCK = /\d{1,2}:\d{2}(:\d{2})?/;
const isNumeric = (cell: string) => NUMBER.test(cell) || CLOCK.test(cell);
const MISSING = /^(|-|--|n\/?a|nan|null|none|unknown)$/i;

interface Candidate {
  delimiter: LogShape["delimiter"];
  width: number;
  score: number;
}

/** How well a delimiter explains the lines: most rows as wide as each other, wide rather than narrow, cells that are numbers. */
function judgeDelimiter(lines: readonly string[], delimiter: LogShape["delimiter"]): Candidate {
  const widths = new Map<number, number>();
  const rows = lines.map((line) => splitCells(line, delimiter));
  for (const row of rows) widths.set(row.length, (widths.get(row.length) ?? 0) + 1);
  const [width, count] = [...widths].sort((a, b) => b[1] - a[1] || b[0] - a[0])[0] ?? [1, 0];
  const fitting = rows.filter((row) => row.length === width);
  const cells = fitting.flat();
  const numeric = cells.filter((cell) => isNumeric(cell) || MISSING.test(cell)).length / Math.max(1, cells.length);
  return { delimiter, width, score: (count / Math.max(1, rows.length)) * (width > 1 ? 1 : 0.55) * (0.25 + 0.75 * numeric) };
}

/** A cell that begins with a quote and does not end on its line. A quote in the middle of a cell (27") is a letter like others. */
const OPEN_QUOTE = /(?:^|[,;\t|]) *"(?:[^"]|"")*$/;
const MOST_LINES_IN_CELL = 20;

/** The rows of a text with their first line: a cell in quotes may run over line ends. */
function joinQuoted(lines: readonly string[]): { line: string; number: number }[] {
  const rows: { line: string; number: number }[] = [];
  for (let i = 0; i < lines.length; i += 1) {
    const number = i + 1;
    let line = lines[i] as string;
    if (OPEN_QUOTE.test(line)) {
      // Only where it closes again before long: one quote too many must not swallow the log.
      const end = lines.slice(i + 1, i + 1 + MOST_LINES_IN_CELL).findIndex((_, k) => !OPEN_QUOTE.test(lines.slice(i, i + 2 + k).join("\n")));
      if (end >= 0) {
        line = lines.slice(i, i + 2 + end).join("\n");
        i += 1 + end;
      }
    }
    rows.push({ line, number });
  }
  return rows;
}

/** Whether commas stand for decimal points, from the cells of the data rows. */
function detectDecimal(rows: readonly string[][], delimiter: LogShape["delimiter"]): LogShape["decimal"] {
  let commas = 0;
  let points = 0;
  for (const cell of rows.flat()) {
    if (/^[+-]?\d*,\d+([eE][+-]?\d+)?$/.test(cell)) commas += 1;
    else if (/^[+-]?\d*\.\d+([eE][+-]?\d+)?$/.test(cell)) points += 1;
  }
  // Unquoted commas cannot be decimals where they part the cells: those that are left were quoted.
  return commas > points && (delimiter !== "," || points === 0) ? "," : ".";
}

const UNIT_IN_NAME = /^(.*?)\s*[([]\s*([^()[\]]{1,12})\s*[)\]]\s*$/;
const KNOWN_UNIT =
  /^(s|sec|secs|seconds?|ms|msec|milliseconds?|us|µs|μs|microseconds?|ns|°?c|deg ?c|celsius|°?f|deg ?f|fahrenheit|k|m?w|kw|watts?|[mg]?hz|%|percent|ratio|rpm|dba|db\(a\)|db|[kmg]i?b|m?v|m?a|fps|hh:mm:ss.*)$/i;

/** A column's name and unit, from a head such as "Power (W)", "power [W]" or "power_w", or from the line of units below it. */
function columnOf(head: string, unitCell: string | undefined): { name: string; unit: string | null } {
  const below = unitCell?.replace(/^[([]|[)\]]$/g, "").trim();
  const match = UNIT_IN_NAME.exec(head);
  if (match) return { name: head, unit: match[2] as string };
  if (below && !MISSING.test(below)) return { name: head, unit: below };
  const last = head
    .split(/[_\s/,]+/)
    .at(-1)
    ?.trim();
  return { name: head, unit: last && last !== head && KNOWN_UNIT.test(last) ? last : null };
}

/**
 * Detects how a delimited text is written, from its content alone: encoding, line ends, delimiter, decimal sign, remarks,
 * header, units and where the numbers begin. Nothing is known of who wrote it.
 *
 * Shapes: the first bytes of the file, at best 64 kB or more; `whole` where they are all of it.
 * Errors: `bad-log` where the file is empty, binary, has a line without end, too many columns, or no numbers.
 * Source: common practice (the delimiter under which most rows are as wide as each other).
 */
export function detectShape(sample: Uint8Array, whole: boolean): Result<DetectedShape, LogProblem> {
  if (sample.length === 0) return refuse(0, "the file is empty");
  const encoding = detectEncoding(sample);
  const text = new TextDecoder(encoding).decode(sample);
  const strange = [...text.slice(0, 8192)].filter((letter) => (letter < " " && !"\t\r\n\f".includes(letter)) || letter === "\ufffd").length;
  if (strange > Math.min(8192, text.length) * 0.02) return refuse(0, "the file is binary, not text; export the log as text");
  const lineEnd = text.includes("\n") ? "\n" : text.includes("\r") ? "\r" : "\n";
  const lines = text.split(lineEnd === "\n" ? /\r?\n/ : "\r");
  if (lines.some((line) => line.length > LONGEST_LINE)) return refuse(1, `a line is longer than ${LONGEST_LINE} letters; is this a log of one row a sample?`);
  if (lines.length === 1 && !whole) return refuse(1, "the first line does not end within the first part of the file; is this a log of one row a sample?");
  if (!whole) lines.pop();
  if (lines[0]?.startsWith("\ufeff")) lines[0] = lines[0].slice(1);
  lines.length = Math.min(lines.length, MOST_LINES);

  const remarks = ["#", "//", "%"].find((mark) => lines.some((line) => line.startsWith(mark)));
  const content = joinQuoted(lines).filter(({ line }) => line.trim() !== "" && !(remarks && line.startsWith(remarks)));
  if (content.length === 0) return refuse(0, "the file has no line with content");
  // Preambles stand at the top: the later lines tell more of the rows.
  const judged = content.slice(Math.floor(content.length / 3)).map(({ line }) => line);
  let best = { delimiter: ",", width: 1, score: 0 } as Candidate;
  for (const delimiter of [",", ";", "\t", "|", " "] as const) {
    const candidate = judgeDelimiter(judged, delimiter);
    // Blanks part cells only where nothing else does: dates and names hold them too.
    if (candidate.score > best.score * (delimiter === " " ? 1.3 : 1.0001)) best = candidate;
  }
  // "16,7" under a header of one word is one number, not two columns.
  if (best.delimiter === "," && best.width === 2 && judged.every((line) => /^\s*\d+,\d+\s*$/.test(line))) {
    const head = content.find(({ line }) => !/^\s*\d/.test(line));
    if (!head?.line.includes(",")) best = { delimiter: ";", width: 1, score: best.score };
  }
  if (best.width > MOST_COLUMNS) return refuse(content[0]?.number ?? 1, `a row has ${best.width} columns; the limit is ${MOST_COLUMNS}`);

  const rows = content.map(({ line, number }) => ({ cells: splitCells(line, best.delimiter), number }));
  const fits = (cells: readonly string[]) => cells.length === best.width;
  const firstData = rows.findIndex(
    ({ cells }) => fits(cells) && cells.some(isNumeric) && cells.filter((cell) => isNumeric(cell) || MISSING.test(cell)).length >= cells.length * 0.4,
  );
  if (firstData < 0) return refuse(rows[0]?.number ?? 1, "no row of numbers was found; is this a log?");
  const data = rows.slice(firstData).filter(({ cells }) => fits(cells));
  const wordy = (row: { cells: string[] } | undefined) =>
    row !== undefined && fits(row.cells) && !row.cells.some((cell) => NUMBER.test(cell)) && row.cells.some((cell) => cell !== "");
  const above = [rows[firstData - 1], rows[firstData - 2]] as const;
  const unitsAbove =
    wordy(above[0]) && wordy(above[1]) && above[0]?.cells.every((cell) => MISSING.test(cell) || KNOWN_UNIT.test(cell.replace(/^[([]|[)\]]$/g, "").trim()));
  const header = unitsAbove ? above[1] : wordy(above[0]) ? above[0] : undefined;
  const units = unitsAbove ? above[0] : undefined;
  const headerLine = header?.number ?? 0;
  const columns = Array.from({ length: best.width }, (_, i) =>
    header ? columnOf(header.cells[i] ?? "", units?.cells[i]) : { name: `column ${i + 1}`, unit: null },
  );
  return ok({
    shape: {
      encoding,
      delimiter: best.delimiter,
      decimal: detectDecimal(
        data.map(({ cells }) => cells),
        best.delimiter,
      ),
      comment: remarks ?? null,
      lineEnd,
      headerLine,
      unitLine: units?.number ?? 0,
      firstDataLine: (rows[firstData] as { number: number }).number,
      columns,
    },
    rows: data.slice(0, 200).map(({ cells }) => cells),
    preamble: lines.slice(0, Math.max(0, (headerLine || (rows[firstData] as { number: number }).number) - 1)),
  });
}

/** Files with the same fingerprint are read by the same profile: columns, units and signs, whatever stands above the header. */
export function shapeFingerprint(shape: LogShape): string {
  return [shape.delimiter, shape.decimal, ...shape.columns.map(({ name, unit }) => `${name.trim().toLowerCase()}|${unit ?? ""}`)].join("\n");
}

/**
 * Finds the shape of a text among shapes already known, by its header line: thousands of logs of one tool are detected once.
 * Undefined where none fits; then the whole detection is asked. The lines before the header may be more or fewer.
 */
export function matchShape(sample: Uint8Array, known: readonly LogShape[]): LogShape | undefined {
  if (known.length === 0 || sample[0] === 0xff || sample[0] === 0xfe) return undefined;
  const text = new TextDecoder("windows-1252").decode(sample.subarray(0, 16_384)).replace(/^ï»¿/, "");
  for (const shape of known) {
    if (shape.headerLine === 0 || shape.encoding.startsWith("utf-16")) continue;
    const lines = text.split(shape.lineEnd === "\n" ? /\r?\n/ : "\r", 80);
    const names = shape.columns.map(({ name }) => new TextDecoder("windows-1252").decode(new TextEncoder().encode(name)));
    const plain = shape.columns.map(({ name }) => name);
    const at = lines.findIndex((line) => {
      const cells = splitCells(line, shape.delimiter);
      return cells.length === plain.length && (cells.every((cell, i) => cell === names[i]) || cells.every((cell, i) => cell === plain[i]));
    });
    if (at < 0) continue;
    const shift = at + 1 - shape.headerLine;
    const firstRow = splitCells(lines[shape.firstDataLine + shift - 1] ?? "", shape.delimiter);
    if (firstRow.length !== shape.columns.length || !firstRow.some(isNumeric)) continue;
    return shift === 0
      ? shape
      : { ...shape, headerLine: at + 1, unitLine: shape.unitLine > 0 ? shape.unitLine + shift : 0, firstDataLine: shape.firstDataLine + shift };
  }
  return undefined;
}
