"use client";

import { Box, Button, chakra, Flex, Text } from "@chakra-ui/react";
import { useRouter } from "next/navigation";
import { useState } from "react";
import type { FrameStatistics } from "@/core/capture";
import type { RunSummary } from "@/core/cell";
import { figure, type RunRecord } from "@/core/report";
import { Fact } from "../evidence/EvidenceParts";
import { SelectField, Trouble } from "../forms/fields";
import { SCHOOL_NAMES } from "../review/controls";
import { type ActionAnswer, SCHOOLS, useKeptState, useReview, useReviewState } from "../review/ReviewContext";
import { UndoBar } from "../review/UndoBar";
import type { Stretch } from "./TraceChart";

/** What the run's frames say, or its one value. */
export function RunFactsList({ run, record, unit }: { run: RunSummary; record: RunRecord; unit: string }) {
  const { statistics } = record;
  if (!statistics)
    return (
      <Box>
        <Fact name="result">{run.result === null ? "not known" : `${figure(run.result, 2)} ${unit}`}</Fact>
      </Box>
    );
  return (
    <Box>
      <Fact name="average">{figure(statistics.averageFps, 2)} fps</Fact>
      <Fact name="frames">{figure(statistics.frames, 0)}</Fact>
      <Fact name="duration">{figure(statistics.durationS, 2)} s</Fact>
      <Fact name="median frame time">{figure(statistics.medianFrameTimeMs, 3)} ms</Fact>
      <Fact name="SD of frame times">{figure(statistics.sdFrameTimeMs, 3)} ms</Fact>
      <Fact name="stutters">{statistics.stutters}</Fact>
    </Box>
  );
}

/** What is recorded beside the log, and who did what to the run. */
export function RunRecordList({ run, record }: { run: RunSummary; record: RunRecord }) {
  const [power] = Object.entries(run.energy);
  return (
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
      {record.note && <Fact name="note">{record.note}</Fact>}
      {record.channels.length > 0 && <Fact name="content hash">{record.channels[0]?.sha256.slice(0, 12)}</Fact>}
      {record.history.map((one) => (
        <Fact key={`${one.at} ${one.action}`} name={one.action}>
          {one.who}, {one.at.slice(0, 16).replace("T", " ")}
          {one.reason ? `: ${one.reason}` : ""}
        </Fact>
      ))}
    </Box>
  );
}

type Deciding = "discard" | "move" | "trim" | undefined;

