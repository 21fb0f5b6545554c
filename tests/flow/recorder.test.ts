import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { encodeParcel } from "@/core/intake";
import { createRandom } from "@/core/random";
import { endIntake, openIntake } from "@/server/intakes";
import { loadRecorder } from "@/server/loadRecorder";
import { loadReview } from "@/server/loadReview";
import { loadRun } from "@/server/loadRun";
import { prepareRun } from "@/server/prepareRun";
import { storeRuns } from "@/server/storeRuns";
import { EDITOR, emptyLab, importFiles, smallPackage } from "../helpers/testLab";

let lab: Awaited<ReturnType<typeof emptyLab>>;
beforeAll(async () => {
  lab = await emptyLab();
  const { "claims.csv": _, ...files } = smallPackage();
  files["datapackage.json"] = (files["datapackage.json"] as string).replace(',{"name":"claims","path":"claims.csv"}', "");
  const made = await importFiles(lab.deps, files);
  if (!made.ok) throw new Error(JSON.stringify(made.problem));
});
afterAll(() => lab.drop());

/** Frame intervals as a browser gives them: the display's period, now and then two of them. */
function displayFrames(hz: number, seconds: number): Float64Array {
  const random = createRandom(5);
  const period = 1000 / hz;
  return Float64Array.from({ length: hz * seconds }, () => Math.round((random.next() < 0.01 ? 2 : 1) * period * (1 + 0.0008 * random.normal()) * 1e4) / 1e4);
}

describe("a run recorded in a browser", () => {
  it("starts from the lab's frame tests, the runs there are, and the review that shows each cell", async () => {
    const recorder = await loadRecorder(lab.deps);
    expect(recorder.frameTests.sort()).toEqual(["mill@1", "quay@1"]);
    expect(recorder.taken["card-a/mill@1"]).toEqual([1, 2, 3]);
    expect(recorder.reviewOf["card-b/quay@1"]).toBe("duel");
  });

  it("is filed with the display's rate and the clock's step, and found to be capped at just that rate", async () => {
    const path = "this browser: display at 60.0 Hz, clock step 5 µs, 400 shapes";
    const place = { setupId: "card-a", testKey: "mill@1", number: 4 };
    const opened = await openIntake(lab.deps, EDITOR, { label: "browser", files: [{ ...place, path, stamp: "now" }] });
    if (!opened.ok) throw new Error("not opened");
    const log = { frameTimesMs: displayFrames(60, 20), sensors: null };
    expect(encodeParcel({ runs: [{ ...place, files: [{ path, stamp: "now" }], log }], refused: [] }).length).toBeLessThan(4 * log.frameTimesMs.length);
    const stored = await storeRuns(lab.deps, EDITOR, {
      intakeId: opened.value.intakeId,
      prepared: [prepareRun({ ...place, files: [{ path, stamp: "now" }] }, log)],
      refused: [],
    });
    expect(stored).toMatchObject({ ok: true, value: [{ state: "stored" }] });
    expect(await endIntake(lab.deps, EDITOR, { intakeId: opened.value.intakeId, state: "done" })).toMatchObject({ ok: true });
    const runId = stored.ok ? (stored.value[0]?.runId as string) : "";
    expect((await loadRun(lab.deps, runId))?.note).toBe(`from ${path}`);
    const findings = (await loadReview(lab.deps, "duel"))?.findings ?? [];
    const cap = findings.find(({ check, runIds }) => check === "frame cap" && runIds.includes(runId));
    expect(cap).toMatchObject({ setupId: "card-a", testKey: "mill@1" });
    expect(cap?.numbers.cap_fps).toBeCloseTo(60, 0);
  });
});
