import { fail, ok, type Result } from "@/core/result";
import { type Caution, cautionsOfChange, cautionsOfPreFlight, cautionsOfRun } from "./cautions";
import type { PlanBlock, PlanSetup, PlanTest } from "./planReview";
import { changeTimes, onceTimes, runTimes } from "./planReview";
import { changeTasks, sumTimes, type TimeEstimate, type TimeModel, type TimeObservation } from "./timeModel";

/** Something to look at before a step may start. */
export interface SheetCheck {
  id: string;
  label: string;
  /** What it has to be, in words. */
  value: string;
  /** Was to be held constant: the step does not start while it is unchecked. */
  held: boolean;
}

/** One step of a run sheet. */
export interface SheetStep {
  /** Stays the same as long as the plan does. */
  key: string;
  kind: "pre-flight" | "fit" | "wait" | "run";
  title: string;
  setupId: string;
  setupLabel: string;
  blockIndex: number;
  testKey: string | null;
  /** Attempt n of the cell in this block, of m wanted. */
  attempt: number;
  of: number;
  checks: SheetCheck[];
  /** What to know while doing it: when the watch starts and stops. */
  facts: { label: string; value: string }[];
  cautions: Caution[];
  /** Timers in their order: warm-up and recording of a run, the wait itself. */
  timers: { name: "warm-up" | "recording" | "wait" | "soak"; seconds: number }[];
  times: TimeEstimate[];
}

/** What happened at a run sheet, in the order of its numbers. */
export interface SheetEvent {
  sequence: number;
  atMs: number;
  who: string;
  stepKey: string;
  kind: "start" | "done" | "failed" | "skipped" | "rerun" | "note" | "check" | "acknowledge" | "undo";
  /** Reason, note, id of the check or caution. */
  text: string | null;
  runId: string | null;
  /** Bench seconds in one second of the clock: 1, or more where the bench is simulated and hurried. */
  pace: number;
}

/** A step with what happened to it. */
export interface StepState {
  step: SheetStep;
  status: "open" | "running" | "done" | "failed" | "skipped";
  startedMs: number | null;
  endedMs: number | null;
  pace: number;
  reason: string | null;
  runId: string | null;
  checked: string[];
  acknowledged: string[];
  notes: string[];
}

/** A run sheet as it stands. */
export interface Sheet {
  steps: StepState[];
  /** Index of the step that is to be done; the number of steps when all are done. */
  current: number;
  /** Number of the last event. */
  sequence: number;
}

/** What is looked at before the first run on a bench. Source: common practice, the product's list. */
const PRE_FLIGHT: readonly [id: string, label: string, value: string, held: boolean][] = [
  ["firmware", "Firmware", "new enough for every part of the plan", true],
  ["memory", "Memory", "profile on, at its rate, all channels; read it back", true],
  ["boost", "Boost clocks", "reached under load", true],
  ["overrides", "Limits and overrides", "frame limit and v-sync off in every game and in the driver", true],
  ["throttle", "Automatic quality", "off", true],
  ["recorder", "In the background", "no recorder, overlay or update", true],
  ["power", "Power and room", "headroom, the right connectors, and room for every part of the plan", true],
  ["ambient", "Room temperature", "noted", false],
  ["meter", "Power meter", "zeroed, on its range", false],
];

/** What is looked at after each change of parts. */
const AFTER_SWAP: readonly [id: string, label: string, value: string, held: boolean][] = [
  ["seated", "Seated and latched", "every connector of it", true],
  ["driver", "Driver", "the review's version, read back", true],
  ["memory", "Memory", "still at its rate, all channels", true],
  ["overrides", "Limits and overrides", "frame limit, v-sync and driver overrides off", true],
];

const settingsOf = (test: PlanTest): SheetCheck[] => [
  ...(test.resolution
    ? [{ id: `resolution ${test.resolution}`, label: "Resolution", value: `${test.resolution.replace("x", " × ")}, truly native`, held: true }]
    : []),
  { id: `settings ${test.key}`, label: "Settings", value: test.settings || `as the definition of ${test.name} says`, held: true },
];

const toChecks = (list: typeof PRE_FLIGHT): SheetCheck[] => list.map(([id, label, value, held]) => ({ id, label, value, held }));

/** Replacements of failed runs that a cell gets by itself; after that a person decides. */
const MOST_REPLACEMENTS = 2;

