import { describe, expect, it } from "vitest";
import { judgeLimits, type LimitCell } from "@/core/check";
import { alarmsPerThousand, measureFalseAlarms, measureRecall } from "../cli/measureChecks";
import limits from "./reference/l-limit-classification.json";

describe("the checks, measured on seeded labs that docs/checks.md does not use", () => {
  it("find each planted fault in at least 7 of 8 labs", () => {
    const recall = measureRecall(8, 900_001);
    expect(recall.length).toBeGreaterThan(20);
    for (const { fault, labs, found } of recall) {
      expect(labs, fault).toBe(8);
      expect(found, fault).toBeGreaterThanOrEqual(7);
    }
  });

  it("raise fewer than 5 false alarms per 1,000 clean cells over all checks together", () => {
    const alarms = measureFalseAlarms(20, 910_001);
    expect(alarmsPerThousand(alarms)).toBeLessThan(5);
    // A check that cannot err finds nothing either.
    expect(alarms.byCheck.size).toBeGreaterThan(0);
  });
});

describe("judgeLimits", () => {
  // Reference set l: constructed tables; "mixed" is not scored, and "not known" is a right answer where no neighbour shows it.
  for (const one of limits.cases) {
    it(`${one.id} contradicts no constructed label, and names most`, () => {
      const cells = one.input.rows.flatMap(({ cpu, gpu, fps }) =>
        Object.entries(fps as Record<string, number>).map(
          ([resolution, rate]): LimitCell => ({
            setupId: `${cpu}/${gpu}`,
            cpuId: cpu,
            gpuId: gpu,
            testKey: resolution,
            family: "one",
            resolution,
            fps: rate,
            lowShare: null,
            gpuLoad: null,
            memoryShare: null,
            cappedFps: null,
          }),
        ),
      );
      const judged = new Map(judgeLimits(cells).map(({ setupId, testKey, limit }) => [`${setupId} ${testKey}`, limit]));
      let scored = 0;
      let named = 0;
      for (const { cpu, gpu, label } of one.expected.labels) {
        for (const [resolution, expected] of Object.entries(label as Record<string, string>)) {
          if (expected === "mixed") continue;
          const limit = judged.get(`${cpu}/${gpu} ${resolution}`);
          scored += 1;
          if (limit === expected) named += 1;
          expect([expected, "mixed", "not known"], `${cpu} ${gpu} ${resolution}`).toContain(limit);
        }
      }
      expect(named / scored).toBeGreaterThan(0.7);
    });
  }
});
