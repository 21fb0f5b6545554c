import { describe, expect, it } from "vitest";
import { outcomeText, usesText } from "./IntakeMemory";

describe("what an import came to", () => {
  const none = { stored: 0, present: 0, waiting: 0, refused: [], state: "done" as const };
  it("is said in a line, without what there was none of", () => {
    expect(outcomeText({ ...none, stored: 1 })).toBe("1 file stored");
    expect(outcomeText({ ...none, stored: 72, present: 3, refused: [{ path: "a", reason: "b" }] })).toBe("72 files stored, 3 there before, 1 refused");
    expect(outcomeText({ ...none, stored: 8, waiting: 40, state: "cancelled" })).toBe("cancelled: 8 files stored, 40 not read");
    expect(outcomeText(none)).toBe("nothing");
  });
});

describe("what a profile reads", () => {
  it("names channels with their units, and counts what is left out", () => {
    expect(
      usesText([
        { use: "ignore" },
        { use: "frame-time", unit: "ms" },
        { use: "channel", channel: "gpu", unit: "W" },
        { use: "time", unit: "clock" },
        { use: "fps" },
        { use: "ignore" },
      ]),
    ).toBe("frame time (ms), gpu (W), time (clock), fps; 2 left out");
    expect(usesText([{ use: "fps" }])).toBe("fps");
  });
});
