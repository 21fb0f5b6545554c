"use client";

import { Box, chakra, Text } from "@chakra-ui/react";
import type { Limit } from "@/core/check";
import { timeText } from "@/core/compare";
import { type Duel, type DuelLine, figure, partIsLimit, type RowChart, signedPercent } from "@/core/report";
import { ChartFrame } from "../charts/ChartFrame";
import { ScaleHead } from "../charts/RowScale";
import { linearScale } from "../charts/scale";
import { useReview, useReviewState } from "../review/ReviewContext";
import { verdictWords } from "./verdictWords";

const COLUMNS = { base: "minmax(0, 1fr) 74px 84px", md: "210px minmax(200px, 1fr) 76px 190px 150px 110px" };
const LIMIT_WORDS: Record<Limit, string> = { cpu: "CPU", gpu: "GPU", memory: "memory", cap: "cap", mixed: "mixed", "not known": "" };

/** What held the two rows, in a word or two; marked where it was not the part under test. */
function limitText({ limits: [a, b] }: DuelLine): string {
  const [x, y] = [a ? LIMIT_WORDS[a.limit] : "", b ? LIMIT_WORDS[b.limit] : ""];
  return x === y ? x : [x || "?", y || "?"].join(" / ");
}

const valueText = (line: DuelLine, value: number) => (line.timed ? timeText(value) : `${figure(value)} ${line.test.unit}`);

