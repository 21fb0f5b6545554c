import { fail, ok, type Result } from "@/core/result";

/** A table of numbers in columns. Gaps (empty cells, where allowed) are NaN. */
export interface NumericTable {
  columns: string[];
  values: Float64Array[];
  rows: number;
}

/** Why a numeric log could not be read, where, and what to do about it. */
export interface NumericTableProblem {
  kind: "bad-log";
  line: number;
  column: string | null;
  reason: string;
}

export interface NumericTableRules {
  /** Columns in which an empty cell means "not known" and becomes NaN; in all others it is a mistake. */
  mayBeEmpty: (column: string) => boolean;
}

const NEWLINE = 10;
const CARRIAGE_RETURN = 13;
const COMMA = 44;
const MINUS = 45;
const POINT = 46;
const ZERO = 48;
const NINE = 57;

const POWERS_OF_TEN = Array.from({ length: 23 }, (_, i) => 10 ** i);
const decoder = new TextDecoder("utf-8", { fatal: false });

/** Cell text for a message: short, and with what cannot be printed shown as a question mark. */
const shown = (bytes: Uint8Array) => {
  const printable = Array.from(decoder.decode(bytes.subarray(0, 24)), (letter) => {
    const code = letter.codePointAt(0) as number;
    return code < 32 || code === 127 ? "?" : letter;
  });
  return `"${printable.join("")}${bytes.length > 24 ? "…" : ""}"`;
};

/** The columns of the header line, or why they cannot be. */
function readHeader(bytes: Uint8Array): Result<{ columns: string[]; next: number }, NumericTableProblem> {
  const refuse = (reason: string, column: string | null = null) => fail<NumericTableProblem>({ kind: "bad-log", line: 1, column, reason });
  if (bytes.length === 0) return refuse("the file is empty; it needs a header line and one row a sample");
  if (bytes.subarray(0, 4096).includes(0)) {
    return refuse("the file is binary, not text; export it as plain UTF-8 CSV");
  }
  const start = bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf ? 3 : 0;
  const end = bytes.indexOf(NEWLINE, start);
  if (end < 0) return refuse("there is only one line and it does not end; the file looks cut off");
  if (end - start > 100_000) return refuse("the header line is longer than 100,000 bytes");
  const text = decoder.decode(bytes.subarray(start, bytes[end - 1] === CARRIAGE_RETURN ? end - 1 : end));
  const columns = text.split(",");
  if (columns.length === 1 && text.includes(";")) {
    return refuse("columns are separated by semicolons; this format uses commas, and a point for decimals");
  }
  const seen = new Set<string>();
  for (const column of columns) {
    if (!/^[a-z][a-z0-9_]*$/.test(column)) return refuse(`"${column.slice(0, 60)}" is not a column name of this format`, column);
    if (seen.has(column)) return refuse(`the column ${column} appears twice`, column);
    seen.add(column);
  }
  return ok({ columns, next: end + 1 });
}

/** A number from bytes[from, to) by the slow road (exponents, many digits), NaN if it is none. */
function slowNumber(bytes: Uint8Array, from: number, to: number): number {
  const text = decoder.decode(bytes.subarray(from, to));
  return /^-?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/.test(text) ? Number(text) : Number.NaN;
}

/** What is wrong with a cell that is not a number. */
function badCell(bytes: Uint8Array, from: number, to: number): string {
  if (from === to) return "the cell is empty; a sample needs a value";
  return `${shown(bytes.subarray(from, to))} is not a number (digits with a point, such as 16.667)`;
}

/**
 * Reads a CSV of numbers under one header line, at the speed of a byte scanner and with the line of the first mistake.
 *
 * Shapes: plain UTF-8, comma-separated, a point for decimals, LF or CRLF, every line ended, no quotes.
 * Errors: `bad-log` with line (1 = header), column and reason; nothing is skipped quietly.
 * Numbers of up to 15 digits are exact: whole digits divided by an exact power of ten round once, as IEEE 754 asks.
 */
