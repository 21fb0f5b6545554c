// The fast reader against csv-parse (a general CSV library, RFC 4180) and plain Number(): what both read must be the same.
import { parse } from "csv-parse/sync";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type ColumnUse, detectShape, judgeUses, LogIntake, proposeUses, type TakenLog, takeInLog } from "@/core/intake";
import { energyOverWindow } from "@/core/power";
import { createRandom, type Random } from "@/core/random";

interface Made {
  text: string;
  delimiter: string;
  /** Columns in the order of the file. */
  columns: string[];
}

const pick = <T>(random: Random, from: readonly T[]) => from[Math.floor(random.next() * from.length)] as T;

/** A log as a recorder with sensors might write it: now and then quoted, with blank lines, gaps, repeats, and a text column. */
function makeLog(random: Random): Made {
  const delimiter = pick(random, [",", ";", "\t", "|"]);
  const lineEnd = pick(random, ["\n", "\r\n"]);
  const columns = pick(random, [
    ["Time (s)", "Frame time (ms)", "GPU power (W)", "Note", "CPU load (%)"],
    ["Frame time (ms)", "GPU power (W)", "CPU load (%)"],
    ["GPU temperature (°C)", "Time (s)", "Frame time (ms)", "Note", "GPU power (W)"],
    ["Note", "Frame time (ms)", "Note 2", "GPU power (W)", "Note 3"],
  ]);
  const note = () => pick(random, ["ok", "", "a b", '"a"', '"half, and half"', '"says ""no"""', '"two\nlines"', "it's"]);
  const sensor = (name: string) =>
    name.includes("power")
      ? (200 + Math.floor(random.next() * 3) / 2).toFixed(1)
      : random.next() < 0.15
        ? pick(random, ["", "n/a"])
        : `${40 + Math.floor(random.next() * 3)}`;
  let held = new Map(columns.map((name) => [name, name.startsWith("Note") ? note() : sensor(name)]));
  let elapsed = 0;
  const lines = [columns.join(delimiter)];
  const rows = 4 + Math.floor(random.next() * 60);
  for (let i = 0; i < rows; i += 1) {
    if (random.next() < 0.3) held = new Map(columns.map((name) => [name, name.startsWith("Note") ? note() : sensor(name)]));
    const frame = 5 + 4 * random.next();
    lines.push(
      columns
        .map((name) => (name === "Time (s)" ? elapsed.toFixed(4) : name === "Frame time (ms)" ? frame.toFixed(4) : (held.get(name) as string)))
        .join(delimiter),
    );
    if (random.next() < 0.03) lines.push("");
    elapsed += frame / 1000;
  }
  return { text: lines.join(lineEnd) + (random.next() < 0.8 ? lineEnd : ""), delimiter, columns };
}

/** The cells of a column by the library. */
function cellsOf({ text, delimiter, columns }: Made, name: string): string[] {
  const records = parse(text, { delimiter, skip_empty_lines: true, relax_quotes: true }) as string[][];
  return records.slice(1).map((cells) => (cells[columns.indexOf(name)] as string).trim());
}

const numberOf = (cell: string) => (cell === "" || cell === "n/a" ? Number.NaN : Number(cell));

/** Reads in pieces cut anywhere. */
function takeInPieces(bytes: Uint8Array, uses: readonly ColumnUse[], shape: Parameters<typeof takeInLog>[1], sizes: () => number) {
  const intake = new LogIntake(shape, uses);
  for (let at = 0; at < bytes.length; ) {
    const size = sizes();
    if (!intake.push(bytes.slice(at, at + size))) break;
    at += size;
  }
  return intake.finish();
}

function plainly(log: TakenLog): string {
  return JSON.stringify(log, (_, value) => (value instanceof Float64Array ? Array.from(value, String) : value));
}

