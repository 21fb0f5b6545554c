import { expect } from "vitest";
import { foldSheet, type SheetEvent } from "@/core/plan";
import type { SheetModel } from "@/core/report";
import { loadSheet } from "@/server/loadSheet";
import { moveSheet, type SheetMove } from "@/server/moveSheet";
import type { Deps } from "@/server/useCase";
import { EDITOR } from "./testLab";

/** Works at a run sheet as its screen does: always on what there is now, hurried a thousandfold. */
export function sheetWalker(deps: () => Deps, reviewId: string, benchId: string) {
  const load = async () => (await loadSheet(deps(), reviewId, benchId)) as SheetModel;
  const now = async () => {
    const model = await load();
    return foldSheet(model.steps, model.events);
  };
  const move = async (kind: SheetMove["kind"], more: Partial<SheetMove> = {}) => {
    const model = await load();
    const sheet = foldSheet(model.steps, model.events);
    const stepKey = sheet.steps[Math.min(sheet.current, sheet.steps.length - 1)]?.step.key as string;
    const at = { reviewId, benchId, planNumber: model.planNumber, after: sheet.sequence, stepKey };
    return moveSheet(deps(), EDITOR, { ...at, kind, text: null, pace: 1000, result: null, ...more });
  };
  /** Acknowledges and checks all that the present step asks for. */
  const prepare = async () => {
    const sheet = await now();
    const state = sheet.steps[sheet.current];
    for (const { id, acknowledge } of state?.step.cautions ?? []) if (acknowledge) expect((await move("acknowledge", { text: id })).ok).toBe(true);
    for (const { id } of state?.step.checks ?? []) expect((await move("check", { text: id })).ok).toBe(true);
  };
  const until = async (done: (events: SheetEvent[]) => boolean) => {
    await expect.poll(async () => done((await load()).events), { timeout: 60_000, interval: 50 }).toBe(true);
  };
  return { load, now, move, prepare, until };
}
