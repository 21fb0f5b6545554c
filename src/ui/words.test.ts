import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { smallModel } from "../../tests/helpers/smallModel";
import { CHANNEL_NAMES, channelOf } from "./charts/channelNames";
import { effectText } from "./check/effectText";
import { readCorrections, writeCorrections } from "./intake/corrections";
import { leavesFor } from "./lab/Underway";
import { hoursText, momentText } from "./plan/planWords";
import { readWeights, writeWeights } from "./review/ReviewContext";
import { embargoText, stepsOf } from "./review/steps";

describe("weights in the address", () => {
  it("are read back as they were written; equal ones are left out, odd ones ignored", () => {
    fc.assert(
      fc.property(
        fc.dictionary(
          fc.stringMatching(/^[a-z][a-z0-9-]{0,12}$/),
          fc.integer({ min: 0, max: 20 }).map((n) => n / 4),
        ),
        (given) => {
          const weights = new Map(Object.entries(given));
          const back = readWeights(writeWeights(weights));
          for (const [id, weight] of weights) expect(back.get(id) ?? 1).toBe(weight);
        },
      ),
    );
    expect(writeWeights(new Map([["a", 1]]))).toBe("");
    expect([...readWeights("a:2,b,:3,c:-1,d:99,e:x")]).toEqual([["a", 2]]);
  });
});

describe("channelOf", () => {
  it("names known channels in words, and others by their own name and unit", () => {
    expect(channelOf("gpu_c")).toEqual({ name: "card", unit: "°C", digits: 1 });
    expect(channelOf("fan1_rpm")).toEqual({ name: "fan1", unit: "rpm", digits: 1 });
    expect(channelOf("coolant_out_c")).toMatchObject({ name: "coolant out", unit: "°C" });
    for (const { name } of Object.values(CHANNEL_NAMES)) expect(name).not.toContain("_");
  });
});

describe("effectText", () => {
  it("says what leaving runs out would change, the rank where it moves, and other rows where they move more", () => {
    expect(effectText(undefined)).toBe("no run to leave out");
    expect(effectText({ indexChange: 0.018, rankNow: 2, rankWithout: 2, largest: 0.018 })).toBe("without: index +1.80 %");
    expect(effectText({ indexChange: -0.001, rankNow: 3, rankWithout: 4, largest: 0.02 })).toBe("without: index −0.10 %, rank 3 → 4, others up to 2.00 %");
  });
});

describe("times in words", () => {
  it("are hours and minutes as people say them", () => {
    expect([0, 240, 3600, 5400, 19 * 3600 + 1200, 31 * 3600 + 1200].map(hoursText)).toEqual(["0 min", "4 min", "1 h", "1 h 30 min", "19 h 20 min", "31 h"]);
    expect(momentText(Date.UTC(2026, 10, 24, 14, 20), "Europe/Oslo")).toBe("Tue 24 Nov, 15:20");
    expect(embargoText(null, 0)).toBeUndefined();
    expect(embargoText("2026-11-24T14:00:00Z", Date.UTC(2026, 10, 22, 12, 0))).toBe("embargo until 2026-11-24 14:00 UTC, 2 d 2 h");
    expect(embargoText("2026-11-24T14:00:00Z", Date.UTC(2026, 10, 25))).toContain("embargo lifted");
  });
});

describe("steps", () => {
  it("each say what is left: doubts, runs, prices, versions", () => {
    const model = smallModel();
    const left = Object.fromEntries(stepsOf(model).map(({ name, left: text }) => [name, text]));
    expect(left.Run).toBe("108 of 108");
    expect(left.Suite).toBe("4 workloads");
    const fewer = Object.fromEntries(stepsOf({ ...model, runs: model.runs.slice(3), tests: model.tests }).map(({ name, left: text }) => [name, text]));
    expect(fewer.Run).toBe("105 of 108");
    expect(stepsOf({ ...model, tests: [] }).find(({ name }) => name === "Suite")).toMatchObject({ left: "none yet", doubtful: true });
  });
});

describe("corrections of a drop", () => {
  it("outlast a closed tab, and cost nothing where the browser keeps nothing", () => {
    expect([...readCorrections("evening")]).toEqual([]);
    expect(() => writeCorrections("evening", new Map([["a.csv", { number: 2 }]]))).not.toThrow();
    const kept = new Map<string, string>();
    const storage = {
      getItem: (key: string) => kept.get(key) ?? null,
      setItem: (key: string, value: string) => void kept.set(key, value),
      removeItem: (key: string) => void kept.delete(key),
    };
    const before = Object.getOwnPropertyDescriptor(globalThis, "localStorage");
    Object.defineProperty(globalThis, "localStorage", { value: storage, configurable: true });
    try {
      writeCorrections(
        "evening",
        new Map([
          ["a.csv", { setupId: "x", number: 2 }],
          ["b.csv", { leftOut: true }],
        ]),
      );
      expect([...readCorrections("evening")]).toEqual([
        ["a.csv", { setupId: "x", number: 2 }],
        ["b.csv", { leftOut: true }],
      ]);
      expect([...readCorrections("morning")]).toEqual([]);
      kept.set("parvex-corrections:evening", "{broken");
      expect([...readCorrections("evening")]).toEqual([]);
      writeCorrections("evening", new Map());
      expect(kept.has("parvex-corrections:evening")).toBe(false);
    } finally {
      if (before) Object.defineProperty(globalThis, "localStorage", before);
      else Reflect.deleteProperty(globalThis, "localStorage");
    }
  });
});

describe("a click on a link", () => {
  const plain = { button: 0, ctrlKey: false, metaKey: false, shiftKey: false, altKey: false };
  const here = "http://127.0.0.1:3000/reviews/duel/run?res=all#top";

  it("leaves for another page, or for the same with other words in its address", () => {
    expect(leavesFor("/doubts", here, plain)).toBe(true);
    expect(leavesFor("/reviews/duel/run?res=1920x1080", here, plain)).toBe(true);
    expect(leavesFor("compare", here, plain)).toBe(true);
  });

  it("stays here, or goes where this page is not left for", () => {
    expect(leavesFor("/reviews/duel/run?res=all#bottom", here, plain)).toBe(false);
    expect(leavesFor("/api/export", here, plain)).toBe(false);
    expect(leavesFor("https://example.org/doubts", here, plain)).toBe(false);
    for (const key of ["ctrlKey", "metaKey", "shiftKey", "altKey"]) expect(leavesFor("/doubts", here, { ...plain, [key]: true }), key).toBe(false);
    expect(leavesFor("/doubts", here, { ...plain, button: 1 })).toBe(false);
  });
});
