"use client";

import { Box, Flex, Text } from "@chakra-ui/react";
import { resolutionLabel } from "@/core/bench";
import type { IndexRow } from "@/core/compare";
import { figure } from "@/core/report";
import { linearScale } from "../charts/scale";
import {
  BaselineChoice,
  DeclaredDifferences,
  KeyHint,
  OrderChoice,
  ResolutionChoice,
  SCHOOL_NAMES,
  SchoolChoice,
  StepFoot,
  StepHead,
} from "../review/controls";
import { useOrderedSetups, useRanking, useReview, useReviewState } from "../review/ReviewContext";
import { useKeys } from "../review/useKeys";
import { GameByGame } from "./GameByGame";
import { type FigureColumn, IndexNumber, IndexTable, LeftOut } from "./IndexTable";

const COLUMNS = { base: "minmax(150px, 1fr) 80px 80px", md: "240px minmax(260px, 1fr) 84px 84px 190px" };

/** Relative performance: who is how much faster than the baseline, average and low, and how sure that is. */
export function CompareStep() {
  const { model } = useReview();
  const { baseline, resolution, row, school, order, setState } = useReviewState();
  const setups = useOrderedSetups();
  const { ranking } = useRanking("result");
  const { ranking: lows } = useRanking("low1");
  const base = model.setups.find(({ id }) => id === baseline);
  const selected = setups.find(({ id }) => id === row);

  const move = (by: number) => {
    const at = setups.findIndex(({ id }) => id === row);
    const next = setups[Math.max(0, Math.min(setups.length - 1, at + by))];
    if (next) setState({ row: next.id });
  };
  useKeys({
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    b: () => row && setState({ baseline: row }),
    e: () => row && setState({ show: `index:result:${row}` }),
    o: () => setState({ order: order === "rank" ? "review" : "rank" }),
    Escape: () => setState({ show: null }),
  });

  if (ranking.rows.length === 0) {
    return (
      <>
        <StepHead title="Relative performance">
          <ResolutionChoice />
          <BaselineChoice />
        </StepHead>
        <Text color="quiet">
          No test has a valid run for every setup here that was run, or the baseline has none yet. Fill the grid in Run, or choose another resolution.
        </Text>
        <DeclaredDifferences />
      </>
    );
  }
  const hasLows = lows.rows.length > 0;
  const lowOf = (setupId: string) => lows.rows.find((one) => one.setupId === setupId);
  const points = [
    ...ranking.rows.flatMap((one) => [one.index, ...one.ratios.map(({ ratio }) => ratio.ratio)]),
    ...lows.rows.map(({ index }) => index),
    1,
    1 / (1 + model.margin),
  ];
  const scale = linearScale(100 * Math.min(...points) - 1, 100 * Math.max(...points) + 1);
  const figures: FigureColumn[] = [
    {
      head: "average",
      cell: (setup, line) => <IndexNumber ranking={ranking} row={line} name="average" show={`index:result:${setup.id}`} label={setup.label} />,
    },
    {
      head: hasLows ? "1 % low" : "",
      cell: (setup) => {
        const low = lowOf(setup.id);
        return low && <IndexNumber ranking={lows} row={low} name="1 % low" show={`index:low1:${setup.id}`} label={setup.label} />;
      },
    },
  ];
  return (
    <Box>
      <StepHead title={`How fast against ${base?.label}?`}>
        <Text color="quiet">
          {ranking.workloads} workloads, level within {figure(100 * model.margin, 0)} %
        </Text>
        <ResolutionChoice />
        <BaselineChoice />
        {hasLows && <SchoolChoice />}
        <OrderChoice />
      </StepHead>
      <IndexTable
        label="Relative performance"
        ranking={ranking}
        scale={scale}
        columns={COLUMNS}
        figures={figures}
        ringOf={(setupId) => {
          const low = lowOf(setupId);
          return low && 100 * low.index;
        }}
        counts={countVerdicts}
      />
      <LeftOut leftOut={ranking.leftOut} />
      {selected && selected.id !== baseline && base && <GameByGame setup={selected} base={base} ranking={ranking} lows={lows} />}
      {!selected && (
        <Text mt="6" color="quiet">
          Select a row to see it test by test.
        </Text>
      )}
      <DeclaredDifferences />
      <StepFoot
        legend={
          <Flex gap="4" wrap="wrap">
            <span>│ one test</span>
            <span>● index, geometric mean</span>
            <span>├─┤ 95 % run noise: re-running only, not other samples or days</span>
            {hasLows && <span>◦ 1 % low by {SCHOOL_NAMES[school]}</span>}
            {resolution && <span>{resolutionLabel(resolution)}</span>}
          </Flex>
        }
      >
        <KeyHint keys="↑ ↓" does="row" />
        <KeyHint keys="B" does="baseline" />
        <KeyHint keys="O" does="order" />
        <KeyHint keys="E" does="evidence" />
      </StepFoot>
    </Box>
  );
}

/** How often a row is ahead, level, behind, or open, over its tests. */
function countVerdicts({ ratios }: IndexRow): string {
  const count = (...kinds: string[]) => ratios.filter(({ ratio }) => kinds.includes(ratio.verdict)).length;
  const parts: [number, string][] = [
    [count("ahead"), "ahead"],
    [count("level", "level-small-difference"), "level"],
    [count("behind"), "behind"],
    [count("unresolved", "unknown"), "open"],
  ];
  return parts
    .filter(([n]) => n > 0)
    .map(([n, word]) => `${n} ${word}`)
    .join(", ");
}
