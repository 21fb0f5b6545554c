"use client";

import { Box, Flex, Text } from "@chakra-ui/react";
import { useTheme } from "next-themes";
import { parseAsString, useQueryState } from "nuqs";
import { useEffect, useMemo, useRef } from "react";
import { DEFAULT_LADDER_RULE, type LadderRule } from "@/core/compare";
import { type ClimbedLadder, figure, laddersOf } from "@/core/report";
import { ChartFrame } from "../charts/ChartFrame";
import { Chart, chartTheme } from "../charts/chartSetup";
import { TextField } from "../forms/fields";
import { StepFoot } from "../review/controls";
import { useReview, useReviewState } from "../review/ReviewContext";

const DASHES = [[], [6, 3], [2, 2], [8, 3, 2, 3], [1, 3]];

/** Rates over the levels of a ladder as steps, one line a setup; the target as a line across. */
function LadderChart({ ladder, rule, labelOf }: { ladder: ClimbedLadder; rule: LadderRule; labelOf: (id: string) => string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { resolvedTheme } = useTheme();
  const { row } = useReviewState();
  // biome-ignore lint/correctness/useExhaustiveDependencies: names follow from the ladder
  useEffect(() => {
    if (!canvas.current) return;
    void resolvedTheme;
    const theme = chartTheme();
    const font = { family: theme.font, size: 13 };
    const chart = new Chart(canvas.current, {
      type: "line",
      data: {
        labels: ladder.levels.map(({ level, test }) => `${level} ${test.name.split(", ").at(-1)}`),
        datasets: [
          ...ladder.rows.slice(0, 5).map(({ setupId, rungs }, i) => ({
            label: labelOf(setupId),
            data: ladder.levels.map(({ level }) => rungs.find((rung) => rung.level === level)?.averageFps ?? null),
            borderColor: row === setupId ? theme.accent : [theme.ink, ...theme.series, theme.quiet][i % 5],
            borderDash: DASHES[i % DASHES.length] ?? [],
            borderWidth: 2,
            stepped: "middle" as const,
            pointRadius: 3.5,
            pointBackgroundColor: ladder.levels.map(({ level }) => (rungs.find((rung) => rung.level === level)?.holds ? theme.ink : theme.paper)),
          })),
          {
            label: `target ${rule.averageFps} fps`,
            data: ladder.levels.map(() => rule.averageFps),
            borderColor: theme.doubt,
            borderWidth: 1,
            borderDash: [4, 4],
            pointRadius: 0,
          },
        ],
      },
      options: {
        animation: false,
        maintainAspectRatio: false,
        plugins: { tooltip: { displayColors: false, callbacks: { label: (item) => `${item.dataset.label}: ${figure(item.parsed.y ?? 0, 1)} fps` } } },
        scales: {
          x: { title: { display: true, text: "level", color: theme.quiet, font }, ticks: { color: theme.quiet, font }, grid: { color: theme.hairline } },
          y: {
            min: 0,
            title: { display: true, text: "average, fps", color: theme.quiet, font },
            ticks: { color: theme.quiet, font },
            grid: { color: theme.hairline },
          },
        },
      },
    });
    return () => chart.destroy();
  }, [ladder, rule, resolvedTheme, row]);
  return <canvas ref={canvas} role="img" aria-label={`${ladder.name}: rates over its levels, as steps`} />;
}

/** Ordered levels of one thing: the highest that still keeps the average, the low, the processor's headroom and the operator's word. */
export function LaddersView() {
  const { model } = useReview();
  const [text, setText] = useQueryState("rule", parseAsString);
  const rule = useMemo((): LadderRule => {
    const [averageFps, lowFps, mostCpuLoad] = (text ?? "").split(",").map(Number);
    if (!averageFps || !lowFps || !mostCpuLoad || mostCpuLoad > 1) return DEFAULT_LADDER_RULE;
    return { averageFps, lowFps, mostCpuLoad };
  }, [text]);
  const setRule = (next: LadderRule) => void setText(`${next.averageFps},${next.lowFps},${next.mostCpuLoad}`);
  const ladders = useMemo(() => laddersOf(model, rule), [model, rule]);
  const labelOf = (id: string) => model.setups.find((one) => one.id === id)?.label ?? id;
  const numberField = (label: string, key: keyof LadderRule, factor = 1) => (
    <TextField
      label={label}
      width="130px"
      value={figure(rule[key] * factor, 0)}
      onChange={(typed) => {
        const value = Number(typed) / factor;
        if (value > 0 && Number.isFinite(value)) setRule({ ...rule, [key]: value });
      }}
    />
  );
  return (
    <Box>
      <Flex gap="6" mb="3" wrap="wrap" align="flex-end">
        {numberField("average, at least fps", "averageFps")}
        {numberField("1 % low, at least fps", "lowFps")}
        {numberField("processor, at most %", "mostCpuLoad", 100)}
        {[60, 120, 144].map((fps) => (
          <Text
            as="button"
            key={fps}
            color={rule.averageFps === fps ? "ink" : "accent.fg"}
            cursor="pointer"
            onClick={() => setRule({ ...rule, averageFps: fps, lowFps: Math.round(fps * 0.8) })}
          >
            {fps} fps
          </Text>
        ))}
      </Flex>
      {ladders.map((ladder) => {
        const conditions = [
          `Highest level that keeps ${rule.averageFps} fps on average, ${rule.lowFps} fps as 1 % low, the processor at ${figure(100 * rule.mostCpuLoad, 0)} % or less, and felt responsive. Filled: holds.`,
        ];
        return (
          <Box key={ladder.id} mb="6">
            <Text as="h3" fontSize="16px" fontWeight="600">
              {ladder.name}
            </Text>
            <ChartFrame
              title={ladder.name}
              summary={ladder.rows
                .map(({ setupId, highest }) => `${labelOf(setupId)}: ${highest === undefined ? "no level holds" : `up to level ${highest}`}`)
                .join("; ")}
              conditions={conditions}
              table={{
                heads: ["setup", "highest", ...ladder.levels.map(({ level }) => `level ${level}, fps`)],
                rows: ladder.rows.map(({ setupId, rungs, highest }) => ({
                  key: setupId,
                  cells: [
                    { text: labelOf(setupId), sort: labelOf(setupId) },
                    { text: highest === undefined ? "none" : String(highest), sort: highest ?? 0 },
                    ...rungs.map(({ averageFps }) => ({ text: averageFps === null ? "–" : figure(averageFps, 1), sort: averageFps ?? 0 })),
                  ],
                })),
              }}
            >
              <Flex gap="5" wrap="wrap" textStyle="small" mb="1">
                {ladder.rows.slice(0, 5).map(({ setupId }, i) => (
                  <Flex key={setupId} gap="1.5" align="center">
                    <svg width="26" height="8" aria-hidden>
                      <line
                        x1="0"
                        x2="26"
                        y1="4"
                        y2="4"
                        stroke={`var(--chakra-colors-${["ink", "series-blue", "series-green", "series-rose", "quiet"][i]})`}
                        strokeWidth="2"
                        strokeDasharray={(DASHES[i] ?? []).join(" ")}
                      />
                    </svg>
                    {labelOf(setupId)}
                  </Flex>
                ))}
              </Flex>
              <Box h="260px" position="relative">
                <LadderChart ladder={ladder} rule={rule} labelOf={labelOf} />
              </Box>
            </ChartFrame>
            <Box role="table" aria-label={`${ladder.name}: highest level that holds`}>
              {ladder.rows.map(({ setupId, rungs, highest }) => {
                const broken = rungs.find(({ holds }) => !holds);
                const unknown = [...new Set(rungs.flatMap((rung) => rung.unknown))];
                return (
                  <Box
                    role="row"
                    key={setupId}
                    display="grid"
                    gridTemplateColumns={{ base: "1fr", md: "200px 150px 1fr" }}
                    columnGap="5"
                    borderTop="1px solid"
                    borderColor="hairline"
                    py="1.5"
                  >
                    <Text role="cell" fontWeight="600">
                      {labelOf(setupId)}
                    </Text>
                    <Text role="cell" textStyle="figure" fontWeight="600" color={highest === undefined ? "doubt" : "ink"}>
                      {highest === undefined ? "no level holds" : `up to level ${highest}`}
                    </Text>
                    <Text role="cell" color="quiet">
                      {broken ? `level ${broken.level}: ${broken.breaks.join(", ") || "not run"}` : "every level holds"}
                      {unknown.length > 0 ? `; not known: ${unknown.join(", ")}` : ""}
                    </Text>
                  </Box>
                );
              })}
            </Box>
          </Box>
        );
      })}
      <StepFoot legend="Levels count upwards: the first that breaks a rule ends the ladder." />
    </Box>
  );
}
