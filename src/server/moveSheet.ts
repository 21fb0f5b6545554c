import { eq } from "drizzle-orm";
import { z } from "zod";
import { joinRecording } from "@/core/capture";
import { foldSheet, haveCooled, mayMove, type SheetEvent, type SheetProblem } from "@/core/plan";
import { fail, ok, type Result } from "@/core/result";
import { runs } from "@/db/schema";
import { changeRun } from "./changeRun";
import { fileRun } from "./fileRun";
import { liveRecording, sheetKey, tellSheet } from "./liveSheets";
import { loadSheet } from "./loadSheet";
import type { UseCaseProblem } from "./problems";
import { hasInstruments, readNow, recordRun } from "./recordRun";
import { appendEvent, isTaken, learnFromSheet } from "./sheetEvents";
import type { Actor, Deps } from "./useCase";

/** One move at a run sheet; `after` is the last event that its screen had seen. */
export const SheetMove = z.object({
  reviewId: z.string(),
  benchId: z.string(),
  planNumber: z.int(),
  after: z.int().min(0),
  stepKey: z.string(),
  kind: z.enum(["start", "done", "failed", "skipped", "rerun", "note", "check", "acknowledge", "undo"]),
  text: z.string().trim().max(1000).nullable(),
  /** Bench seconds in one second: above 1 only where the instruments are stand-ins. */
  pace: z.number().min(1).max(1000),
  /** A typed result: a number or mm:ss, where no instrument records. */
  result: z.string().trim().max(40).nullable(),
});
export type SheetMove = z.infer<typeof SheetMove>;

const sentenceOf = (problem: SheetProblem): string => {
  switch (problem.kind) {
    case "held-unchecked":
      return `${problem.check} is not checked yet; it was to be held constant. Press its number when it is so.`;
    case "not-acknowledged":
      return `Acknowledge first (A): ${problem.caution}`;
    case "timer-running":
      return `Not yet: ${Math.ceil(problem.secondsLeft)} s are left.`;
    case "not-now":
      return problem.reason;
  }
};

/** A typed result: a number with a point, or minutes and seconds as mm:ss, in seconds. */
export function parseResult(text: string): number | undefined {
  const clock = text.match(/^(\d{1,3}):([0-5]\d(?:\.\d+)?)$/);
  if (clock) return Number(clock[1]) * 60 + Number(clock[2]);
  const value = Number(text);
  return text !== "" && Number.isFinite(value) && value > 0 ? value : undefined;
}

/**
 * Makes one move at a run sheet. Two screens stay in step: a move made on what another has changed since is refused with
 * what there is now. Starting a run starts the instruments; a rerun discards the run before it, with its reason.
 */
export async function moveSheet(deps: Deps, actor: Actor, input: SheetMove): Promise<Result<SheetEvent, UseCaseProblem>> {
  const model = await loadSheet(deps, input.reviewId, input.benchId);
  if (!model || model.planNumber !== input.planNumber) return fail({ kind: "invalid", reason: "A newer plan is in force; open its run sheet." });
  const sheet = foldSheet(model.steps, model.events);
  if (sheet.sequence !== input.after) {
    const last = model.events.at(-1);
    return fail({
      kind: "changed-meanwhile",
      what: "run sheet",
      who: last?.who ?? "Somebody",
      at: new Date(last?.atMs ?? 0).toISOString(),
      now: `“${last?.kind}”`,
    });
  }
  const atMs = deps.now().getTime();
  const move = { ...input, atMs };
  const waits = input.kind === "done" && sheet.steps[sheet.current]?.step.kind === "wait";
  const allowed = mayMove(sheet, move, waits && haveCooled(await readNow(deps))?.cooled === true);
  if (!allowed.ok) return fail({ kind: "invalid", reason: sentenceOf(allowed.problem) });
  const state = allowed.value;
  if ((input.kind === "failed" || input.kind === "rerun" || input.kind === "skipped") && !input.text)
    return fail({ kind: "invalid", reason: "Say why in a few words; it stays with the run." });
  if (input.kind === "undo" && model.events.at(-1)?.runId) return fail({ kind: "invalid", reason: "A filed run is not taken back; press R to run it again." });
  const key = sheetKey(input.reviewId, model.planNumber, input.benchId);
  if (input.kind === "done" && liveRecording(key)) return fail({ kind: "invalid", reason: "The recording is still running; it files itself when it ends." });
  if (input.kind === "undo" && liveRecording(key))
    return fail({ kind: "invalid", reason: "A recording is running: press F to end it as failed, or let it end." });
  const typed = input.result === null ? null : parseResult(input.result);
  if (typed === undefined)
    return fail({ kind: "invalid", reason: `“${input.result}” is not a result: type a number above 0 or minutes and seconds, as 3:11.` });
  const starts = input.kind === "start" && state.step.kind === "run";
  const records = starts && (await hasInstruments(deps));
  // What was recorded until a person ended it stays with the failed run.
  const live = liveRecording(key);
  const broken = input.kind === "failed" && live ? joinRecording(live.messages) : null;
  if (input.kind === "failed" || input.kind === "skipped") live?.stop();

  const write = () =>
    deps.database.transaction(async (tx) => {
      let runId: string | null = null;
      if (state.step.kind === "run" && input.kind === "failed")
        runId = await fileRun(tx, deps, actor, { model, state, status: "failed", reason: input.text, recording: broken, result: null, endedMs: atMs });
      if (state.step.kind === "run" && input.kind === "done" && typed !== null)
        runId = await fileRun(tx, deps, actor, { model, state, status: "valid", reason: null, recording: null, result: typed, endedMs: atMs });
      const written = await appendEvent(
        tx,
        model,
        { atMs, who: actor.name, stepKey: input.stepKey, kind: input.kind, text: input.text, runId, pace: input.pace },
        sheet.sequence + 1,
      );
      await learnFromSheet(tx, model, foldSheet(model.steps, [...model.events, written]));
      return written;
    });
  const event = await write().catch((error: unknown) => {
    if (isTaken(error)) return undefined;
    throw error;
  });
  if (!event) return fail({ kind: "changed-meanwhile", what: "run sheet", who: "Another screen", at: new Date(atMs).toISOString(), now: "one step further" });
  tellSheet(key, { type: "event", event });
  if (input.kind === "rerun" && state.runId) {
    const [run] = await deps.database.select().from(runs).where(eq(runs.id, state.runId));
    if (run?.status === "valid")
      await changeRun(deps, actor, { runId: run.id, rowVersion: run.rowVersion, status: "discarded", reason: input.text ?? "run again" });
  }
  if (records) await recordRun(deps, actor, model, state, event);
  return ok(event);
}
