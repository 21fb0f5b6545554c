import { fail, ok, type Result } from "@/core/result";
import type { LogProblem, LogShape } from "./logShape";

/** A column to be read, in the order of the file. */
export interface WantedColumn {
  index: number;
  name: string;
  /** A clock is a time of day, maybe with its date; it becomes seconds. */
  clock: boolean;
  /** An empty cell or "n/a" is a gap (NaN) here; elsewhere it is a mistake. */
  mayBeMissing: boolean;
  /** Powers of ten by which the number is shifted on the way: 3 reads seconds as milliseconds, exactly. */
  shift: number;
}

/** The columns read, with what is needed to speak of their rows. */
export interface ReadColumns {
  /** A value a row; a sensor's (from `sensorsFrom` on) only for the rows named in `changed`. */
  values: Float64Array[];
  rows: number;
  /** The most decimals met in each column, after its shift. */
  decimals: number[];
  /** The first of the wanted columns that are sensors: those behind the last that may not be missing. */
  sensorsFrom: number;
  /** The rows, ascending and from the first, whose sensors do not simply repeat the text of the row before. */
  changed: Int32Array;
  lineOfRow: (row: number) => number;
}

const QUOTE = 34;
const PLUS = 43;
const MINUS = 45;
const ZERO = 48;
const BLANK = 32;
const RETURN = 13;
const LONGEST_LINE = 1_000_000;
const POWERS_OF_TEN = Array.from({ length: 23 }, (_, i) => 10 ** i);
const MISSING = /^(|-|--|n\/?a|nan|null|none|unknown)$/i;
const DAY_S = 86_400;

const textDecoder = new TextDecoder("utf-8");
const shown = (text: string) =>
  `"${[...text.slice(0, 24)].map((letter) => (letter < " " || letter === "\u007f" || letter === "\ufffd" ? "?" : letter)).join("")}${text.length > 24 ? "…" : ""}"`;

/** Seconds of a cell like 12:03:04.5, 2026-11-23T12:03:04.5Z or 23.11.2026 12:03:04,5; within its day where no ISO date stands in it. */
function clockSeconds(text: string): number {
  const match = /(\d{1,3}):(\d{2})(?::(\d{2})(?:[.,](\d+))?)?\s*([AaPp][Mm])?/.exec(text);
  if (!match) return Number.NaN;
  const [, hours, minutes, seconds = "0", fraction = "", half] = match;
  const hour = half ? (Number(hours) % 12) + (half.toLowerCase() === "pm" ? 12 : 0) : Number(hours);
  const date = /(\d{4})-(\d{2})-(\d{2})/.exec(text);
  // Days of the civil calendar (Hinnant's algorithm): no clock and no time zone is asked.
  const day = date ? civilDay(Number(date[1]), Number(date[2]), Number(date[3])) : 0;
  return day * DAY_S + hour * 3600 + Number(minutes) * 60 + Number(`${seconds}.${fraction || "0"}`);
}

function civilDay(year: number, month: number, day: number): number {
  const y = month <= 2 ? year - 1 : year;
  const era = Math.floor(y / 400);
  const yearOfEra = y - era * 400;
  const dayOfYear = Math.floor((153 * (month + (month > 2 ? -3 : 9)) + 2) / 5) + day - 1;
  return era * 146_097 + yearOfEra * 365 + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100) + dayOfYear - 719_468;
}

/**
 * Reads chosen columns of a delimited text as it comes in, in bounded memory: push the bytes in pieces of any size, then finish.
 *
 * Lines without quotes go down the fast path: bytes are scanned up to the last wanted cell, and the rest of the line is
 * skipped to its end. From the first quote of a piece on, its cells are parted carefully. Numbers of up to 15 digits are exact
 * (whole digits over or times an exact power of ten round once, IEEE 754); others take the slow road. Blank lines and remarks
 * are passed over, the line numbers of problems count them.
 *
 * Units:  the file's own, shifted by powers of ten as wanted; clocks in seconds.
 * Errors: `bad-log` with line (from 1), column and reason; nothing is skipped quietly.
 */
