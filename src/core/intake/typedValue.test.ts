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
