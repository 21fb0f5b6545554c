"use client";

import { Box, chakra, Flex, Grid, Link, Text } from "@chakra-ui/react";
import NextLink from "next/link";
import { useEffect, useMemo, useState } from "react";
import {
  afterOpenSeconds,
  benchSeconds,
  DAYS_AHEAD,
  foldSheet,
  haveCooled,
  openSeconds,
  openStretches,
  type Sheet,
  type StepState,
  sumTimes,
  timeLeft,
  timerSeconds,
} from "@/core/plan";
import type { SheetModel } from "@/core/report";
import { hoursText, momentText } from "../plan/planWords";
import { useKeys } from "../review/useKeys";
import { SheetRuler } from "./SheetRuler";
import { StripChart } from "./StripChart";
import { type MoveSheet, useSheet } from "./useSheet";

const Brand = chakra(NextLink);

const PACES = [1, 10, 60, 200];

const clock = (seconds: number) => `${Math.floor(Math.max(0, seconds) / 60)}:${String(Math.floor(Math.max(0, seconds) % 60)).padStart(2, "0")}`;

/** What Space does at a step as it stands. */
function primaryOf(state: StepState, records: boolean, over: boolean): { words: string; kind: "check" | "start" | "done" | "wait" | "acknowledge" } {
  const { step, status } = state;
  const caution = step.cautions.find(({ id, acknowledge }) => acknowledge && !state.acknowledged.includes(id));
  if (status === "open" && caution) return { words: "acknowledge first", kind: "acknowledge" };
  const check = step.checks.find(({ id, held }) => held && !state.checked.includes(id));
  if (status === "open" && check) return { words: `${check.label} is so`, kind: "check" };
  if (step.kind === "run") {
    if (status === "running") return records || !over ? { words: "recording", kind: "wait" } : { words: "it is done", kind: "done" };
    return { words: "start recording", kind: "start" };
  }
  if (step.kind === "wait")
    return status === "running"
      ? over
        ? { words: "it has cooled", kind: "done" }
        : { words: "wait", kind: "wait" }
      : { words: "start the timer", kind: "start" };
  return { words: step.kind === "fit" ? "it is fitted" : "the list is done", kind: "done" };
}

type Asking = { kind: "note" | "failed" | "skipped" | "rerun" | "done"; stepKey: string; label: string };

const QUICK_REASONS = ["crash", "out of memory", "not supported", "wrong settings", "cable missing"];