export class ColumnReader {
  private readonly newline: number;
  private readonly delimiter: number;
  private readonly decimal: number;
  private readonly comment: number;
  private readonly last: number;
  private readonly transcode: TextDecoder | null;
  private rest: Uint8Array = new Uint8Array(0);
  private line = 0;
  private rows = 0;
  private values: Float64Array[];
  private decimals: number[];
  /** The wanted columns from here on are sensors: they stand still from row to row far more often than they move. */
  private readonly sensorsFrom: number;
  private changed = new Int32Array(1024);
  private changes = 0;
  /** Rows before which lines were passed over: [row, line − row from there on]. */
  private offsets: [number, number][] = [];
  private problem: LogProblem | undefined;
  private bytesSeen = 0;

  constructor(
    private readonly shape: LogShape,
    private readonly wanted: readonly WantedColumn[],
  ) {
    this.newline = shape.lineEnd.charCodeAt(0);
    this.delimiter = shape.delimiter.charCodeAt(0);
    this.decimal = shape.decimal.charCodeAt(0);
    this.comment = shape.comment ? shape.comment.charCodeAt(0) : -1;
    this.last = wanted.at(-1)?.index ?? 0;
    this.values = wanted.map(() => new Float64Array(1024));
    this.sensorsFrom = wanted.findLastIndex(({ mayBeMissing }) => !mayBeMissing) + 1;
    this.decimals = wanted.map(() => 0);
    // One byte a letter is safe for the delimiters; only sixteen-bit text must be brought over.
    this.transcode = shape.encoding.startsWith("utf-16") ? new TextDecoder(shape.encoding) : null;
  }

  /** Takes the next bytes. Returns false once the log is known to be bad: there is no use in sending more. */
  push(piece: Uint8Array): boolean {
    if (this.problem) return false;
    const bytes = this.transcode ? new TextEncoder().encode(this.transcode.decode(piece, { stream: true })) : piece;
    this.bytesSeen += bytes.length;
    const end = bytes.lastIndexOf(this.newline);
    if (end < 0) {
      if (this.rest.length + bytes.length > LONGEST_LINE)
        return this.refuse(this.line + 1, null, "the line does not end within a million bytes; is this a log of one row a sample?");
      this.rest = joined(this.rest, bytes);
      return true;
    }
    if (this.rest.length === 0) return this.readLines(bytes, end + 1);
    // Only the first line of the piece belongs to what was left over; the rest is read where it lies.
    const first = bytes.indexOf(this.newline) + 1;
    const head = joined(this.rest, bytes.subarray(0, first));
    this.rest = new Uint8Array(0);
    if (!this.readLines(head, head.length)) return false;
    if (this.rest.length > 0) {
      // An open quote runs on over the line's end.
      const all = joined(this.rest, bytes.subarray(first));
      this.rest = new Uint8Array(0);
      return this.readLines(all, all.lastIndexOf(this.newline) + 1);
    }
    return this.readLines(bytes.subarray(first), end + 1 - first);
  }

  /** The columns, once all bytes are in. A last line without its end is read like the others if it is whole. */
  finish(): Result<ReadColumns, LogProblem> {
    this.readLastLine();
    if (!this.problem && this.bytesSeen === 0) this.refuse(0, null, "the file is empty");
    if (!this.problem && this.rows === 0) this.refuse(this.line, null, "there is no row of numbers below the header");
    if (this.problem) return fail(this.problem);
    const offsets = this.offsets;
    const lineOfRow = (row: number) => {
      let at = 0;
      while (at + 1 < offsets.length && (offsets[at + 1] as [number, number])[0] <= row) at += 1;
      return row + (offsets[at]?.[1] ?? 0);
    };
    return ok({
      values: this.values.map((column, w) => column.slice(0, w < this.sensorsFrom ? this.rows : this.changes)),
      rows: this.rows,
      decimals: this.decimals,
      sensorsFrom: this.sensorsFrom,
      changed: this.changed.subarray(0, this.changes),
      lineOfRow,
    });
  }

