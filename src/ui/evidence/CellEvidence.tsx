"use client";

import { Box, chakra, Flex, Link, Text } from "@chakra-ui/react";
import NextLink from "next/link";
import { useSearchParams } from "next/navigation";
import { resolutionLabel } from "@/core/bench";
import { aggregateCell, cellKey, metricValue } from "@/core/cell";
import { ratioOf } from "@/core/compare";
import { decimalsFor, figure, signedPercent } from "@/core/report";
import { verdictWords } from "../compare/verdictWords";
import { SCHOOL_NAMES } from "../review/controls";
import { cachedMatrix, useReview, useReviewState } from "../review/ReviewContext";
import { EvidenceHead, Fact } from "./EvidenceParts";

/** The runs behind one cell, how well they agree, and what is doubted of them. */
export function CellEvidence({ cell }: { cell: string }) {
  const { model } = useReview();
  const { baseline, school } = useReviewState();
  const query = useSearchParams();
  const [setupId, testKey] = [cell.slice(0, cell.indexOf("/")), cell.slice(cell.indexOf("/") + 1)];
  const setup = model.setups.find(({ id }) => id === setupId);
  const test = model.tests.find(({ key }) => key === testKey);
  if (!setup || !test) return <Text>This cell is not part of the review any more.</Text>;
  const matrix = cachedMatrix(model, "result", school);
  const runs = matrix.cells.get(cellKey(setupId, testKey))?.runs ?? [];
  const values = matrix.cells.get(cellKey(setupId, testKey))?.values ?? [];
  const lows = cachedMatrix(model, "low1", school).cells.get(cellKey(setupId, testKey))?.values ?? [];
  const aggregate = aggregateCell(values);
  const low = aggregateCell(lows);
  const spread = matrix.repeatability.get(testKey);
  const own = matrix.ownScatter.has(cellKey(setupId, testKey));
  const ratio = setupId === baseline ? undefined : ratioOf(matrix, setupId, baseline, test, model.margin);
  const findings = model.findings.filter(
    (finding) => finding.setupId === setupId && finding.testKey === testKey && (finding.raised || finding.state === "accepted"),
  );
  const baselineLabel = model.setups.find(({ id }) => id === baseline)?.label;
  return (
    <Box>
      <EvidenceHead
        title={`${setup.label}, ${test.workloadName}`}
        subtitle={[test.resolution && resolutionLabel(test.resolution), test.settings.split(" · ").join(", "), `version ${test.version}`]
          .filter(Boolean)
          .join(" · ")}
        value={aggregate ? figure(aggregate.mean, decimalsFor(aggregate.sd)) : "no valid run"}
        unit={aggregate ? test.unit : ""}
        interval={
          aggregate?.sd !== undefined
            ? `SD ${figure(aggregate.sd, 2)} ${test.unit}, CV ${figure(100 * (aggregate.cv as number), 2)} %, ${aggregate.n} runs`
            : undefined
        }
        formula={test.kind === "frames" ? "The mean of the valid runs; each run's rate is its frames divided by its seconds." : "The mean of the valid runs."}
      />
      {test.kind === "frames" && <Fact name={`1 % low, ${SCHOOL_NAMES[school]}`}>{low ? `${figure(low.mean, 1)} fps` : "not known"}</Fact>}
      <Fact name="usual spread of this test">
        {spread
          ? `${figure(100 * spread.sLog, 2)} %, ${spread.df} degrees of freedom${spread.source === "group" ? ", pooled over its group" : ""}`
          : "not known: no cell has two runs"}
      </Fact>
      {own && <Fact name="scatter">fails the check: its own SD is used</Fact>}
      {ratio && (
        <Fact name={`against ${baselineLabel}`}>
          {signedPercent(ratio.ratio)}
          {ratio.low !== undefined && ratio.high !== undefined && ` (${signedPercent(ratio.low)} to ${signedPercent(ratio.high)})`}, {verdictWords(ratio).says}
        </Fact>
      )}
      <Text mt="5" mb="1" fontWeight="600">
        Runs
      </Text>
      {runs.length === 0 && <Text color="quiet">None yet; the suite asks for {test.runsWanted}.</Text>}
      {runs.map((run) => {
        const value = metricValue(run, { metric: "result", school, powerAt: "device" });
        const lowValue = metricValue(run, { metric: "low1", school, powerAt: "device" });
        return (
          <Flex key={run.id} gap="3" py="1.5" borderTop="1px solid" borderColor="hairline" align="baseline">
            <Link asChild fontWeight="500">
              <NextLink href={`/reviews/${model.id}/run/${encodeURIComponent(run.id)}?${withoutShow(query)}`}>Run {run.number}</NextLink>
            </Link>
            <Text
              textStyle="figure"
              flex="1"
              textDecoration={run.status === "discarded" ? "line-through" : undefined}
              color={run.status === "valid" ? "ink" : "quiet"}
            >
              {value === undefined ? "" : `${figure(value, 2)} ${test.unit}`}
              {lowValue === undefined ? "" : `, low ${figure(lowValue, 1)}`}
            </Text>
            <Text textStyle="small" color={run.status === "valid" ? "quiet" : "doubt"} textAlign="right">
              {run.status === "valid" ? "valid" : `${run.status}: ${run.reason}`}
            </Text>
          </Flex>
        );
      })}
      {findings.length > 0 && (
        <>
          <Text mt="5" mb="1" fontWeight="600" color="doubt">
            Doubts
          </Text>
          {findings.map((finding) => (
            <Box key={finding.id} py="1.5" borderTop="1px solid" borderColor="hairline">
              <Text>
                <chakra.span fontWeight="600">{finding.check}</chakra.span>
                {finding.state !== "open" && `, ${finding.state} by ${finding.who}: ${finding.reason}`}
              </Text>
              <Text color="quiet">{finding.sentence}</Text>
            </Box>
          ))}
          <Link asChild mt="2" color="accent.fg">
            <NextLink href={`/reviews/${model.id}/check?${withoutShow(query)}`}>Decide in Check</NextLink>
          </Link>
        </>
      )}
    </Box>
  );
}

function withoutShow(query: URLSearchParams): URLSearchParams {
  const kept = new URLSearchParams(query);
  kept.delete("show");
  return kept;
}