/** Everything at a bench on one screen, readable from two metres, worked by single keys. */
export function RunSheet({
  model,
  moveSheet,
  simulated,
  records,
  nowMs,
}: {
  model: SheetModel;
  moveSheet: MoveSheet;
  simulated: boolean;
  records: boolean;
  nowMs: number;
}) {
  const [pace, setPace] = useState(1);
  const { sheet, events, recording, linked, trouble, setTrouble, skewMs, live, move } = useSheet(model, moveSheet, simulated ? pace : 1);
  const [tick, setTick] = useState(nowMs);
  const [asking, setAsking] = useState<Asking | undefined>(undefined);
  const [showKeys, setShowKeys] = useState(false);
  useEffect(() => {
    const handle = setInterval(() => setTick(Date.now() + skewMs), 200);
    setPace(Number(sessionStorage.getItem("parvex-pace")) || 1);
    return () => clearInterval(handle);
  }, [skewMs]);
  const state = sheet.steps[sheet.current];
  const before = useMemo(() => rememberedChecks(sheet), [sheet]);
  const cooling = useCooling(records && state?.step.kind === "wait" && state.status === "running");
  const over = state ? cooling?.cooled === true || benchSeconds(state, tick) >= timerSeconds(state.step) : false;
  const primary = state && primaryOf(state, recording === state.step.key, over);
  const lastRun = sheet.steps.findLast(({ step, status }, i) => i < sheet.current && step.kind === "run" && (status === "done" || status === "failed"));

  const confirm = () => {
    if (!state || !primary || asking) return;
    const stepKey = state.step.key;
    if (primary.kind === "acknowledge") return setTrouble("Press A when you have read the caution and it is so.");
    if (primary.kind === "check") {
      const check = state.step.checks.find(({ id, held }) => held && !state.checked.includes(id));
      return void move({ kind: "check", stepKey, text: check?.id ?? null });
    }
    if (primary.kind === "wait")
      return setTrouble(state.step.kind === "run" ? "The recording files itself when it ends." : "Not yet; the timer is still running.");
    if (primary.kind === "done" && state.step.kind === "run")
      return setAsking({ kind: "done", stepKey, label: "Result, as a number or mm:ss; empty when its log is taken in later" });
    void move({ kind: primary.kind, stepKey });
  };
  const ask = (kind: Asking["kind"], label: string, stepKey = state?.step.key) => stepKey && setAsking({ kind, label, stepKey });
  const acknowledge = () => {
    const caution = state?.step.cautions.find(({ id, acknowledge: needed }) => needed && !state.acknowledged.includes(id));
    if (state && caution) void move({ kind: "acknowledge", stepKey: state.step.key, text: caution.id });
  };
  const asBefore = async () => {
    if (!state) return;
    for (const { id, value } of state.step.checks) {
      if (!state.checked.includes(id) && before.has(`${id}|${value}`) && !(await move({ kind: "check", stepKey: state.step.key, text: id }))) return;
    }
  };
  const numbered = Object.fromEntries(
    (state?.step.checks ?? [])
      .slice(0, 9)
      .map(({ id }, i) => [String(i + 1), () => void (state && move({ kind: "check", stepKey: state.step.key, text: id }))]),
  );
  const cyclePace = () => {
    const next = PACES[(PACES.indexOf(pace) + 1) % PACES.length] as number;
    setPace(next);
    sessionStorage.setItem("parvex-pace", String(next));
  };
  const actions = {
    n: () => ask("note", "What was seen"),
    f: () => state?.step.kind === "run" && ask("failed", "Why did it fail?"),
    r: () => (lastRun ? ask("rerun", `Why is ${lastRun.step.title} run again?`, lastRun.step.key) : setTrouble("There is no run to do again yet.")),
    s: () => ask("skipped", "Why is this step skipped?"),
    u: () => void move({ kind: "undo", stepKey: (state ?? sheet.steps.at(-1))?.step.key ?? "" }),
  };
  useKeys({
    " ": confirm,
    Enter: confirm,
    a: acknowledge,
    ...actions,
    "0": () => void asBefore(),
    ...(simulated && { p: cyclePace }),
    "?": () => setShowKeys(!showKeys),
    Escape: () => setTrouble(undefined),
    ...numbered,
  });
  return (
    <Flex direction="column" minH="100dvh" px={{ base: 4, md: "28px" }} pt="3" pb={{ base: 2, md: 3 }}>
      <SheetHead model={model} sheet={sheet} tick={tick} linked={linked} />
      <SheetRuler sheet={sheet} />
      {state ? (
        <Grid templateColumns={{ base: "1fr", md: "minmax(0, 1fr) 330px" }} columnGap="12" rowGap="6" mt={{ base: 3, md: 6 }} flex="1" alignContent="start">
          <StepView
            state={state}
            sheet={sheet}
            before={before}
            move={(id) => void move({ kind: "check", stepKey: state.step.key, text: id })}
            onAcknowledge={acknowledge}
          />
          <Box>
            <Timer state={state} tick={tick} />
            {cooling && (
              <Text fontSize="20px" mb="4" color={cooling.cooled ? "ink" : "quiet"}>
                {cooling.hottestC.toFixed(1)} °C now, cool at {cooling.untilC.toFixed(0)} °C{cooling.cooled ? ": it has cooled" : ""}
              </Text>
            )}
            {records && <StripChart messages={live} running={recording !== null} />}
            <Upcoming sheet={sheet} />
          </Box>
        </Grid>
      ) : (
        <Box flex="1" mt="10">
          <Text as="h1" fontSize={{ base: "40px", md: "60px" }} lineHeight="1" fontWeight="600" letterSpacing="-0.02em">
            All steps are done
          </Text>
          <Text fontSize="20px" color="quiet" mt="4">
            {sheet.steps.filter(({ status }) => status === "failed").length} failed, {sheet.steps.filter(({ status }) => status === "skipped").length} skipped.
            The runs are in the review.
          </Text>
          <Link asChild color="accent.fg" fontSize="20px" mt="4" display="inline-block">
            <NextLink href={`/reviews/${model.review.id}/run`}>See them in the grid</NextLink>
          </Link>
        </Box>
      )}
      <Box minH="56px" mt="4">
        <Setback model={model} sheet={sheet} events={events} tick={tick} />
        {trouble && (
          <Text role="alert" color="doubt" fontSize="18px">
            {trouble}
          </Text>
        )}
      </Box>
      <Box borderTop="1px solid" borderColor="hairline" pt="3" position="sticky" bottom="0" bg="paper" zIndex="2">
        {asking ? (
          <AskLine
            asking={asking}
            onDone={async (text) => {
              const { kind, stepKey } = asking;
              setAsking(undefined);
              await move(kind === "done" ? { kind, stepKey, result: text === "" ? null : text } : { kind, stepKey, text });
            }}
            onCancel={() => setAsking(undefined)}
          />
        ) : (
          <Flex columnGap={{ base: 4, md: 6 }} rowGap="0" align="center" wrap="wrap">
            {primary && <Key cap="Space" words={primary.words} onPress={confirm} strong dim={primary.kind === "wait" || primary.kind === "acknowledge"} />}
            {primary?.kind === "acknowledge" && <Key cap="A" words="read, and it is so" onPress={acknowledge} strong />}
            {state?.step.checks.some(({ id, value }) => !state.checked.includes(id) && before.has(`${id}|${value}`)) && (
              <Key cap="0" words="all as before" onPress={() => void asBefore()} />
            )}
            {state && <Key cap="N" words="note" onPress={actions.n} />}
            {state && <Key cap="F" words="failed" onPress={actions.f} dim={state.step.kind !== "run"} />}
            <Key cap="R" words="rerun" onPress={actions.r} dim={!lastRun} />
            {state && <Key cap="S" words="skip" onPress={actions.s} />}
            <Key cap="U" words="undo" onPress={actions.u} dim={events.length === 0} />
            {simulated && <Key cap="P" words={`time × ${pace}`} onPress={cyclePace} />}
            <Box ml="auto" display={{ base: "none", md: "block" }}>
              <Key cap="?" words="keys" onPress={() => setShowKeys(!showKeys)} />
            </Box>
          </Flex>
        )}
        {showKeys && (
          <Text color="quiet" mt="2" role="status">
            Space or Enter confirms and checks the next item. 1 to 9 check and uncheck one item, 0 all that were so before, A acknowledges a caution. N note, F
            failed, R run the last again, S skip, U take the last thing back. Everything is kept as it is pressed: reload, sleep or a second screen lose
            nothing.
          </Text>
        )}
      </Box>
    </Flex>
  );
}

