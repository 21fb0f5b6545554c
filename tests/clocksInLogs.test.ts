// Times of day and of frames in logs, in the ways that recorders write them (ISO 8601 and the civil clock).
import { describe, expect, it } from "vitest";
import { type ColumnUse, detectShape, proposeUses, takeInLog } from "@/core/intake";

function read(text: string, uses?: ColumnUse[]) {
  const bytes = new TextEncoder().encode(text);
  const detected = detectShape(bytes, true);
  if (!detected.ok) throw new Error(detected.problem.reason);
  const taken = takeInLog(bytes, detected.value.shape, uses ?? proposeUses(detected.value.shape, detected.value.rows));
  if (!taken.ok) throw new Error(`line ${taken.problem.line}: ${taken.problem.reason}`);
  return taken.value;
}
const sensors = (stamps: readonly string[], delimiter = ",") =>
  read(`time${delimiter}card power (W)\n${stamps.map((stamp, i) => `${stamp}${delimiter}${200 + i}`).join("\n")}\n`).sensors;

describe("a clock in a log", () => {
  it("is read from hours, minutes and seconds, with or without parts of a second", () => {
    expect(Array.from(sensors(["12:00:00", "12:00:01", "12:00:03"])?.timeS ?? [])).toEqual([0, 1, 3]);
    expect(Array.from(sensors(["12:00:00.250", "12:00:00.750", "12:00:01.125"])?.timeS ?? [])).toEqual([0, 0.5, 0.875]);
    expect(Array.from(sensors(["9:59:59.5", "10:00:00.0", "10:00:00.5"])?.timeS ?? [])).toEqual([0, 0.5, 1]);
  });

  it("goes on past midnight, without a date and with one", () => {
    expect(Array.from(sensors(["23:59:59.0", "23:59:59.5", "00:00:00.0", "00:00:00.5"])?.timeS ?? [])).toEqual([0, 0.5, 1, 1.5]);
    expect(Array.from(sensors(["2026-12-31T23:59:59.5Z", "2027-01-01T00:00:00.0Z", "2027-01-01T00:00:00.5Z"])?.timeS ?? [])).toEqual([0, 0.5, 1]);
    expect(Array.from(sensors(["2028-02-28 23:59:58", "2028-02-29 00:00:00", "2028-03-01 00:00:00"])?.timeS ?? [])).toEqual([0, 2, 86_402]);
  });

  it("knows the two halves of the day", () => {
    expect(Array.from(sensors(["11:59:59 AM", "12:00:00 PM", "12:00:01 PM", "01:00:00 PM"])?.timeS ?? [])).toEqual([0, 1, 2, 3601]);
    expect(Array.from(sensors(["11:59:59 pm", "12:00:00 am", "12:00:01 am"])?.timeS ?? [])).toEqual([0, 1, 2]);
  });

  it("takes a decimal comma where cells are parted otherwise", () => {
    expect(Array.from(sensors(["12:00:00,25", "12:00:00,75", "12:00:01,25"], ";")?.timeS ?? [])).toEqual([0, 0.5, 1]);
  });

  it("names the row that is no time of day, and one that does not rise", () => {
    expect(() => sensors(["12:00:00", "noon", "12:00:02", "12:00:03", "12:00:04"])).toThrow(/line 3: "noon" is no time of day/);
    expect(() => sensors(["12:00:02", "12:00:01", "12:00:03", "12:00:04", "12:00:05"])).toThrow(/line 3: the time does not rise/);
  });
});

describe("times of frames", () => {
  it("give the frames between them in any unit, to the decimals they were written with", () => {
    const of = (head: string, stamps: readonly (string | number)[]) => Array.from(read(`${head}\n${stamps.join("\n")}\n`).frameTimesMs ?? []);
    expect(of("timestamp (ms)", [1000.1, 1016.8, 1033.1])).toEqual([16.7, 16.3]);
    expect(of("timestamp (s)", ["1000.1001", "1000.1168", "1000.1331"])).toEqual([16.7, 16.3]);
    expect(of("timestamp (us)", [5_000_100, 5_016_800, 5_033_100])).toEqual([16.7, 16.3]);
    expect(of("timestamp (ns)", [16_700_000, 33_400_000, 49_700_000])).toEqual([16.7, 16.3]);
  });

  it("carry no dust of binary subtraction, however far from zero a clock stands", () => {
    const stamps = Array.from({ length: 400 }, (_, i) => (1_700_000_000 + i * 0.0167).toFixed(4));
    const frames = Array.from(read(`timestamp (s)\n${stamps.join("\n")}\n`).frameTimesMs ?? []);
    expect(frames).toHaveLength(399);
    expect(new Set(frames)).toEqual(new Set([16.7]));
  });

  it("refuse to stand still or to run backwards, by line", () => {
    expect(() => read("timestamp (ms)\n10\n26\n26\n42\n58\n", [{ use: "frame-stamp", unit: "ms" }])).toThrow(
      /line 4: the time does not rise from the row before/,
    );
    expect(() => read("timestamp (ms)\n10\n26\n20\n42\n58\n", [{ use: "frame-stamp", unit: "ms" }])).toThrow(/line 4/);
    expect(() => read("timestamp (ms)\n10\n26\n200000\n", [{ use: "frame-stamp", unit: "ms" }])).toThrow(/longer than a minute; is the unit right\?/);
  });

  it("are exact from seconds, microseconds and nanoseconds alike: shifting a decimal point rounds nothing", () => {
    const wanted = [16.6667, 8.3333, 33.3334, 0.5001];
    const of = (head: string, cells: readonly string[]) =>
      Array.from(read(`${head},n\n${cells.map((cell, i) => `${cell},${i % 2}`).join("\n")}\n`).frameTimesMs ?? []);
    expect(of("frame time (ms)", ["16.6667", "8.3333", "33.3334", "0.5001"])).toEqual(wanted);
    expect(of("frame time (s)", ["0.0166667", "0.0083333", "0.0333334", "0.0005001"])).toEqual(wanted);
    expect(of("frame time (us)", ["16666.7", "8333.3", "33333.4", "500.1"])).toEqual(wanted);
    expect(of("frame time (ns)", ["16666700", "8333300", "33333400", "500100"])).toEqual(wanted);
  });
});
