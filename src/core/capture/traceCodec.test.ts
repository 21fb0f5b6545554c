import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { decodeTrace, encodeTrace } from "./traceCodec";

const sameBits = (a: Float64Array, b: Float64Array) => a.length === b.length && a.every((value, i) => Object.is(value, b[i]));

describe("encodeTrace and decodeTrace", () => {
  it("bring back any series bit for bit, gaps, negative zero and infinities included", () => {
    fc.assert(
      fc.property(fc.array(fc.double(), { maxLength: 200 }), (list) => {
        const values = Float64Array.from(list);
        expect(sameBits(decodeTrace(encodeTrace(values)), values)).toBe(true);
      }),
      { numRuns: 500 },
    );
  });

  it("bring back decimal logs of nought to nine decimals bit for bit", () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 9 }), fc.array(fc.integer({ min: 1, max: 2_000_000_000 }), { minLength: 1, maxLength: 300 }), (decimals, whole) => {
        const values = Float64Array.from(whole, (n) => Number(`${n}e-${decimals}`));
        const encoded = encodeTrace(values);
        expect(encoded.codec).not.toBe("f64");
        expect(sameBits(decodeTrace(encoded), values)).toBe(true);
      }),
      { numRuns: 300 },
    );
  });

  it("keep a log with more than nine decimals exactly, at eight bytes a value", () => {
    const values = Float64Array.of(16.666666666666668, 1 / 3, 7.1);
    const encoded = encodeTrace(values);
    expect(encoded.codec).toBe("f64");
    expect(encoded.bytes.length).toBe(24);
    expect(sameBits(decodeTrace(encoded), values)).toBe(true);
  });

  it("take under three bytes a frame for a log with four decimals", () => {
    const values = Float64Array.from({ length: 6000 }, (_, i) => Math.round((10 + Math.sin(i / 9) + ((i * 7919) % 100) / 100) * 10_000) / 10_000);
    expect(encodeTrace(values).bytes.length / values.length).toBeLessThan(3);
  });

  it("refuse bytes that end early, go on too long, or name an unknown codec", () => {
    const encoded = encodeTrace(Float64Array.of(10.5, 11.25, 9.75));
    expect(() => decodeTrace({ ...encoded, bytes: encoded.bytes.slice(0, -1) })).toThrow(RangeError);
    expect(() => decodeTrace({ ...encoded, count: 2 })).toThrow(RangeError);
    expect(() => decodeTrace({ codec: "f64", count: 2, bytes: new Uint8Array(15) })).toThrow(RangeError);
    expect(() => decodeTrace({ ...encoded, codec: "d99" })).toThrow(RangeError);
  });
});
