import { describe, expect, it } from "vitest";
import { judgeLimits, type LimitCell } from "./judgeLimits";

const cell = (known: Partial<LimitCell>): LimitCell => ({
  setupId: "a",
  cpuId: "p",
  gpuId: "g",
  testKey: "t@1",
  family: "mill",
  resolution: "2560x1440",
  fps: 100,
  lowShare: 0.75,
  gpuLoad: null,
  memoryShare: null,
  cappedFps: null,
  ...known,
});
const first = (...cells: LimitCell[]) => judgeLimits(cells)[0];

describe("judgeLimits by loads", () => {
  it("calls a busy card the limit, and a waiting one not", () => {
    expect(first(cell({ gpuLoad: 0.98 }))).toMatchObject({ limit: "gpu", confidence: "sure", reasons: ["the card is 98 % busy"] });
    expect(first(cell({ gpuLoad: 0.7 }))).toMatchObject({ limit: "cpu", confidence: "sure", reasons: ["the card waits (70 % busy)"] });
    expect(first(cell({ gpuLoad: 0.94 }))?.limit).toBe("not known");
  });

  it("does not believe a busy card whose rate stays level with fewer pixels", () => {
    const fewer = cell({ resolution: "1920x1080", testKey: "u@1", fps: 101 });
    expect(first(cell({ gpuLoad: 0.98 }), fewer)).toMatchObject({ limit: "cpu", reasons: ["level with 1920x1080"] });
  });

  it("calls contradicting signs mixed and gives both", () => {
    const other = cell({ setupId: "b", cpuId: "q", fps: 101 });
    expect(first(cell({ gpuLoad: 0.7 }), other)).toMatchObject({ limit: "mixed", confidence: "likely" });
  });

  it("puts a cap before everything, and full memory with collapsing lows before loads", () => {
    expect(first(cell({ gpuLoad: 0.98, cappedFps: 60 }))).toMatchObject({ limit: "cap", reasons: ["frames are held at 60.0 fps"] });
    const others = ["b", "c", "d"].map((setupId) => cell({ setupId }));
    expect(first(cell({ memoryShare: 0.97, lowShare: 0.4, gpuLoad: 0.98 }), ...others)?.limit).toBe("memory");
    expect(first(cell({ memoryShare: 0.97, lowShare: 0.74, gpuLoad: 0.98 }), ...others)?.limit).toBe("gpu");
  });

  it("never takes cells of another family for neighbours", () => {
    expect(first(cell({}), cell({ family: "quay", resolution: "1920x1080", fps: 100 }))?.limit).toBe("not known");
  });
});
