"use client";

import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { CHECK_RULES, type CheckRule, DEFAULT_THRESHOLDS } from "@/core/check";
import { Trouble, useAction } from "../forms/fields";
import { useReview } from "../review/ReviewContext";

type Threshold = CheckRule["thresholds"][number];

/** Thresholds are kept as fractions; percents exist on screen only. */
const onScreen = ({ unit }: Threshold, value: number) => String(Number((unit === "%" ? value * 100 : value).toPrecision(6)));

/** What each check doubts, in words, with the lab's own thresholds: changed in place, for all reviews. */
export function CheckRules() {
  const { model, actions } = useReview();
  const { busy, trouble, setTrouble, act } = useAction();
  const [typed, setTyped] = useState<Record<string, string>>({});
  const record = async (threshold: Threshold, text: string) => {
    const { key, unit } = threshold;
    const number = Number(text.replace(",", "."));
    if (text.trim() !== "" && !Number.isFinite(number)) return setTrouble(`“${text}” is not a number.`);
    const value = text.trim() === "" ? null : unit === "%" ? number / 100 : number;
    const { [key]: _, ...others } = typed;
    if (value === model.thresholds[key]) return setTyped(others);
    await act(() => actions.setThreshold({ key, value }));
    setTyped(others);
  };
  return (
    <chakra.details mt="8">
      <chakra.summary cursor="pointer" fontWeight="600">
        The rules of all {CHECK_RULES.length} checks, and this lab's thresholds
      </chakra.summary>
      <Text color="quiet" mt="1">
        A threshold holds for every review; an emptied field takes the usual one again. How good the checks are with the usual ones is measured in
        docs/checks.md.
      </Text>
      <Trouble text={trouble} />
      <Box as="dl" mt="2">
        {CHECK_RULES.map(({ check, rule, thresholds }) => (
          <Box
            key={check}
            display="grid"
            gridTemplateColumns={{ base: "1fr", md: "170px minmax(0, 1fr) 330px" }}
            columnGap="5"
            py="1.5"
            borderTop="1px solid"
            borderColor="hairline"
          >
            <Text as="dt" fontWeight="500">
              {check}
            </Text>
            <Text as="dd">{rule}</Text>
            <Flex as="dd" gap="5" wrap="wrap">
              {thresholds.map((threshold) => {
                const { key, label, unit } = threshold;
                return (
                  <Flex as="label" key={key} gap="1.5" align="baseline" textStyle="small" color="quiet">
                    {label}
                    <chakra.input
                      aria-label={`${check}: ${label}, ${unit}`}
                      value={typed[key] ?? onScreen(threshold, model.thresholds[key])}
                      disabled={busy}
                      onChange={(event) => setTyped({ ...typed, [key]: event.currentTarget.value })}
                      onBlur={(event) => typed[key] !== undefined && void record(threshold, event.currentTarget.value)}
                      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
                      w="58px"
                      textAlign="right"
                      textStyle="figure"
                      color={model.thresholds[key] === DEFAULT_THRESHOLDS[key] ? "ink" : "accent.fg"}
                      bg="transparent"
                      borderBottom="1px solid"
                      borderColor="tick"
                    />
                    {unit}
                  </Flex>
                );
              })}
            </Flex>
          </Box>
        ))}
      </Box>
    </chakra.details>
  );
}