  /** What stands behind the last line end: a last line without its own, or what a cut-off file left. */
  private readLastLine(): void {
    if (this.problem || this.rest.length === 0) return;
    const closed = joined(this.rest, Uint8Array.of(this.newline));
    this.rest = new Uint8Array(0);
    const read = this.readLines(closed, closed.length);
    if (read && this.rest.length > 0) this.refuse(this.line + 1, null, "a quote is opened and not closed; the file looks cut off");
    const problem = this.problem as LogProblem | undefined;
    if (!read && problem) this.problem = { ...problem, reason: `${problem.reason}; it is the last line and has no end: the file looks cut off` };
  }

  private refuse(line: number, column: string | null, reason: string): false {
    this.problem = { kind: "bad-log", line, column, reason };
    return false;
  }

  /** Makes room for so many rows in the columns that have a value a row. */
  private growRows(rows: number): void {
    for (let w = 0; w < this.sensorsFrom; w += 1) this.values[w] = enlarged(this.values[w] as Float64Array, rows);
  }

  /** Makes room for so many changes of the sensors. */
  private growChanges(changes: number): void {
    for (let w = this.sensorsFrom; w < this.values.length; w += 1) this.values[w] = enlarged(this.values[w] as Float64Array, changes);
    const changed = new Int32Array(changes);
    changed.set(this.changed);
    this.changed = changed;
  }

  /** Where the values of the next row go: its own place, and for sensors that of the next change, which is opened here. */
  private openRow(row: number): number {
    if (this.changes === this.changed.length) this.growChanges(2 * this.changes);
    this.changed[this.changes] = row;
    this.changes += 1;
    return this.changes - 1;
  }

  /** Notes that the next row stands on `line`, where that is not simply one line on. */
  private noteLine(line: number): void {
    const offset = line - this.rows;
    if (this.offsets.at(-1)?.[1] !== offset) this.offsets.push([this.rows, offset]);
  }

  /** Reads bytes[0, end), which ends with a line end. */
  private readLines(bytes: Uint8Array, end: number): boolean {
    let at = 0;
    // What stands above the first row of numbers is passed over by count.
    while (at < end && this.line + 1 < this.shape.firstDataLine) {
      at = bytes.indexOf(this.newline, at) + 1;
      this.line += 1;
    }
    if (at >= end) {
      // Left over behind a quote that runs on.
      if (end < bytes.length) this.rest = joined(this.rest, bytes.subarray(end));
      return true;
    }
    const done = this.delimiter === BLANK ? this.readCarefully(bytes, at, end) : this.readFast(bytes, at, end);
    if (done < 0) return false;
    if (done < bytes.length) this.rest = bytes.slice(done);
    if (this.rest.length > LONGEST_LINE)
      return this.refuse(this.line + 1, null, "a quote is opened and not closed within a million bytes, or the line does not end");
    return true;
  }

