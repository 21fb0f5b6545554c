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

  it("bring back differences of every length that a varint can have", () => {
    // 2^k − 1, 2^k and 2^k + 1 for every k that still fits, up and down, next to each other and apart.
    const whole = Array.from({ length: 50 }, (_, k) => [2 ** k - 1, 2 ** k, 2 ** k + 1]).flat();
    for (const list of [whole, [...whole].reverse(), whole.map((n, i) => (i % 2 === 0 ? n : -n)), whole.flatMap((n) => [n, 0])]) {
      const values = Float64Array.from(list);
      const encoded = encodeTrace(values);
      expect(encoded.codec).toBe("d0");
      expect(sameBits(decodeTrace(encoded), values)).toBe(true);
    }
  });

  it("refuse a trace that is cut anywhere, and bytes behind its end", () => {
    const values = Float64Array.from({ length: 40 }, (_, i) => (i % 3 === 0 ? 1e6 * i : i) / 10);
    const encoded = encodeTrace(values);
    for (let cut = 0; cut < encoded.bytes.length; cut += 1)
      expect(() => decodeTrace({ ...encoded, bytes: encoded.bytes.slice(0, cut) }), `cut at ${cut}`).toThrow(RangeError);
    expect(() => decodeTrace({ ...encoded, bytes: Uint8Array.of(...encoded.bytes, 0) })).toThrow(RangeError);
    expect(() => decodeTrace({ ...encoded, bytes: Uint8Array.of(...encoded.bytes, 0x80) })).toThrow(RangeError);
  });

  it("read bytes in the middle of others as well as alone", () => {
    const encoded = encodeTrace(Float64Array.of(16.7, 16.6, 16.9, 400.1, 16.7));
    const around = new Uint8Array(encoded.bytes.length + 11).fill(0xff);
    around.set(encoded.bytes, 5);
    expect([...decodeTrace({ ...encoded, bytes: around.subarray(5, 5 + encoded.bytes.length) })]).toEqual([16.7, 16.6, 16.9, 400.1, 16.7]);
  });

  it("never hang or answer with anything but numbers on bytes that nobody encoded (seed 27)", () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ maxLength: 60 }),
        fc.integer({ min: 0, max: 40 }),
        fc.constantFrom("d0", "d4", "d9", "f64", "d", "x"),
        (bytes, count, codec) => {
          try {
            const values = decodeTrace({ codec: codec as "d0", count, bytes });
            expect(values).toHaveLength(count);
          } catch (error) {
            expect(error).toBeInstanceOf(RangeError);
          }
        },
      ),
      { seed: 27, numRuns: 2000 },
    );
  });
});
