import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  assignPaths,
  type ColumnUse,
  clashesOf,
  decodeParcel,
  detectShape,
  encodeParcel,
  type LabNames,
  matchShape,
  NO_MEANINGS,
  parseTypedValue,
  proposePattern,
  proposeUses,
  resolutionOf,
  takeInLog,
} from "./index";

const bytes = (text: string) => new TextEncoder().encode(text);

/** Detects, proposes and reads a text as a person would who agrees with every proposal. */
function read(text: string | Uint8Array, change: (uses: ColumnUse[]) => ColumnUse[] = (uses) => uses) {
  const whole = typeof text === "string" ? bytes(text) : text;
  const detected = detectShape(whole, true);
  if (!detected.ok) return { shape: undefined, uses: [], taken: detected };
  const uses = change(proposeUses(detected.value.shape, detected.value.rows));
  return { shape: detected.value.shape, uses, taken: takeInLog(whole, detected.value.shape, uses) };
}
const framesOf = (text: string | Uint8Array) => {
  const { taken } = read(text);
  if (!taken.ok) throw new Error(JSON.stringify(taken.problem));
  return Array.from(taken.value.frameTimesMs ?? []);
};
const problemOf = (text: string | Uint8Array) => {
  const { taken } = read(text);
  return taken.ok ? undefined : taken.problem;
};