  /** The fast path, up to the first quote; from its row on the careful one. Returns where it ended, −1 on a problem. */
  private readFast(bytes: Uint8Array, from: number, end: number): number {
    const { newline, delimiter, decimal, comment, wanted, last, decimals: most } = this;
    const count = wanted.length;
    const indexes = Int32Array.from(wanted, ({ index }) => index);
    const shifts = Int32Array.from(wanted, ({ shift }) => shift);
    const clocks = Uint8Array.from(wanted, ({ clock }) => (clock ? 1 : 0));
    const lastIsEnd = last === this.shape.columns.length - 1;
    // Room for as many rows as the first line tells of: growing means copying.
    const likely = this.rows + 64 + Math.ceil((1.1 * (end - from)) / Math.max(8, bytes.indexOf(newline, from) + 1 - from));
    let capacity = this.sensorsFrom > 0 ? (this.values[0] as Float64Array).length : Number.POSITIVE_INFINITY;
    if (capacity < likely) {
      capacity = likely;
      this.growRows(capacity);
    }
    const values = this.values;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    let at = from;
    let line = this.line;
    let row = this.rows;
    let offset = this.offsets.at(-1)?.[1] ?? -1;
    const sensorsFrom = this.sensorsFrom;
    // The sensors' text of the row before, its line end included.
    let tail = -1;
    let tailLength = 0;
    let change = this.changes - 1;
    while (at < end) {
      line += 1;
      let byte = bytes[at] as number;
      if (byte <= BLANK || byte === comment) {
        const stop = bytes.indexOf(newline, at);
        if (byte === comment || this.isBlank(bytes, at, stop)) {
          at = stop + 1;
          continue;
        }
      }
      if (row === capacity) {
        capacity *= 2;
        this.growRows(capacity);
      }
      if (line - row !== offset) {
        this.rows = row;
        this.noteLine(line);
        offset = line - row;
      }
      const startOfRow = at;
      const changesBefore = this.changes;
      let column = 0;
      let isStill = false;
      let sensors = -1;
      for (let w = 0; w < count; w += 1) {
        if (w === sensorsFrom) {
          // The rest of the line as a whole: where it reads like that of the row before, so do its numbers.
          if (tail >= 0 && at + tailLength <= end && sameBytes(view, tail, at, tailLength)) {
            isStill = true;
            break;
          }
          sensors = at;
          change = this.openRow(row);
        }
        const index = indexes[w] as number;
        byte = bytes[at] as number;
        while (column < index) {
          while (byte === BLANK) {
            at += 1;
            byte = bytes[at] as number;
          }
          if (byte === QUOTE) return this.goOnCarefully(bytes, startOfRow, end, { line, row, changes: changesBefore });
          while (byte !== delimiter && byte !== newline) {
            at += 1;
            byte = bytes[at] as number;
          }
          if (byte === newline) {
            this.refuse(line, (wanted[w] as WantedColumn).name, `the row has ${column + 1} of ${this.shape.columns.length} cells`);
            return -1;
          }
          at += 1;
          byte = bytes[at] as number;
          column += 1;
        }
        while (byte === BLANK) {
          at += 1;
          byte = bytes[at] as number;
        }
        const start = at;
        const negative = byte === MINUS;
        if (negative || byte === PLUS) {
          at += 1;
          byte = bytes[at] as number;
        }
        // Whole numbers of up to nine digits, wrapping beyond: those are taken up again below.
        const firstDigit = at;
        let mantissa = 0;
        let digit = byte - ZERO;
        while (digit >= 0 && digit <= 9) {
          mantissa = (Math.imul(mantissa, 10) + digit) | 0;
          at += 1;
          byte = bytes[at] as number;
          digit = byte - ZERO;
        }
        let digits = at - firstDigit;
        let places = -(shifts[w] as number);
        if (byte === decimal) {
          at += 1;
          const firstDecimal = at;
          byte = bytes[at] as number;
          digit = byte - ZERO;
          while (digit >= 0 && digit <= 9) {
            mantissa = (Math.imul(mantissa, 10) + digit) | 0;
            at += 1;
            byte = bytes[at] as number;
            digit = byte - ZERO;
          }
          digits += at - firstDecimal;
          places += at - firstDecimal;
        }
        if (digits > 0 && digits <= 15 && (byte === delimiter || byte === newline || byte === RETURN) && clocks[w] === 0) {
          const whole = digits <= 9 ? mantissa : longMantissa(bytes, firstDigit, at);
          const magnitude = places > 0 ? whole / (POWERS_OF_TEN[places] as number) : places < 0 ? whole * (POWERS_OF_TEN[-places] as number) : whole;
          (values[w] as Float64Array)[w < sensorsFrom ? row : change] = negative ? -magnitude : magnitude;
          if (places > (most[w] as number)) most[w] = places;
        } else {
          if (bytes[start] === QUOTE) return this.goOnCarefully(bytes, startOfRow, end, { line, row, changes: changesBefore });
          while (byte !== delimiter && byte !== newline) {
            at += 1;
            byte = bytes[at] as number;
          }
          this.rows = row;
          if (!this.slowCell(bytes.subarray(start, at), w, line)) return -1;
        }
      }
      if (isStill) {
        tail = at;
        at += tailLength;
        row += 1;
        continue;
      }
      if (byte === newline) {
        if (!lastIsEnd) {
          this.refuse(line, (wanted[count - 1] as WantedColumn).name, `the row has ${last + 1} of ${this.shape.columns.length} cells`);
          return -1;
        }
      } else {
        at = endOfLine(bytes, view, at, newline);
        if (bytes[at] === QUOTE) return this.goOnCarefully(bytes, startOfRow, end, { line, row, changes: changesBefore });
      }
      at += 1;
      row += 1;
      tail = sensors;
      tailLength = at - sensors;
    }
    this.line = line;
    this.rows = row;
    return at;
  }

