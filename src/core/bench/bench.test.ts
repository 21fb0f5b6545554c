import { describe, expect, it } from "vitest";
import { benchProperties, compareRevisions, heldDifferences } from "./benchRevision";
import { type FitPart, judgeFit, overallFit, parseConnectors } from "./judgeFit";
import { definitionGaps, expandTests, TestDefinition } from "./testDefinition";

const part = (kind: FitPart["kind"], name: string, specs: Record<string, string | number>): FitPart => ({
  id: name.toLowerCase(),
  kind,
  name,
  specs: Object.fromEntries(Object.entries(specs).map(([key, value]) => [key, { value: String(value), unit: null }])),
});

const CPU = part("cpu", "Ilvane", { socket: "K4", package_power: 120, needs_firmware: "2.10" });
const BOARD = part("board", "Stellmark", { socket: "K4", memory_type: "DDR-V", memory_rate_max: 6000 });
const MEMORY = part("memory", "Foldern", { memory_type: "DDR-V", memory_rate: 6000 });
const COOLER = part("cooler", "Nordrill", { sockets: "K3, K4", rated_power: 180, height: 155 });
const GPU = part("gpu", "Sorrel", { board_power: 206, length: 281, power_connectors: "2 × 8-pin" });
const PSU = part("psu", "Haskett", { rated_power: 850, gpu_connectors: "4 × 8-pin" });
const STATE = { firmware: "B4 2.18", gpu_clearance_mm: "330", cooler_clearance_mm: "open" };
const ALL = [CPU, BOARD, MEMORY, COOLER, GPU, PSU];

const answer = (rule: string, parts: FitPart[], state: Record<string, string> = STATE) => judgeFit(parts, state).filter((one) => one.rule === rule);
const swap = (fresh: FitPart) => ALL.map((one) => (one.kind === fresh.kind ? fresh : one));

describe("judgeFit", () => {
  it("says that a whole, known system fits, every rule with its reason", () => {
    const answers = judgeFit(ALL, STATE);
    expect(answers.map(({ rule }) => rule)).toEqual([
      "socket",
      "firmware",
      "memory",
      "cooler mounting",
      "cooler rating",
      "clearance",
      "clearance",
      "power headroom",
      "power connectors",
    ]);
    expect(overallFit(answers)).toBe("fits");
    expect(answers.every(({ reason }) => reason.length > 8)).toBe(true);
  });

  it("refuses another socket, another memory type, a missing mounting and too little room", () => {
    expect(answer("socket", swap(part("cpu", "Other", { socket: "M2" })))[0]).toMatchObject({
      verdict: "does not fit",
      reason: "Other needs M2, Stellmark has K4.",
    });
    expect(answer("memory", swap(part("memory", "Old", { memory_type: "DDR-IV" })))[0]?.verdict).toBe("does not fit");
    expect(answer("cooler mounting", swap(part("cooler", "Alien", { sockets: "M2", rated_power: 90 })))[0]?.verdict).toBe("does not fit");
    expect(answer("clearance", [part("gpu", "Long", { length: 331 })])[0]?.verdict).toBe("does not fit");
    expect(answer("clearance", [part("gpu", "Tight", { length: 327 })])[0]?.verdict).toBe("fits with a note");
  });

  it("wants newer firmware before an old bench meets a new processor, compared number by number", () => {
    expect(answer("firmware", ALL, { ...STATE, firmware: "B4 2.9" })[0]?.verdict).toBe("does not fit");
    expect(answer("firmware", ALL, { ...STATE, firmware: "B4 2.10" })[0]?.verdict).toBe("fits");
    expect(answer("firmware", ALL, { ...STATE, firmware: "B4 10.0" })[0]?.verdict).toBe("fits");
    expect(answer("firmware", ALL, {})[0]?.verdict).toBe("not known");
  });

  it("lets a cooler below the processor's power in with a note that says to stay with it", () => {
    // The trade's own example: a cooler rated 47 W under a 65 W processor passed 80 °C within minutes.
    const weak = answer("cooler rating", [part("cpu", "Six", { socket: "K4", tdp: 65 }), part("cooler", "Passive", { sockets: "K4", rated_power: 47 })])[0];
    expect(weak?.verdict).toBe("fits with a note");
    expect(weak?.reason).toContain("stay with it");
  });

  it("adds power up as its rule says: 120 + 206 + 75 = 401 W sustained, 528 W with peaks", () => {
    expect(answer("power headroom", ALL)[0]?.reason).toBe("120 + 206 + 75 = 401 W sustained, 528 W with peaks, supply 850 W.");
    expect(answer("power headroom", swap(part("psu", "Mid", { rated_power: 500 })))[0]?.verdict).toBe("fits with a note");
    expect(answer("power headroom", swap(part("psu", "Small", { rated_power: 430 })))[0]?.verdict).toBe("does not fit");
  });

  it("counts connectors by kind, and never says fits where a fact is missing", () => {
    expect(parseConnectors("1 × 16-pin + 2 × 8-pin")).toEqual(
      new Map([
        ["16-pin", 1],
        ["8-pin", 2],
      ]),
    );
    expect(parseConnectors("none")).toEqual(new Map());
    expect(parseConnectors("some")).toBeUndefined();
    expect(answer("power connectors", swap(part("psu", "One", { rated_power: 850, gpu_connectors: "1 × 8-pin" })))[0]?.verdict).toBe("does not fit");
    for (const kind of ["cpu", "gpu", "psu", "cooler"] as const) {
      const bare = judgeFit(swap(part(kind, "Bare", {})), STATE);
      expect(overallFit(bare), kind).toBe("not known");
    }
    expect(overallFit([])).toBe("not known");
  });
});

