"use client";

import { Box, type ConditionalValue, chakra, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";
import type { IndexRow, Ranking } from "@/core/compare";
import { columnDecimals, figure, type ReviewSetup } from "@/core/report";
import { RowMark, ScaleHead } from "../charts/RowScale";
import type { LinearScale } from "../charts/scale";
import { useOrderedSetups, useReview, useReviewState } from "../review/ReviewContext";
import { rowStyle, SpineCell } from "../review/SpineCell";
import { rankText, verdictWords } from "./verdictWords";

/** A number that opens its evidence. */
export function EvidenceNumber({ show, children, sub, label }: { show: string; children: ReactNode; sub?: string | undefined; label: string }) {
  const { setState } = useReviewState();
  return (
    <chakra.button
      type="button"
      textAlign="right"
      cursor="pointer"
      w="full"
      onClick={() => setState({ show })}
      aria-label={`${label}; open the evidence`}
      _hover={{ color: "accent.fg" }}
    >
      <Box textStyle="figureStrong">{children}</Box>
      <Box textStyle="small" color="quiet" lineHeight="15px" minH="15px">
        {sub}
      </Box>
    </chakra.button>
  );
}

/** An index with its half-width, aligned with its column; opens its evidence. */
export function IndexNumber({ ranking, row, name, show, label }: { ranking: Ranking; row: IndexRow; name: string; show: string; label: string }) {
  const { baseline } = useReviewState();
  const isBase = row.setupId === baseline;
  const decimals = columnDecimals(ranking.rows);
  const half = row.low !== undefined && row.high !== undefined ? (100 * (row.high - row.low)) / 2 : undefined;
  const shown = isBase ? "100" : figure(100 * row.index, decimals);
  return (
    <EvidenceNumber show={show} label={`${label}, ${name} ${shown}`} sub={isBase || half === undefined ? "" : `± ${figure(half, decimals)}`}>
      {shown}
    </EvidenceNumber>
  );
}

/** A column of figures between the scale and the verdict. */
export interface FigureColumn {
  head: string;
  /** Left out on a phone. */
  wideOnly?: boolean;
  cell: (setup: ReviewSetup, row: IndexRow) => ReactNode;
}

interface Props {
  label: string;
  ranking: Ranking;
  scale: LinearScale;
  /** Grid template on a phone and on a desk. */
  columns: ConditionalValue<string>;
  figures: FigureColumn[];
  /** Hollow ring of a row: its 1 % low. */
  ringOf?: (setupId: string) => number | undefined;
  /** The interval for the choice of workloads. */
  choiceOf?: ((setupId: string) => { low: number; high: number } | undefined) | undefined;
  /** What stands under a settled verdict. */
  counts?: (row: IndexRow) => string;
}

/** One row a setup on a shared ticked scale: point, whisker, single tests, ring, figures and verdict. */
export function IndexTable({ label, ranking, scale, columns, figures, ringOf, choiceOf, counts }: Props) {
  const { model } = useReview();
  const { baseline, row: selected, setState } = useReviewState();
  const setups = useOrderedSetups();
  const wide = { base: "none", md: "block" };
  return (
    <Box role="table" aria-label={label}>
      <Box role="row" display="grid" gridTemplateColumns={columns} columnGap="5" alignItems="end">
        <Text role="columnheader" color="quiet" pl="34px">
          Setup
        </Text>
        <Box role="columnheader" display={wide} aria-label="scale, baseline = 100">
          <ScaleHead scale={scale} label={(value) => figure(value, 0)} />
        </Box>
        {figures.map(({ head, wideOnly }, i) => (
          <Text key={head || i} role="columnheader" color="quiet" textAlign="right" display={wideOnly ? wide : undefined}>
            {head}
          </Text>
        ))}
        <Text role="columnheader" color="quiet" display={wide}>
          says
        </Text>
      </Box>
      {setups.map((setup) => {
        const row = ranking.rows.find(({ setupId }) => setupId === setup.id);
        if (!row)
          return (
            <Box role="row" key={setup.id} display="grid" gridTemplateColumns={columns} columnGap="5" {...rowStyle(selected === setup.id)}>
              <Box role="cell" minW="0">
                <SpineCell setup={setup} />
              </Box>
              <Text role="cell" color="quiet">
                not run yet
              </Text>
            </Box>
          );
        const isBase = setup.id === baseline;
        const words = verdictWords(row);
        const choice = choiceOf?.(setup.id);
        return (
          <Box role="row" key={setup.id} display="grid" gridTemplateColumns={columns} columnGap="5" {...rowStyle(selected === setup.id)}>
            <Box role="cell" minW="0">
              <SpineCell setup={setup} rank={rankText(row)} />
            </Box>
            <Box
              role="cell"
              display={wide}
              aria-label={`index ${figure(100 * row.index, 1)}`}
              cursor="pointer"
              onClick={() => setState({ row: selected === setup.id ? null : setup.id })}
            >
              <RowMark
                scale={scale}
                base={100}
                margin={model.margin}
                height={52}
                marks={{
                  value: 100 * row.index,
                  low: row.low === undefined ? undefined : 100 * row.low,
                  high: row.high === undefined ? undefined : 100 * row.high,
                  choiceLow: choice && 100 * choice.low,
                  choiceHigh: choice && 100 * choice.high,
                  ring: isBase ? undefined : ringOf?.(setup.id),
                  ticks: isBase ? [] : row.ratios.map(({ ratio }) => 100 * ratio.ratio),
                  hollow: isBase,
                  selected: selected === setup.id,
                }}
              />
            </Box>
            {figures.map(({ head, wideOnly, cell }, i) => (
              <Box key={head || i} role="cell" display={wideOnly ? wide : undefined}>
                {cell(setup, row)}
              </Box>
            ))}
            <Box role="cell" display={wide}>
              <Text color={row.verdict === "unresolved" ? "doubt" : "ink"}>{isBase ? "baseline" : words.says}</Text>
              <Text textStyle="small" color="quiet">
                {isBase ? "" : (words.more ?? counts?.(row))}
              </Text>
            </Box>
          </Box>
        );
      })}
      <Box borderTop="1px solid" borderColor="hairline" />
    </Box>
  );
}

/** Tests that some row lacks, left out for all rows, by name. */
export function LeftOut({ leftOut }: { leftOut: Ranking["leftOut"] }) {
  const { model } = useReview();
  if (leftOut.length === 0) return null;
  const labels = (missing: string[]) => missing.map((id) => model.setups.find((one) => one.id === id)?.label).join(", ");
  const said = leftOut.map(
    ({ testKey, missing }) =>
      `${model.tests.find(({ key }) => key === testKey)?.name} (${labels(missing)} ${missing.length === 1 ? "has" : "have"} no valid run)`,
  );
  return (
    <Text mt="2" color="doubt" fontSize="13px">
      Left out for all rows: {said.join("; ")}
    </Text>
  );
}
