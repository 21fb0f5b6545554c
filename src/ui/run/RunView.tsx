"use client";

import { Box, chakra, Flex, Grid, Link, Text } from "@chakra-ui/react";
import dynamic from "next/dynamic";
import NextLink from "next/link";
import { useRouter, useSearchParams } from "next/navigation";
import { parseAsArrayOf, parseAsString, useQueryState } from "nuqs";
import { useMemo, useState } from "react";
import { resolutionLabel } from "@/core/bench";
import { matchingShiftS, withoutTrims } from "@/core/capture";
import type { RunSummary } from "@/core/cell";
import { figure, type RunRecord } from "@/core/report";
import { channelOf } from "../charts/channelNames";
import { InlineChoice, KeyHint, StepFoot } from "../review/controls";
import { useKeptState, useReview } from "../review/ReviewContext";
import { useKeys } from "../review/useKeys";
import { BrushPanel } from "./BrushPanel";
import type { PacedRun } from "./PacingCharts";
import { LowsTable, RunDecisions, RunFactsList, RunRecordList } from "./RunRecordPanel";
// Not loaded afterwards like other charts: it is what this page is opened for.
import TraceChart, { type Stretch, type TraceLine } from "./TraceChart";
import { type LoadedFrames, useFrames, useSensors } from "./useRunLogs";

const PacingCharts = dynamic(() => import("./PacingCharts"), { ssr: false });

const MOST_CHANNELS = 3;
const DASHES = [undefined, [6, 3], [2, 2]];
/** Green first: blue stands too close to the accent that the frames are drawn in. */
const CHANNEL_TONES = [1, 0, 1] as const;

/** What stands where a chart would be: why there is none. */
function NoChart({ children }: { children: string }) {
  return (
    <Flex h="full" align="center" justify="center" border="1px solid" borderColor="hairline" color="quiet">
      {children}
    </Flex>
  );
}

/** Which line is which: a stroke as it is drawn, and its name. */
function LineNames({ lines }: { lines: TraceLine[] }) {
  const colour = (tone: TraceLine["tone"]) =>
    tone === "accent" ? "accent-solid" : tone === "quiet" ? "quiet" : (["series-blue", "series-green", "series-rose"][tone] as string);
  return (
    <Flex gap="5" rowGap="0" wrap="wrap" mb="2" textStyle="small" pl="50px">
      {lines.map(({ id, label, unit, tone, dash }) => (
        <Flex key={id} gap="1.5" align="center">
          <svg width="22" height="8" aria-hidden>
            <line x1="0" x2="22" y1="4" y2="4" stroke={`var(--chakra-colors-${colour(tone)})`} strokeWidth="2" strokeDasharray={dash?.join(" ")} />
          </svg>
          {label}
          {unit === "ms" ? "" : `, ${unit}`}
        </Flex>
      ))}
    </Flex>
  );
}

/** A word that is on or off. */
function Toggle({ on, onClick, children, tone }: { on: boolean; onClick: () => void; children: string; tone?: string | undefined }) {
  return (
    <chakra.button
      type="button"
      aria-pressed={on}
      onClick={onClick}
      cursor="pointer"
      borderBottom="2px solid"
      borderColor={on ? (tone ?? "ink") : "transparent"}
      color={on ? "ink" : "quiet"}
      _hover={{ color: "ink" }}
    >
      {children}
    </chakra.button>
  );
}

/**
 * One run: its frames with sensors and other runs on one time axis, statistics of any marked part, trims that are recorded and
 * can be taken back, its curves, its record and what a person decides of it.
 */
