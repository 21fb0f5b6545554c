import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { InstrumentList, InstrumentMessage, joinRecording } from "./instrumentMessage";

const frames = (t_s: number, ...frame_time_ms: number[]): InstrumentMessage => ({ kind: "frames", t_s, frame_time_ms });
const sensors = (t_s: number, values: Record<string, number>): InstrumentMessage => ({ kind: "sensors", t_s, values });
const channel = (recording: ReturnType<typeof joinRecording>, name: string) =>
  Array.from(recording.sensors?.channels.find((one) => one.name === name)?.values ?? []);

describe("joinRecording", () => {
  it("keeps the frames of the run in order and leaves those of the warm-up out", () => {
    const recording = joinRecording([frames(-2, 20, 21), frames(0, 10, 11), frames(0.021, 12), { kind: "end", t_s: 0.033 }]);
    expect(Array.from(recording.frameTimesMs)).toEqual([10, 11, 12]);
    expect(recording).toMatchObject({ complete: true, crash: null, gaps: [], sensors: null, result: null });
  });

  it("joins instruments that read at their own times into one log: what was not read is not known, never zero", () => {
    const recording = joinRecording([sensors(-1, { gpu_c: 40 }), sensors(0.4, { wall_w: 310 }), sensors(0.9, { gpu_c: 55, wall_w: 312 })]);
    expect(Array.from(recording.sensors?.timeS ?? [])).toEqual([-1, 0.4, 0.9]);
    expect(channel(recording, "gpu_c")).toEqual([40, Number.NaN, 55]);
    expect(channel(recording, "wall_w")).toEqual([Number.NaN, 310, 312]);
  });

  it("notes who went away, when and why, and for good where nobody came back", () => {
    const recording = joinRecording([
      { kind: "gone", t_s: 3, instrument: "wall-meter", reason: "cable" },
      { kind: "gone", t_s: 4, instrument: "probes", reason: "battery" },
      { kind: "back", t_s: 7, instrument: "wall-meter" },
    ]);
    expect(recording.gaps).toEqual([
      { instrument: "wall-meter", fromS: 3, toS: 7, reason: "cable" },
      { instrument: "probes", fromS: 4, toS: null, reason: "battery" },
    ]);
    expect(recording.complete).toBe(false);
  });

  it("tells a crash, an end and a break apart", () => {
    expect(joinRecording([frames(0, 9), { kind: "crash", t_s: 1, reason: "out of memory" }])).toMatchObject({ complete: false, crash: "out of memory" });
    expect(joinRecording([frames(0, 9), { kind: "result", t_s: 1, value: 41.5, unit: "s" }, { kind: "end", t_s: 1 }])).toMatchObject({
      complete: true,
      result: 41.5,
    });
    expect(joinRecording([frames(0, 9)])).toMatchObject({ complete: false, crash: null });
  });

  it("loses no frame and no reading, however they are cut into messages (seed 5)", () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 1, max: 60, noNaN: true }), { minLength: 1, maxLength: 200 }), fc.integer({ min: 1, max: 40 }), (times, size) => {
        const messages: InstrumentMessage[] = [];
        let t = 0;
        for (let i = 0; i < times.length; i += size) {
          const batch = times.slice(i, i + size);
          messages.push(frames(t, ...batch), sensors(t, { gpu_c: 50 + i }));
          t += batch.reduce((sum, one) => sum + one, 0) / 1000;
        }
        const recording = joinRecording(messages);
        expect(Array.from(recording.frameTimesMs)).toEqual(times);
        expect(recording.sensors?.timeS.length).toBe(Math.ceil(times.length / size));
      }),
      { seed: 5 },
    );
  });
});

describe("the interface of instruments", () => {
  it("refuses a frame time of zero or below, a channel without a unit, and a reading that is no number", () => {
    expect(InstrumentMessage.safeParse(frames(0, 0)).success).toBe(false);
    expect(InstrumentMessage.safeParse(frames(0, -3)).success).toBe(false);
    expect(InstrumentMessage.safeParse(sensors(0, { temperature: 40 })).success).toBe(false);
    expect(InstrumentMessage.safeParse({ kind: "sensors", t_s: 0, values: { gpu_c: "40" } }).success).toBe(false);
    expect(InstrumentMessage.safeParse({ kind: "result", t_s: 0, value: 0, unit: "s" }).success).toBe(false);
    expect(InstrumentMessage.safeParse({ kind: "party", t_s: 0 }).success).toBe(false);
  });

  it("takes a real host without anything simulated", () => {
    const list = InstrumentList.parse({ name: "Recorder", instruments: [{ id: "frames", name: "Frames", channels: ["gpu_load_ratio", "fan1_rpm"] }] });
    expect(list.simulated).toBeNull();
    expect(InstrumentList.safeParse({ name: "Recorder", instruments: [{ id: "x", name: "X", channels: ["Watts"] }] }).success).toBe(false);
  });
});
