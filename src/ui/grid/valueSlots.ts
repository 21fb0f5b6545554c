import type { RunSummary } from "@/core/cell";
import { figure, type ReviewModel, type ReviewSetup, type ReviewTest } from "@/core/report";
import { bytesText } from "./gridCells";

/** A column of the sheet: one run number of one test. */
export interface SlotColumn {
  key: string;
  test: ReviewTest;
  number: number;
  /** The first of its test. */
  first: boolean;
}

/** What stands in a slot. */
export interface Slot {
  /** As it would be typed; round-trips exactly. */
  text: string;
  /** As it is shown. */
  shown: string;
  /** From a log or a run sheet: not to be typed over. */
  fixed: boolean;
  seen: number | null;
  state: "empty" | "valid" | "failed" | "discarded";
}

const EMPTY: Slot = { text: "", shown: "", fixed: false, seen: null, state: "empty" };

export const slotKey = (setupId: string, testKey: string, number: number) => `${setupId}/${testKey}/${number}`;

/** A number as digits, without an exponent. */
const digits = (value: number) => (/e/.test(String(value)) ? value.toFixed(9).replace(/0+$/, "") : String(value));

function slotOf(run: RunSummary): Slot {
  const fixed = !run.typed;
  const value = run.frames?.averageFps ?? run.result;
  const common = { fixed, seen: run.rowVersion };
  if (run.status === "failed") return { ...common, text: `failed: ${run.reason ?? "not said"}`, shown: "failed", state: "failed" };
  const size = run.outputBytes;
  const text = value === null ? "" : `${digits(value)}${size === null ? "" : ` / ${digits(size)} B`}`;
  const shown = value === null ? "log" : `${figure(value)}${size === null ? "" : ` / ${bytesText(size)}`}`;
  return { ...common, text, shown, state: run.status === "discarded" ? "discarded" : "valid" };
}

/** The columns of a sheet: for each test as many runs as the suite asks for, and those that are there beyond it. */
export function slotColumns(model: ReviewModel, tests: readonly ReviewTest[]): SlotColumn[] {
  const rows = new Set(model.setups.map(({ id }) => id));
  const most = new Map<string, number>();
  for (const run of model.runs) if (rows.has(run.setupId)) most.set(run.testKey, Math.max(most.get(run.testKey) ?? 0, run.number));
  return tests.flatMap((test) =>
    Array.from({ length: Math.max(test.runsWanted, most.get(test.key) ?? 0) }, (_, i) => ({
      key: `${test.key}/${i + 1}`,
      test,
      number: i + 1,
      first: i === 0,
    })),
  );
}

/** Every slot that holds a run, by its key. */
export function filledSlots(model: ReviewModel): Map<string, Slot> {
  return new Map(model.runs.map((run) => [slotKey(run.setupId, run.testKey, run.number), slotOf(run)]));
}

/** The slot at a place: what was typed a moment ago, what the lab has, or nothing. */
export function slotAt(filled: ReadonlyMap<string, Slot>, fresh: ReadonlyMap<string, Slot>, setup: ReviewSetup, column: SlotColumn): Slot {
  const key = slotKey(setup.id, column.test.key, column.number);
  return fresh.get(key) ?? filled.get(key) ?? EMPTY;
}
