import { eq } from "drizzle-orm";
import { createParser } from "eventsource-parser";
import { InstrumentList, InstrumentMessage, InstrumentReadings, joinRecording } from "@/core/capture";
import { foldSheet, type SheetEvent, type StepState } from "@/core/plan";
import type { HostLine, SheetModel } from "@/core/report";
import { instrumentHosts, tests } from "@/db/schema";
import { fileRun } from "./fileRun";
import { beginRecording, endRecording, liveRecording, sheetKey, tellSheet } from "./liveSheets";
import { loadPlanSetups } from "./loadSetups";
import { loadSheet } from "./loadSheet";
import { appendEvent, isTaken, learnFromSheet } from "./sheetEvents";
import type { Actor, Deps } from "./useCase";

/** A host that does not answer within this time is away. */
const ANSWERS_WITHIN_MS = 3000;

/** What each host of instruments says of itself, or why it does not. */
export async function listInstruments({ database }: Pick<Deps, "database">): Promise<HostLine[]> {
  const hosts = await database.select().from(instrumentHosts).orderBy(instrumentHosts.address);
  return Promise.all(
    hosts.map(async ({ address, name }) => {
      try {
        const response = await fetch(`${address}/instruments`, { signal: AbortSignal.timeout(ANSWERS_WITHIN_MS), cache: "no-store" });
        const list = InstrumentList.safeParse(await response.json());
        return list.success
          ? { address, name, list: list.data, trouble: null }
          : {
              address,
              name,
              list: null,
              trouble: `Its answer is not as the interface has it: ${list.error.issues[0]?.path.join(".")} ${list.error.issues[0]?.message}`,
            };
      } catch {
        return { address, name, list: null, trouble: "It does not answer; is it on, and is the address right?" };
      }
    }),
  );
}

/** Whether the lab has an instrument host that answers now. */
export async function hasInstruments(deps: Pick<Deps, "database">): Promise<boolean> {
  return (await listInstruments(deps)).some(({ list }) => list !== null);
}

/** What the lab's instruments read now, without recording; empty where none gives it. */
export async function readNow(deps: Pick<Deps, "database">): Promise<Record<string, number>> {
  const host = (await listInstruments(deps)).find(({ list }) => list !== null);
  if (!host) return {};
  try {
    const response = await fetch(`${host.address}/readings`, { signal: AbortSignal.timeout(ANSWERS_WITHIN_MS), cache: "no-store" });
    return InstrumentReadings.safeParse(await response.json()).data?.values ?? {};
  } catch {
    return {};
  }
}

/** Reads the messages of a host's answer as they come; what is not as the interface has it ends the recording with its reason. */
export async function* readMessages(response: Response): AsyncGenerator<InstrumentMessage> {
  if (!response.ok || !response.body) throw new Error(`the instruments answer ${response.status}: ${(await response.text()).slice(0, 200)}`);
  const waiting: string[] = [];
  const parser = createParser({ onEvent: ({ data }) => waiting.push(data) });
  const decoder = new TextDecoder();
  for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
    parser.feed(decoder.decode(chunk, { stream: true }));
    for (const data of waiting.splice(0)) {
      const message = InstrumentMessage.safeParse(JSON.parse(data));
      if (!message.success)
        throw new Error(`a message of the instruments cannot be read: ${message.error.issues[0]?.path.join(".")} ${message.error.issues[0]?.message}`);
      yield message.data;
    }
  }
}

/**
 * Records one run from the lab's instruments in the background: what comes is passed on to every screen, and at the end the
 * run files itself and its step is done; a crash files a failed run. Outlives the tab that started it.
 */
