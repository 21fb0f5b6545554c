import { describe, expect, it } from "vitest";
import { smallModel } from "../../../tests/helpers/smallModel";
import { doubtedRuns, findingEffects } from "./findingEffect";
import type { ReviewFinding } from "./reviewModel";

const model = smallModel();
const run = model.runs.find(({ setupId, status }) => setupId !== model.baselineId && status === "valid") as (typeof model.runs)[0];
const finding = (known: Partial<ReviewFinding>): ReviewFinding => ({
  id: "doubt",
  check: "outlier run",
  subject: `run:${run.id}`,
  setupId: run.setupId,
  testKey: run.testKey,
  runId: run.id,
  state: "open",
  reason: null,
  who: null,
  at: null,
  sentence: "",
  advice: "",
  runIds: [run.id],
  numbers: {},
  raised: true,
  rowVersion: 1,
  ...known,
});

describe("findingEffects", () => {
  it("say how the row's index moves without the doubted run: up where it is the slowest, and by less than the run is off", () => {
    const slow = {
      ...model,
      runs: model.runs.map((one) => (one === run && one.frames ? { ...one, frames: { ...one.frames, averageFps: one.frames.averageFps * 0.5 } } : one)),
    };
    const effect = findingEffects(slow, [finding({})]).get("doubt");
    expect(effect?.indexChange as number).toBeGreaterThan(0);
    expect(effect?.indexChange as number).toBeLessThan(1);
    expect(effect?.largest as number).toBeGreaterThanOrEqual(effect?.indexChange as number);
  });

  it("know no effect where a doubt names no run that counts", () => {
    const effect = findingEffects(model, [finding({ runId: null, runIds: [] })]).get("doubt");
    expect(effect).toMatchObject({ indexChange: null, rankWithout: null, largest: 0 });
  });

  it("take the one doubted run, or all that are named and still there", () => {
    expect(doubtedRuns(model, finding({ runIds: [run.id, "another"] }))).toEqual([run.id]);
    expect(doubtedRuns(model, finding({ runId: null, runIds: [run.id, "gone"] }))).toEqual([run.id]);
  });
});
