import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { parseFrameLog, parseSensorLog } from "./parseFrameLog";

const bytes = (text: string) => new TextEncoder().encode(text);
const problemOf = (text: string | Uint8Array) => {
  const result = parseFrameLog(typeof text === "string" ? bytes(text) : text);
  if (result.ok) throw new Error("it was read");
  return result.problem;
};

describe("parseFrameLog", () => {
  it("reads the same numbers as the language's own parser, whatever the decimals", () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 1e-6, max: 59_999, noNaN: true }), { minLength: 1, maxLength: 100 }), (list) => {
        const result = parseFrameLog(bytes(`frame_time_ms\n${list.join("\n")}\n`));
        expect(result.ok && [...result.value]).toEqual(list);
      }),
      { numRuns: 300 },
    );
  });

  it("reads CRLF line ends and a byte order mark", () => {
    const result = parseFrameLog(bytes("\ufeffframe_time_ms\r\n16.7\r\n8.25\r\n"));
    expect(result.ok && [...result.value]).toEqual([16.7, 8.25]);
  });

  const BROKEN: [string, string | Uint8Array, number, RegExp][] = [
    ["an empty file", "", 1, /empty/],
    ["a binary file", Uint8Array.of(0x50, 0x4b, 3, 4, 0, 0, 0, 0), 1, /binary/],
    ["another column", "ms\n16.7\n", 1, /one column frame_time_ms/],
    ["a second column", "frame_time_ms,other\n16.7,1\n", 1, /one column/],
    ["no frames", "frame_time_ms\n", 1, /no frames/],
    ["a negative frame time", "frame_time_ms\n16.7\n-3\n", 3, /above 0/],
    ["a frame time of 0", "frame_time_ms\n0\n", 2, /above 0/],
    ["NaN", "frame_time_ms\n16.7\nNaN\n", 3, /"NaN" is not a number/],
    ["a decimal comma", "frame_time_ms\n16,7\n", 2, /decimal comma/],
    ["an empty line", "frame_time_ms\n16.7\n\n16.7\n", 3, /line is empty/],
    ["a cut-off end", "frame_time_ms\n16.7\n16.", 3, /cut off/],
    ["microseconds", "frame_time_ms\n166700\n", 2, /microseconds/],
    ["two points", "frame_time_ms\n1.6.7\n", 2, /not a number/],
    ["a hex number", "frame_time_ms\n0x10\n", 2, /not a number/],
    ["semicolons", "frame_time_ms;b\n1;2\n", 1, /semicolons/],
  ];
  for (const [name, content, line, reason] of BROKEN) {
    it(`refuses ${name} with its line and reason`, () => {
      const problem = problemOf(content);
      expect(problem.line).toBe(line);
      expect(problem.reason).toMatch(reason);
    });
  }

  it("never throws and never reads what is no log, on a thousand random byte strings", () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), (junk) => {
        const result = parseFrameLog(new Uint8Array([...bytes("frame_time_ms\n"), ...junk]));
        if (result.ok) expect(result.value.every((frame) => frame > 0 && frame <= 60_000)).toBe(true);
        else expect(result.problem.reason.length).toBeGreaterThan(5);
      }),
      { numRuns: 1000 },
    );
  });
});

describe("parseSensorLog", () => {
  it("reads irregular and negative times and keeps gaps as not known", () => {
    const result = parseSensorLog(bytes("t_s,gpu_w,hotspot_c\n-0.5,200.5,\n0,201,71\n1.25,,72\n"));
    if (!result.ok) throw new Error(result.problem.reason);
    expect([...result.value.timeS]).toEqual([-0.5, 0, 1.25]);
    expect([...(result.value.channels[0]?.values ?? [])]).toEqual([200.5, 201, Number.NaN]);
    expect(result.value.channels.map(({ name }) => name)).toEqual(["gpu_w", "hotspot_c"]);
  });

  it("refuses times that do not rise, a row cut short and a channel without unit, each with its place", () => {
    const at = (text: string) => {
      const result = parseSensorLog(bytes(text));
      return result.ok ? undefined : [result.problem.line, result.problem.column];
    };
    expect(at("t_s,gpu_w\n0,1\n0,2\n")).toEqual([3, "t_s"]);
    expect(at("t_s,gpu_w\n0,1\n1\n")).toEqual([3, "gpu_w"]);
    expect(at("t_s,power\n0,1\n")).toEqual([1, "power"]);
    expect(at("t_s,gpu_w\n,1\n")).toEqual([2, "t_s"]);
  });
});
