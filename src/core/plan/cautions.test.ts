import { describe, expect, it } from "vitest";
import { cautionsOfChange, cautionsOfPreFlight, cautionsOfRun } from "./cautions";

const swap = (...kinds: string[]) => kinds.map((kind) => ({ activity: `swap:${kind}` as const, detail: "" }) as Parameters<typeof cautionsOfChange>[0][number]);
const ids = (...kinds: string[]) => cautionsOfChange(swap(...kinds), {}).map(({ id }) => id);

describe("the cautions of a change of parts", () => {
  it("begin with mains and static whenever a part is touched, and are none for settings alone", () => {
    for (const kind of ["gpu", "cpu", "cooler", "board", "memory", "psu", "storage", "case", "system"])
      expect(ids(kind).slice(0, 2), kind).toEqual(["mains", "static"]);
    expect(cautionsOfChange([], {})).toEqual([]);
  });

  it("name heat, cables and liquids where the part brings them", () => {
    expect(ids("gpu")).toEqual(["mains", "static", "hot", "cables"]);
    expect(ids("cpu")).toEqual(["mains", "static", "hot", "liquid"]);
    expect(ids("cooler")).toEqual(["mains", "static", "hot", "liquid"]);
    expect(ids("psu")).toEqual(["mains", "static", "cables"]);
    expect(ids("board")).toEqual(["mains", "static", "hot", "cables", "liquid"]);
    expect(ids("memory")).toEqual(["mains", "static"]);
  });

  it("say each once, however many parts change", () => {
    const all = ids("gpu", "cpu", "board", "psu");
    expect(new Set(all).size).toBe(all.length);
  });

  it("speak of the warranty where clocks, limits or lids are touched, parts or not", () => {
    for (const key of ["gpu_overclock", "cpu_delid", "power_limit", "core_voltage"])
      expect(
        cautionsOfChange([], { [key]: "on" }).map(({ id }) => id),
        key,
      ).toEqual(["warranty"]);
    expect(cautionsOfChange([], { resolution: "1440" })).toEqual([]);
  });

  it("ask for mains to be acknowledged, and never let a supply be opened", () => {
    const [mains] = cautionsOfChange(swap("gpu"), {});
    expect(mains).toMatchObject({ acknowledge: true, text: expect.stringContaining("Never open a power supply.") });
  });
});

describe("the cautions of a run", () => {
  it("are the stop rules of a soak, with a warning of its own for a cooler that is rated too low", () => {
    expect(cautionsOfRun("frames", true)).toEqual([]);
    expect(cautionsOfRun("soak", false)).toMatchObject([{ id: "soak", acknowledge: true, text: expect.stringContaining("any smoke") }]);
    expect(cautionsOfRun("soak", true)).toMatchObject([
      { id: "soak" },
      { id: "passive", acknowledge: true, text: expect.stringContaining("never leave it alone") },
    ]);
  });

  it("send whoever meters the wall to a finished meter, and everything behind it to licensed people and local codes", () => {
    expect(cautionsOfPreFlight(false)).toEqual([]);
    expect(cautionsOfPreFlight(true)).toMatchObject([
      { id: "meter", acknowledge: true, text: expect.stringMatching(/rated plug-in meter.*licensed electricians under local codes/) },
    ]);
  });
});