describe("a log of any shape", () => {
  it("is read by its content alone: delimiter, decimal sign, remarks, preamble, quotes, units", () => {
    const wanted = [16.7, 16.25, 17.125];
    expect(framesOf("frame time (ms)\n16.7\n16.25\n17.125\n")).toEqual(wanted);
    expect(framesOf("n;Frame Time [ms]\n1;16,7\n2;16,25\n3;17,125\n")).toEqual(wanted);
    expect(framesOf("# a remark\r\n# another\r\nscene\tframetime_s\r\nhill\t0.0167\r\nhill\t0.01625\r\nhill\t0.017125\r\n")).toEqual(wanted);
    expect(framesOf('Recorded by hand\n\n"run, no","frame time"\n"","ms"\n"1","16.7"\n"1","16.25"\n"1","17.125"\n')).toEqual(wanted);
    expect(framesOf("interval_us|load\n16700|1\n16250|1\n17125|1\n")).toEqual(wanted);
    expect(framesOf("16.7\n16.25\n17.125")).toEqual(wanted);
  });

  it("takes times of frames for their differences and rates for their inverse, without binary dust", () => {
    expect(framesOf("timestamp (s)\n10.0001\n10.0168\n10.0331\n")).toEqual([16.7, 16.3]);
    expect(framesOf("fps\n50\n60\n40\n")).toEqual([20, 16.6667, 25]);
    expect(framesOf(`time\n${["12:00:00.000", "12:00:00.020", "12:00:00.045"].join("\n")}\n`)).toEqual([20, 25]);
  });

  it("is read in sixteen bits and in the old western encoding, with a byte order mark and mixed line ends", () => {
    const text = "Temperatur °C;Zeit (s);frame time ms\n60;0;16,5\r\n60;0,02;17,5\n";
    const wide = new Uint8Array(2 + 2 * text.length);
    wide.set([0xff, 0xfe]);
    for (const [i, letter] of [...text].entries()) wide.set([letter.charCodeAt(0) & 255, letter.charCodeAt(0) >> 8], 2 + 2 * i);
    expect(framesOf(wide)).toEqual([16.5, 17.5]);
    expect(framesOf(Uint8Array.from([...text], (letter) => letter.charCodeAt(0)))).toEqual([16.5, 17.5]);
    expect(framesOf(`\ufeff${text}`)).toEqual([16.5, 17.5]);
  });

  it("gives sensors in their stored units on their own clock, gaps kept as gaps", () => {
    const { uses, taken } = read(
      "elapsed (s),GPU temp (°F),GPU clock (MHz),GPU load (%),Video memory used (MiB),wall power (W)\n5.0,140,2600,98,8192,310.5\n5.5,N/A,2590,97,8192,\n6.0,149,2580,99,9216,311\n",
    );
    expect(uses.map(({ use }) => use)).toEqual(["time", "channel", "channel", "channel", "channel", "channel"]);
    if (!taken.ok || !taken.value.sensors) throw new Error("no sensors");
    const { timeS, channels } = taken.value.sensors;
    expect([...timeS]).toEqual([0, 0.5, 1]);
    expect(Object.fromEntries(channels.map(({ name, values }) => [name, [...values]]))).toEqual({
      gpu_c: [60, Number.NaN, 65],
      gpu_ghz: [2.6, 2.59, 2.58],
      gpu_load_ratio: [0.98, 0.97, 0.99],
      vram_gib: [8, 8, 9],
      wall_w: [310.5, Number.NaN, 311],
    });
  });

  it("thins sensors that stand still between frames, and loses no change of theirs", () => {
    const rows = Array.from({ length: 400 }, (_, i) => `${(i * 0.01).toFixed(2)},10,${60 + Math.floor(i / 50)}`);
    const { taken } = read(`time (s),frame time (ms),card temperature (°C)\n${rows.join("\n")}\n`);
    if (!taken.ok || !taken.value.sensors) throw new Error("no sensors");
    expect(taken.value.frameTimesMs?.length).toBe(400);
    expect([...(taken.value.sensors.channels[0]?.values ?? [])]).toEqual([60, 61, 62, 63, 64, 65, 66, 67, 67]);
    expect([...taken.value.sensors.timeS]).toEqual([0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5, 3.99]);
  });

  it("names line, column and reason of what is wrong", () => {
    expect(problemOf("")).toMatchObject({ reason: "the file is empty" });
    expect(problemOf("frame time (ms),x\n16.7,1\n16.9,1\noops,1\n16.4,1\n")).toMatchObject({
      line: 4,
      column: "frame time (ms)",
      reason: '"oops" is not a number',
    });
    expect(problemOf(`frame time (ms),x\n${"16.7,1\n".repeat(6)}\n-3,1\n`)).toMatchObject({
      line: 9,
      reason: "a frame time must be above 0, this one is -3 ms",
    });
    expect(problemOf("n,frame time (ms)\n1,16.7\n2\n")).toMatchObject({ line: 3, reason: "the row has 1 of 2 cells" });
    expect(problemOf("n,frame time (ms)\n1,16.7\n2,16.6\n3,16")).toBeUndefined();
    expect(problemOf("n,frame time (ms)\n1,16.7\n2,16.6\n3")?.reason).toContain("cut off");
    expect(problemOf('n,frame time (ms)\n"1","16.7"\n"2","16.6\n')?.reason).toContain("quote");
    expect(problemOf(Uint8Array.from({ length: 4000 }, (_, i) => (i * 37) % 256))?.reason).toContain("binary");
    expect(problemOf(`${"x,".repeat(5000)}\n${"1,".repeat(5000)}\n${"1,".repeat(5000)}\n`)?.reason).toContain("limit is 2000");
    expect(problemOf("7".repeat(2_000_000))?.reason).toContain("longer than");
  });

  it("reads the same however the bytes are cut into pieces (seed 11)", async () => {
    const { LogIntake } = await import("./takeInLog");
    const plain = `no,frame time (ms),power (W)\n${Array.from({ length: 60 }, (_, i) => `${i},${(10 + i / 7).toFixed(4)},${200 + (i >> 4)}`).join("\n")}\n`;
    for (const text of [plain, plain.replaceAll(/^(\d+),/gm, '"$1",')]) {
      const whole = bytes(text);
      const detected = detectShape(whole, true);
      if (!detected.ok) throw new Error("no shape");
      const uses = proposeUses(detected.value.shape, detected.value.rows);
      const at_once = takeInLog(whole, detected.value.shape, uses);
      fc.assert(
        fc.property(fc.array(fc.integer({ min: 1, max: 90 }), { minLength: 1, maxLength: 80 }), (sizes) => {
          const intake = new LogIntake(detected.value.shape, uses);
          let at = 0;
          for (let i = 0; at < whole.length; i += 1) {
            const size = sizes[i % sizes.length] as number;
            intake.push(whole.slice(at, at + size));
            at += size;
          }
          expect(intake.finish()).toEqual(at_once);
        }),
        { seed: 11, numRuns: 60 },
      );
    }
  });

  it("survives ten thousand broken logs without a crash or a hang, and says what is wrong with each (seed 20261123)", () => {
    const good = [
      "time (s),frame time (ms),GPU temp (°C)\n0,16.7,60\n0.0167,16.6,60\n0.0333,16.8,61\n",
      "n;Frame Time [ms]\n1;16,7\n2;16,25\n3;17,125\n",
      '"a","frame time (ms)"\n"1","16.7"\n"2","16.6"\n',
    ].map(bytes);
    let refused = 0;
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 2 }),
        fc.array(fc.tuple(fc.nat(120), fc.nat(255), fc.integer({ min: 0, max: 3 })), { minLength: 1, maxLength: 6 }),
        (which, damages) => {
          let log = Uint8Array.from(good[which] as Uint8Array);
          for (const [at, byte, how] of damages) {
            const i = at % Math.max(1, log.length);
            if (how === 0) log[i] = byte;
            else if (how === 1) log = log.slice(0, i);
            else if (how === 2) log = Uint8Array.from([...log.slice(0, i), byte, ...log.slice(i)]);
            else log = Uint8Array.from([...log.slice(0, i), ...log.slice(i + 7)]);
          }
          const { taken } = read(log);
          if (taken.ok) {
            // What is read is whole: frame times above 0, sensors as long as their times.
            expect(taken.value.frameTimesMs?.every((frame) => frame > 0 && Number.isFinite(frame)) ?? true).toBe(true);
            for (const { values } of taken.value.sensors?.channels ?? []) expect(values.length).toBe(taken.value.sensors?.timeS.length);
          } else {
            refused += 1;
            expect(taken.problem.reason.length).toBeGreaterThan(8);
            expect(taken.problem.line).toBeGreaterThanOrEqual(0);
          }
        },
      ),
      { seed: 20261123, numRuns: 10_000 },
    );
    expect(refused).toBeGreaterThan(2000);
  }, 120_000);

  it("knows the shape again behind another preamble, and no other header", () => {
    const one = detectShape(bytes("made on Monday\nn,frame time (ms)\n1,16.7\n2,16.6\n"), true);
    if (!one.ok) throw new Error("no shape");
    expect(matchShape(bytes("made on Tuesday\nby Runa\n\nn,frame time (ms)\n1,16.7\n"), [one.value.shape])).toMatchObject({ headerLine: 4, firstDataLine: 5 });
    expect(matchShape(bytes("n,frame time (us)\n1,16.7\n"), [one.value.shape])).toBeUndefined();
  });
});

