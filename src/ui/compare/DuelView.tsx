"use client";

import { Box, Flex, Text } from "@chakra-ui/react";
import { parseAsString, parseAsStringLiteral, useQueryState } from "nuqs";
import { useMemo } from "react";
import { propertyName, resolutionLabel } from "@/core/bench";
import { differingProperties, duelOf, duelWords, figure, partIsLimit, signedPercent, testsAsked } from "@/core/report";
import { FilterField } from "../forms/fields";
import { GroupChoice, InlineChoice, KeyHint, ResolutionChoice, SCHOOL_NAMES, SchoolChoice, StepFoot } from "../review/controls";
import { cachedMatrix, useReview, useReviewState } from "../review/ReviewContext";
import { useKeys } from "../review/useKeys";
import { DifferenceChart } from "./DifferenceChart";

const ONLY = ["all", "own", "undecided"] as const;

/** Head to head of any two rows: every test, sorted by its difference, and the words to say it. */
export function DuelView() {
  const { model } = useReview();
  const { baseline, row, resolution, school, group, show, setState } = useReviewState();
  const [askedA, setA] = useQueryState("a", parseAsString);
  const [askedB, setB] = useQueryState("b", parseAsString);
  const [filter, setFilter] = useQueryState("find", parseAsString.withDefault("").withOptions({ throttleMs: 300 }));
  const [only, setOnly] = useQueryState("only", parseAsStringLiteral(ONLY).withDefault("all"));
  const known = (id: string | null) => model.setups.some((setup) => setup.id === id);
  const b = known(askedB) ? (askedB as string) : baseline;
  const other = model.setups.find(({ id, role }) => id !== b && role === "subject") ?? model.setups.find(({ id }) => id !== b);
  const a = known(askedA) && askedA !== b ? (askedA as string) : known(row) && row !== b ? (row as string) : (other?.id ?? "");
  const duel = useMemo(() => {
    const wanted = filter.trim().toLowerCase();
    const asked = testsAsked(model, { resolution, group });
    const found = duelOf(model, { result: cachedMatrix(model, "result", school), low: cachedMatrix(model, "low1", school) }, a, b, (test) => {
      return asked(test) && `${test.name} ${test.settings} ${test.group}`.toLowerCase().includes(wanted);
    });
    if (!found || only === "all") return found;
    const lines = found.lines.filter(({ ratio, limits }) =>
      only === "undecided" ? ratio.verdict === "unresolved" : partIsLimit(found.a, limits[0]) && partIsLimit(found.b, limits[1]),
    );
    return { ...found, lines };
  }, [model, school, a, b, resolution, group, filter, only]);
  useKeys({
    s: () => {
      void setA(b);
      void setB(a);
    },
    Escape: () => show && setState({ show: null }),
  });
  const options = model.setups.map(({ id, label }) => ({ value: id, label }));
  const differing = duel ? differingProperties(duel.a, duel.b) : [];
  return (
    <Box>
      <Flex gap={{ base: 3, md: 6 }} mb="3" wrap="wrap" rowGap="1" align="center">
        <InlineChoice label="of" value={a} options={options.filter(({ value }) => value !== b)} onChange={(value) => void setA(value)} />
        <InlineChoice label="against" value={b} options={options.filter(({ value }) => value !== a)} onChange={(value) => void setB(value)} />
        <ResolutionChoice />
        <GroupChoice />
        <SchoolChoice />
        <InlineChoice
          label="show"
          value={only}
          options={[
            { value: "all", label: "all tests" },
            { value: "own", label: "where the part was the limit" },
            { value: "undecided", label: "unresolved ones" },
          ]}
          onChange={(value) => void setOnly(value)}
        />
        <FilterField what="tests" value={filter} onChange={(value) => void setFilter(value)} hint="filter: game, API, ray tracing …" width="210px" />
      </Flex>
      {!duel || duel.lines.length === 0 ? (
        <Text color="quiet" py="4">
          The two share no test of this kind with a valid run each.
        </Text>
      ) : (
        <>
          {duelWords(duel).map((sentence) => (
            <Text key={sentence} fontSize="16px" lineHeight="23px">
              {sentence}
            </Text>
          ))}
          <Text color="quiet" mb="2">
            {duel.wins} ahead, {duel.level} level, {duel.losses} behind, {duel.open} unresolved
            {duel.overall.low !== undefined && duel.overall.high !== undefined
              ? `; overall ${signedPercent(duel.overall.low)} to ${signedPercent(duel.overall.high)}`
              : ""}
            {duel.byResolution.length > 1 &&
              `; ${duel.byResolution.map(({ resolution: one, index }) => `${resolutionLabel(one)} ${signedPercent(index)}`).join(", ")}`}
            .{" "}
            {differing.length > 0 &&
              `They differ in ${differing
                .slice(0, 6)
                .map(({ property }) => propertyName(property.replace("part:", "")))
                .join(", ")}${differing.length > 6 ? ` and ${differing.length - 6} more` : ""}.`}
          </Text>
          <DifferenceChart
            duel={duel}
            title={`${duel.a.label} against ${duel.b.label}`}
            conditions={[
              `${group}, ${resolution ? resolutionLabel(resolution) : "all resolutions"}; above 0: ${duel.a.label} is ahead, as a share of ${duel.b.label}.`,
              `95 % run noise: re-running only. Band: level within ${figure(100 * model.margin, 0)} %. Ring: 1 % low by ${SCHOOL_NAMES[school]}. Hollow point: something else than the part under test was the limit.`,
            ]}
          />
          {duel.missing.length > 0 && (
            <Text color="doubt" fontSize="13px">
              Not compared, one of the two has no valid run: {duel.missing.map((key) => model.tests.find((test) => test.key === key)?.name).join(", ")}.
            </Text>
          )}
        </>
      )}
      <StepFoot legend="Band: level. ─ 95 % run noise. ◦ 1 % low. Hollow: another part was the limit. A click opens the cell.">
        <KeyHint keys="S" does="turn round" />
      </StepFoot>
    </Box>
  );
}