/** What the instruments read while the sheet waits for parts to cool, every two seconds; undefined where they cannot say. */
function useCooling(waiting: boolean) {
  const [cooling, setCooling] = useState<ReturnType<typeof haveCooled>>(undefined);
  useEffect(() => {
    setCooling(undefined);
    if (!waiting) return;
    const look = () =>
      fetch("/api/readings")
        .then((response) => response.json() as Promise<{ values: Record<string, number> }>)
        .then(({ values }) => setCooling(haveCooled(values)))
        // A reading that fails leaves the timer to end the wait.
        .catch(() => setCooling(undefined));
    void look();
    const handle = setInterval(look, 2000);
    return () => clearInterval(handle);
  }, [waiting]);
  return cooling;
}

/** Checks that were found so at an earlier step of this sheet, with when. */
function rememberedChecks(sheet: Sheet): Map<string, number> {
  const before = new Map<string, number>();
  sheet.steps.slice(0, sheet.current).forEach(({ step, checked, endedMs }) => {
    for (const { id, value } of step.checks) if (checked.includes(id) && endedMs !== null) before.set(`${id}|${value}`, endedMs);
  });
  return before;
}

function SheetHead({ model, sheet, tick, linked }: { model: SheetModel; sheet: Sheet; tick: number; linked: boolean }) {
  const minuteMs = tick - (tick % 60_000);
  const stretches = useMemo(() => openStretches(model.hours, minuteMs, DAYS_AHEAD), [model.hours, minuteMs]);
  const left = timeLeft(sheet, tick);
  const ends = afterOpenSeconds(stretches, tick, left.seconds);
  const { deadlineMs } = model.review;
  const late = deadlineMs !== null && ends !== null && ends > deadlineMs;
  return (
    <Flex gap={{ base: 3, md: 5 }} align="baseline" wrap="wrap" mb="3" fontSize="15px">
      <Brand href={`/reviews/${model.review.id}/plan`} aria-label="Parvex, back to the plan" fontWeight="700" color="ink">
        Par<chakra.span color="accent.fg">v</chakra.span>ex
      </Brand>
      <Text>{model.review.title}</Text>
      <Text color="quiet">
        {model.bench.name}, revision {model.bench.revision}
      </Text>
      <Flex ml="auto" gap="5" color="quiet" wrap="wrap">
        {!linked && (
          <Text color="doubt" role="status">
            linking …
          </Text>
        )}
        <Text color={late ? "doubt" : "quiet"} data-sheet-end>
          {sheet.current >= sheet.steps.length
            ? "done"
            : ends === null
              ? "does not end within the calendar"
              : `ends ${momentText(ends, model.hours.timeZone)} ± ${hoursText(left.sd)}`}
          {deadlineMs !== null &&
            ends !== null &&
            (late ? `, ${hoursText(openSeconds(stretches, deadlineMs, ends))} too late` : ` · embargo ${momentText(deadlineMs, model.hours.timeZone)}`)}
        </Text>
      </Flex>
    </Flex>
  );
}