function runStep(
  block: PlanBlock,
  blockIndex: number,
  setup: PlanSetup,
  test: PlanTest,
  attempt: number,
  of: number,
  times: TimeModel,
  overRated: boolean,
): SheetStep {
  const first = attempt === 1;
  const soak = test.kind === "soak";
  const warmUp = times.estimate("warm-up", test.key, test.warmupS).seconds;
  const length = test.lengthS ?? times.estimate(soak ? "soak" : "run", test.key).seconds;
  return {
    key: `${blockIndex}/run/${setup.id}/${test.key}/${attempt}`,
    kind: "run",
    title: `${block.part === "baseline first" || block.part === "baseline last" || block.part === "baseline between" ? "Check for drift: " : ""}${test.name}`,
    setupId: setup.id,
    setupLabel: setup.label,
    blockIndex,
    testKey: test.key,
    attempt,
    of,
    checks: first ? settingsOf(test) : [],
    facts: [
      { label: "Start at", value: test.startAt ?? "" },
      { label: "Stop at", value: test.stopAt ?? "" },
    ].filter(({ value }) => value !== ""),
    cautions: first ? cautionsOfRun(test.kind, overRated) : [],
    timers: soak
      ? [{ name: "soak", seconds: length }]
      : [...(first && test.warmupS !== 0 ? [{ name: "warm-up" as const, seconds: test.warmupS ?? warmUp }] : []), { name: "recording", seconds: length }],
    times: first ? [...onceTimes(times, test), ...runTimes(times, test)] : runTimes(times, test),
  };
}

/**
 * The steps of one bench's blocks, in order: the pre-flight list, for each setup its change of parts, for each test its
 * runs; after a soak a wait for the parts to cool.
 */
export function sheetSteps(
  blocks: readonly PlanBlock[],
  lab: {
    setups: readonly PlanSetup[];
    tests: readonly PlanTest[];
    times: TimeModel;
    benchName: string;
    metersTheWall: boolean;
    overRated: ReadonlySet<string>;
  },
): SheetStep[] {
  const setupOf = new Map(lab.setups.map((setup) => [setup.id, setup]));
  const testOf = new Map(lab.tests.map((test) => [test.key, test]));
  const steps: SheetStep[] = [];
  let fitted: PlanSetup | undefined;
  blocks.forEach((block, blockIndex) => {
    const setup = setupOf.get(block.setupId) as PlanSetup;
    const common = { setupId: setup.id, setupLabel: setup.label, blockIndex, testKey: null, attempt: 1, of: 1, facts: [] };
    if (blockIndex === 0)
      steps.push({
        ...common,
        key: "0/pre-flight",
        kind: "pre-flight",
        title: `Pre-flight list of ${lab.benchName}`,
        checks: toChecks(PRE_FLIGHT),
        cautions: cautionsOfPreFlight(lab.metersTheWall),
        timers: [],
        times: [lab.times.estimate("pre-flight", lab.benchName)],
      });
    const tasks = changeTasks(fitted, setup);
    if (tasks.length > 0)
      steps.push({
        ...common,
        key: `${blockIndex}/fit/${setup.id}`,
        kind: "fit",
        title: `Fit ${setup.label}`,
        checks: toChecks(AFTER_SWAP),
        cautions: cautionsOfChange(tasks, setup.state),
        timers: [],
        times: changeTimes(lab.times, tasks),
      });
    fitted = setup;
    for (const { testKey, runs } of block.tests) {
      const test = testOf.get(testKey);
      if (!test) continue;
      for (let attempt = 1; attempt <= runs; attempt += 1) {
        const step = runStep(block, blockIndex, setup, test, attempt, runs, lab.times, lab.overRated.has(setup.id));
        if (test.kind !== "soak") steps.push(step);
        else {
          const coolDown = lab.times.estimate("cool-down", test.key, test.resetS);
          steps.push(
            { ...step, times: step.times.filter(({ activity }) => activity !== "cool-down") },
            {
              ...common,
              key: `${blockIndex}/wait/${setup.id}/${test.key}/${attempt}`,
              kind: "wait",
              title: "Let it cool down",
              checks: [],
              cautions: [],
              timers: [{ name: "wait", seconds: coolDown.seconds }],
              times: [coolDown],
            },
          );
        }
      }
    }
  });
  return steps;
}

const fresh = (step: SheetStep): StepState => ({
  step,
  status: "open",
  startedMs: null,
  endedMs: null,
  pace: 1,
  reason: null,
  runId: null,
  checked: [],
  acknowledged: [],
  notes: [],
});

const finished = ({ status }: StepState) => status === "done" || status === "failed" || status === "skipped";

/** Another attempt at a run step, to stand behind the last one of its cell. */
function anotherAttempt(steps: readonly StepState[], of: StepState): { index: number; state: StepState } {
  const cell = (one: SheetStep) =>
    one.kind === "run" && one.blockIndex === of.step.blockIndex && one.testKey === of.step.testKey && one.setupId === of.step.setupId;
  const index = steps.findLastIndex(({ step }) => cell(step));
  const last = (steps[index] as StepState).step;
  const attempt = last.attempt + 1;
  const recording = last.timers.filter(({ name }) => name !== "warm-up");
  return {
    index: index + 1,
    state: fresh({ ...last, attempt, checks: [], cautions: [], timers: recording, key: last.key.replace(/\/\d+$/, `/${attempt}`) }),
  };
}