describe("compareRevisions", () => {
  const one = { parts: [{ partId: "a", name: "Stellmark B4", role: "board", slot: null, quantity: 1 }], state: [{ key: "firmware", value: "2.18" }] };

  it("names what changed, what came and what went, and nothing else", () => {
    const two = {
      parts: [
        { ...one.parts[0], name: "Stellmark B5", partId: "b" } as (typeof one.parts)[0],
        { partId: "m", name: "Foldern", role: "memory", slot: null, quantity: 2 },
      ],
      state: [{ key: "power_plan", value: "balanced" }],
    };
    expect(compareRevisions(one, two)).toEqual([
      { property: "firmware", before: "2.18", after: undefined },
      { property: "part:board", before: "Stellmark B4", after: "Stellmark B5" },
      { property: "part:memory", before: undefined, after: "2 × Foldern" },
      { property: "power_plan", before: undefined, after: "balanced" },
    ]);
    expect(compareRevisions(one, one)).toEqual([]);
  });

  it("finds the rows that differ in what was held, unknown being a value of its own", () => {
    const rows = [
      { setupId: "x", properties: benchProperties(one) },
      { setupId: "y", properties: benchProperties({ ...one, state: [] }) },
      { setupId: "z", properties: benchProperties(one) },
    ];
    expect(heldDifferences(rows)).toEqual([
      {
        property: "firmware",
        values: [
          { value: "2.18", setupIds: ["x", "z"] },
          { value: undefined, setupIds: ["y"] },
        ],
      },
    ]);
  });
});

const BASE: TestDefinition = TestDefinition.parse({
  id: "copperfen",
  workloadId: "copperfen",
  name: "Copperfen",
  kind: "frames",
  unit: "fps",
  better: "higher",
  loads: "gpu",
  scene: "market walk",
  resolution: null,
  renderResolution: null,
  preset: null,
  rayTracing: null,
  upscaling: null,
  frameGeneration: null,
  api: null,
  cache: null,
  startAt: "first step",
  stopAt: "60 s later",
  loadS: 40,
  warmupS: 60,
  lengthS: 60,
  resetS: 15,
  definition: "",
});

describe("expandTests", () => {
  it("goes through resolution × preset × switches in one go, with ids and names that tell them apart", () => {
    const tests = expandTests(BASE, {
      resolutions: ["1920x1080", "2560x1440"],
      presets: ["High"],
      switches: [{ field: "rayTracing", values: ["off", "on"] }],
    });
    expect(tests.map(({ id, name, rayTracing }) => [id, name, rayTracing])).toEqual([
      ["copperfen-1080", "Copperfen 1080", "off"],
      ["copperfen-1080-ray-tracing-on", "Copperfen 1080 ray tracing on", "on"],
      ["copperfen-1440", "Copperfen 1440", "off"],
      ["copperfen-1440-ray-tracing-on", "Copperfen 1440 ray tracing on", "on"],
    ]);
    expect(tests.every(({ preset, renderResolution, resolution }) => preset === "High" && renderResolution === resolution)).toBe(true);
    expect(new Set(tests.map(({ id }) => id)).size).toBe(4);
    expect(expandTests(BASE, { resolutions: [], presets: [], switches: [] })).toEqual([BASE]);
  });

  it("says what a definition still lacks to be repeated", () => {
    expect(definitionGaps(BASE)).toEqual(["at which resolution", "under which preset"]);
    expect(definitionGaps({ ...BASE, resolution: "1920x1080", preset: "High" })).toEqual([]);
    expect(definitionGaps({ ...BASE, kind: "time", startAt: null })).toEqual(["when the watch starts", "cold or warm"]);
  });
});
