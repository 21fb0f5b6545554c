"use client";

import { Box, Flex, Text } from "@chakra-ui/react";
import { parseAsString, useQueryState } from "nuqs";
import { useMemo } from "react";
import { propertyName } from "@/core/bench";
import { duelOf, figure, oneFactorPairs, signedPercent, testsAsked } from "@/core/report";
import { GroupChoice, InlineChoice, ResolutionChoice, SchoolChoice, StepFoot } from "../review/controls";
import { cachedMatrix, useReview, useReviewState } from "../review/ReviewContext";
import { DifferenceChart } from "./DifferenceChart";

/** Two rows that differ in exactly one property, which is found and named by itself: what it does, test by test. */
export function FactorView() {
  const { model } = useReview();
  const { school, resolution, group } = useReviewState();
  const [asked, setAsked] = useQueryState("factor", parseAsString);
  const pairs = useMemo(() => oneFactorPairs(model), [model]);
  const keyOf = ({ aId, bId }: { aId: string; bId: string }) => `${aId}~${bId}`;
  const pair = pairs.find((one) => keyOf(one) === asked) ?? pairs[0];
  const duel = useMemo(
    () =>
      pair &&
      duelOf(
        model,
        { result: cachedMatrix(model, "result", school), low: cachedMatrix(model, "low1", school) },
        pair.aId,
        pair.bId,
        testsAsked(model, { resolution, group }),
      ),
    [model, school, pair, resolution, group],
  );
  const labelOf = (id: string) => model.setups.find((one) => one.id === id)?.label ?? id;
  if (!pair) return <Text color="quiet">No two rows differ in exactly one property; compare them head to head, where what differs is named.</Text>;
  const name = propertyName(pair.factor.property.replace("part:", ""));
  const moved = duel?.lines.filter(({ ratio }) => ratio.verdict === "ahead" || ratio.verdict === "behind") ?? [];
  return (
    <Box>
      <Flex gap="6" mb="3" wrap="wrap" align="center">
        <InlineChoice
          label="factor"
          value={keyOf(pair)}
          options={pairs.map((one) => ({
            value: keyOf(one),
            label: `${propertyName(one.factor.property.replace("part:", ""))}: ${labelOf(one.aId)} against ${labelOf(one.bId)}`,
          }))}
          onChange={(value) => void setAsked(value)}
        />
        <ResolutionChoice />
        <GroupChoice />
        <SchoolChoice />
      </Flex>
      <Text fontSize="16px" lineHeight="23px">
        Only the {name} differs: “{pair.factor.a ?? "not said"}” in {labelOf(pair.aId)}, “{pair.factor.b ?? "not said"}” in {labelOf(pair.bId)}.
      </Text>
      {duel ? (
        <>
          <Text mb="2" color="quiet">
            Over {duel.lines.length} tests it changes the index by {signedPercent(duel.overall.index)}
            {duel.overall.low !== undefined && duel.overall.high !== undefined
              ? ` (${signedPercent(duel.overall.low)} to ${signedPercent(duel.overall.high)}, run noise)`
              : ""}
            .{" "}
            {moved.length === 0
              ? "No test moved beyond the margin."
              : `${moved.length} of ${duel.lines.length} tests moved: ${moved
                  .slice(0, 6)
                  .map(({ test, ratio }) => `${test.workloadName} ${signedPercent(ratio.ratio)}`)
                  .join(", ")}${moved.length > 6 ? " …" : ""}.`}
          </Text>
          <DifferenceChart
            duel={duel}
            title={`${name}: ${duel.a.label} against ${duel.b.label}`}
            conditions={[
              `Everything else is the same: ${model.bench.map((bench) => `${bench.name}, revision ${bench.revision}`).join("; ")}.`,
              `95 % run noise: re-running only. Band: level within ${figure(100 * model.margin, 0)} %.`,
            ]}
          />
        </>
      ) : (
        <Text color="quiet" py="4">
          The two have no test in common yet.
        </Text>
      )}
      <StepFoot legend="Rows that differ in more than one property are not offered here: what each of them does cannot be told apart." />
    </Box>
  );
}