export async function recordRun(deps: Deps, actor: Actor, model: SheetModel, state: StepState, started: SheetEvent): Promise<void> {
  const key = sheetKey(model.review.id, model.planNumber, model.bench.id);
  const host = (await listInstruments(deps)).find(({ list }) => list !== null);
  if (!host || liveRecording(key)) return;
  const [testId] = (state.step.testKey as string).split("@") as [string];
  const [test] = await deps.database.select().from(tests).where(eq(tests.id, testId));
  const [setup] = await loadPlanSetups(deps.database, [state.step.setupId]);
  const abort = new AbortController();
  const stepKey = state.step.key;
  const recording = { stepKey, startedMs: started.atMs, messages: [] as InstrumentMessage[], stop: () => abort.abort() };
  beginRecording(key, recording);
  tellSheet(key, { type: "recording", stepKey, on: true });
  const seconds = (name: string) => state.step.timers.filter((timer) => timer.name === name).reduce((sum, timer) => sum + timer.seconds, 0);
  const request = {
    setup: { id: state.step.setupId, parts: setup?.parts ?? [], state: setup?.state ?? {} },
    test: {
      id: testId,
      workload_id: test?.workloadId,
      kind: test?.kind,
      resolution: test?.resolution,
      warmup_s: seconds("warm-up"),
      length_s: seconds("recording") + seconds("soak"),
    },
    attempt: state.step.attempt,
    run: `${key}/${stepKey}/${started.sequence}`,
    pace: started.pace,
  };
  const work = async () => {
    let trouble: string | null = null;
    try {
      const response = await fetch(`${host.address}/recordings`, {
        method: "POST",
        headers: { "content-type": "application/json" },
        body: JSON.stringify(request),
        signal: abort.signal,
      });
      for await (const message of readMessages(response)) {
        recording.messages.push(message);
        tellSheet(key, { type: "instrument", stepKey, message });
      }
    } catch (error) {
      trouble = error instanceof Error ? error.message : "the instruments went away";
    }
    endRecording(key);
    tellSheet(key, { type: "recording", stepKey, on: false });
    // Ended by a person: what they pressed is recorded already.
    if (abort.signal.aborted) return;
    await fileRecording(deps, actor, { model, stepKey, messages: recording.messages, trouble, pace: started.pace, key });
  };
  void work().catch((error) => console.error(`recording ${key} ${stepKey}:`, error));
}

interface Ended {
  model: SheetModel;
  stepKey: string;
  messages: InstrumentMessage[];
  trouble: string | null;
  pace: number;
  key: string;
}

/** Files what was recorded behind whatever has happened at the sheet since; a note written at the same moment only means another try. */
async function fileRecording(deps: Deps, actor: Actor, ended: Ended): Promise<void> {
  const { stepKey, messages, trouble, pace, key } = ended;
  const recording = joinRecording(messages);
  const lost = recording.complete ? null : (recording.crash ?? `the recording broke off: ${trouble ?? "the instruments fell silent"}`);
  for (let attempt = 1; ; attempt += 1) {
    const model = await loadSheet(deps, ended.model.review.id, ended.model.bench.id);
    const sheet = model && foldSheet(model.steps, model.events);
    const state = sheet?.steps.find(({ step }) => step.key === stepKey);
    if (!model || !sheet || state?.status !== "running") return;
    const endedMs = deps.now().getTime();
    try {
      const event = await deps.database.transaction(async (tx) => {
        const runId = await fileRun(tx, deps, actor, {
          model,
          state,
          status: lost ? "failed" : "valid",
          reason: lost,
          recording,
          result: lost ? null : recording.result,
          endedMs,
        });
        const moved = { atMs: endedMs, who: actor.name, stepKey, kind: lost ? ("failed" as const) : ("done" as const), text: lost, runId, pace };
        const written = await appendEvent(tx, model, moved, sheet.sequence + 1);
        await learnFromSheet(tx, model, foldSheet(model.steps, [...model.events, written]));
        return written;
      });
      tellSheet(key, { type: "event", event });
      return;
    } catch (error) {
      if (!isTaken(error) || attempt === 5) throw error;
    }
  }
}

/** The scene that practice is held on: half a minute, hurried, after a short warm-up. */
const PRACTICE = {
  setup: { id: "practice", parts: [{ partId: "grebe-12", kind: "gpu" }], state: {} },
  test: { id: "practice", workload_id: "copperfen", kind: "frames", resolution: "2560x1440", warmup_s: 60, length_s: 60 },
  attempt: 1,
  pace: 24,
};

/** A recording of the practice scene from a host of stand-ins, without the planted fault where it is to be clean. */
export async function practiceRecording(address: string, clean: boolean, signal: AbortSignal): Promise<Response> {
  const response = await fetch(`${address}/recordings`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ ...PRACTICE, clean, run: `practice ${clean}` }),
    signal,
  });
  return new Response(response.body, {
    status: response.status,
    headers: { "content-type": "text/event-stream; charset=utf-8", "cache-control": "no-store, no-transform" },
  });
}
