import { z } from "zod";
import type { Correction } from "./AssignmentTable";

const Stored = z.array(
  z.tuple([
    z.string(),
    z.object({ setupId: z.string().optional(), testKey: z.string().optional(), number: z.int().optional(), leftOut: z.boolean().optional() }),
  ]),
);
const keyOf = (label: string) => `parvex-corrections:${label}`;

/** Corrections that were made for the files of a drop in this browser, so that a closed tab loses none of them. */
export function readCorrections(label: string): Map<string, Correction> {
  try {
    const stored = Stored.safeParse(JSON.parse(localStorage.getItem(keyOf(label)) ?? "[]"));
    return new Map(stored.success ? (stored.data as [string, Correction][]) : []);
  } catch {
    return new Map();
  }
}

/** Keeps corrections in this browser; where it does not let us, they last as long as the tab. */
export function writeCorrections(label: string, corrections: ReadonlyMap<string, Correction>): void {
  try {
    if (corrections.size === 0) localStorage.removeItem(keyOf(label));
    else localStorage.setItem(keyOf(label), JSON.stringify([...corrections]));
  } catch {
    // A full or forbidden store only costs the memory beyond this tab.
  }
}