  private isBlank(bytes: Uint8Array, from: number, to: number): boolean {
    for (let i = from; i < to; i += 1) if ((bytes[i] as number) > BLANK) return false;
    return true;
  }

  /** Leaves the fast path at the start of a row that it must not have begun. */
  private goOnCarefully(bytes: Uint8Array, from: number, end: number, before: { line: number; row: number; changes: number }): number {
    this.line = before.line - 1;
    this.rows = before.row;
    this.changes = before.changes;
    return this.readCarefully(bytes, from, end);
  }

  /** Cells in quotes, line ends within them, blanks in a row: parted one by one. Returns where it ended, −1 on a problem. */
  private readCarefully(bytes: Uint8Array, from: number, end: number): number {
    const { newline, delimiter, wanted } = this;
    const width = this.shape.columns.length;
    let at = from;
    while (at < end) {
      const startOfRow = at;
      const line = this.line + 1;
      let linesInRow = 1;
      const stop = bytes.indexOf(newline, at);
      if (bytes[at] === this.comment || this.isBlank(bytes, at, stop)) {
        at = stop + 1;
        this.line = line;
        continue;
      }
      const row = this.rows;
      const changesBefore = this.changes;
      if (this.sensorsFrom > 0 && row === this.values[0]?.length) this.growRows(2 * row);
      let w = 0;
      let column = 0;
      for (;;) {
        while (bytes[at] === BLANK) at += 1;
        let start = at;
        let to: number;
        if (bytes[at] === QUOTE) {
          start = at + 1;
          at = start;
          for (;;) {
            const next = bytes.indexOf(QUOTE, at);
            // The quote may close in the next piece: this row waits for it.
            if (next < 0 || next >= end) {
              this.changes = changesBefore;
              return startOfRow;
            }
            if (bytes[next + 1] === QUOTE) at = next + 2;
            else {
              to = next;
              at = next + 1;
              break;
            }
          }
          for (let i = bytes.indexOf(newline, start); i >= 0 && i < to; i = bytes.indexOf(newline, i + 1)) linesInRow += 1;
          while (bytes[at] !== delimiter && bytes[at] !== newline) at += 1;
        } else {
          while (bytes[at] !== delimiter && bytes[at] !== newline) at += 1;
          to = at;
        }
        while (to > start && (bytes[to - 1] as number) <= BLANK) to -= 1;
        if (w < wanted.length && (wanted[w] as WantedColumn).index === column) {
          if (w === 0) this.noteLine(line);
          if (w === this.sensorsFrom) this.openRow(row);
          if (!this.slowCell(bytes.subarray(start, to), w, line)) return -1;
          w += 1;
        }
        column += 1;
        if (delimiter === BLANK) while (bytes[at] === BLANK && (bytes[at + 1] === BLANK || bytes[at + 1] === newline || bytes[at + 1] === RETURN)) at += 1;
        if (bytes[at] === RETURN && bytes[at + 1] === newline) at += 1;
        if (bytes[at] === newline) break;
        at += 1;
      }
      at += 1;
      this.line = line + linesInRow - 1;
      if (column !== width) {
        this.refuse(line, null, `the row has ${column} of ${width} cells`);
        return -1;
      }
      this.rows = row + 1;
    }
    return at;
  }

