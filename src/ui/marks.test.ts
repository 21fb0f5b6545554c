import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { chartModel, chartsOf } from "@/core/report";
import { smallModel } from "../../tests/helpers/smallModel";
import { parseFacts } from "./ask/AddSetup";
import { linearScale } from "./charts/scale";
import { rankText, verdictWords } from "./compare/verdictWords";
import { parseDay } from "./plan/LabHoursEditor";
import { embargoText, stepsOf } from "./review/steps";
import { columnsOf } from "./sheet/StripChart";
import { priceText } from "./value/priceText";

describe("linearScale", () => {
  it("holds every value it was made for, between 0 and 100 %, in order", () => {
    fc.assert(
      fc.property(fc.double({ min: -1e6, max: 1e6, noNaN: true }), fc.double({ min: 1e-3, max: 1e6, noNaN: true }), (low, span) => {
        const scale = linearScale(low, low + span);
        expect(scale.at(low)).toBeGreaterThanOrEqual(-1e-6);
        expect(scale.at(low + span)).toBeLessThanOrEqual(100 + 1e-6);
        expect(scale.at(low)).toBeLessThan(scale.at(low + span));
      }),
    );
  });

  it("has round ticks at 1, 2 or 5 times a power of ten, minor ones between, none twice", () => {
    const scale = linearScale(61, 149);
    expect(scale.major).toEqual([60, 80, 100, 120, 140]);
    expect(scale.minor).toContain(104);
    expect(scale.minor.some((tick) => scale.major.includes(tick))).toBe(false);
    expect(linearScale(33.5, 46.2, 5).major).toEqual([35, 40, 45]);
    expect(linearScale(5, 5).major.length).toBeLessThan(20);
  });
});

describe("words", () => {
  it("say what would settle an open verdict, or that nothing will", () => {
    expect(verdictWords({ verdict: "unresolved", furtherRuns: 1 }).more).toBe("1 more run of each would settle it");
    expect(verdictWords({ verdict: "unresolved", furtherRuns: 12 }).more).toBe("12 more runs of each would settle it");
    expect(verdictWords({ verdict: "unresolved", furtherRuns: undefined }).more).toBe("more runs will not settle it");
    expect(verdictWords({ verdict: "level-small-difference", furtherRuns: undefined })).toEqual({ says: "level", more: "a real but small difference" });
    expect(verdictWords({ verdict: "unknown", furtherRuns: undefined }).says).toBe("not known");
  });

  it("show an open rank as a range", () => {
    expect([rankText({ rankFrom: 2, rankTo: 2 }), rankText({ rankFrom: 2, rankTo: 4 })]).toEqual(["2", "2–4"]);
  });

  it("group prices from five digits on and drop empty cents", () => {
    expect([priceText(499_900, "NOK"), priceText(1_234_550, "NOK"), priceText(89_000, "JPY"), priceText(5, "NOK")]).toEqual([
      "4999",
      "12\u2009345.50",
      "89\u2009000",
      "0.05",
    ]);
  });

  it("count down to the embargo and say when it has lifted", () => {
    const now = Date.parse("2026-11-20T12:00:00Z");
    expect(embargoText("2026-11-22T15:30:00Z", now)).toBe("embargo until 2026-11-22 15:30 UTC, 2 d 3 h");
    expect(embargoText("2026-11-20T11:00:00Z", now)).toBe("embargo lifted 2026-11-20 11:00 UTC");
    expect(embargoText(null, now)).toBeUndefined();
  });
});

describe("the ruler", () => {
  it("names the steps in working order, each with what is left to do, doubtful ones marked", () => {
    const steps = stepsOf(smallModel());
    expect(steps.map(({ name }) => name)).toEqual(["Ask", "Bench", "Suite", "Plan", "Run", "Check", "Compare", "Value", "Power", "Say"]);
    expect(steps.map(({ left }) => left)).toEqual([
      "3 rows",
      "held",
      "4 workloads",
      "all run",
      "108 of 108",
      "settled",
      "3 rows",
      "1 price stale",
      "108 runs metered",
      "0 claims",
    ]);
    expect(steps.filter(({ doubtful }) => doubtful).map(({ name }) => name)).toEqual(["Value"]);
    expect(stepsOf(smallModel({ reports: [{ slug: "s", version: 2, publishedAt: "2026-11-20T00:00:00Z" }] })).at(-1)?.left).toBe("version 2 out");
  });
});

describe("parseDay and parseFacts", () => {
  it("reads a day's hours, several stretches, an empty day, and says what it cannot read", () => {
    expect(parseDay("09:00–12:00, 13:00-18:30", 1)).toEqual([
      { weekday: 1, opensMinute: 540, closesMinute: 720 },
      { weekday: 1, opensMinute: 780, closesMinute: 1110 },
    ]);
    expect(parseDay(" ", 0)).toEqual([]);
    expect(parseDay("nine to five", 2)).toBeUndefined();
  });

  it("reads facts with their units, and leaves what is no fact out", () => {
    expect(parseFacts("board_power: 198 W\nsockets: K3, K4\nnot a fact")).toEqual([
      { key: "board_power", value: "198", unit: "W" },
      { key: "sockets", value: "K3, K4", unit: null },
    ]);
  });
});

describe("columnsOf", () => {
  it("keeps the least and the largest of each pixel: one spike among 100,000 frames is drawn", () => {
    const points = Array.from({ length: 100_000 }, (_, i) => ({ t: i / 1000, y: i === 61_234 ? 90 : 8 }));
    const columns = columnsOf(points, 0, 100, 330);
    expect(columns).toHaveLength(330);
    expect(Math.max(...columns.map(({ max }) => max))).toBe(90);
    expect(columns.findIndex(({ max }) => max === 90)).toBe(Math.floor((61.234 / 100) * 330));
    expect(columns.every(({ min }) => min === 8)).toBe(true);
  });
});

describe("chartModel", () => {
  const model = smallModel();
  const rows = model.setups.map(({ id }) => id);
  const split = (decision: "declared" | "split") => ({
    ...model,
    held: {
      ...model.held,
      differences: [
        {
          property: "part:board",
          values: [
            { value: "B4", setupIds: rows.slice(0, 1) },
            { value: "B5", setupIds: rows.slice(1) },
          ],
          declared: { property: "part:board", decision, why: "another socket", who: "Idris", at: "2026-11-20T00:00:00Z" },
        },
      ],
    },
  });

  it("splits a review's rows by a property that could not be held, and only where the editor asked for it", () => {
    expect(chartsOf(split("declared"))).toEqual([]);
    expect(chartModel(split("declared"), "2").setups).toHaveLength(rows.length);
    const charts = chartsOf(split("split"));
    expect(charts.map(({ name, setupIds }) => [name, setupIds.length])).toEqual([
      ["B4", 1],
      ["B5", rows.length - 1],
    ]);
    const second = chartModel(split("split"), "2");
    expect(second.setups.map(({ id }) => id)).toEqual(rows.slice(1));
    expect(rows.slice(1)).toContain(second.baselineId);
    expect(chartModel(split("split"), null).setups.map(({ id }) => id)).toContain(model.baselineId);
  });
});