/** What a person may do to a run, each with a reason and a way back: discard, restore, leave a part out, move to its cell. */
export function RunDecisions({
  run,
  record,
  deciding,
  onDeciding,
  brush,
  onTrimmed,
  onMoved,
}: {
  run: RunSummary;
  record: RunRecord;
  deciding: Deciding;
  onDeciding: (deciding: Deciding) => void;
  brush: Stretch | undefined;
  onTrimmed: () => void;
  onMoved: (setupId: string, testKey: string) => void;
}) {
  const { model, actions } = useReview();
  const router = useRouter();
  const [reason, setReason] = useState("");
  const [problem, setProblem] = useState<string | undefined>(undefined);
  const [busy, setBusy] = useState(false);
  const [target, setTarget] = useState({ setupId: run.setupId, testKey: run.testKey });
  const [trimmed, setTrimmed] = useKeptState<{ fromS: number; toS: number; at: string } | undefined>(`run trimmed ${run.id}`, undefined);
  const trims = record.trims.filter(({ undone }) => !undone);
  const perform = async (act: () => Promise<ActionAnswer>, done: () => void = () => {}) => {
    setBusy(true);
    setProblem(undefined);
    const answer = await act();
    setBusy(false);
    if (!answer.ok) return setProblem(answer.sentence);
    setReason("");
    onDeciding(undefined);
    done();
    router.refresh();
  };
  const seen = { runId: run.id, rowVersion: record.rowVersion };
  const undo = (fromS: number, toS: number, at: string | null) =>
    perform(
      () => actions.undoTrim({ ...seen, fromS, toS, at }),
      () => setTrimmed(undefined),
    );
  const submit = () => {
    if (deciding === "discard") return perform(() => actions.changeRun({ ...seen, status: "discarded", reason }));
    if (deciding === "move")
      return perform(
        () => actions.relabelRun({ ...seen, ...target, reason }),
        () => onMoved(target.setupId, target.testKey),
      );
    if (deciding === "trim" && brush) {
      // Trims are kept to a millisecond: finer than any person marks.
      const [fromS, toS] = [Math.round(brush.fromS * 1000) / 1000, Math.round(brush.toS * 1000) / 1000];
      return perform(async () => {
        const answer = (await actions.trimRun({ ...seen, fromS, toS, reason })) as ActionAnswer<{ at: string }>;
        if (answer.ok) setTrimmed({ fromS, toS, at: answer.value.at });
        return answer;
      }, onTrimmed);
    }
  };
  const words = {
    discard: ["Discard run", "why this run is wrong"],
    move: ["Move run", "how it got here"],
    trim: ["Leave it out", "menu, loading, warm-up …"],
  };
  const [does, asks] = deciding ? (words[deciding] as [string, string]) : ["", ""];
  const sameKind = model.tests.filter(({ kind }) => kind === model.tests.find(({ key }) => key === run.testKey)?.kind);
  return (
    <Box mb="3">
      {trims.length > 0 && (
        <Flex gap="4" wrap="wrap" align="baseline">
          {trims.map(({ fromS, toS, reason: why, who, at }) => (
            <Flex key={`${fromS}-${toS}-${at}`} gap="2" align="baseline">
              <Text>
                left out: {figure(fromS, 2)} to {figure(toS, 2)} s, {why}
                {who ? ` (${who})` : ""}
              </Text>
              <chakra.button type="button" color="accent.fg" cursor="pointer" disabled={busy} onClick={() => void undo(fromS, toS, at)}>
                Take it back
              </chakra.button>
            </Flex>
          ))}
        </Flex>
      )}
      {deciding === undefined ? (
        <Flex gap="3" mt="1">
          {run.status === "valid" && (
            <Button size="xs" variant="outline" onClick={() => onDeciding("discard")}>
              Discard run
            </Button>
          )}
          {run.status === "discarded" && (
            <Button size="xs" variant="outline" disabled={busy} onClick={() => void perform(() => actions.changeRun({ ...seen, status: "valid", reason: "" }))}>
              Restore run
            </Button>
          )}
          {run.status !== "failed" && (
            <Button size="xs" variant="outline" onClick={() => onDeciding("move")}>
              Move to another cell
            </Button>
          )}
        </Flex>
      ) : (
        <chakra.form
          display="flex"
          gap="4"
          flexWrap="wrap"
          alignItems="flex-end"
          onSubmit={(event) => {
            event.preventDefault();
            void submit();
          }}
        >
          {deciding === "move" && (
            <>
              <SelectField
                label="to the setup"
                width="200px"
                value={target.setupId}
                onChange={(setupId) => setTarget({ ...target, setupId })}
                options={model.setups.map(({ id, label }) => ({ value: id, label }))}
              />
              <SelectField
                label="to the test"
                width="240px"
                value={target.testKey}
                onChange={(testKey) => setTarget({ ...target, testKey })}
                options={sameKind.map(({ key, name }) => ({ value: key, label: name }))}
              />
            </>
          )}
          <chakra.input
            // The field is there because a key asked for it.
            autoFocus={deciding !== "move"}
            value={reason}
            onChange={(event) => setReason(event.currentTarget.value)}
            onKeyDown={(event) => event.key === "Escape" && onDeciding(undefined)}
            placeholder={asks}
            aria-label="Reason"
            flex="1"
            minW="200px"
            maxW="420px"
            h="28px"
            bg="transparent"
            borderBottom="1.5px solid"
            borderColor="accent.solid"
            maxLength={500}
          />
          <Button type="submit" size="sm" disabled={busy || reason.trim() === "" || (deciding === "trim" && !brush)}>
            {busy ? "Recording …" : does}
          </Button>
        </chakra.form>
      )}
      <Trouble text={problem} />
      {trimmed && (
        <UndoBar
          text={`${figure(trimmed.fromS, 2)} to ${figure(trimmed.toS, 2)} s are left out of the statistics.`}
          onUndo={() => void undo(trimmed.fromS, trimmed.toS, trimmed.at)}
          onClose={() => setTrimmed(undefined)}
        />
      )}
    </Box>
  );
}

/** The lows of a run in all three schools side by side; the one that charts use is marked. */
export function LowsTable({ frames }: { frames: FrameStatistics }) {
  const { school } = useReviewState();
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
