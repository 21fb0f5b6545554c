"use client";

import { Box, Flex, Text } from "@chakra-ui/react";
import { parseAsString, useQueryState } from "nuqs";
import { useMemo } from "react";
import { cpusForGpu, fitPairs, type PairPrediction, predictPair } from "@/core/compare";
import { familyOf, figure, measuredPairs, type RowChart, signedPercent } from "@/core/report";
import { ChartFrame } from "../charts/ChartFrame";
import { ScaleHead } from "../charts/RowScale";
import { linearScale } from "../charts/scale";
import { InlineChoice, ResolutionChoice, SchoolChoice, StepFoot } from "../review/controls";
import { cachedMatrix, useReview, useReviewState } from "../review/ReviewContext";

const COLUMNS = { base: "minmax(0, 1fr) 110px", md: "200px minmax(200px, 1fr) 150px 110px 180px" };

/** A processor with a card that were never tested together: what limits alone let one expect, with an interval, never as a measurement. */
export function PairsView() {
  const { model } = useReview();
  const { resolution, school } = useReviewState();
  const [askedCpu, setCpu] = useQueryState("cpu", parseAsString);
  const [askedGpu, setGpu] = useQueryState("gpu", parseAsString);
  const average = useMemo(() => measuredPairs(model, cachedMatrix(model, "result", school)), [model, school]);
  const lows = useMemo(() => measuredPairs(model, cachedMatrix(model, "low1", school)), [model, school]);
  const [fit, lowFit] = useMemo(() => [fitPairs(average), fitPairs(lows)], [average, lows]);
  const ids = (which: "cpuId" | "gpuId") =>
    [...new Set(average.map((cell) => cell[which]))].sort((a, b) => (model.partNames[a] ?? a).localeCompare(model.partNames[b] ?? b));
  const [cpus, gpus] = [ids("cpuId"), ids("gpuId")];
  const cpuId = cpus.includes(askedCpu ?? "") ? (askedCpu as string) : (cpus.find((id) => id !== model.setups[0]?.cpuId) ?? cpus[0] ?? "");
  const gpuId = gpus.includes(askedGpu ?? "") ? (askedGpu as string) : (gpus[0] ?? "");
  const at = resolution ?? "2560x1440";
  const families = useMemo(
    () => [
      ...new Map(
        model.tests.filter(({ kind, ladder, resolution: one }) => kind === "frames" && !ladder && one === at).map((test) => [familyOf(test), test]),
      ).values(),
    ],
    [model, at],
  );
  const lines = useMemo(
    () =>
      families.flatMap((test) => {
        const pair = { cpuId, gpuId, family: familyOf(test), resolution: at };
        const found = predictPair(average, fit, pair);
        return found ? [{ test, found, low: predictPair(lows, lowFit, pair) }] : [];
      }),
    [families, average, lows, fit, lowFit, cpuId, gpuId, at],
  );
  const enough = useMemo(() => cpusForGpu(average, fit, gpuId, at), [average, fit, gpuId, at]);
  const name = (id: string) => model.partNames[id] ?? id;
  const fps = (prediction: PairPrediction | undefined) => (prediction ? `${prediction.atLeast ? "at least " : ""}${figure(prediction.fps)}` : "–");
  const ends = lines.flatMap(({ found }) => [found.fps, found.low ?? found.fps, found.high ?? found.fps, found.measuredFps ?? found.fps]);
  const scale = linearScale(0, Math.max(1, ...ends), 6);
  const x = (value: number) => `${scale.at(value)}%`;
  const residual = fit.residual;
  const checked = residual
    ? `Checked on ${residual.n} measured pairs, each predicted without itself: they lie ${figure(100 * residual.sd, 1)} % around the prediction${Math.abs(residual.bias) > 0.01 ? `, ${signedPercent(1 + residual.bias)} on average` : ""}.`
    : "Fewer than four measured pairs can be checked here: no interval is known, and the plain lower of both limits is taken.";
  const title = `${name(cpuId)} with ${name(gpuId)}, predicted`;
  const conditions = [
    `Predicted, not measured: the lower of what the processor and the card allow alone, softened (exponent ${Number.isFinite(fit.sharpness) ? figure(fit.sharpness, 1) : "none"}).`,
    checked,
  ];
  const chart = (): RowChart => ({
    title,
    subtitle: `predicted rates at ${at.replace("x", " × ")}, never tested together unless a ring says so`,
    unit: "fps, predicted",
    min: scale.min,
    max: scale.max,
    major: scale.major,
    minor: scale.minor,
    base: 0,
    band: [0, 0],
    rows: lines.map(({ test, found }) => ({
      label: test.workloadName,
      value: found.fps,
      low: found.low,
      high: found.high,
      ring: found.measuredFps,
      hollow: true,
      text: `${fps(found)} fps`,
    })),
    conditions,
  });
  return (
    <Box>
      <Flex gap="6" mb="3" wrap="wrap" align="center">
        <InlineChoice label="processor" value={cpuId} options={cpus.map((id) => ({ value: id, label: name(id) }))} onChange={(value) => void setCpu(value)} />
        <InlineChoice label="with card" value={gpuId} options={gpus.map((id) => ({ value: id, label: name(id) }))} onChange={(value) => void setGpu(value)} />
        <ResolutionChoice overall={false} />
        <SchoolChoice />
      </Flex>
      <Text fontSize="16px">Predicted, not measured. {checked}</Text>
      {lines.length === 0 ? (
        <Text color="quiet" py="4">
          Nothing can be said of this pair at {at.replace("x", " × ")}: one of the two was never run in these tests there.
        </Text>
      ) : (
        <Box mt="3">
          <ChartFrame
            title={title}
            summary={lines.map(({ test, found }) => `${test.workloadName}: predicted ${fps(found)} fps`).join("; ")}
            conditions={conditions}
            rowChart={chart}
            table={{
              heads: ["test", "predicted, fps", "from", "to", "1 % low, fps", "decided by", "processor alone", "card alone", "measured"],
              rows: lines.map(({ test, found, low }) => ({
                key: test.key,
                cells: [
                  { text: test.name, sort: test.name },
                  { text: fps(found), sort: found.fps },
                  { text: found.low === undefined ? "–" : figure(found.low), sort: found.low ?? 0 },
                  { text: found.high === undefined ? "–" : figure(found.high), sort: found.high ?? 0 },
                  { text: fps(low), sort: low?.fps ?? 0 },
                  { text: found.limitedBy, sort: found.limitedBy },
                  { text: figure(found.cpuFps), sort: found.cpuFps },
                  { text: figure(found.gpuFps), sort: found.gpuFps },
                  { text: found.measuredFps === undefined ? "never" : figure(found.measuredFps), sort: found.measuredFps ?? 0 },
                ],
              })),
            }}
          >
            <Box role="table" aria-label={title}>
              <Box role="row" display="grid" gridTemplateColumns={COLUMNS} columnGap="5" alignItems="end" color="quiet">
                <Text role="columnheader">test</Text>
                <Box role="columnheader" display={{ base: "none", md: "block" }} aria-label="frames per second">
                  <ScaleHead scale={scale} />
                </Box>
                <Text role="columnheader" textAlign="right">
                  predicted, fps
                </Text>
                <Text role="columnheader" textAlign="right" display={{ base: "none", md: "block" }}>
                  1 % low
                </Text>
                <Text role="columnheader" display={{ base: "none", md: "block" }}>
                  decided by
                </Text>
              </Box>
              {lines.map(({ test, found, low }) => (
                <Box
                  role="row"
                  key={test.key}
                  display="grid"
                  gridTemplateColumns={COLUMNS}
                  columnGap="5"
                  alignItems="center"
                  minH="30px"
                  borderTop="1px solid"
                  borderColor="hairline"
                >
                  <Text role="cell" truncate>
                    {test.workloadName}
                  </Text>
                  <Box role="cell" display={{ base: "none", md: "block" }} aria-label={`predicted ${fps(found)}`}>
                    <svg width="100%" height="30" style={{ display: "block", overflow: "visible" }} aria-hidden>
                      {found.low !== undefined && found.high !== undefined && (
                        <line x1={x(found.low)} x2={x(found.high)} y1="15" y2="15" stroke="var(--chakra-colors-ink)" strokeWidth="1.5" strokeDasharray="3 3" />
                      )}
                      <rect
                        x={x(found.fps)}
                        y="10"
                        width="10"
                        height="10"
                        transform="translate(-5 0)"
                        fill="var(--chakra-colors-paper)"
                        stroke="var(--chakra-colors-ink)"
                        strokeWidth="1.5"
                      />
                      {found.measuredFps !== undefined && <circle cx={x(found.measuredFps)} cy="15" r="3.5" fill="var(--chakra-colors-accent-solid)" />}
                    </svg>
                  </Box>
                  <Text role="cell" textStyle="figure" textAlign="right" fontWeight="600">
                    {fps(found)}
                    {found.low !== undefined && found.high !== undefined ? ` (${figure(found.low)} to ${figure(found.high)})` : ""}
                  </Text>
                  <Text role="cell" textStyle="figure" textAlign="right" display={{ base: "none", md: "block" }}>
                    {fps(low)}
                  </Text>
                  <Text role="cell" color="quiet" display={{ base: "none", md: "block" }}>
                    {found.limitedBy === "both" ? "both" : found.limitedBy === "cpu" ? "the processor" : "the card"}
                    {found.measuredFps === undefined ? "" : `; measured ${figure(found.measuredFps)}`}
                  </Text>
                </Box>
              ))}
            </Box>
          </ChartFrame>
        </Box>
      )}
      {enough.length > 0 && (
        <Box mt="5">
          <Text as="h3" fontSize="16px" fontWeight="600">
            Which processor is enough for {name(gpuId)} at {at.replace("x", " × ")}?
          </Text>
          {enough.map(({ cpuId: id, share, families: n, atLeast }) => (
            <Box
              key={id}
              display="grid"
              gridTemplateColumns={{ base: "minmax(0, 1fr) 80px", md: "200px minmax(160px, 380px) 90px 1fr" }}
              columnGap="5"
              alignItems="center"
              borderTop="1px solid"
              borderColor="hairline"
              minH="30px"
            >
              <Text fontWeight={id === cpuId ? "600" : "400"}>{name(id)}</Text>
              <Box display={{ base: "none", md: "block" }} aria-hidden>
                <svg width="100%" height="12" aria-hidden>
                  <line x1="0" x2="100%" y1="6" y2="6" stroke="var(--chakra-colors-hairline)" />
                  <line
                    x1="0"
                    x2={`${Math.min(100, 100 * share)}%`}
                    y1="6"
                    y2="6"
                    stroke={id === cpuId ? "var(--chakra-colors-accent-solid)" : "var(--chakra-colors-ink)"}
                    strokeWidth="2"
                  />
                </svg>
              </Box>
              <Text textStyle="figure" textAlign="right">
                {atLeast ? "≥ " : ""}
                {figure(100 * share, 0)} %
              </Text>
              <Text color="quiet">
                {share >= 1 / (1 + model.margin) ? "enough" : "holds it back"}, over {n} workloads
              </Text>
            </Box>
          ))}
        </Box>
      )}
      <StepFoot legend="□ predicted, ┄ its 95 % interval (both repeatabilities and how far measured pairs lay from their prediction), ● measured" />
    </Box>
  );
}
