import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { Deps } from "@/server/useCase";
import { emptyLab, importFiles, rowCounts, smallPackage } from "../helpers/testLab";

let deps: Deps;
let drop: () => Promise<void>;
beforeAll(async () => {
  ({ deps, drop } = await emptyLab());
});
afterAll(() => drop());

const NAMES = Object.keys(smallPackage());

/** Ways in which a file arrives broken: cut off, a byte changed, a line lost or doubled, a stretch of noise, emptied. */
const damage = fc.oneof(
  fc.record({ kind: fc.constant("cut" as const), at: fc.double({ min: 0, max: 0.99, noNaN: true }) }),
  fc.record({ kind: fc.constant("byte" as const), at: fc.double({ min: 0, max: 0.99, noNaN: true }), byte: fc.integer({ min: 0, max: 255 }) }),
  fc.record({ kind: fc.constant("line lost" as const), at: fc.double({ min: 0, max: 0.99, noNaN: true }) }),
  fc.record({ kind: fc.constant("line twice" as const), at: fc.double({ min: 0, max: 0.99, noNaN: true }) }),
  fc.record({ kind: fc.constant("noise" as const), at: fc.double({ min: 0, max: 0.99, noNaN: true }), bytes: fc.uint8Array({ minLength: 1, maxLength: 40 }) }),
  fc.record({ kind: fc.constant("empty" as const) }),
);

function apply(text: string, how: typeof damage extends fc.Arbitrary<infer T> ? T : never): Uint8Array {
  const bytes = new TextEncoder().encode(text);
  const lines = text.split("\n");
  switch (how.kind) {
    case "cut":
      return bytes.slice(0, Math.floor(bytes.length * how.at));
    case "byte": {
      const changed = bytes.slice();
      changed[Math.floor(bytes.length * how.at)] = how.byte;
      return changed;
    }
    case "line lost":
      return new TextEncoder().encode(lines.filter((_, i) => i !== Math.floor(lines.length * how.at)).join("\n"));
    case "line twice":
      return new TextEncoder().encode(lines.flatMap((line, i) => (i === Math.floor(lines.length * how.at) ? [line, line] : [line])).join("\n"));
    case "noise": {
      const at = Math.floor(bytes.length * how.at);
      return Uint8Array.from([...bytes.slice(0, at), ...how.bytes, ...bytes.slice(at)]);
    }
    case "empty":
      return new Uint8Array();
  }
}

describe("a damaged package", () => {
  it("is imported whole or not at all, and a refusal names a file and a reason: 120 seeded damages", async () => {
    const before = await rowCounts(deps.database);
    let refused = 0;
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...NAMES), damage, async (name, how) => {
        const abort = new AbortController();
        const files = { ...smallPackage(), [name]: apply(smallPackage()[name] as string, how) };
        // What is still whole after the damage is stopped at its checks, so that each damage meets an empty lab.
        const result = await importFiles(deps, files, {
          signal: abort.signal,
          onProgress: ({ phase, done, of }) => phase === "logs" && done === of && abort.abort(),
        }).catch((error: unknown) => error);
        if (result instanceof Error) throw result;
        const answer = result as Awaited<ReturnType<typeof importFiles>>;
        if (!answer.ok && answer.problem.kind === "refused") {
          refused += 1;
          for (const problem of answer.problem.problems) {
            expect(problem.file.length).toBeGreaterThan(0);
            expect(problem.reason.length).toBeGreaterThan(10);
          }
          expect(await rowCounts(deps.database)).toEqual(before);
        }
        if (answer.ok) {
          // Harmless damage (a digit of a frame time): the whole package went in. Start again from an empty lab.
          await drop();
          ({ deps, drop } = await emptyLab());
        }
      }),
      { numRuns: 120, seed: 20261120 },
    );
    console.log(`damaged packages refused: ${refused} of 120; the others were still whole`);
    expect(refused).toBeGreaterThan(60);
  });
});
