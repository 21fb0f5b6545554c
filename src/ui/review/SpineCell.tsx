"use client";

import { Box, chakra, Flex, Text, VisuallyHidden } from "@chakra-ui/react";
import type { ReviewSetup } from "@/core/report";
import { useReviewState } from "./ReviewContext";

/** The facts shown under a setup's handle. */
const SPINE_FACTS = ["vram", "cores", "board_power", "tdp"];

const factsLine = (setup: ReviewSetup) =>
  [
    setup.maker,
    ...SPINE_FACTS.flatMap((key) => setup.facts.filter((fact) => fact.key === key).map((fact) => [fact.value, fact.unit].filter(Boolean).join(" "))),
  ]
    .filter(Boolean)
    .join(" · ");

/** A setup's handle in the spine: the same in every step. A click selects its row. */
export function SpineCell({ setup, rank }: { setup: ReviewSetup; rank?: string | undefined }) {
  const { row, baseline, setState } = useReviewState();
  const selected = row === setup.id;
  return (
    <Flex align="center" minW="0" h="full">
      <Text w="34px" flexShrink="0" color="quiet" textStyle="figure" textAlign="right" pr="10px" whiteSpace="nowrap">
        {rank ?? ""}
      </Text>
      <chakra.button
        type="button"
        textAlign="left"
        minW="0"
        cursor="pointer"
        aria-pressed={selected}
        onClick={() => setState({ row: selected ? null : setup.id })}
        data-setup={setup.id}
      >
        <Text fontWeight="600" truncate lineHeight="18px" color={selected ? "accent.fg" : "ink"}>
          {setup.label}
          {setup.id === baseline && (
            <>
              <Box as="span" ml="1.5" color="quiet" fontWeight="400" aria-hidden>
                ○
              </Box>
              <VisuallyHidden>, the baseline</VisuallyHidden>
            </>
          )}
        </Text>
        <Text textStyle="small" color="quiet" truncate>
          {factsLine(setup)}
        </Text>
      </chakra.button>
    </Flex>
  );
}

/** Background and hairline of a row. */
export function rowStyle(selected: boolean) {
  return { borderTop: "1px solid", borderColor: "hairline", bg: selected ? "accentWash" : "transparent", minH: "52px", alignItems: "center" } as const;
}