const NAMES: LabNames = {
  setups: [
    { id: "gpu-sorrel-70", label: "Velm Sorrel 70" },
    { id: "gpu-grebe-12", label: "Tarnuth Grebe 12" },
  ],
  tests: ["1080", "1440"].flatMap((height) =>
    ["Copperfen", "Winterglass Keep"].map((name) => {
      const workloadId = name.toLowerCase().replace(" ", "-");
      return {
        key: `${workloadId}-${height}@1`,
        id: `${workloadId}-${height}`,
        name: `${name} ${height}`,
        workloadId,
        workloadName: name,
        resolution: height === "1080" ? "1920x1080" : "2560x1440",
        settings: "",
      };
    }),
  ),
};

describe("paths", () => {
  it("tell setup, test, resolution and run by the lab's own names, however they are written", () => {
    const paths = ["logs/Sorrel 70/copperfen_1440p_run2.csv", "logs/Sorrel 70/winterglass-keep_1440p_run1.csv", "logs/Grebe_12/Copperfen_1080p_run3.csv"];
    const pattern = proposePattern(paths, NAMES);
    expect(pattern.template).toBe("logs/{setup}/{test}_{resolution}_run{run}.csv");
    expect(assignPaths(paths, pattern, NAMES).map(({ setupId, testKey, number, trouble }) => [setupId, testKey, number, trouble])).toEqual([
      ["gpu-sorrel-70", "copperfen-1440@1", 2, null],
      ["gpu-sorrel-70", "winterglass-keep-1440@1", 1, null],
      ["gpu-grebe-12", "copperfen-1080@1", 3, null],
    ]);
  });

  it("leave over what they do not tell, with why, and take the person's word for their own names", () => {
    const paths = ["card A/copperfen 1440 1.csv", "card A/mudlark 1440 1.csv", "card A/copperfen 4320 1.csv", "elsewhere.txt"];
    const pattern = { template: "{setup}/{test} {resolution} {run}.csv", meanings: NO_MEANINGS };
    expect(assignPaths(paths, pattern, NAMES).map(({ trouble }) => trouble)).toEqual([
      "no setup is called “card A”",
      "no setup is called “card A”",
      "no setup is called “card A”",
      "its path does not fit the pattern",
    ]);
    const meant = { ...pattern, meanings: { ...NO_MEANINGS, setup: { "card a": "gpu-grebe-12" } } };
    expect(assignPaths(paths, meant, NAMES).map(({ testKey, trouble }) => testKey ?? trouble)).toEqual([
      "copperfen-1440@1",
      "no test or workload is called “mudlark”",
      "Copperfen has no test at 7680x4320",
      "its path does not fit the pattern",
    ]);
  });

  it("number files by their order only where no number stands in them, and say so; the same place twice is a clash", () => {
    const paths = ["Sorrel 70/copperfen 1440 b.csv", "Sorrel 70/copperfen 1440 a.csv"];
    const numbered = assignPaths(paths, { template: "{setup}/{test} {resolution} {*}.csv", meanings: NO_MEANINGS }, NAMES);
    expect(numbered.map(({ number, numberedByOrder }) => [number, numberedByOrder])).toEqual([
      [2, true],
      [1, true],
    ]);
    const place = { setupId: "a", testKey: "t@1", number: 1 };
    const clashes = clashesOf([
      { ...place, path: "x", kind: "frames" },
      { ...place, path: "y", kind: "both" },
      { ...place, path: "z", kind: "frames", number: 2 },
    ]);
    expect([...clashes]).toEqual([
      ["x", ["y"]],
      ["y", ["x"]],
    ]);
    expect(["1440p", "QHD", "2560 x 1440", "4k", "teapot"].map(resolutionOf)).toEqual(["2560x1440", "2560x1440", "2560x1440", "3840x2160", undefined]);
  });
});