/** Two rows in every test, largest lead first: point, interval, the zone in which they are level, verdict, what held them. */
export function DifferenceChart({ duel, title, conditions }: { duel: Duel; title: string; conditions: string[] }) {
  const { model } = useReview();
  const { setState } = useReviewState();
  const { a, b, lines } = duel;
  const ends = lines.flatMap(({ ratio, lowRatio }) => [ratio.ratio, ratio.low ?? ratio.ratio, ratio.high ?? ratio.ratio, lowRatio ?? ratio.ratio]);
  const percent = (ratio: number) => 100 * (ratio - 1);
  const scale = linearScale(percent(Math.min(...ends, 1 / (1 + model.margin))), percent(Math.max(...ends, 1 + model.margin)));
  const x = (ratio: number) => `${scale.at(percent(ratio))}%`;
  const chart = (): RowChart => ({
    title,
    subtitle: `${duel.wins} ahead, ${duel.level} level, ${duel.losses} behind, ${duel.open} unresolved; overall ${signedPercent(duel.overall.index)}`,
    unit: "per cent",
    min: scale.min,
    max: scale.max,
    major: scale.major,
    minor: scale.minor,
    base: 0,
    band: [percent(1 / (1 + model.margin)), percent(1 + model.margin)],
    rows: lines.map(({ test, ratio, lowRatio }) => ({
      label: test.name,
      value: percent(ratio.ratio),
      low: ratio.low === undefined ? undefined : percent(ratio.low),
      high: ratio.high === undefined ? undefined : percent(ratio.high),
      ring: lowRatio === undefined ? undefined : percent(lowRatio),
      text: `${signedPercent(ratio.ratio)}, ${verdictWords(ratio).says}`,
    })),
    conditions,
  });
  return (
    <ChartFrame
      title={title}
      summary={`${a.label} against ${b.label}: ahead in ${duel.wins}, level in ${duel.level}, behind in ${duel.losses}, unresolved in ${duel.open} of ${lines.length} tests.`}
      conditions={conditions}
      rowChart={chart}
      table={{
        heads: ["test", "difference", "from", "to", "low", "says", "runs needed", a.label, b.label, "limit"],
        rows: lines.map((line) => ({
          key: line.test.key,
          cells: [
            { text: line.test.name, sort: line.test.name },
            { text: signedPercent(line.ratio.ratio), sort: line.ratio.ratio },
            { text: line.ratio.low === undefined ? "–" : signedPercent(line.ratio.low), sort: line.ratio.low ?? 0 },
            { text: line.ratio.high === undefined ? "–" : signedPercent(line.ratio.high), sort: line.ratio.high ?? 0 },
            { text: line.lowRatio === undefined ? "–" : signedPercent(line.lowRatio), sort: line.lowRatio ?? 0 },
            { text: verdictWords(line.ratio).says, sort: line.ratio.verdict },
            { text: line.ratio.furtherRuns === undefined ? "" : String(line.ratio.furtherRuns), sort: line.ratio.furtherRuns ?? 0 },
            { text: valueText(line, line.a), sort: line.a },
            { text: valueText(line, line.b), sort: line.b },
            { text: limitText(line), sort: limitText(line) },
          ],
        })),
      }}
    >
      <Box role="table" aria-label={title}>
        <Box role="row" display="grid" gridTemplateColumns={COLUMNS} columnGap="4" alignItems="end" color="quiet">
          <Text role="columnheader">test</Text>
          <Box role="columnheader" display={{ base: "none", md: "block" }} aria-label="difference in per cent">
            <ScaleHead scale={scale} label={(value) => (value > 0 ? `+${value}` : String(value).replace("-", "−"))} />
          </Box>
          <Text role="columnheader" textAlign="right">
            %
          </Text>
          <Text role="columnheader">says</Text>
          <Text role="columnheader" display={{ base: "none", md: "block" }} textAlign="right">
            {a.label.length > 16 ? "values" : `${a.label}, other`}
          </Text>
          <Text role="columnheader" display={{ base: "none", md: "block" }}>
            limit
          </Text>
        </Box>
        {lines.map((line) => {
          const { test, ratio, lowRatio } = line;
          const words = verdictWords(ratio);
          const decided = ratio.verdict === "ahead" || ratio.verdict === "behind";
          const ink = decided
            ? "var(--chakra-colors-accent-solid)"
            : ratio.verdict === "unresolved"
              ? "var(--chakra-colors-doubt)"
              : "var(--chakra-colors-quiet)";
          const foreign = !partIsLimit(a, line.limits[0]) || !partIsLimit(b, line.limits[1]);
          return (
            <chakra.div
              role="row"
              key={test.key}
              display="grid"
              gridTemplateColumns={COLUMNS}
              columnGap="4"
              alignItems="center"
              minH="28px"
              borderTop="1px solid"
              borderColor="hairline"
              _hover={{ bg: "wash" }}
              cursor="pointer"
              onClick={() => setState({ show: `cell:${a.id}/${test.key}` })}
            >
              <Text role="cell" truncate>
                {test.name}
              </Text>
              <Box role="cell" display={{ base: "none", md: "block" }} aria-label={signedPercent(ratio.ratio)}>
                <svg width="100%" height="28" style={{ display: "block", overflow: "visible" }} aria-hidden>
                  <rect
                    x={x(1 / (1 + model.margin))}
                    width={`${scale.at(percent(1 + model.margin)) - scale.at(percent(1 / (1 + model.margin)))}%`}
                    y="0"
                    height="28"
                    fill="var(--chakra-colors-wash)"
                  />
                  <line x1={x(1)} x2={x(1)} y1="0" y2="28" stroke="var(--chakra-colors-tick)" strokeDasharray="1 3" />
                  {ratio.low !== undefined && ratio.high !== undefined && (
                    <line x1={x(ratio.low)} x2={x(ratio.high)} y1="14" y2="14" stroke={ink} strokeWidth="2" />
                  )}
                  <circle cx={x(ratio.ratio)} cy="14" r="4" fill={foreign ? "var(--chakra-colors-paper)" : ink} stroke={ink} strokeWidth="1.5" />
                  {lowRatio !== undefined && <circle cx={x(lowRatio)} cy="5" r="2.5" fill="none" stroke={ink} strokeWidth="1.5" />}
                </svg>
              </Box>
              <Text role="cell" textStyle="figure" fontWeight="600" textAlign="right">
                {signedPercent(ratio.ratio)}
              </Text>
              <Text role="cell" truncate color={ratio.verdict === "unresolved" ? "doubt" : "quiet"} title={words.more}>
                {words.says}
                {ratio.verdict === "unresolved" && ratio.furtherRuns !== undefined && `, ${ratio.furtherRuns} more ${ratio.furtherRuns === 1 ? "run" : "runs"}`}
                {ratio.verdict === "level-small-difference" && ", small difference"}
              </Text>
              <Text role="cell" textStyle="figure" textAlign="right" display={{ base: "none", md: "block" }}>
                {line.timed ? `${timeText(line.a)}, ${timeText(line.b)}` : `${figure(line.a)}, ${figure(line.b)} ${test.unit}`}
              </Text>
              <Text role="cell" color={foreign ? "doubt" : "quiet"} display={{ base: "none", md: "block" }} truncate>
                {limitText(line)}
                {foreign && ", not the part"}
              </Text>
            </chakra.div>
          );
        })}
        <Box borderTop="1px solid" borderColor="hairline" />
      </Box>
    </ChartFrame>
  );
}