/** After a crash the next attempt of the cell launches and warms up again. */
function relaunch(states: StepState[], failed: StepState): void {
  const next = states.find(
    ({ step, status }) => status === "open" && step.kind === "run" && step.blockIndex === failed.step.blockIndex && step.testKey === failed.step.testKey,
  );
  const first = states.find(({ step }) => step.kind === "run" && step.blockIndex === failed.step.blockIndex && step.testKey === failed.step.testKey);
  if (!next || !first) return;
  const again = first.step.times.filter(({ activity }) => activity === "launch" || activity === "warm-up");
  const known = new Set(next.step.times.map(({ activity }) => activity));
  const warmUp = next.step.timers.some(({ name }) => name === "warm-up") ? [] : first.step.timers.filter(({ name }) => name === "warm-up");
  next.step = {
    ...next.step,
    timers: [...warmUp, ...next.step.timers],
    times: [...again.filter(({ activity }) => !known.has(activity)), ...next.step.times],
  };
}

/** Events that count: an undo takes back the last one before it that nothing took back yet. */
function effective(events: readonly SheetEvent[]): SheetEvent[] {
  const kept: SheetEvent[] = [];
  for (const event of events) {
    if (event.kind === "undo") kept.pop();
    else kept.push(event);
  }
  return kept;
}

/**
 * A run sheet after its events. Pure: the same steps and events give the same sheet in every tab and on every device.
 * A failed run is kept as a result and followed by another attempt (two for a cell at most); a rerun adds one too.
 */
export function foldSheet(steps: readonly SheetStep[], events: readonly SheetEvent[]): Sheet {
  const states = steps.map(fresh);
  const stateOf = new Map(states.map((state) => [state.step.key, state]));
  const another = (of: StepState) => {
    const { index, state } = anotherAttempt(states, of);
    states.splice(index, 0, state);
    stateOf.set(state.step.key, state);
  };
  for (const event of effective(events)) {
    const state = stateOf.get(event.stepKey);
    if (!state) continue;
    const text = event.text ?? "";
    if (event.kind === "start") Object.assign(state, { status: "running", startedMs: event.atMs, pace: event.pace });
    else if (event.kind === "check") state.checked = state.checked.includes(text) ? state.checked.filter((one) => one !== text) : [...state.checked, text];
    else if (event.kind === "acknowledge") state.acknowledged = [...state.acknowledged, text];
    else if (event.kind === "note") state.notes = [...state.notes, text];
    else if (event.kind === "rerun") {
      state.reason = event.text;
      another(state);
    } else if (event.kind === "done" || event.kind === "failed" || event.kind === "skipped") {
      Object.assign(state, { status: event.kind, endedMs: event.atMs, pace: event.pace, reason: event.text, runId: event.runId });
      if (event.kind === "failed" && state.step.kind === "run") {
        const { testKey, blockIndex } = state.step;
        const failures = states.filter((one) => one.status === "failed" && one.step.testKey === testKey && one.step.blockIndex === blockIndex);
        if (failures.length <= MOST_REPLACEMENTS) another(state);
        relaunch(states, state);
      }
    }
  }
  const current = states.findIndex((state) => !finished(state));
  return { steps: states, current: current < 0 ? states.length : current, sequence: events.at(-1)?.sequence ?? 0 };
}

/** Why a move on the sheet is refused. */
export type SheetProblem =
  | { kind: "held-unchecked"; check: string }
  | { kind: "not-acknowledged"; caution: string }
  | { kind: "timer-running"; secondsLeft: number }
  | { kind: "not-now"; reason: string };

/** Parts count as cool within this many kelvin of the room. */
const COOL_ABOVE_ROOM_K = 12;

/** Whether readings say that the parts have cooled: the hottest of card and processor within 12 K of the measured room; undefined where they cannot say. */
export function haveCooled(readings: Readonly<Record<string, number>>): { cooled: boolean; hottestC: number; untilC: number } | undefined {
  const hot = [readings.gpu_c, readings.cpu_c].filter((value) => value !== undefined);
  if (hot.length === 0 || readings.ambient_c === undefined) return undefined;
  const [hottestC, untilC] = [Math.max(...hot), readings.ambient_c + COOL_ABOVE_ROOM_K];
  return { cooled: hottestC <= untilC, hottestC, untilC };
}

/** Seconds of bench time since a step was started. */
export function benchSeconds(state: Pick<StepState, "startedMs" | "pace">, nowMs: number): number {
  return state.startedMs === null ? 0 : (Math.max(0, nowMs - state.startedMs) / 1000) * state.pace;
}

