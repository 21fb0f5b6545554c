"use client";

import { Box, Flex, Text } from "@chakra-ui/react";
import { useMemo } from "react";
import { figure, perClockOf, type RowChart, signedPercent, type Uplift, upliftsOf } from "@/core/report";
import { ChartFrame } from "../charts/ChartFrame";
import { RowMark, ScaleHead } from "../charts/RowScale";
import { linearScale } from "../charts/scale";
import { GroupChoice, ResolutionChoice, StepFoot } from "../review/controls";
import { useReview, useReviewState } from "../review/ReviewContext";

const COLUMNS = { base: "minmax(0, 1fr) 90px", md: "210px minmax(220px, 1fr) 90px 90px 250px" };

/** What of the uplift clocks and units explain, in words. */
function paperText({ paper, byLimit }: Uplift): string {
  const limited = byLimit
    .map(({ limit, ratio, tests }) => `${limit === "own" ? "at its limit" : "held elsewhere"} ${signedPercent(ratio)} (${tests})`)
    .join(", ");
  if (!paper) return limited;
  const arrived = paper.efficiency === undefined || paper.expected <= 1 ? "" : `${figure(100 * paper.efficiency, 0)} % of it arrived`;
  return [arrived, limited].filter(Boolean).join("; ");
}

/** Uplift from what people own, measured beside what clocks and units allow on paper; score per GHz where a synthetic was run. */
export function GenerationsView() {
  const { model } = useReview();
  const { resolution, group } = useReviewState();
  const uplifts = useMemo(() => upliftsOf(model, { resolution, group }), [model, resolution, group]);
  const clocks = useMemo(() => perClockOf(model), [model]);
  const labelOf = (id: string) => model.setups.find((one) => one.id === id)?.label ?? id;
  const owned = [...new Set(uplifts.map((one) => one.owned.id))];
  return (
    <Box>
      <Flex gap="6" mb="3" wrap="wrap" align="center">
        <ResolutionChoice />
        <GroupChoice />
      </Flex>
      {uplifts.length === 0 && (
        <Text color="quiet">No row here can be set against an older part: give a row the role “owned”, or its part a release date.</Text>
      )}
      {owned.map((ownedId) => {
        const lines = uplifts.filter((one) => one.owned.id === ownedId);
        const ends = lines.flatMap(({ ratio, low, high, paper }) => [ratio, low ?? ratio, high ?? ratio, paper?.expected ?? ratio]);
        const scale = linearScale(100 * Math.min(...ends, 1) - 2, 100 * Math.max(...ends, 1) + 2);
        const title = `Uplift from ${labelOf(ownedId)}`;
        const conditions = [
          `${group}${resolution ? `, ${resolution.replace("x", " × ")}` : ""}: owned part = 100. Ring: what clock and units allow on paper. Whisker: 95 % run noise.`,
        ];
        const chart = (): RowChart => ({
          title,
          subtitle: "what people own = 100",
          unit: "index",
          min: scale.min,
          max: scale.max,
          major: scale.major,
          minor: scale.minor,
          base: 100,
          band: [100 / (1 + model.margin), 100 * (1 + model.margin)],
          rows: lines.map((line) => ({
            label: line.setup.label,
            value: 100 * line.ratio,
            low: line.low === undefined ? undefined : 100 * line.low,
            high: line.high === undefined ? undefined : 100 * line.high,
            ring: line.paper && 100 * line.paper.expected,
            text: signedPercent(line.ratio),
          })),
          conditions,
        });
        return (
          <Box key={ownedId} mb="6">
            <Text as="h3" fontSize="16px" fontWeight="600" mb="1">
              {title}
            </Text>
            <ChartFrame
              title={title}
              summary={lines.map(({ setup, ratio }) => `${setup.label} ${signedPercent(ratio)}`).join("; ")}
              conditions={conditions}
              rowChart={chart}
              table={{
                heads: ["setup", "measured", "from", "to", "on paper", "per GHz", "per GHz and unit"],
                rows: lines.map(({ setup, ratio, low, high, paper }) => {
                  const cell = (value: number | undefined) => ({ text: value === undefined ? "–" : signedPercent(value), sort: value ?? 0 });
                  return {
                    key: setup.id,
                    cells: [
                      { text: setup.label, sort: setup.label },
                      cell(ratio),
                      cell(low),
                      cell(high),
                      cell(paper?.expected),
                      cell(paper?.perGhzRatio),
                      cell(paper?.perGhzUnitRatio),
                    ],
                  };
                }),
              }}
            >
              <Box role="table" aria-label={title}>
                <Box role="row" display="grid" gridTemplateColumns={COLUMNS} columnGap="5" alignItems="end" color="quiet">
                  <Text role="columnheader">Setup</Text>
                  <Box role="columnheader" display={{ base: "none", md: "block" }} aria-label="scale, owned = 100">
                    <ScaleHead scale={scale} label={(value) => figure(value, 0)} />
                  </Box>
                  <Text role="columnheader" textAlign="right">
                    measured
                  </Text>
                  <Text role="columnheader" textAlign="right" display={{ base: "none", md: "block" }}>
                    on paper
                  </Text>
                  <Text role="columnheader" display={{ base: "none", md: "block" }}>
                    says
                  </Text>
                </Box>
                {lines.map((line) => (
                  <Box
                    role="row"
                    key={line.setup.id}
                    display="grid"
                    gridTemplateColumns={COLUMNS}
                    columnGap="5"
                    alignItems="center"
                    borderTop="1px solid"
                    borderColor="hairline"
                  >
                    <Text role="cell" fontWeight="600" truncate>
                      {line.setup.label}
                    </Text>
                    <Box role="cell" display={{ base: "none", md: "block" }} aria-label={signedPercent(line.ratio)}>
                      <RowMark
                        scale={scale}
                        base={100}
                        margin={model.margin}
                        height={44}
                        marks={{
                          value: 100 * line.ratio,
                          low: line.low === undefined ? undefined : 100 * line.low,
                          high: line.high === undefined ? undefined : 100 * line.high,
                          ring: line.paper && 100 * line.paper.expected,
                        }}
                      />
                    </Box>
                    <Text role="cell" textStyle="figureStrong" textAlign="right">
                      {signedPercent(line.ratio)}
                    </Text>
                    <Text role="cell" textStyle="figure" textAlign="right" color="quiet" display={{ base: "none", md: "block" }}>
                      {line.paper ? signedPercent(line.paper.expected) : "not known"}
                    </Text>
                    <Text role="cell" textStyle="small" color="quiet" display={{ base: "none", md: "block" }}>
                      {paperText(line)}
                    </Text>
                  </Box>
                ))}
              </Box>
            </ChartFrame>
          </Box>
        );
      })}
      {clocks.length > 0 && (
        <Box mt="4">
          <Text as="h3" fontSize="16px" fontWeight="600">
            Score per GHz
          </Text>
          <Text color="quiet" mb="1">
            By the boost clock on the maker's sheet: what is left is architecture (and, over all cores, their number).
          </Text>
          {clocks.map(({ setupId, testKey, score, clockGhz, perGhz }) => (
            <Box
              key={`${setupId}/${testKey}`}
              display="grid"
              gridTemplateColumns="minmax(0, 210px) minmax(0, 220px) 110px 90px 110px"
              columnGap="5"
              borderTop="1px solid"
              borderColor="hairline"
              py="1"
            >
              <Text fontWeight="600" truncate>
                {labelOf(setupId)}
              </Text>
              <Text truncate>{model.tests.find(({ key }) => key === testKey)?.name}</Text>
              <Text textStyle="figure" textAlign="right">
                {figure(score, 0)} points
              </Text>
              <Text textStyle="figure" textAlign="right" color="quiet">
                {figure(clockGhz, 1)} GHz
              </Text>
              <Text textStyle="figure" textAlign="right" fontWeight="600">
                {figure(perGhz, 0)} a GHz
              </Text>
            </Box>
          ))}
        </Box>
      )}
      <StepFoot legend="● measured, ├─┤ 95 % run noise, ◦ what clock and units allow on paper" />
    </Box>
  );
}