describe("the fast reader of logs", () => {
  it("reads the frames that csv-parse reads, and no sensor's change is lost, over 1,500 seeded logs", () => {
    let read = 0;
    let quoted = 0;
    for (let seed = 1; seed <= 1500; seed += 1) {
      const made = makeLog(createRandom(seed));
      const bytes = new TextEncoder().encode(made.text);
      const detected = detectShape(bytes, true);
      if (!detected.ok || detected.value.shape.delimiter !== made.delimiter || detected.value.shape.columns.length !== made.columns.length) continue;
      const { shape } = detected.value;
      const uses = proposeUses(shape, detected.value.rows);
      if (!judgeUses(uses).ok || uses[made.columns.indexOf("Frame time (ms)")]?.use !== "frame-time") continue;
      const taken = takeInLog(bytes, shape, uses);
      if (!taken.ok) throw new Error(`seed ${seed}: ${JSON.stringify(taken.problem)}\n${made.text}`);
      read += 1;
      if (made.text.includes('"')) quoted += 1;
      expect(Array.from(taken.value.frameTimesMs as Float64Array), `seed ${seed}`).toEqual(cellsOf(made, "Frame time (ms)").map(Number));
      const power = made.columns.indexOf("GPU power (W)");
      if (uses[power]?.use !== "channel" || !taken.value.sensors) continue;
      const { timeS, channels } = taken.value.sensors;
      const kept = channels.find(({ name }) => name === "gpu_w")?.values as Float64Array;
      // What the log read at any frame is what the kept rows hold there: a step function through them gives every cell back.
      const cells = cellsOf(made, "GPU power (W)").map(numberOf);
      const stamps = made.columns.includes("Time (s)") ? cellsOf(made, "Time (s)").map(Number) : startsOf(taken.value.frameTimesMs as Float64Array);
      let at = 0;
      const held = stamps.map((stamp) => {
        while (at + 1 < timeS.length && (timeS[at + 1] as number) <= stamp - (stamps[0] as number) + 1e-9) at += 1;
        return kept[at] as number;
      });
      expect(held, `seed ${seed}`).toEqual(cells);
    }
    expect(read).toBeGreaterThan(1450);
    expect(quoted).toBeGreaterThan(900);
  });

  it("reads the same whatever the pieces are that a log comes in (seed 31)", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1_000_000 }), fc.integer({ min: 1, max: 97 }), (seed, longest) => {
        const made = makeLog(createRandom(seed));
        const bytes = new TextEncoder().encode(made.text);
        const detected = detectShape(bytes, true);
        if (!detected.ok) return;
        const uses = proposeUses(detected.value.shape, detected.value.rows);
        if (!judgeUses(uses).ok) return;
        const whole = takeInLog(bytes, detected.value.shape, uses);
        const random = createRandom(seed + 1);
        const parts = takeInPieces(bytes, uses, detected.value.shape, () => 1 + Math.floor(random.next() * longest));
        expect(parts.ok).toBe(whole.ok);
        if (whole.ok && parts.ok) expect(plainly(parts.value)).toBe(plainly(whole.value));
        else if (!whole.ok && !parts.ok) expect(parts.problem).toEqual(whole.problem);
      }),
      { seed: 31, numRuns: 600 },
    );
  });

  it("keeps a sensor that stands left of the frames as well as one to their right", () => {
    const rows = Array.from({ length: 40 }, (_, i) => `${60 + Math.floor(i / 10)},${(i * 0.01).toFixed(2)},10.5,200`);
    const { taken } = readText(`card temperature (°C),time (s),frame time (ms),card power (W)\n${rows.join("\n")}\n`);
    expect(Array.from(taken.sensors?.timeS ?? [])).toEqual([0, 0.1, 0.2, 0.3, 0.39]);
    expect(taken.sensors?.channels.map(({ name, values }) => [name, ...values])).toEqual([
      ["gpu_c", 60, 61, 62, 63, 63],
      ["gpu_w", 200, 200, 200, 200, 200],
    ]);
  });

  it("does not take a clock that happens to rise for the time of the rows", () => {
    const rows = Array.from({ length: 12 }, (_, i) => `16.${60 + (i % 5)},${4000 + 5 * i}`);
    const { uses } = readText(`frame time (ms),CPU clock (MHz)\n${rows.join("\n")}\n`);
    expect(uses).toEqual([
      { use: "frame-time", unit: "ms" },
      { use: "channel", channel: "cpu", unit: "MHz" },
    ]);
  });

  it("hears of a steady sensor once a second, so that its energy is known though nothing changes", () => {
    const rows = Array.from({ length: 1000 }, (_, i) => `${(i * 0.01).toFixed(2)},10,180`);
    const { taken } = readText(`time (s),frame time (ms),card power (W)\n${rows.join("\n")}\n`);
    const sensors = taken.sensors;
    if (!sensors) throw new Error("no sensors");
    expect(Array.from(sensors.timeS)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 9.99]);
    // 180 W over 9.99 s, by hand: 1,798.2 J.
    expect(energyOverWindow(sensors.timeS, sensors.channels[0]?.values as Float64Array, 0, 9.99)).toMatchObject({
      ok: true,
      value: { joules: 1798.2, meanW: 180 },
    });
  });

  it("goes on line by line behind the first quote, and names the line of what is wrong there", () => {
    const problem = problemOf('frame time (ms),note\n10,a\n10,"b ""c"" d"\n10,"two\nlines"\nten,e\n10,f\n');
    expect(problem).toMatchObject({ line: 6, column: "frame time (ms)", reason: '"ten" is not a number' });
    expect(problemOf('frame time (ms),note\n10,a\n10,"b"\n10,"never closed\n10,c\n')?.reason).toContain("a quote is opened and not closed");
    expect(problemOf('frame time (ms),note\n10,a\n10,"b"\n10\n10,c\n')).toMatchObject({ line: 4, reason: "the row has 1 of 2 cells" });
  });
});

const startsOf = (frames: Float64Array) => {
  let at = 0;
  return Array.from(frames, (frame) => {
    const start = at;
    at += frame / 1000;
    return start;
  });
};

function readText(text: string): { uses: ColumnUse[]; taken: TakenLog } {
  const bytes = new TextEncoder().encode(text);
  const detected = detectShape(bytes, true);
  if (!detected.ok) throw new Error(detected.problem.reason);
  const uses = proposeUses(detected.value.shape, detected.value.rows);
  const taken = takeInLog(bytes, detected.value.shape, uses);
  if (!taken.ok) throw new Error(JSON.stringify(taken.problem));
  return { uses, taken: taken.value };
}

function problemOf(text: string) {
  const bytes = new TextEncoder().encode(text);
  const detected = detectShape(bytes, true);
  if (!detected.ok) return detected.problem;
  const taken = takeInLog(bytes, detected.value.shape, proposeUses(detected.value.shape, detected.value.rows));
  return taken.ok ? undefined : taken.problem;
}