/** Seconds of all timers of a step. */
export function timerSeconds(step: SheetStep): number {
  return step.timers.reduce((sum, { seconds }) => sum + seconds, 0);
}

/**
 * Whether an event may be added to a sheet now. Starting (or confirming what has no timer) is refused while something
 * that was to be held constant is unchecked or a caution of mains or soak is not acknowledged; a wait ends when its time
 * is over or the parts have cooled.
 */
export function mayMove(sheet: Sheet, event: Pick<SheetEvent, "kind" | "stepKey" | "text" | "atMs">, hasCooled = false): Result<StepState, SheetProblem> {
  const index = sheet.steps.findIndex(({ step }) => step.key === event.stepKey);
  const state = sheet.steps[index];
  if (!state) return fail({ kind: "not-now", reason: "The plan has changed; this step is no longer in it. Look again." });
  if (event.kind === "note") return ok(state);
  if (event.kind === "undo") return sheet.sequence > 0 ? ok(state) : fail({ kind: "not-now", reason: "There is nothing to take back." });
  if (event.kind === "rerun") {
    if (state.step.kind !== "run" || !finished(state) || state.status === "skipped")
      return fail({ kind: "not-now", reason: "Only a run that is over can be run again." });
    const another = sheet.steps.some(({ step, status }) => step.kind === "fit" && step.blockIndex > state.step.blockIndex && status === "done");
    return another
      ? fail({ kind: "not-now", reason: "Another setup is fitted by now. Discard the run in the grid; the next plan takes it in again." })
      : ok(state);
  }
  if (index !== sheet.current) return fail({ kind: "not-now", reason: "This step is not the one to do now; look again." });
  if (event.kind === "check")
    return state.step.checks.some(({ id }) => id === event.text) ? ok(state) : fail({ kind: "not-now", reason: "This step has no such check." });
  if (event.kind === "acknowledge")
    return state.step.cautions.some(({ id }) => id === event.text) ? ok(state) : fail({ kind: "not-now", reason: "This step has no such caution." });
  if (event.kind === "skipped" || event.kind === "failed") return ok(state);
  if (event.kind === "start" && state.status === "running") return fail({ kind: "not-now", reason: "It is running already." });
  const begins = event.kind === "start" || state.status === "open";
  if (begins) {
    const caution = state.step.cautions.find(({ id, acknowledge }) => acknowledge && !state.acknowledged.includes(id));
    if (caution) return fail({ kind: "not-acknowledged", caution: caution.text });
    const check = state.step.checks.find(({ id, held }) => held && !state.checked.includes(id));
    if (check) return fail({ kind: "held-unchecked", check: check.label });
  }
  if (event.kind === "done" && state.step.kind === "wait" && !hasCooled) {
    const secondsLeft = state.startedMs === null ? timerSeconds(state.step) : timerSeconds(state.step) - benchSeconds(state, event.atMs);
    if (secondsLeft > 0.5) return fail({ kind: "timer-running", secondsLeft });
  }
  return ok(state);
}

/** Seconds, with one standard deviation, of what is still to be done on a sheet. */
export function timeLeft(sheet: Sheet, nowMs: number): { seconds: number; sd: number } {
  const open = sheet.steps.filter((state) => !finished(state));
  const all = sumTimes(open.flatMap(({ step }) => step.times));
  const running = open.find(({ status }) => status === "running");
  const done = running ? Math.min(benchSeconds(running, nowMs), sumTimes(running.step.times).seconds) : 0;
  return { seconds: Math.max(0, all.seconds - done), sd: all.sd };
}

/**
 * What the steps of a sheet really took, for the time model: a step lasts from the end of the one before it (a run's
 * recording is its own length). Steps whose tasks are several share their time as planned. Pauses beyond an hour and a
 * half over the plan are the lab's, not the step's, and a step confirmed in under a tenth of its time was done before it
 * was confirmed: neither teaches anything.
 */
export function actualTimes(sheet: Sheet): TimeObservation[] {
  const observations: TimeObservation[] = [];
  let previousMs: number | null = null;
  for (const state of sheet.steps) {
    if (!finished(state) || state.endedMs === null) continue;
    const from: number | null = previousMs ?? state.startedMs;
    previousMs = state.endedMs;
    if (from === null || state.status !== "done") continue;
    const seconds = ((state.endedMs - from) / 1000) * state.pace;
    const planned = sumTimes(state.step.times).seconds;
    if (planned <= 0 || seconds < planned / 10 || seconds > planned + 5400) continue;
    for (const { activity, detail, seconds: share } of state.step.times) observations.push({ activity, detail, seconds: (seconds * share) / planned });
  }
  return observations;
}
