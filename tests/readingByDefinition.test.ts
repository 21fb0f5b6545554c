// Units, cells and shapes of logs by their definitions and against csv-parse.
import { parse } from "csv-parse/sync";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { detectShape, judgeUses, matchShape, proposeUses, SENSOR_UNITS, shapeFingerprint, splitCells, storedChannel, takeInLog } from "@/core/intake";

const bytes = (text: string) => new TextEncoder().encode(text);

describe("the cells of a line", () => {
  const cell = fc.string({ unit: fc.constantFrom("a", "7", ".", " ", '"', ",", ";", "é", "-"), maxLength: 8 });

  it("are those that csv-parse finds, quotes and quoted delimiters included (seed 81)", () => {
    fc.assert(
      fc.property(fc.array(cell, { minLength: 1, maxLength: 7 }), fc.constantFrom(",", ";", "\t", "|"), (cells, delimiter) => {
        // Written by the rules of RFC 4180: quotes where the cell needs them.
        const line = cells.map((one) => (/["\n]/.test(one) || one.includes(delimiter) ? `"${one.replaceAll('"', '""')}"` : one)).join(delimiter);
        if (line.trim() === "") return;
        const [theirs] = parse(line, { delimiter, relax_column_count: true }) as string[][];
        expect(splitCells(line, delimiter as "," | ";" | "\t" | "|")).toEqual((theirs as string[]).map((one) => one.trim()));
      }),
      { seed: 81, numRuns: 600 },
    );
  });

  it("are parted once by blanks in a row, where blanks part them", () => {
    expect(splitCells("  1.5   22  x ", " ")).toEqual(["1.5", "22", "x"]);
  });
});

describe("the units of sensors", () => {
  const stored = (unit: keyof typeof SENSOR_UNITS, x: number) => SENSOR_UNITS[unit].convert(x);

  it("convert by their definitions: Fahrenheit by two fixed points, bytes by powers of two and ten (IEC 80000-13)", () => {
    expect([stored("°F", 32), stored("°F", 212), stored("°F", -40)]).toEqual([0, 100, -40]);
    expect(stored("GiB", 12)).toBe(12);
    expect(stored("MiB", 1024)).toBe(1);
    expect(stored("GB", 1.073741824)).toBeCloseTo(1, 12);
    expect(stored("MB", 1073.741824)).toBeCloseTo(1, 12);
    expect([stored("MHz", 2610), stored("GHz", 2.61)]).toEqual([2.61, 2.61]);
    expect([stored("mW", 214_000), stored("W", 214)]).toEqual([214, 214]);
    expect([stored("%", 98), stored("ratio", 0.98)]).toEqual([0.98, 0.98]);
  });

  it("are stored in one unit a quantity, so that logs of two tools can be laid over each other", () => {
    for (const [a, b] of [
      ["°F", "°C"],
      ["MHz", "GHz"],
      ["mW", "W"],
      ["%", "ratio"],
      ["MiB", "GiB"],
      ["GB", "GiB"],
      ["MB", "GiB"],
    ] as const)
      expect(storedChannel({ use: "channel", channel: "x", unit: a })).toBe(storedChannel({ use: "channel", channel: "x", unit: b }));
  });

  it("give the same log in Fahrenheit, MHz and per cent as in Celsius, GHz and shares, to six decimals", () => {
    const rows = Array.from({ length: 30 }, (_, i) => ({ t: i * 0.5, c: 60 + (i % 7), ghz: 2.5 + (i % 5) / 100, load: 0.9 + (i % 3) / 100 }));
    const take = (text: string) => {
      const shape = detectShape(bytes(text), true);
      if (!shape.ok) throw new Error(shape.problem.reason);
      const taken = takeInLog(bytes(text), shape.value.shape, proposeUses(shape.value.shape, shape.value.rows));
      if (!taken.ok) throw new Error(taken.problem.reason);
      return taken.value.sensors?.channels.map(({ name, values }) => [name, ...values]);
    };
    const one = take(
      `time (s),card temperature (°C),card clock (GHz),card load (ratio)\n${rows.map(({ t, c, ghz, load }) => [t, c, ghz.toFixed(2), load.toFixed(2)].join(",")).join("\n")}\n`,
    );
    const two = take(
      `time (ms);card temperature (°F);card clock (MHz);card load (%)\n${rows.map(({ t, c, ghz, load }) => [t * 1000, (c * 1.8 + 32).toFixed(4), (ghz * 1000).toFixed(0), (load * 100).toFixed(0)].join(";")).join("\n")}\n`,
    );
    expect(two).toEqual(one);
  });
});

describe("what the columns of a log may be together", () => {
  const frames = { use: "frame-time", unit: "ms" } as const;
  const time = { use: "time", unit: "s" } as const;
  const watts = { use: "channel", channel: "gpu", unit: "W" } as const;

  it("is frames, sensors or both", () => {
    expect(judgeUses([frames])).toEqual({ ok: true, value: "frames" });
    expect(judgeUses([time, watts])).toEqual({ ok: true, value: "sensors" });
    expect(judgeUses([frames, watts])).toEqual({ ok: true, value: "both" });
    expect(judgeUses([{ use: "fps" }, { use: "ignore" }])).toEqual({ ok: true, value: "frames" });
  });

  it("is refused with a sentence where it makes no log", () => {
    const reason = (...uses: Parameters<typeof judgeUses>[0]) => {
      const judged = judgeUses(uses);
      return judged.ok ? undefined : judged.problem.reason;
    };
    expect(reason()).toContain("no column gives frames or a sensor");
    expect(reason(watts)).toContain("needs a column with the time of each row");
    expect(reason(frames, { use: "fps" })).toContain("more than one column gives the frames");
    expect(reason(frames, time, time)).toContain("more than one column gives the time");
    expect(reason(frames, watts, { ...watts, unit: "mW" })).toContain("two columns are read as gpu_w");
  });
});

describe("the shape of a log", () => {
  const head = "Elapsed (s),Frame time (ms),Card power (W)";
  const body = Array.from({ length: 40 }, (_, i) => `${(i * 0.01).toFixed(2)},${(10 + (i % 4) / 10).toFixed(1)},${200 + (i % 9)}`).join("\n");

  it("is known again with more or fewer lines above its header, and not where a column has another name", () => {
    const shape = detectShape(bytes(`${head}\n${body}\n`), true);
    if (!shape.ok) throw new Error(shape.problem.reason);
    const known = [shape.value.shape];
    expect(matchShape(bytes(`${head}\n${body}\n`), known)).toEqual(known[0]);
    expect(matchShape(bytes(`made on a Tuesday\n\n${head}\n${body}\n`), known)).toMatchObject({ headerLine: 3, firstDataLine: 4 });
    expect(matchShape(bytes(`${head.replace("Card", "CPU")}\n${body}\n`), known)).toBeUndefined();
    expect(matchShape(bytes(`${head}\nno numbers here at all\n`), known)).toBeUndefined();
    expect(matchShape(bytes(body), known)).toBeUndefined();
  });

  it("has one fingerprint whatever stands above the header, and another for other columns or signs", () => {
    const of = (text: string) => {
      const shape = detectShape(bytes(text), true);
      return shape.ok ? shapeFingerprint(shape.value.shape) : shape.problem.reason;
    };
    expect(of(`# note\n${head}\n${body}\n`)).toBe(of(`${head}\n${body}\n`));
    expect(of(`${head},Card clock (MHz)\n${body.replaceAll("\n", ",2500\n")},2500\n`)).not.toBe(of(`${head}\n${body}\n`));
    expect(of(`${head}\n${body}\n`.replaceAll(",", ";"))).not.toBe(of(`${head}\n${body}\n`));
  });

  it("is found under every delimiter and decimal sign, with the same numbers", () => {
    const numbers = (text: string) => {
      const shape = detectShape(bytes(text), true);
      if (!shape.ok) throw new Error(`${shape.problem.reason}\n${text.slice(0, 80)}`);
      const taken = takeInLog(bytes(text), shape.value.shape, proposeUses(shape.value.shape, shape.value.rows));
      if (!taken.ok) throw new Error(taken.problem.reason);
      return Array.from(taken.value.frameTimesMs ?? []);
    };
    const plain = numbers(`${head}\n${body}\n`);
    expect(plain).toHaveLength(40);
    for (const delimiter of [";", "\t", "|"]) {
      const text = `${head}\n${body}\n`.replaceAll(",", delimiter);
      expect(numbers(text), delimiter).toEqual(plain);
      expect(numbers(text.replaceAll(".", ",")), `${delimiter} with decimal commas`).toEqual(plain);
      expect(numbers(text.replaceAll("\n", "\r\n")), `${delimiter} with CRLF`).toEqual(plain);
    }
  });
});