export function RunView({ record }: { record: RunRecord }) {
  const { model } = useReview();
  const router = useRouter();
  const query = useSearchParams();
  const run = model.runs.find(({ id }) => id === record.id);
  const siblings = run ? model.runs.filter((one) => one.setupId === run.setupId && one.testKey === run.testKey).sort((a, b) => a.number - b.number) : [];
  const at = siblings.findIndex(({ id }) => id === record.id);
  const link = (runId: string) => `/reviews/${model.id}/run/${encodeURIComponent(runId)}?${query}`;
  const go = (by: number) => {
    const next = siblings[at + by];
    if (next) router.push(link(next.id));
  };
  const [beside, setBeside] = useQueryState("beside", parseAsArrayOf(parseAsString).withDefault([]));
  const [other, setOther] = useQueryState("other", parseAsString);
  const [channels, setChannels] = useQueryState("channels", parseAsArrayOf(parseAsString).withDefault([]));
  const [align, setAlign] = useKeptState<"start" | "content">("run align", "start");
  const [brush, setBrush] = useState<Stretch | undefined>(undefined);
  const [window, setWindow] = useKeptState<Stretch | undefined>(`run window ${record.id}`, undefined);
  const [deciding, setDeciding] = useState<"discard" | "move" | "trim" | undefined>(undefined);

  const own = record.channels.some(({ log }) => log === "frames");
  const others = useMemo((): RunSummary[] => {
    if (!run) return [];
    const same = siblings.filter((one) => one.id !== run.id && one.frames && beside.includes(String(one.number)));
    const rival = other ? model.runs.filter((one) => one.setupId === other && one.testKey === run.testKey && one.frames && one.status === "valid") : [];
    return [...same, ...rival.sort((a, b) => a.number - b.number).slice(0, 3)];
  }, [run, siblings, beside, other, model]);
  const frames = useFrames(own ? [record.id, ...others.map(({ id }) => id)] : []);
  const sensors = useSensors(
    record.id,
    record.channels.some(({ log }) => log === "sensors"),
  );
  const labelOf = (id: string) => {
    const found = model.runs.find((one) => one.id === id);
    const setup = model.setups.find((one) => one.id === found?.setupId);
    return `${found?.setupId === run?.setupId ? "" : `${setup?.label} `}run ${found?.number}`.trim();
  };

  const loaded = frames.state === "ready" && frames.value[0]?.runId === record.id ? frames.value : undefined;
  const shifts = useMemo(() => {
    const [first, ...rest] = loaded ?? [];
    return new Map(rest.map(({ runId, frameTimesMs }) => [runId, align === "content" && first ? matchingShiftS(first.frameTimesMs, frameTimesMs).shiftS : 0]));
  }, [loaded, align]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: labels follow from the runs drawn
  const frameLines = useMemo(
    () =>
      (loaded ?? []).map(({ runId, frameTimesMs, startsS }: LoadedFrames): TraceLine => {
        const shift = shifts.get(runId) ?? 0;
        const foreign = model.runs.find(({ id }) => id === runId)?.setupId !== run?.setupId;
        return {
          id: runId,
          label: labelOf(runId),
          x: shift === 0 ? startsS : startsS.map((s) => s + shift),
          y: frameTimesMs,
          unit: "ms",
          tone: runId === record.id ? "accent" : foreign ? 2 : "quiet",
        };
      }),
    [loaded, shifts, record.id],
  );
  // As long as no channel is drawn the sensors' coming in changes nothing.
  const lines = useMemo((): TraceLine[] => {
    const chosen = sensors.state === "ready" ? sensors.value.channels.filter(({ name }) => channels.includes(name)).slice(0, MOST_CHANNELS) : [];
    if (sensors.state !== "ready" || chosen.length === 0) return frameLines;
    return [
      ...frameLines,
      ...chosen.map(
        ({ name, values }): TraceLine => ({
          id: name,
          label: channelOf(name).name,
          x: sensors.value.timeS,
          y: values,
          unit: channelOf(name).unit || "share",
          // By the order in which they were chosen, as their words are underlined.
          tone: CHANNEL_TONES[channels.indexOf(name)] ?? 1,
          dash: DASHES[channels.indexOf(name)],
        }),
      ),
    ];
  }, [frameLines, sensors, channels]);

  const first = loaded?.[0];
  const durationS = useMemo(() => {
    if (first) return (first.startsS.at(-1) ?? 0) + (first.frameTimesMs.at(-1) ?? 0) / 1000;
    return sensors.state === "ready" ? (sensors.value.timeS.at(-1) ?? 1) : 1;
  }, [first, sensors]);
  const view = window ?? { fromS: 0, toS: durationS };
  const trims = record.trims.filter(({ undone }) => !undone);
  // biome-ignore lint/correctness/useExhaustiveDependencies: labels and trims follow from the runs drawn and the record
  const paced = useMemo(
    (): PacedRun[] =>
      (loaded ?? []).map(({ runId, frameTimesMs }) => ({
        id: runId,
        label: labelOf(runId),
        tone: runId === record.id ? "accent" : model.runs.find(({ id }) => id === runId)?.setupId === run?.setupId ? "quiet" : 2,
        frameTimesMs: runId === record.id ? withoutTrims(frameTimesMs, trims) : frameTimesMs,
      })),
    [loaded, record],
  );

  const zoomTo = (stretch: Stretch | undefined) => {
    setWindow(stretch);
    setBrush(undefined);
  };
  useKeys({
    ArrowLeft: () => go(-1),
    ArrowRight: () => go(1),
    Escape: () => {
      if (deciding) setDeciding(undefined);
      else if (brush) setBrush(undefined);
      else if (window) zoomTo(undefined);
      else router.push(`/reviews/${model.id}/run?${query}`);
    },
    x: () => run?.status === "valid" && setDeciding("discard"),
    m: () => run && run.status !== "failed" && setDeciding("move"),
    z: () => brush && zoomTo(brush),
    "0": () => zoomTo(undefined),
    t: () => brush && setDeciding("trim"),
  });
  if (!run) return <Text>This run is not part of the review.</Text>;
  const setup = model.setups.find(({ id }) => id === run.setupId);
  const test = model.tests.find(({ key }) => key === run.testKey);
  const toggle = (list: string[], one: string, most: number) => (list.includes(one) ? list.filter((item) => item !== one) : [...list, one].slice(-most));
  const rivals = model.setups.filter(
    ({ id }) => id !== run.setupId && model.runs.some((one) => one.setupId === id && one.testKey === run.testKey && one.frames),
  );
  const traced = own || sensors.state !== "none";
  return (
    <Box>
      <Flex align="baseline" gap="5" wrap="wrap" mb="1">
        <Text as="h2" textStyle="title">
          {setup?.label}, {test?.workloadName}
        </Text>
        <Text color="quiet">{[test?.resolution && resolutionLabel(test.resolution), ...(test?.settings.split(" · ") ?? [])].filter(Boolean).join(", ")}</Text>
        <Flex ml="auto" gap="1" as="nav" aria-label="Runs of this cell">
          {siblings.map((one) => (
            <Link
              key={one.id}
              asChild
              px="2"
              borderBottom="2px solid"
              borderColor={one.id === run.id ? "accent.solid" : "transparent"}
              color={one.id === run.id ? "accent.fg" : one.status === "valid" ? "ink" : "doubt"}
            >
              <NextLink href={link(one.id)} prefetch={false} aria-current={one.id === run.id ? "page" : undefined}>
                run {one.number}
              </NextLink>
            </Link>
          ))}
        </Flex>
      </Flex>
      {run.status !== "valid" && (
        <Text color="doubt" mb="2">
          {run.status}: {run.reason}
        </Text>
      )}
      {traced && (
        <Flex gap="4" rowGap="1" wrap="wrap" mb="2" align="center">
          {sensors.state === "ready" && (
            <Flex gap="3" wrap="wrap" role="group" aria-label="Sensor channels drawn over the frames">
              <Text color="quiet">over it</Text>
              {sensors.value.channels.map(({ name }) => {
                const i = channels.indexOf(name);
                return (
                  <Toggle
                    key={name}
                    on={i >= 0}
                    tone={CHANNEL_TONES[i] === 0 ? "seriesBlue" : "seriesGreen"}
                    onClick={() => void setChannels(toggle(channels, name, MOST_CHANNELS))}
                  >
                    {channelOf(name).name}
                  </Toggle>
                );
              })}
            </Flex>
          )}
          {own && siblings.filter(({ frames: has, id }) => has && id !== run.id).length > 0 && (
            <Flex gap="3" role="group" aria-label="Runs of this cell drawn beside it">
              <Text color="quiet">beside it</Text>
              {siblings
                .filter(({ frames: has, id }) => has && id !== run.id)
                .map(({ number }) => (
                  <Toggle key={number} on={beside.includes(String(number))} onClick={() => void setBeside(toggle(beside, String(number), 6))}>
                    {`run ${number}`}
                  </Toggle>
                ))}
            </Flex>
          )}
          {own && rivals.length > 0 && (
            <InlineChoice
              label="against"
              value={other ?? ""}
              options={[{ value: "", label: "no other setup" }, ...rivals.map(({ id, label }) => ({ value: id, label }))]}
              onChange={(value) => void setOther(value || null)}
            />
          )}
          {others.length > 0 && (
            <InlineChoice
              label="aligned by"
              value={align}
              options={[
                { value: "start", label: "their start" },
                { value: "content", label: "their content" },
              ]}
              onChange={setAlign}
            />
          )}
          {window && (
            <chakra.button type="button" ml="auto" color="accent.fg" cursor="pointer" onClick={() => zoomTo(undefined)}>
              Show the whole run
            </chakra.button>
          )}
        </Flex>
      )}
      <Box h={traced ? "300px" : "96px"} mb="2">
        {lines.length > 0 ? (
          <TraceChart
            lines={lines}
            durationS={durationS}
            view={view}
            onView={setWindow}
            brush={brush}
            onBrush={setBrush}
            trims={trims}
            label={`Frame time of ${setup?.label}, ${test?.name}, run ${run.number}${lines.length > 1 ? `, with ${lines.length - 1} more ${lines.length === 2 ? "line" : "lines"}` : ""}`}
          />
        ) : (
          <NoChart>
            {frames.state === "loading" || sensors.state === "loading"
              ? "reading the log …"
              : frames.state === "failed"
                ? `The frames could not be read: ${frames.why}. Reload to try again.`
                : sensors.state === "ready"
                  ? "This run has no frames; choose a channel above."
                  : "This run has no log: its value was typed."}
          </NoChart>
        )}
      </Box>
      {lines.length > 1 && <LineNames lines={lines} />}
      {brush && loaded && (
        <BrushPanel
          brush={brush}
          runs={loaded.map((one) => ({ label: labelOf(one.runId), frames: one, shiftS: shifts.get(one.runId) ?? 0 }))}
          sensors={sensors.state === "ready" ? sensors.value : undefined}
          onZoom={() => zoomTo(brush)}
          onTrim={run.status === "valid" ? () => setDeciding("trim") : undefined}
        />
      )}
      <RunDecisions
        run={run}
        record={record}
        deciding={deciding}
        onDeciding={setDeciding}
        brush={brush}
        onTrimmed={() => setBrush(undefined)}
        onMoved={(setupId, testKey) => router.push(`/reviews/${model.id}/run?row=${setupId}&show=${encodeURIComponent(`cell:${setupId}/${testKey}`)}`)}
      />
      <Grid templateColumns={{ base: "1fr", md: "1fr 1fr", lg: "1.1fr 1.3fr 1.1fr" }} gap="10" mt="2">
        <RunFactsList run={run} record={record} unit={test?.unit ?? ""} />
        <Box>{record.statistics && <LowsTable frames={record.statistics} />}</Box>
        <RunRecordList run={run} record={record} />
      </Grid>
      {paced.length > 0 && record.statistics && <PacingCharts runs={paced} statistics={record.statistics} />}
      <StepFoot
        legend={
          own
            ? `Drag to mark a part, wheel to zoom. Hatched: left out of the statistics. ${figure(durationS, 1)} s recorded.`
            : "Every value keeps who recorded it and when."
        }
      >
        <KeyHint keys="← →" does="run" />
        <KeyHint keys="Z" does="zoom" />
        <KeyHint keys="0" does="whole" />
        <KeyHint keys="T" does="trim" />
        <KeyHint keys="X" does="discard" />
        <KeyHint keys="M" does="move" />
      </StepFoot>
    </Box>
  );
}
