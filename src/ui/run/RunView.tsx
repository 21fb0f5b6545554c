"use client";

import { Box, Button, chakra, Flex, Grid, Link, Text } from "@chakra-ui/react";
import dynamic from "next/dynamic";
import NextLink from "next/link";
import { useRouter, useSearchParams } from "next/navigation";
import { useEffect, useState } from "react";
import { resolutionLabel } from "@/core/bench";
import type { FrameStatistics } from "@/core/capture";
import { figure, type RunRecord } from "@/core/report";
import { Fact } from "../evidence/EvidenceParts";
import { SCHOOL_NAMES } from "../review/controls";
import { SCHOOLS, useReview, useReviewState } from "../review/ReviewContext";
import { useKeys } from "../review/useKeys";

const FrameChart = dynamic(() => import("./FrameChart"), { ssr: false });

type Frames = { state: "loading" } | { state: "none" } | { state: "failed"; why: string } | { state: "ready"; values: Float64Array };

function useFrames(runId: string, has: boolean): Frames {
  const [frames, setFrames] = useState<Frames>({ state: has ? "loading" : "none" });
  useEffect(() => {
    if (!has) return setFrames({ state: "none" });
    const abort = new AbortController();
    setFrames({ state: "loading" });
    fetch(`/api/runs/${encodeURIComponent(runId)}/frames`, { signal: abort.signal })
      .then(async (response) => {
        if (!response.ok) throw new Error(`the server answered ${response.status}`);
        setFrames({ state: "ready", values: new Float64Array(await response.arrayBuffer()) });
      })
      .catch((error: unknown) => !abort.signal.aborted && setFrames({ state: "failed", why: error instanceof Error ? error.message : "no connection" }));
    return () => abort.abort();
  }, [runId, has]);
  return frames;
}

/** One run: its frame times, its statistics in the three schools of lows, its record; and its place among the cell's runs. */
export function RunView({ record }: { record: RunRecord }) {
  const { model, actions } = useReview();
  const { school } = useReviewState();
  const router = useRouter();
  const query = useSearchParams();
  const run = model.runs.find(({ id }) => id === record.id);
  const frames = useFrames(
    record.id,
    record.channels.some(({ log }) => log === "frames"),
  );
  const [reason, setReason] = useState<string | undefined>(undefined);
  const [problem, setProblem] = useState<string | undefined>(undefined);
  const [busy, setBusy] = useState(false);
  const siblings = run ? model.runs.filter((one) => one.setupId === run.setupId && one.testKey === run.testKey).sort((a, b) => a.number - b.number) : [];
  const at = siblings.findIndex(({ id }) => id === record.id);
  const link = (runId: string) => `/reviews/${model.id}/run/${encodeURIComponent(runId)}?${query}`;
  const go = (by: number) => {
    const next = siblings[at + by];
    if (next) router.push(link(next.id));
  };
  useKeys({
    ArrowLeft: () => go(-1),
    ArrowRight: () => go(1),
    Escape: () => (reason === undefined ? router.push(`/reviews/${model.id}/run?${query}`) : setReason(undefined)),
    x: () => run?.status === "valid" && setReason(""),
  });
  if (!run) return <Text>This run is not part of the review.</Text>;
  const setup = model.setups.find(({ id }) => id === run.setupId);
  const test = model.tests.find(({ key }) => key === run.testKey);
  const change = async (status: "valid" | "discarded", why: string) => {
    setBusy(true);
    const answer = await actions.changeRun({ runId: run.id, rowVersion: record.rowVersion, status, reason: why });
    setBusy(false);
    setProblem(answer.ok ? undefined : answer.sentence);
    if (answer.ok) {
      setReason(undefined);
      router.refresh();
    }
  };
  const { statistics } = record;
  const [power] = Object.entries(run.energy);
  return (
    <Box>
      <Flex align="baseline" gap="5" wrap="wrap" mb="1">
        <Text as="h2" textStyle="title">
          {setup?.label}, {test?.workloadName}
        </Text>
        <Text color="quiet">
          {test?.resolution && resolutionLabel(test.resolution)}, {test?.settings.split(" · ").join(", ")}
        </Text>
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
              <NextLink href={link(one.id)} aria-current={one.id === run.id ? "page" : undefined}>
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
      <Box h="320px" position="relative" mb="4">
        {frames.state === "ready" && <FrameChart frameTimesMs={frames.values} label={`${setup?.label}, ${test?.name}, run ${run.number}`} />}
        {frames.state !== "ready" && (
          <Flex h="full" align="center" justify="center" border="1px solid" borderColor="hairline" color="quiet">
            {frames.state === "loading"
              ? "reading the frames …"
              : frames.state === "none"
                ? "This run has no frame log."
                : `The frames could not be read: ${frames.why}. Reload to try again.`}
          </Flex>
        )}
      </Box>
      <Grid templateColumns={{ base: "1fr", md: "1fr 1fr", lg: "1.1fr 1.3fr 1.1fr" }} gap="10">
        <Box>
          {statistics ? (
            <>
              <Fact name="average">{figure(statistics.averageFps, 2)} fps</Fact>
              <Fact name="frames">{figure(statistics.frames, 0)}</Fact>
              <Fact name="duration">{figure(statistics.durationS, 2)} s</Fact>
              <Fact name="median frame time">{figure(statistics.medianFrameTimeMs, 3)} ms</Fact>
              <Fact name="SD of frame times">{figure(statistics.sdFrameTimeMs, 3)} ms</Fact>
              <Fact name="stutters">{statistics.stutters}</Fact>
            </>
          ) : (
            <Fact name="result">{run.result === null ? "not known" : `${figure(run.result, 2)} ${test?.unit}`}</Fact>
          )}
        </Box>
        <Box>{statistics && <LowsTable frames={statistics} school={school} />}</Box>
        <Box>
          {power && (
            <Fact name={`mean power at the ${power[0]}`}>
              {figure(power[1].meanW, 1)} W, {figure(power[1].joules / 1000, 2)} kJ
            </Fact>
          )}
          {record.values
            .filter(({ metric }) => metric !== "result")
            .map(({ metric, value, unit, at: place }) => (
              <Fact key={`${metric} ${place}`} name={[metric.replaceAll("_", " "), place && `at the ${place}`].filter(Boolean).join(" ")}>
                {unit === "B" ? `${figure(value / 1e6, 2)} MB` : `${figure(value, 2)} ${unit}`}
              </Fact>
            ))}
          {record.startedAt && <Fact name="started">{record.startedAt.slice(0, 16).replace("T", " ")} UTC</Fact>}
          {record.ambientC !== null && <Fact name="room">{figure(record.ambientC, 1)} °C</Fact>}
          {record.sessionId && <Fact name="session">{record.sessionId}</Fact>}
          {record.channels.length > 0 && <Fact name="content hash">{record.channels[0]?.sha256.slice(0, 12)}</Fact>}
          {record.history.map((one) => (
            <Fact key={`${one.at} ${one.action}`} name={one.action}>
              {one.who}, {one.at.slice(0, 16).replace("T", " ")}
              {one.reason ? `: ${one.reason}` : ""}
            </Fact>
          ))}
          {run.status === "valid" && reason === undefined && (
            <Button mt="4" size="sm" variant="outline" onClick={() => setReason("")}>
              Discard run
            </Button>
          )}
          {reason !== undefined && (
            <chakra.form
              mt="4"
              display="flex"
              gap="2"
              onSubmit={(event) => {
                event.preventDefault();
                void change("discarded", reason);
              }}
            >
              <chakra.input
                autoFocus
                value={reason}
                onChange={(event) => setReason(event.currentTarget.value)}
                onKeyDown={(event) => event.key === "Escape" && setReason(undefined)}
                placeholder="why this run is wrong"
                aria-label="Reason"
                flex="1"
                bg="transparent"
                borderBottom="1.5px solid"
                borderColor="accent.solid"
                maxLength={500}
              />
              <Button type="submit" size="sm" disabled={busy || reason.trim() === ""}>
                Discard run
              </Button>
            </chakra.form>
          )}
          {run.status === "discarded" && (
            <Button mt="4" size="sm" variant="outline" disabled={busy} onClick={() => change("valid", "")}>
              Restore run
            </Button>
          )}
          {problem && (
            <Text role="alert" mt="2" color="doubt">
              {problem}
            </Text>
          )}
        </Box>
      </Grid>
    </Box>
  );
}