function StepView({
  state,
  sheet,
  before,
  move,
  onAcknowledge,
}: {
  state: StepState;
  sheet: Sheet;
  before: ReadonlyMap<string, number>;
  move: (checkId: string) => void;
  onAcknowledge: () => void;
}) {
  const { step } = state;
  const setups = new Set(sheet.steps.map(({ step: one }) => one.blockIndex)).size;
  return (
    <Box minW="0">
      <Text color="quiet" fontSize="16px" mb="2">
        Step {sheet.current + 1} of {sheet.steps.length} · setup {step.blockIndex + 1} of {setups} · {step.setupLabel}
      </Text>
      <Text
        as="h1"
        fontSize={{ base: "36px", md: step.checks.length > 5 ? "46px" : "58px" }}
        lineHeight="1.03"
        fontWeight="600"
        letterSpacing="-0.025em"
        mb="5"
      >
        {step.kind === "run"
          ? `${step.title.startsWith("Check") ? "" : "Run "}${step.title}, ${step.attempt} of ${Math.max(step.of, step.attempt)}`
          : step.title}
      </Text>
      {step.cautions.length > 0 && (
        <Box borderLeft="3px solid" borderColor="doubt" pl="4" mb="5" fontSize="17px" lineHeight="25px">
          {step.cautions.map(({ id, text, acknowledge }) => {
            const seen = state.acknowledged.includes(id);
            return (
              <Text key={id} color={acknowledge && !seen ? "ink" : "quiet"} mb="1">
                {acknowledge && !seen && (
                  <chakra.button type="button" color="doubt" fontWeight="700" cursor="pointer" mr="2" onClick={onAcknowledge} tabIndex={-1}>
                    [A]
                  </chakra.button>
                )}
                {acknowledge && seen && (
                  <Box as="span" color="accent.fg" mr="2">
                    ✓
                  </Box>
                )}
                {text}
              </Text>
            );
          })}
        </Box>
      )}
      {step.checks.map(({ id, label, value, held }, i) => {
        const on = state.checked.includes(id);
        return (
          <chakra.button
            key={id}
            type="button"
            display="grid"
            gridTemplateColumns={{ base: "24px 1fr", md: "24px 230px minmax(0, 1fr)" }}
            columnGap="3"
            w="full"
            textAlign="left"
            fontSize={{ base: "17px", md: "18px" }}
            lineHeight="24px"
            py="4px"
            cursor="pointer"
            aria-pressed={on}
            onClick={() => move(id)}
            tabIndex={-1}
          >
            <Box as="span" color={on ? "accent.fg" : held ? "doubt" : "quiet"} aria-hidden fontWeight="700">
              {on ? "✓" : "□"}
            </Box>
            <Text as="span" color={on ? "quiet" : "ink"}>
              <Box as="span" color="quiet" textStyle="figure" mr="2" aria-hidden>
                {i < 9 ? i + 1 : ""}
              </Box>
              {label}
            </Text>
            <Text as="span" gridColumn={{ base: "2", md: "auto" }} color={on ? "ink" : held ? "ink" : "quiet"}>
              {value}
              {!on && before.has(`${id}|${value}`) && (
                <Box as="span" color="quiet">
                  , so before
                </Box>
              )}
            </Text>
          </chakra.button>
        );
      })}
      {step.facts.map(({ label, value }) => (
        <Box
          key={label}
          display="grid"
          gridTemplateColumns={{ base: "24px 1fr", md: "24px 230px minmax(0, 1fr)" }}
          columnGap="3"
          fontSize={{ base: "17px", md: "18px" }}
          lineHeight="24px"
          py="4px"
        >
          <Text gridColumn="2" color="quiet" pl="18px">
            {label}
          </Text>
          <Text gridColumn={{ base: "2", md: "auto" }}>{value}</Text>
        </Box>
      ))}
      {state.notes.map((note, i) => (
        <Text key={`${note}${i}`} color="quiet" mt="3" fontSize="17px">
          Noted: {note}
        </Text>
      ))}
    </Box>
  );
}

