import { readFileSync } from "node:fs";
import path from "node:path";
import { expect } from "vitest";

interface Tolerance {
  rel: number;
  abs: number;
  per_key?: Record<string, { rel: number; abs: number }>;
}

/** One case of a reference file. */
export interface ReferenceCase<Input, Expected> {
  id: string;
  kind: string;
  input: Input;
  expected: Expected;
  tolerance: Tolerance;
  source: { published: string };
}

/** The cases of one kind in a file of this folder. */
export function casesOf<Input, Expected>(file: string, kind: string): ReferenceCase<Input, Expected>[] {
  const content = JSON.parse(readFileSync(path.join(import.meta.dirname, `${file}.json`), "utf8")) as { cases: ReferenceCase<Input, Expected>[] };
  const found = content.cases.filter((one) => one.kind === kind);
  if (found.length === 0) throw new Error(`${file}.json has no case of the kind ${kind}`);
  return found;
}

/** Expects a value within a case's tolerance: |v − expected| ≤ abs + rel × |expected|; null expects no value. */
export function expectNear(actual: number | undefined, expected: number | null, tolerance: Tolerance, key: string): void {
  if (expected === null) {
    expect(actual, key).toBeUndefined();
    return;
  }
  const { rel, abs } = tolerance.per_key?.[key] ?? tolerance;
  const off = Math.abs((actual ?? Number.NaN) - expected);
  expect(off, `${key}: got ${actual}, expected ${expected}`).toBeLessThanOrEqual(abs + rel * Math.abs(expected));
}