/** The lows of a run in all three schools side by side; the one that charts use is marked. */
function LowsTable({ frames, school }: { frames: FrameStatistics; school: (typeof SCHOOLS)[number] }) {
  const valueOf = (lows: FrameStatistics["low1"], which: (typeof SCHOOLS)[number]) =>
    ({ percentile: lows.percentileFps, tail_mean: lows.tailMeanFps, time_share: lows.timeShareFps })[which];
  const rules = { percentile: "99 % of frames are shorter", tail_mean: "the slowest 1 % on average", time_share: "1 % of the time is slower" };
  return (
    <chakra.table
      w="full"
      css={{
        "& th, & td": { padding: "4px 0", borderTop: "1px solid var(--chakra-colors-hairline)", textAlign: "right", fontWeight: 400 },
        "& th:first-of-type": { textAlign: "left" },
      }}
    >
      <thead>
        <tr>
          <th scope="col">
            <Text color="quiet">lows, fps</Text>
          </th>
          <th scope="col">
            <Text color="quiet">1 %</Text>
          </th>
          <th scope="col">
            <Text color="quiet">0.1 %</Text>
          </th>
        </tr>
      </thead>
      <tbody>
        {SCHOOLS.map((one) => (
          <tr key={one}>
            <th scope="row">
              <Text fontWeight={one === school ? "600" : "400"}>{SCHOOL_NAMES[one]}</Text>
              <Text textStyle="small" color="quiet">
                {rules[one]}
              </Text>
            </th>
            <td>
              <Text textStyle="figure" fontSize="15px" fontWeight={one === school ? "600" : "400"}>
                {figure(valueOf(frames.low1, one), 1)}
              </Text>
            </td>
            <td>
              <Text textStyle="figure" fontSize="15px">
                {figure(valueOf(frames.low01, one), 1)}
              </Text>
            </td>
          </tr>
        ))}
      </tbody>
    </chakra.table>
  );
}