describe("parcels", () => {
  it("bring runs over bit for bit, and refuse what is cut or impossible", () => {
    const log = {
      frameTimesMs: Float64Array.of(16.7, 16.25),
      sensors: { timeS: Float64Array.of(0, 0.5), channels: [{ name: "gpu_c", values: Float64Array.of(60, Number.NaN) }] },
    };
    const parcel = {
      runs: [{ setupId: "a", testKey: "t@1", number: 1, files: [{ path: "x.csv", stamp: "1" }], log }],
      refused: [{ path: "y.csv", stamp: "2", reason: "empty" }],
    };
    const whole = encodeParcel(parcel);
    expect(decodeParcel(whole)).toEqual({ ok: true, value: parcel });
    for (let cut = 0; cut < whole.length; cut += 3) expect(decodeParcel(whole.slice(0, cut)).ok, `${cut}`).toBe(false);
    const negative = encodeParcel({
      ...parcel,
      runs: [{ ...(parcel.runs[0] as (typeof parcel.runs)[0]), log: { ...log, frameTimesMs: Float64Array.of(-1) } }],
    });
    expect(decodeParcel(negative)).toMatchObject({ ok: false, problem: { reason: "a frame time is not above 0 and below a minute" } });
  });
});

describe("parseTypedValue", () => {
  const value = (text: string, unit: string) => {
    const parsed = parseTypedValue(text, unit);
    return parsed.ok ? [parsed.value.value, parsed.value.outputBytes] : parsed.problem.reason;
  };

  it("reads numbers, times and sizes as the trade writes them", () => {
    // Rule of the trade (product definitions): 3:11 → 1:03 saves 2:08.
    const [slow, fast] = [value("3:11", "s"), value("1:03", "s")] as [number[], number[]];
    expect((slow[0] as number) - (fast[0] as number)).toBe(128);
    expect(value("1:02:03.5", "s")).toEqual([3723.5, null]);
    expect(value("2:30", "min")).toEqual([2.5, null]);
    expect(value("1 234,5 fps", "fps")).toEqual([1234.5, null]);
    expect(value("1.2 GB/s", "MB/s")).toEqual([1200, null]);
    expect(value("3:11 / 1.4 GB", "s")).toEqual([191, 1_400_000_000]);
    expect(value("450 ms", "s")).toEqual([0.45, null]);
  });

  it("refuses what is no value here, in words", () => {
    expect(value("3:11", "fps")).toBe("“3:11” is a time; this test counts in fps");
    expect(value("0", "fps")).toContain("above 0");
    expect(value("fast", "fps")).toContain("no number");
    expect(value("3:75", "s")).toContain("no number");
    expect(value("12 W", "fps")).toBe("“W” does not fit this test, which counts in fps");
    expect(value("", "s")).toBe("there is no value");
  });
});
