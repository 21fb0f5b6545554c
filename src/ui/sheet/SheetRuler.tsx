import { Box, Text } from "@chakra-ui/react";
import { memo } from "react";
import type { Sheet } from "@/core/plan";

const MOST_TICKS = 600;

/** The whole sheet on one ruler: a tick for each step, a long one where a setup begins, a dot over what failed, the present step in the accent. */
export const SheetRuler = memo(function SheetRuler({ sheet }: { sheet: Sheet }) {
  const n = Math.max(1, sheet.steps.length);
  const x = (i: number) => `${(100 * i) / n}%`;
  const blocks = sheet.steps.flatMap(({ step }, i) =>
    i === 0 || sheet.steps[i - 1]?.step.blockIndex !== step.blockIndex ? [{ i, label: step.setupLabel }] : [],
  );
  // A name needs about a tenth of the ruler; where setups are shorter than that, the first of them speaks for the rest.
  const named: typeof blocks = [];
  for (const block of blocks) {
    const last = named.at(-1);
    if (!last || ((block.i - last.i) / n >= 0.1 && block.i / n < 0.93)) named.push(block);
  }
  return (
    <Box position="relative" h="44px" aria-hidden>
      <svg width="100%" height="26" aria-hidden style={{ display: "block", overflow: "visible" }}>
        <line x1="0" x2="100%" y1="8.5" y2="8.5" stroke="var(--chakra-colors-tick)" />
        {sheet.steps.map(({ step, status }, i) => {
          const begins = i === 0 || sheet.steps[i - 1]?.step.blockIndex !== step.blockIndex;
          const past = i < sheet.current;
          const lost = status === "failed" || status === "skipped";
          // Beyond a few hundred steps single ticks would run together: only setups and losses keep theirs.
          if (n > MOST_TICKS && !begins && !lost) return null;
          return (
            <g key={step.key}>
              <line
                x1={x(i)}
                x2={x(i)}
                y1="8"
                y2={begins ? 25 : 17}
                stroke={past ? "var(--chakra-colors-ink)" : "var(--chakra-colors-tick)"}
                strokeWidth={past ? 1.5 : 1}
              />
              {lost && <circle cx={x(i)} cy="3" r="3" fill="var(--chakra-colors-doubt)" />}
            </g>
          );
        })}
        <line x1={x(sheet.current)} x2={x(sheet.current)} y1="4" y2="26" stroke="var(--chakra-colors-accent-solid)" strokeWidth="3" />
      </svg>
      {named.map(({ i, label }) => (
        <Text
          key={i}
          position="absolute"
          left={x(i)}
          top="25px"
          pl="4px"
          textStyle="small"
          color="quiet"
          whiteSpace="nowrap"
          maxW={`${100 - (100 * i) / n}%`}
          truncate
        >
          {label}
        </Text>
      ))}
    </Box>
  );
});