const TIMER_WORDS = { "warm-up": "warm-up left", recording: "recording left", wait: "cool-down left", soak: "soak left" } as const;

/** The timer of the step: which part runs and how much of it is left; counted from when the step was started, wherever that was. */
function Timer({ state, tick }: { state: StepState; tick: number }) {
  const { step, status } = state;
  if (step.timers.length === 0) return null;
  let rest = status === "running" ? benchSeconds(state, tick) : 0;
  const index = step.timers.findIndex(({ seconds }) => {
    if (rest < seconds) return true;
    rest -= seconds;
    return false;
  });
  const timer = step.timers[index];
  const after = step.timers.slice(index + 1);
  return (
    <Box mb="5" aria-live="off">
      <Text color="quiet" fontSize="16px">
        {timer ? TIMER_WORDS[timer.name] : "over"}
      </Text>
      <Text fontSize={{ base: "76px", md: "104px" }} lineHeight="1.05" fontStretch="70%" fontVariantNumeric="tabular-nums" data-timer>
        {timer ? clock(timer.seconds - rest) : "0:00"}
      </Text>
      <Text color="quiet" fontSize="16px">
        {after.length > 0 ? `then ${after.map(({ name, seconds }) => `${clock(seconds)} ${name}`).join(", ")}` : status === "open" ? "starts with Space" : ""}
      </Text>
    </Box>
  );
}

/** The next steps with how long each takes. */
function Upcoming({ sheet }: { sheet: Sheet }) {
  return (
    <Box mt="5">
      {sheet.steps.slice(sheet.current + 1, sheet.current + 4).map(({ step }) => (
        <Flex key={step.key} justify="space-between" gap="4" py="2" borderTop="1px solid" borderColor="hairline" fontSize="16px">
          <Text truncate>
            {step.title}
            {step.kind === "run" ? `, ${step.attempt} of ${Math.max(step.of, step.attempt)}` : ""}
          </Text>
          <Text color="quiet" textStyle="figure" flexShrink="0">
            {step.kind === "run" ? clock(sumTimes(step.times).seconds) : `≈ ${hoursText(sumTimes(step.times).seconds)}`}
          </Text>
        </Flex>
      ))}
    </Box>
  );
}

