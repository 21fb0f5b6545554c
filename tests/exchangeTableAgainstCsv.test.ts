// The exchange format's table of numbers against csv-parse and Number(), and its refusals by line and column.
import { parse } from "csv-parse/sync";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { parseNumericTable } from "@/core/capture/parseNumericTable";

const encoder = new TextEncoder();
const read = (text: string, mayBeEmpty: (column: string) => boolean = () => false) => parseNumericTable(encoder.encode(text), { mayBeEmpty });
const problemOf = (text: string, mayBeEmpty?: (column: string) => boolean) => {
  const table = read(text, mayBeEmpty);
  return table.ok ? undefined : table.problem;
};

/** Numbers as instruments, spreadsheets and programs write them. */
const written = fc.oneof(
  fc.integer({ min: -1_000_000_000, max: 1_000_000_000 }).map(String),
  fc.tuple(fc.integer({ min: 0, max: 99_999 }), fc.integer({ min: 0, max: 999_999 }), fc.boolean()).map(([a, b, minus]) => `${minus ? "-" : ""}${a}.${b}`),
  fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e12, max: 1e12 }).map((x) => String(x)),
  fc.double({ noNaN: true, noDefaultInfinity: true, min: 1e-9, max: 1e9 }).map((x) => x.toExponential()),
  fc.constantFrom(".5", "-.25", "7.", "0", "-0", "000123.4500", "123456789012345678"),
);

describe("a table of numbers", () => {
  it("is what csv-parse and Number make of it, bit for bit, under either line end (seed 71)", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 6 }),
        fc.array(fc.array(written, { minLength: 6, maxLength: 6 }), { minLength: 1, maxLength: 30 }),
        fc.boolean(),
        (width, rows, crlf) => {
          const columns = ["t_s", "gpu_w", "gpu_c", "cpu_ghz", "fan1_rpm", "wall_w"].slice(0, width);
          const end = crlf ? "\r\n" : "\n";
          const text = `${[columns.join(","), ...rows.map((row) => row.slice(0, width).join(","))].join(end)}${end}`;
          const table = read(text);
          if (!table.ok) throw new Error(`${JSON.stringify(table.problem)}\n${text}`);
          const records = parse(text, { columns: true }) as Record<string, string>[];
          expect(table.value.rows).toBe(records.length);
          for (const [c, column] of columns.entries())
            expect(Array.from(table.value.values[c] as Float64Array).every((value, r) => Object.is(value, Number(records[r]?.[column])))).toBe(true);
        },
      ),
      { seed: 71, numRuns: 400 },
    );
  });

  it("keeps gaps as gaps where they may be, and refuses them where they may not, by line and column", () => {
    const text = "t_s,gpu_w\n0,100\n0.5,\n1,101\n";
    const table = read(text, (column) => column !== "t_s");
    expect(table.ok && Array.from(table.value.values[1] as Float64Array)).toEqual([100, Number.NaN, 101]);
    expect(problemOf(text)).toMatchObject({ line: 3, column: "gpu_w", reason: "the cell is empty; a sample needs a value" });
    expect(problemOf("t_s,gpu_w\n0,100\n,101\n", (column) => column !== "t_s")).toMatchObject({ line: 3, column: "t_s" });
  });

  it("names what is wrong with a header", () => {
    expect(problemOf("")).toMatchObject({ line: 1, reason: expect.stringContaining("the file is empty") });
    expect(problemOf("t_s,T_S\n1,2\n")).toMatchObject({ reason: '"T_S" is not a column name of this format' });
    expect(problemOf("t_s,t_s\n1,2\n")).toMatchObject({ reason: "the column t_s appears twice" });
    expect(problemOf("t_s;gpu_w\n1;2\n")).toMatchObject({ reason: expect.stringContaining("separated by semicolons") });
    expect(problemOf("t_s")).toMatchObject({ reason: expect.stringContaining("looks cut off") });
    expect(problemOf("t\0s\n1\n")).toMatchObject({ reason: expect.stringContaining("binary") });
    const marked = parseNumericTable(Uint8Array.of(0xef, 0xbb, 0xbf, ...encoder.encode("t_s\n1\n")), { mayBeEmpty: () => false });
    expect(marked.ok && marked.value.columns).toEqual(["t_s"]);
  });

  it("names line and column of a row that is short, long, cut off or no number", () => {
    expect(problemOf("t_s,gpu_w\n0,1\n1\n")).toMatchObject({ line: 3, column: "gpu_w", reason: "the row has 1 of 2 cells" });
    expect(problemOf("t_s,gpu_w\n0,1\n1,2,3\n")).toMatchObject({ line: 3, reason: expect.stringContaining("more than 2 cells") });
    expect(problemOf("frame_time_ms\n16,7\n")).toMatchObject({ line: 2, reason: expect.stringContaining("a decimal comma?") });
    expect(problemOf("t_s,gpu_w\n0,1\n1,2")).toMatchObject({ line: 3, reason: expect.stringContaining("does not end") });
    for (const wrong of ["oops", "1.2.3", "0x10", "1e", "--1", "1 2", "Infinity", "NaN", "٣"])
      expect(problemOf(`t_s,gpu_w\n0,1\n1,${wrong}\n`), wrong).toMatchObject({ line: 3, column: "gpu_w", reason: expect.stringContaining("is not a number") });
  });

  it("shows only a little of a cell, and nothing that could move the cursor", () => {
    const reason = problemOf(`t_s\n${"x".repeat(200)}\n`)?.reason as string;
    expect(reason.length).toBeLessThan(120);
    expect(problemOf("t_s\n\u001b[31mred\n")?.reason).toMatch(/^"\?\[31mred" is not a number/);
  });
});
