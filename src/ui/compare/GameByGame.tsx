"use client";

import { Box, chakra, Text } from "@chakra-ui/react";
import { resolutionLabel } from "@/core/bench";
import { aggregateCell, cellKey } from "@/core/cell";
import type { Ranking } from "@/core/compare";
import { figure, percentDifference, type ReviewSetup, signedPercent } from "@/core/report";
import { linearScale } from "../charts/scale";
import { cachedMatrix, useReview, useReviewState } from "../review/ReviewContext";
import { verdictWords } from "./verdictWords";

/** One setup against the baseline, test by test, largest lead first; each line opens the cell. */
export function GameByGame({ setup, base, ranking, lows }: { setup: ReviewSetup; base: ReviewSetup; ranking: Ranking; lows: Ranking }) {
  const { model } = useReview();
  const { resolution, school, setState } = useReviewState();
  const row = ranking.rows.find(({ setupId }) => setupId === setup.id);
  const low = new Map((lows.rows.find(({ setupId }) => setupId === setup.id)?.ratios ?? []).map(({ testKey, ratio }) => [testKey, ratio.ratio]));
  if (!row) return null;
  const matrix = cachedMatrix(model, "result", school);
  const ratios = [...row.ratios].sort((a, b) => b.ratio.ratio - a.ratio.ratio);
  const ends = ratios.flatMap(({ ratio, testKey }) => [ratio.low ?? ratio.ratio, ratio.high ?? ratio.ratio, low.get(testKey) ?? ratio.ratio]);
  const scale = linearScale(Math.min(...ends, 1), Math.max(...ends, 1));
  const inverse = 1 / row.index;
  return (
    <Box mt="7">
      <Box display="flex" gap="5" alignItems="baseline" flexWrap="wrap" mb="2">
        <Text as="h3" fontSize="16px" fontWeight="600">
          {setup.label} against {base.label}, test by test
        </Text>
        <Text color="quiet">
          {setup.label} is {percentDifference(row.index)}; {base.label} is {percentDifference(inverse)}
        </Text>
      </Box>
      <Box css={{ columnCount: { base: 1, lg: 2 }, columnGap: "36px" }}>
        {ratios.map(({ testKey, ratio }) => {
          const test = model.tests.find(({ key }) => key === testKey);
          const mean = aggregateCell(matrix.cells.get(cellKey(setup.id, testKey))?.values ?? [])?.mean;
          const words = verdictWords(ratio);
          const decided = ratio.verdict === "ahead" || ratio.verdict === "behind";
          const ink = decided
            ? "var(--chakra-colors-accent-solid)"
            : ratio.verdict === "unresolved"
              ? "var(--chakra-colors-doubt)"
              : "var(--chakra-colors-quiet)";
          const lowRatio = low.get(testKey);
          return (
            <chakra.button
              type="button"
              key={testKey}
              display="grid"
              gridTemplateColumns={{ base: "1fr 66px 74px", md: "150px 1fr 62px 76px 72px" }}
              columnGap="3"
              w="full"
              textAlign="left"
              alignItems="center"
              h="27px"
              cursor="pointer"
              borderTop="1px solid"
              borderColor="hairline"
              _hover={{ bg: "wash" }}
              css={{ breakInside: "avoid" }}
              onClick={() => setState({ show: `cell:${setup.id}/${testKey}` })}
            >
              <Text truncate>
                {test?.workloadName}
                {!resolution && test?.resolution ? ` ${resolutionLabel(test.resolution)}` : ""}
              </Text>
              <Box display={{ base: "none", md: "block" }}>
                <svg width="100%" height="26" style={{ display: "block", overflow: "visible" }} aria-hidden>
                  <line x1={`${scale.at(1)}%`} x2={`${scale.at(1)}%`} y1="0" y2="26" stroke="var(--chakra-colors-tick)" strokeDasharray="1 3" />
                  {ratio.low !== undefined && ratio.high !== undefined && (
                    <line x1={`${scale.at(ratio.low)}%`} x2={`${scale.at(ratio.high)}%`} y1="13" y2="13" stroke={ink} strokeWidth="2" />
                  )}
                  <circle cx={`${scale.at(ratio.ratio)}%`} cy="13" r="4" fill={ink} />
                  {lowRatio !== undefined && <circle cx={`${scale.at(lowRatio)}%`} cy="13" r="3" fill="none" stroke={ink} strokeWidth="1.5" />}
                </svg>
              </Box>
              <Text textStyle="figure" fontWeight="600" textAlign="right">
                {signedPercent(ratio.ratio)}
              </Text>
              <Text color={ratio.verdict === "unresolved" ? "doubt" : "quiet"}>{words.says}</Text>
              <Text textStyle="figure" color="quiet" textAlign="right" display={{ base: "none", md: "block" }}>
                {mean === undefined ? "" : `${figure(mean, 1)} ${test?.unit}`}
              </Text>
            </chakra.button>
          );
        })}
      </Box>
    </Box>
  );
}
