import { describe, expect, it } from "vitest";
import { energyOverWindow, framesPerJoule } from "./energy";

const log = (pairs: [number, number][], from: number, to: number) =>
  energyOverWindow(
    Float64Array.from(pairs, ([t]) => t),
    Float64Array.from(pairs, ([, w]) => w),
    from,
    to,
  );
const kindOf = (result: ReturnType<typeof log>) => (result.ok ? "ok" : result.problem.kind);

describe("energyOverWindow", () => {
  it("integrates a ramp exactly, interpolated at the window's edges", () => {
    const result = log(
      [
        [-1, 100],
        [0.5, 130],
        [2, 160],
        [3, 180],
      ],
      0,
      2,
    );
    expect(result.ok && result.value.joules).toBeCloseTo(280, 9);
    expect(result.ok && result.value.meanW).toBeCloseTo(140, 9);
  });

  it("skips what the meter did not give, and refuses a hole of over 2 s", () => {
    expect(
      log(
        [
          [0, 100],
          [0.5, Number.NaN],
          [1, 100],
          [2, 100],
        ],
        0,
        2,
      ),
    ).toMatchObject({ ok: true, value: { joules: 200 } });
    expect(
      kindOf(
        log(
          [
            [0, 100],
            [1, Number.NaN],
            [2.5, 100],
            [3, 100],
          ],
          0,
          3,
        ),
      ),
    ).toBe("gap-in-log");
  });

  it("holds the first and last value over at most a second, and refuses a log that covers less", () => {
    expect(
      log(
        [
          [0.5, 100],
          [2, 100],
          [3.5, 100],
        ],
        0,
        4,
      ),
    ).toMatchObject({ ok: true, value: { joules: 400 } });
    expect(
      kindOf(
        log(
          [
            [1.5, 100],
            [3, 100],
          ],
          0,
          3,
        ),
      ),
    ).toBe("log-does-not-cover");
    expect(
      kindOf(
        log(
          [
            [0, 100],
            [1.5, 100],
          ],
          0,
          3,
        ),
      ),
    ).toBe("log-does-not-cover");
  });

  it("refuses negative power and fewer than two samples", () => {
    expect(
      kindOf(
        log(
          [
            [0, 100],
            [1, -5],
          ],
          0,
          1,
        ),
      ),
    ).toBe("negative-power");
    expect(kindOf(log([[0, 100]], 0, 1))).toBe("too-few-samples");
  });

  it("adds up: two halves of a window have the energy of the whole", () => {
    const pairs = Array.from({ length: 60 }, (_, i): [number, number] => [i * 0.37, 150 + 40 * Math.sin(i)]);
    const joules = (from: number, to: number) => {
      const result = log(pairs, from, to);
      return result.ok ? result.value.joules : Number.NaN;
    };
    expect(joules(0.2, 9.1) + joules(9.1, 20)).toBeCloseTo(joules(0.2, 20), 9);
  });

  it("gives no frames per joule for nothing", () => {
    expect(() => framesPerJoule(0, 10)).toThrow(RangeError);
  });
});
