"use client";

import { Box, Flex, Text } from "@chakra-ui/react";
import { useMemo } from "react";
import { resolutionLabel } from "@/core/bench";
import { geometricMeanOfRow } from "@/core/compare";
import { commonPowerAt, figure, meanPowerW } from "@/core/report";
import { linearScale } from "../charts/scale";
import { EvidenceNumber, type FigureColumn, IndexNumber, IndexTable, LeftOut } from "../compare/IndexTable";
import { BaselineChoice, DeclaredDifferences, KeyHint, OrderChoice, ResolutionChoice, StepFoot, StepHead } from "../review/controls";
import { useRanking, useReview, useReviewState } from "../review/ReviewContext";
import { useKeys } from "../review/useKeys";

const COLUMNS = { base: "minmax(140px, 1fr) 84px 70px", md: "240px minmax(240px, 1fr) 92px 96px 84px 150px" };
const PLACES = { device: "at the device", package: "at the package", wall: "at the wall" } as const;

/** Performance per watt: frames per joule of each run, indexed like any metric; power beside it. */
export function PowerStep() {
  const { model } = useReview();
  const { baseline, resolution, row, setState } = useReviewState();
  const { matrix, ranking } = useRanking("frames_per_joule");
  const at = commonPowerAt(model);
  useKeys({
    Escape: () => setState({ show: null }),
    e: () => row && setState({ show: `index:frames_per_joule:${row}` }),
    b: () => row && setState({ baseline: row }),
  });
  const beside = useMemo(
    () =>
      new Map(
        model.setups.map(({ id }) => [
          id,
          { watts: at && meanPowerW(model, id, ranking.testKeys, at), perWatt: geometricMeanOfRow(matrix, id, ranking.testKeys)?.value },
        ]),
      ),
    [model, ranking, matrix, at],
  );
  const base = model.setups.find(({ id }) => id === baseline);
  if (!at || ranking.rows.length === 0) {
    return (
      <>
        <StepHead title="Performance per watt">
          <ResolutionChoice />
        </StepHead>
        <Text color="quiet">No test has metered runs for every setup here. Import sensor logs with a channel gpu_w, cpu_w or wall_w that covers each run.</Text>
      </>
    );
  }
  const points = ranking.rows.flatMap((line) => [100 * line.index, ...line.ratios.map(({ ratio }) => 100 * ratio.ratio)]);
  const scale = linearScale(Math.min(...points, 98), Math.max(...points, 102));
  const plain = (head: string, value: (setupId: string) => number | undefined, decimals: number, wideOnly: boolean): FigureColumn => ({
    head,
    wideOnly,
    cell: (setup) => {
      const number = value(setup.id);
      const shown = number === undefined ? "–" : figure(number, decimals);
      return (
        <EvidenceNumber show={`index:frames_per_joule:${setup.id}`} label={`${setup.label}, ${head} ${number === undefined ? "not known" : shown}`}>
          {shown}
        </EvidenceNumber>
      );
    },
  });
  const figures: FigureColumn[] = [
    {
      head: "index",
      cell: (setup, line) => (
        <IndexNumber ranking={ranking} row={line} name="performance per watt" show={`index:frames_per_joule:${setup.id}`} label={setup.label} />
      ),
    },
    plain("fps per watt", (id) => beside.get(id)?.perWatt, 3, true),
    plain("watts", (id) => beside.get(id)?.watts, 0, false),
  ];
  return (
    <Box>
      <StepHead title={`Frames for each joule against ${base?.label}`} right={<Text color="quiet">metered {PLACES[at]}</Text>}>
        <Text color="quiet">{ranking.workloads} workloads</Text>
        <ResolutionChoice />
        <BaselineChoice />
        <OrderChoice />
      </StepHead>
      <IndexTable label="Performance per watt" ranking={ranking} scale={scale} columns={COLUMNS} figures={figures} />
      <LeftOut leftOut={ranking.leftOut} />
      <Text mt="3" color="quiet" fontSize="13px">
        Frames per joule is fps per watt: each run's frames divided by the energy over the same seconds (trapezoid over the meter's own times), then the
        geometric mean over workloads. Watts: mean over the same tests
        {resolution ? ` at ${resolutionLabel(resolution)}` : ""}. Idle is not subtracted.
      </Text>
      <DeclaredDifferences />
      <StepFoot
        legend={
          <Flex gap="4" wrap="wrap">
            <span>│ one test</span>
            <span>● index</span>
            <span>├─┤ 95 % run noise</span>
          </Flex>
        }
      >
        <KeyHint keys="B" does="baseline" />
        <KeyHint keys="E" does="evidence" />
      </StepFoot>
    </Box>
  );
}
