"use client";

import { Box, Button, Flex, Link, Text } from "@chakra-ui/react";
import NextLink from "next/link";
import { useEffect, useMemo, useRef, useState } from "react";
import { frameStatistics } from "@/core/capture";
import { encodeParcel, type LabNames } from "@/core/intake";
import { figure } from "@/core/report";
import { TickRuler } from "../charts/TickRuler";
import { SelectField, TextField, Trouble } from "../forms/fields";
import type { ActionAnswer } from "../review/ReviewContext";
import { type BrowserRecording, recordScene } from "./recordScene";

/** What the recorder may file into: frame tests, and the review whose grid shows the run. */
export interface RecorderModel {
  names: LabNames;
  frameTests: string[];
  taken: Record<string, number[]>;
  reviewOf: Record<string, string>;
}

/** Plays a moving scene in this browser and files its true frame intervals as a run. */
export function BrowserRecorder({ model, endIntake }: { model: RecorderModel; endIntake: (input: unknown) => Promise<ActionAnswer> }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const stopper = useRef<AbortController | undefined>(undefined);
  const [setupId, setSetupId] = useState(model.names.setups[0]?.id ?? "");
  const tests = useMemo(() => model.names.tests.filter(({ key }) => model.frameTests.includes(key)), [model]);
  const [testKey, setTestKey] = useState(tests[0]?.key ?? "");
  const [seconds, setSeconds] = useState("20");
  const [shapes, setShapes] = useState("400");
  const [left, setLeft] = useState<number | undefined>(undefined);
  const [recording, setRecording] = useState<BrowserRecording | undefined>(undefined);
  const [filed, setFiled] = useState<string | undefined>(undefined);
  const [trouble, setTrouble] = useState<string | undefined>(undefined);
  const [isolated, setIsolated] = useState(true);
  useEffect(() => {
    setIsolated(crossOriginIsolated);
    return () => stopper.current?.abort();
  }, []);
  const length = Number(seconds);
  const usable = length >= 3 && length <= 600 && /^\d+$/.test(shapes) && Number(shapes) <= 200_000 && setupId !== "" && testKey !== "";

  const start = async () => {
    if (!canvas.current) return;
    const own = new AbortController();
    stopper.current = own;
    setTrouble(undefined);
    setFiled(undefined);
    setRecording(undefined);
    const result = await recordScene(canvas.current, { seconds: length, shapes: Number(shapes), signal: own.signal, onTick: setLeft });
    setLeft(undefined);
    if ("sentence" in result) setTrouble(result.sentence);
    else setRecording(result);
  };
  const file = async () => {
    if (!recording) return;
    const number = Math.max(0, ...(model.taken[`${setupId}/${testKey}`] ?? [])) + 1;
    const path = `this browser: display at ${recording.displayHz.toFixed(1)} Hz, clock step ${(recording.clockStepMs * 1000).toFixed(0)} µs, ${shapes} shapes`;
    const stamp = new Date().toISOString();
    const place = { setupId, testKey, number, files: [{ path, stamp }] };
    const post = async (url: string, body: BodyInit) => {
      const response = await fetch(url, { method: "POST", body });
      return (await response.json()) as {
        ok: boolean;
        sentence?: string;
        intakeId?: string;
        outcomes?: { state: string; reason: string | null; runId: string }[];
      };
    };
    try {
      const opened = await post("/api/intakes", JSON.stringify({ label: `browser ${stamp}`, files: [{ path, stamp, setupId, testKey, number }] }));
      if (!opened.ok || !opened.intakeId) return setTrouble(opened.sentence);
      const log = { frameTimesMs: recording.frameTimesMs, sensors: null };
      const sent = await post(`/api/intakes/${opened.intakeId}`, encodeParcel({ runs: [{ ...place, log }], refused: [] }) as BodyInit);
      const [outcome] = sent.outcomes ?? [];
      if (!sent.ok || outcome?.state !== "stored") return setTrouble(sent.sentence ?? outcome?.reason ?? "The run was not stored.");
      const ended = await endIntake({ intakeId: opened.intakeId, state: "done" });
      if (!ended.ok) return setTrouble(ended.sentence);
      model.taken[`${setupId}/${testKey}`] = [...(model.taken[`${setupId}/${testKey}`] ?? []), number];
      setFiled(outcome.runId);
    } catch (error) {
      setTrouble(`The run could not be filed (${(error as Error).message}); it is still here, try again.`);
    }
  };
  const statistics = useMemo(() => recording && frameStatistics(recording.frameTimesMs), [recording]);
  const review = model.reviewOf[`${setupId}/${testKey}`];
  return (
    <Box as="main" px={{ base: 3, md: 5 }} pt="6" pb="16" maxW="1240px" mx="auto">
      <Text as="h1" fontSize="26px" lineHeight="34px" fontWeight="600" letterSpacing="-0.015em" mb="3">
        Record in this browser
      </Text>
      <TickRuler steps={12} minor={5} />
      <Text mt="3" maxW="760px">
        A moving scene is played and the true intervals between its frames are recorded. A browser draws no faster than its display, so the run will look
        capped, and the checks are to find that.
      </Text>
      {!isolated && (
        <Text color="doubt" mt="2">
          This page is not isolated, so its clock is coarse.{" "}
          <Link href="/instruments/browser" color="accent.fg">
            Load it anew
          </Link>{" "}
          for fine timers.
        </Text>
      )}
      <Flex gap="5" mt="4" wrap="wrap" align="flex-end">
        <SelectField
          label="setup"
          width="220px"
          value={setupId}
          onChange={setSetupId}
          options={model.names.setups.map(({ id, label }) => ({ value: id, label }))}
        />
        <SelectField label="test" width="260px" value={testKey} onChange={setTestKey} options={tests.map(({ key, name }) => ({ value: key, label: name }))} />
        <TextField label="seconds" width="90px" value={seconds} onChange={setSeconds} />
        <TextField label="shapes drawn" width="110px" value={shapes} onChange={setShapes} />
        {left === undefined ? (
          <Button size="sm" disabled={!usable} onClick={() => void start()}>
            Record
          </Button>
        ) : (
          <Button size="sm" variant="outline" onClick={() => stopper.current?.abort()}>
            Stop
          </Button>
        )}
        <Text role="status" textStyle="figureStrong">
          {left === undefined ? "" : left > length ? "warming up …" : `${left.toFixed(0)} s left`}
        </Text>
      </Flex>
      {tests.length === 0 && <Text color="doubt">The lab has no test that counts frames yet; define one under Suites.</Text>}
      <Trouble text={trouble} />
      <Box mt="4" border="1px solid" borderColor="hairline" h="320px">
        <canvas ref={canvas} style={{ width: "100%", height: "100%", display: "block" }} aria-label="The moving scene" role="img" />
      </Box>
      {recording && statistics && (
        <Box mt="4" role="region" aria-label="What was recorded">
          <Flex gap="8" wrap="wrap" align="baseline">
            <Text textStyle="title">{figure(statistics.averageFps, 2)} fps</Text>
            <Text>
              {figure(statistics.frames, 0)} frames in {figure(statistics.durationS, 1)} s; 1 % low {figure(statistics.low1.percentileFps, 1)} fps
            </Text>
            <Text color="quiet">
              display {figure(recording.displayHz, 1)} Hz, clock step {figure(recording.clockStepMs * 1000, 0)} µs
              {recording.isolated ? "" : ", page not isolated"}
            </Text>
          </Flex>
          {filed ? (
            <Flex gap="4" mt="2">
              <Text>Filed as a run.</Text>
              {review && (
                <Link asChild color="accent.fg">
                  <NextLink href={`/reviews/${review}/run/${encodeURIComponent(filed)}`}>Open it</NextLink>
                </Link>
              )}
            </Flex>
          ) : (
            <Button mt="3" size="sm" onClick={() => void file()}>
              File it as a run
            </Button>
          )}
        </Box>
      )}
    </Box>
  );
}