export function parseNumericTable(bytes: Uint8Array, rules: NumericTableRules): Result<NumericTable, NumericTableProblem> {
  const header = readHeader(bytes);
  if (!header.ok) return header;
  const { columns, next } = header.value;
  const width = columns.length;
  const emptyAllowed = columns.map(rules.mayBeEmpty);
  const refuse = (line: number, column: string | null, reason: string) => fail<NumericTableProblem>({ kind: "bad-log", line, column, reason });

  if (bytes.length > next && bytes[bytes.length - 1] !== NEWLINE) {
    let line = 1;
    for (let i = 0; i < bytes.length; i += 1) if (bytes[i] === NEWLINE) line += 1;
    return refuse(line, null, "the last line does not end; the file looks cut off (if it is whole, add a line end)");
  }

  // Room for the shortest possible rows would be wasteful; grow by doubling instead.
  let capacity = Math.max(64, Math.ceil((bytes.length - next) / (width * 6)));
  let values = columns.map(() => new Float64Array(capacity));
  let rows = 0;
  let line = 1;
  let at = next;
  while (at < bytes.length) {
    line += 1;
    if (rows === capacity) {
      capacity *= 2;
      values = values.map((old) => {
        const larger = new Float64Array(capacity);
        larger.set(old);
        return larger;
      });
    }
    for (let column = 0; column < width; column += 1) {
      const from = at;
      let negative = false;
      if (bytes[at] === MINUS) {
        negative = true;
        at += 1;
      }
      let mantissa = 0;
      let digits = 0;
      let decimals = -1;
      for (;;) {
        const byte = bytes[at] as number;
        if (byte >= ZERO && byte <= NINE) {
          mantissa = mantissa * 10 + (byte - ZERO);
          digits += 1;
          if (decimals >= 0) decimals += 1;
          at += 1;
        } else if (byte === POINT && decimals < 0) {
          decimals = 0;
          at += 1;
        } else break;
      }
      let to = at;
      let value: number;
      const stop = bytes[at] as number;
      const cleanStop = stop === COMMA || stop === NEWLINE || (stop === CARRIAGE_RETURN && bytes[at + 1] === NEWLINE);
      if (cleanStop && digits > 0 && digits <= 15) {
        const magnitude = decimals > 0 ? mantissa / (POWERS_OF_TEN[decimals] as number) : mantissa;
        value = negative ? -magnitude : magnitude;
      } else {
        while (at < bytes.length && bytes[at] !== COMMA && bytes[at] !== NEWLINE) at += 1;
        to = bytes[at] === NEWLINE && bytes[at - 1] === CARRIAGE_RETURN ? at - 1 : at;
        if (to === from) {
          if (width === 1) return refuse(line, columns[0] as string, "the line is empty");
          if (!emptyAllowed[column]) return refuse(line, columns[column] as string, badCell(bytes, from, to));
          value = Number.NaN;
        } else {
          value = slowNumber(bytes, from, to);
          if (!Number.isFinite(value)) return refuse(line, columns[column] as string, badCell(bytes, from, to));
        }
      }
      if (bytes[at] === CARRIAGE_RETURN) at += 1;
      const last = column === width - 1;
      if (bytes[at] === COMMA) {
        if (last) {
          const comma = width === 1 ? "; a decimal comma? This format writes 16.7, not 16,7" : "";
          return refuse(line, columns[column] as string, `the row has more than ${width} ${width === 1 ? "cell" : "cells"}${comma}`);
        }
      } else if (!last) {
        return refuse(line, columns[column + 1] as string, `the row has ${column + 1} of ${width} cells`);
      }
      at += 1;
      (values[column] as Float64Array)[rows] = value;
    }
    rows += 1;
  }
  return ok({ columns, rows, values: values.map((column) => column.slice(0, rows)) });
}
