"use client";

import { Box, Text } from "@chakra-ui/react";
import { resolutionLabel } from "@/core/bench";
import type { Metric } from "@/core/cell";
import { geometricMeanOfRow } from "@/core/compare";
import { commonPowerAt, decimalsFor, figure, meanPowerW, signedPercent } from "@/core/report";
import { verdictWords } from "../compare/verdictWords";
import { SCHOOL_NAMES } from "../review/controls";
import { useRanking, useReview, useReviewState } from "../review/ReviewContext";
import { EvidenceHead, Fact, TestButtons } from "./EvidenceParts";

const METRIC_NAMES: Record<Metric, string> = {
  result: "Relative performance",
  low1: "Relative 1 % low",
  low01: "Relative 0.1 % low",
  frames_per_joule: "Relative performance per watt",
};

/** How an index came about: its tests, its interval, what was left out. */
export function IndexEvidence({ metric, setupId }: { metric: string; setupId: string }) {
  const { model } = useReview();
  const { baseline, resolution, school } = useReviewState();
  const known = (["result", "low1", "low01", "frames_per_joule"] as const).find((one) => one === metric) ?? "result";
  const { matrix, ranking } = useRanking(known);
  const at = known === "frames_per_joule" ? commonPowerAt(model) : undefined;
  const watts = at && meanPowerW(model, setupId, ranking.testKeys, at);
  const perWatt = at && geometricMeanOfRow(matrix, setupId, ranking.testKeys);
  const row = ranking.rows.find((one) => one.setupId === setupId);
  const setup = model.setups.find(({ id }) => id === setupId);
  const base = model.setups.find(({ id }) => id === baseline);
  if (!row || !setup || !base) return <Text>These setups share no complete test here.</Text>;
  const half = row.low !== undefined && row.high !== undefined ? (100 * (row.high - row.low)) / 2 : undefined;
  const words = verdictWords(row);
  const testOf = new Map(model.tests.map((test) => [test.key, test]));
  const ratios = [...row.ratios].sort((a, b) => b.ratio.ratio - a.ratio.ratio);
  return (
    <Box>
      <EvidenceHead
        title={`${METRIC_NAMES[known]} of ${setup.label}`}
        subtitle={`${base.label} = 100, ${resolution ? resolutionLabel(resolution) : "all resolutions"}`}
        value={figure(100 * row.index, decimalsFor(half, 1))}
        interval={
          setupId === baseline
            ? "the baseline, by definition"
            : half !== undefined
              ? `95 % interval ${figure(100 * (row.low as number), 1)} to ${figure(100 * (row.high as number), 1)}, run noise only`
              : "no interval: nothing was run twice"
        }
        formula={`The geometric mean over ${ranking.workloads} workloads of ${setup.label}'s ratio to ${base.label}, each workload weighing the same${resolution ? "" : "; within a workload the resolutions share its weight"}.`}
      />
      {setupId !== baseline && (
        <Text color="quiet" mb="3">
          The interval covers re-running the same tests on these samples. It does not cover other samples, days or games.
        </Text>
      )}
      <Fact name="verdict">{[words.says, words.more].filter(Boolean).join(", ")}</Fact>
      <Fact name="rank">{row.rankFrom === row.rankTo ? row.rankFrom : `${row.rankFrom} to ${row.rankTo}: the data leave it open`}</Fact>
      {at && <Fact name="power metered at">{at}</Fact>}
      {watts !== undefined && <Fact name="mean power over these tests">{figure(watts, 1)} W</Fact>}
      {perWatt && <Fact name="fps per watt">{figure(perWatt.value, 3)}</Fact>}
      {known.startsWith("low") && <Fact name="low by">{SCHOOL_NAMES[school]}</Fact>}
      <Fact name="degrees of freedom">{figure(row.df, 0)}</Fact>
      {ranking.leftOut.length > 0 && (
        <Fact name="left out for all rows">
          {ranking.leftOut.map(({ testKey, missing }) => (
            <Box key={testKey}>
              {testOf.get(testKey)?.name}: {missing.map((id) => model.setups.find((one) => one.id === id)?.label).join(", ")}{" "}
              {missing.length === 1 ? "has" : "have"} no valid run
            </Box>
          ))}
        </Fact>
      )}
      <Text mt="5" mb="1" fontWeight="600">
        Tests
      </Text>
      <TestButtons
        setupId={setupId}
        tests={ratios.map(({ testKey, ratio }) => ({ testKey, says: `${signedPercent(ratio.ratio)} ${verdictWords(ratio).says}` }))}
      />
    </Box>
  );
}