/** What the last failure, rerun or skip does to the end: the plan has re-flowed. */
function Setback({ model, sheet, events, tick }: { model: SheetModel; sheet: Sheet; events: SheetModel["events"]; tick: number }) {
  const last = events.at(-1);
  if (!last || (last.kind !== "failed" && last.kind !== "rerun" && last.kind !== "skipped")) return null;
  const well = foldSheet(model.steps, [...events.slice(0, -1), { ...last, kind: last.kind === "rerun" ? "note" : "done" }]);
  const cost = timeLeft(sheet, tick).seconds - timeLeft(well, tick).seconds;
  const what = last.kind === "failed" ? "The failed run is kept with its reason" : last.kind === "rerun" ? "Another run is added" : "The step is skipped";
  return (
    <Text color="doubt" fontSize="18px" role="status">
      {what} ({last.text}). {cost > 30 ? `That takes ${hoursText(cost)} more; the end has moved by as much.` : "The end does not move."}
    </Text>
  );
}

/** One line to type a reason or note; 1 to 5 pick a usual one while it is empty. */
function AskLine({ asking, onDone, onCancel }: { asking: Asking; onDone: (text: string) => void; onCancel: () => void }) {
  const [text, setText] = useState("");
  const quick = asking.kind === "failed" || asking.kind === "skipped" ? QUICK_REASONS : [];
  return (
    <chakra.form
      onSubmit={(event) => {
        event.preventDefault();
        onDone(text.trim());
      }}
    >
      <Flex gap="4" align="center" wrap="wrap">
        <Box as="label" flex="1" minW="260px">
          <Text as="span" color="quiet" display="block">
            {asking.label}
          </Text>
          <chakra.input
            autoFocus
            value={text}
            onChange={(event) => setText(event.currentTarget.value)}
            onKeyDown={(event) => {
              if (event.key === "Escape") onCancel();
              const picked = text === "" ? quick[Number(event.key) - 1] : undefined;
              if (picked) {
                event.preventDefault();
                onDone(picked);
              }
            }}
            fontSize="22px"
            w="full"
            bg="transparent"
            borderBottom="2px solid"
            borderColor="accent.solid"
            outline="none"
          />
        </Box>
        {quick.map((reason, i) => (
          <chakra.button key={reason} type="button" onClick={() => onDone(reason)} color="quiet" cursor="pointer">
            {i + 1} {reason}
          </chakra.button>
        ))}
        <chakra.button type="submit" bg="accent.solid" color="accent.contrast" px="4" h="40px" cursor="pointer" fontWeight="600">
          Keep it
        </chakra.button>
      </Flex>
    </chakra.form>
  );
}

/** A key with what it does; a button for fingers. */
function Key({ cap, words, onPress, strong = false, dim = false }: { cap: string; words: string; onPress: () => void; strong?: boolean; dim?: boolean }) {
  return (
    <chakra.button
      type="button"
      display="flex"
      alignItems="center"
      gap="2"
      minH="44px"
      cursor="pointer"
      onClick={onPress}
      color={dim ? "quiet" : "ink"}
      fontSize="17px"
      tabIndex={-1}
    >
      <chakra.kbd
        px="3"
        h="28px"
        lineHeight="26px"
        border="1px solid"
        borderColor={strong && !dim ? "accent.solid" : "tick"}
        bg={strong && !dim ? "accent.solid" : "transparent"}
        color={strong && !dim ? "accent.contrast" : "inherit"}
        fontWeight="600"
        fontFamily="body"
        fontSize="16px"
      >
        {cap}
      </chakra.kbd>
      {words}
    </chakra.button>
  );
}
