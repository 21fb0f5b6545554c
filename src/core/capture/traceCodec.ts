/**
 * How a series is stored: bit-exact for every finite double, and small where a log has a fixed number of decimals.
 *
 * `dN` (N = 0…9): every value is a whole number of 10^-N; differences, zig-zag, 7-bit varints. Frame times with four
 * decimals take about 2.7 bytes a frame. `f64`: eight bytes little-endian, for anything else and for gaps (NaN).
 */
export type TraceCodec = `d${number}` | "f64";

export interface EncodedTrace {
  codec: TraceCodec;
  count: number;
  bytes: Uint8Array;
}

const MAX_DECIMALS = 9;
// Differences of two such integers still fit a double exactly.
const MAX_SCALED = 2 ** 51;

const SCALES = Array.from({ length: MAX_DECIMALS + 1 }, (_, i) => 10 ** i);

/** Whether every value is a whole number of 10^-decimals that a double gives back bit for bit. −0 and NaN have no decimal form. */
function allExact(values: Float64Array, scale: number): boolean {
  for (let i = 0; i < values.length; i += 1) {
    const value = values[i] as number;
    const scaled = Math.round(value * scale);
    if (scaled / scale !== value || scaled > MAX_SCALED || scaled < -MAX_SCALED || (value === 0 && 1 / value < 0)) return false;
  }
  return true;
}

/** The fewest decimals with which every value comes back bit for bit, or undefined. */
function exactDecimals(values: Float64Array): number | undefined {
  // The first values nearly always tell; the rest is then looked at once.
  const head = values.subarray(0, 64);
  for (let decimals = 0; decimals <= MAX_DECIMALS; decimals += 1) {
    const scale = SCALES[decimals] as number;
    if (allExact(head, scale) && allExact(values, scale)) return decimals;
  }
  return undefined;
}

/** Encodes a series for storage. Shapes: any number of doubles, NaN for a gap; not modified. */
export function encodeTrace(values: Float64Array): EncodedTrace {
  const decimals = exactDecimals(values);
  if (decimals === undefined) {
    const bytes = new Uint8Array(values.length * 8);
    const view = new DataView(bytes.buffer);
    for (let i = 0; i < values.length; i += 1) view.setFloat64(i * 8, values[i] as number, true);
    return { codec: "f64", count: values.length, bytes };
  }
  const scale = 10 ** decimals;
  const buffer = new Uint8Array(values.length * 8 + 8);
  let length = 0;
  let previous = 0;
  for (let i = 0; i < values.length; i += 1) {
    const scaled = Math.round((values[i] as number) * scale);
    const difference = scaled - previous;
    previous = scaled;
    // Nearly all differences are small: those go by whole numbers of 32 bits, the others by arithmetic.
    if (difference > -0x3fff_ffff && difference < 0x3fff_ffff) {
      let rest = (difference << 1) ^ (difference >> 31);
      while (rest > 127) {
        buffer[length++] = (rest & 127) | 128;
        rest >>>= 7;
      }
      buffer[length++] = rest;
    } else {
      let rest = difference >= 0 ? difference * 2 : -difference * 2 - 1;
      while (rest >= 128) {
        buffer[length++] = (rest % 128) + 128;
        rest = Math.floor(rest / 128);
      }
      buffer[length++] = rest;
    }
  }
  return { codec: `d${decimals}`, count: values.length, bytes: buffer.slice(0, length) };
}

/** Decodes what `encodeTrace` made. Errors: RangeError where codec, count and bytes do not fit each other (a damaged row). */
export function decodeTrace({ codec, count, bytes }: EncodedTrace): Float64Array {
  const values = new Float64Array(count);
  if (codec === "f64") {
    if (bytes.length !== count * 8) throw new RangeError(`f64 trace of ${count} values has ${bytes.length} bytes`);
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    for (let i = 0; i < count; i += 1) values[i] = view.getFloat64(i * 8, true);
    return values;
  }
  const decimals = Number(codec.slice(1));
  if (!/^d\d$/.test(codec)) throw new RangeError(`unknown trace codec ${codec}`);
  const scale = 10 ** decimals;
  const length = bytes.length;
  const view = new DataView(bytes.buffer, bytes.byteOffset, length);
  let at = 0;
  let scaled = 0;
  for (let i = 0; i < count; i += 1) {
    if (at + 4 <= length) {
      // Up to four bytes at once and without a branch on their number, which no processor can foresee: the lowest bit that
      // ends a varint masks what belongs to it, and its seven-bit groups are pushed together.
      const word = view.getInt32(at, true);
      const ends = ~word & 0x8080_8080;
      const end = ends & -ends;
      if (end !== 0) {
        const own = word & (end | (end - 1));
        const rest = (own & 0x7f) | ((own >>> 1) & 0x3f80) | ((own >>> 2) & 0x1f_c000) | ((own >>> 3) & 0xfe0_0000);
        at += (32 - Math.clz32(end)) >>> 3;
        scaled += (rest >>> 1) ^ -(rest & 1);
        values[i] = scaled / scale;
        continue;
      }
    }
    let whole = 0;
    let byte = 128;
    for (let place = 1; byte >= 128; place *= 128) {
      if (at >= length) throw new RangeError(`${codec} trace ends after ${i} of ${count} values`);
      byte = bytes[at] as number;
      at += 1;
      whole += (byte & 127) * place;
    }
    scaled += whole % 2 === 0 ? whole / 2 : -(whole + 1) / 2;
    values[i] = scaled / scale;
  }
  if (at !== length) throw new RangeError(`${codec} trace holds more than ${count} values`);
  return values;
}
