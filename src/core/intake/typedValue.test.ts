import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { parseSlot, parseTypedValue, splitBlock } from "./typedValue";

describe("parseSlot", () => {
  it("tells nothing, a value and a failure apart", () => {
    expect(parseSlot("  ", "s")).toEqual({ ok: true, value: { kind: "empty" } });
    expect(parseSlot("3:11 / 1.4 GB", "s")).toEqual({ ok: true, value: { kind: "value", value: { value: 191, outputBytes: 1.4e9 } } });
    expect(parseSlot("failed: out of memory", "s")).toEqual({ ok: true, value: { kind: "failed", reason: "out of memory" } });
    expect(parseSlot("f: crashed", "fps")).toEqual({ ok: true, value: { kind: "failed", reason: "crashed" } });
    expect(parseSlot("failed:", "s")).toMatchObject({ ok: false, problem: { reason: expect.stringContaining("say why") } });
    expect(parseSlot("12 W", "fps")).toMatchObject({ ok: false });
  });

  it("reads back any number it wrote as digits, in any unit", () => {
    fc.assert(
      fc.property(fc.double({ min: 0.001, max: 1e9, noNaN: true }), fc.constantFrom("fps", "s", "MB/s", "points"), (value, unit) => {
        const text = /e/.test(String(value)) ? value.toFixed(9) : String(value);
        const read = parseTypedValue(text, unit);
        expect(read.ok && read.value.value).toBeCloseTo(value, 6);
      }),
    );
  });

  it("reads times of the trade's rules: 3:11 and 1:03 are 2:08 apart", () => {
    const seconds = (text: string) => {
      const read = parseTypedValue(text, "s");
      return read.ok ? read.value.value : Number.NaN;
    };
    expect(seconds("3:11") - seconds("1:03")).toBe(128);
    expect(seconds("52") / seconds("18")).toBeCloseTo(2.89, 2);
  });
});

describe("parseTypedValue", () => {
  const valueOf = (text: string, unit: string) => {
    const read = parseTypedValue(text, unit);
    return read.ok ? read.value.value : read.problem.reason;
  };

  it("brings times in every unit to that of the test (SI prefixes; 60 s to a minute)", () => {
    for (const [text, unit, value] of [
      ["3:11", "s", 191],
      ["1:02:03.5", "s", 3723.5],
      ["0:01,5", "s", 1.5],
      ["2 min", "s", 120],
      ["1.5 h", "min", 90],
      ["250 ms", "s", 0.25],
      ["16700 µs", "ms", 16.7],
      ["3:11", "min", 191 / 60],
      ["90 s", "s", 90],
    ] as const)
      expect(valueOf(text, unit), text).toBeCloseTo(value, 9);
  });

  it("brings sizes and rates with powers of ten and two to the unit of the test (IEC 80000-13)", () => {
    for (const [text, unit, value] of [
      ["1 GiB/s", "MB/s", 1073.741824],
      ["500 MB/s", "MB/s", 500],
      ["2 GB", "MB", 2000],
      ["1 TiB", "GiB", 1024],
      ["12.5k", "points", 12_500],
      ["1,5 kpoints", "points", 1500],
    ] as const)
      expect(valueOf(text, unit), text).toBeCloseTo(value, 6);
  });

  it("takes blanks that group digits, thin ones too, and a comma for the decimal point", () => {
    for (const text of ["12 345.5", "12\u202f345.5", "12\u2009345,5", "12345.5"]) expect(valueOf(text, "points"), text).toBe(12_345.5);
    expect(valueOf("12 34", "points")).toContain("is no number");
  });

  it("puts the size of what came out beside the value, in whole bytes", () => {
    expect(parseTypedValue("3:11 / 1.4 GB", "s")).toEqual({ ok: true, value: { value: 191, outputBytes: 1_400_000_000 } });
    expect(parseTypedValue("52 ; 640 KiB", "s")).toEqual({ ok: true, value: { value: 52, outputBytes: 655_360 } });
    expect(parseTypedValue("52 / 1 GB / 2", "s")).toMatchObject({ ok: false, problem: { reason: "one value and one size at most" } });
    expect(parseTypedValue("52 / 0 B", "s")).toMatchObject({ ok: false, problem: { reason: "a size must be above 0" } });
  });

  it("refuses what does not fit, with what was typed in the sentence", () => {
    for (const [text, unit, reason] of [
      ["3:11", "fps", "“3:11” is a time; this test counts in fps"],
      ["12 W", "fps", "“W” does not fit this test, which counts in fps"],
      ["500 MB", "MB/s", "“MB” does not fit this test, which counts in MB/s"],
      ["fast", "fps", "“fast” is no number, time (mm:ss) or size"],
      ["0", "fps", "a value must be above 0; a run that failed is marked as failed"],
      ["1:75", "s", "“1:75” is no number, time (mm:ss) or size"],
      ["-3", "fps", "“-3” is no number, time (mm:ss) or size"],
    ] as const)
      expect(valueOf(text, unit), text).toBe(reason);
    expect(valueOf("", "s")).toBe("there is no value");
  });
});

describe("splitBlock", () => {
  it("lays a spreadsheet's block out as rows and columns, whatever its line ends", () => {
    expect(splitBlock("1\t2\r\n3\t4\r\n")).toEqual([
      ["1", "2"],
      ["3", "4"],
    ]);
    expect(splitBlock("7")).toEqual([["7"]]);
    expect(splitBlock("a\t\n\tb\n")).toEqual([
      ["a", ""],
      ["", "b"],
    ]);
  });
});