  /** A cell that is no plain short number: exponents, many digits, clocks, gaps, and mistakes. */
  private slowCell(cell: Uint8Array, w: number, line: number): boolean {
    const want = this.wanted[w] as WantedColumn;
    const text = textDecoder.decode(cell).trim();
    const column = this.values[w] as Float64Array;
    const place = w < this.sensorsFrom ? this.rows : this.changes - 1;
    if (MISSING.test(text)) {
      column[place] = Number.NaN;
      return (
        want.mayBeMissing ||
        this.refuse(line, want.name, text === "" ? "the cell is empty; a sample needs a value" : `${shown(text)} is no value; a sample needs one`)
      );
    }
    if (want.clock) {
      const seconds = clockSeconds(text);
      if (!Number.isFinite(seconds)) return this.refuse(line, want.name, `${shown(text)} is no time of day, such as 12:03:04.5`);
      const before = place > 0 ? (column[place - 1] as number) : seconds;
      // Past midnight without a date: the day goes on.
      column[place] = seconds < before - DAY_S / 2 ? seconds + DAY_S * Math.ceil((before - seconds - DAY_S / 2) / DAY_S) : seconds;
      this.decimals[w] = Math.max(this.decimals[w] as number, /[.,](\d+)/.exec(text)?.[1]?.length ?? 0);
      return true;
    }
    const plain = this.shape.decimal === "," ? text.replace(",", ".") : text;
    if (!/^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/.test(plain)) {
      const other = this.shape.decimal === "." && /^\d+,\d+$/.test(text) ? "; is the comma its decimal sign?" : "";
      return this.refuse(line, want.name, `${shown(text)} is not a number${other}`);
    }
    const exponent = Number(/[eE]([+-]?\d+)$/.exec(plain)?.[1] ?? 0);
    const value = Number(`${plain.replace(/[eE].*$/, "")}e${exponent + want.shift}`);
    if (!Number.isFinite(value)) return this.refuse(line, want.name, `${shown(text)} is too large a number`);
    column[place] = value;
    const places = (/\.(\d*)/.exec(plain)?.[1]?.length ?? 0) - exponent - want.shift;
    if (places > (this.decimals[w] as number)) this.decimals[w] = places;
    return true;
  }
}

/** Ten to fifteen digits as one whole number: a double holds them exactly. */
function longMantissa(bytes: Uint8Array, from: number, to: number): number {
  let whole = 0;
  for (let i = from; i < to; i += 1) {
    const digit = (bytes[i] as number) - ZERO;
    if (digit >= 0 && digit <= 9) whole = whole * 10 + digit;
  }
  return whole;
}

function enlarged(old: Float64Array, length: number): Float64Array {
  const larger = new Float64Array(length);
  larger.set(old);
  return larger;
}

/** Whether `length` bytes from `a` are those from `b`: four at a time, the last four once more. */
function sameBytes(view: DataView, a: number, b: number, length: number): boolean {
  if (length < 4) {
    for (let i = 0; i < length; i += 1) if (view.getUint8(a + i) !== view.getUint8(b + i)) return false;
    return true;
  }
  const last = length - 4;
  // A change sits more often at the front or the back than in the middle, and the line's end is at the back.
  if (view.getInt32(a + last, true) !== view.getInt32(b + last, true)) return false;
  for (let i = 0; i < last; i += 4) if (view.getInt32(a + i, true) !== view.getInt32(b + i, true)) return false;
  return true;
}

/**
 * The first line end or quote from `at` on, of which there must be one: four bytes at a time (a word has a zero byte: Warren,
 * Hacker's Delight, section 6-1).
 */
function endOfLine(bytes: Uint8Array, view: DataView, at: number, newline: number): number {
  const ends = newline * 0x0101_0101;
  const quotes = QUOTE * 0x0101_0101;
  let i = at;
  for (const last = bytes.length - 4; i <= last; i += 4) {
    const word = view.getInt32(i, true);
    const a = word ^ ends;
    const b = word ^ quotes;
    if ((((a - 0x0101_0101) & ~a) | ((b - 0x0101_0101) & ~b)) & 0x8080_8080) break;
  }
  while (bytes[i] !== newline && bytes[i] !== QUOTE) i += 1;
  return i;
}

function joined(a: Uint8Array, b: Uint8Array): Uint8Array {
  const both = new Uint8Array(a.length + b.length);
  both.set(a);
  both.set(b, a.length);
  return both;
}
