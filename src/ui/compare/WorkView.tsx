"use client";

import { Box, Flex, Text } from "@chakra-ui/react";
import { useTheme } from "next-themes";
import { useEffect, useMemo, useRef } from "react";
import { timeText } from "@/core/compare";
import { figure, moneyAgainstSpeed, timedWorkOf, type WorkLine } from "@/core/report";
import { ChartFrame } from "../charts/ChartFrame";
import { Chart, chartTheme } from "../charts/chartSetup";
import { bytesText } from "../grid/gridCells";
import { BaselineChoice, InlineChoice, StepFoot } from "../review/controls";
import { useReview, useReviewState } from "../review/ReviewContext";

const MARKS = ["circle", "rect", "triangle", "rectRot", "star"] as const;

/** Output size against time: each row's settings as points, the frontier joined. */
function SizeChart({ lines, labelOf }: { lines: WorkLine[]; labelOf: (id: string) => string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { resolvedTheme } = useTheme();
  // biome-ignore lint/correctness/useExhaustiveDependencies: names follow from the lines
  useEffect(() => {
    if (!canvas.current) return;
    void resolvedTheme;
    const theme = chartTheme();
    const font = { family: theme.font, size: 13 };
    const axis = (text: string) => ({
      type: "linear" as const,
      title: { display: true, text, color: theme.quiet, font },
      ticks: { color: theme.quiet, font },
      grid: { color: theme.hairline },
    });
    const setups = [...new Set(lines.map(({ setupId }) => setupId))].slice(0, 5);
    const chart = new Chart(canvas.current, {
      type: "line",
      data: {
        datasets: setups.map((setupId, i) => ({
          label: labelOf(setupId),
          data: lines
            .filter((line) => line.setupId === setupId && line.onFrontier)
            .sort((a, b) => a.timeS - b.timeS)
            .map(({ timeS, bytes }) => ({ x: timeS, y: (bytes ?? 0) / 1e6 })),
          borderColor: [theme.ink, ...theme.series, theme.quiet][i % 5],
          backgroundColor: [theme.ink, ...theme.series, theme.quiet][i % 5],
          borderWidth: 1.5,
          pointStyle: MARKS[i % MARKS.length],
          pointRadius: 5,
          showLine: true,
        })),
      },
      options: {
        animation: false,
        parsing: false,
        maintainAspectRatio: false,
        plugins: {
          tooltip: {
            displayColors: false,
            callbacks: {
              title: ([item]) => item?.dataset.label ?? "",
              label: (item) => `${timeText(item.parsed.x ?? 0)}, ${figure(item.parsed.y ?? 0, 0)} MB`,
            },
          },
        },
        scales: { x: axis("time, s"), y: axis("output, MB") },
      },
    });
    return () => chart.destroy();
  }, [lines, resolvedTheme]);
  return <canvas ref={canvas} role="img" aria-label="Output size against time; settings that nothing beats in both are joined" />;
}

const COLUMNS = { base: "minmax(0, 1fr) 80px 90px", md: "210px 220px 90px 110px 110px 110px 1fr" };

/** Timed work: speed-up, seconds saved, realtime factor, size for time; and how many times dearer against how many times faster. */
export function WorkView() {
  const { model } = useReview();
  const { baseline, region: regionCode, setState } = useReviewState();
  const lines = useMemo(() => timedWorkOf(model, baseline), [model, baseline]);
  // The chosen region, or the first that has prices of the baseline and another row.
  const { region, money } = useMemo(() => {
    const asked = model.regions.find(({ code }) => code === regionCode);
    const all = [...(asked ? [asked] : []), ...model.regions].map((one) => ({ region: one, money: moneyAgainstSpeed(model, baseline, one) }));
    return all.find((one) => one.money.some(({ priceRatio }) => priceRatio !== undefined)) ?? all[0] ?? { region: undefined, money: [] };
  }, [model, baseline, regionCode]);
  const labelOf = (id: string) => model.setups.find((one) => one.id === id)?.label ?? id;
  const sized = lines.filter(({ bytes }) => bytes !== undefined);
  const tests = [...new Map(lines.map(({ test }) => [test.key, test])).values()];
  return (
    <Box>
      <Flex gap="6" mb="3" wrap="wrap" align="center">
        <BaselineChoice />
        {model.regions.length > 1 && (
          <InlineChoice
            label="prices of"
            value={region?.code ?? ""}
            options={model.regions.map(({ code, name }) => ({ value: code, label: name ?? code }))}
            onChange={(value) => setState({ region: value })}
          />
        )}
      </Flex>
      {lines.length === 0 && <Text color="quiet">No timed work has a valid run for the baseline and another row yet.</Text>}
      <Box role="table" aria-label="Timed work">
        <Box role="row" display="grid" gridTemplateColumns={COLUMNS} columnGap="5" color="quiet">
          <Text role="columnheader">Setup</Text>
          <Text role="columnheader" display={{ base: "none", md: "block" }}>
            test
          </Text>
          <Text role="columnheader" textAlign="right">
            time
          </Text>
          <Text role="columnheader" textAlign="right">
            times as fast
          </Text>
          <Text role="columnheader" textAlign="right" display={{ base: "none", md: "block" }}>
            saved
          </Text>
          <Text role="columnheader" textAlign="right" display={{ base: "none", md: "block" }}>
            realtime
          </Text>
          <Text role="columnheader" display={{ base: "none", md: "block" }}>
            output
          </Text>
        </Box>
        {tests.flatMap((test) =>
          lines
            .filter((line) => line.test.key === test.key)
            .map((line) => (
              <Box
                role="row"
                key={`${line.setupId}/${test.key}`}
                display="grid"
                gridTemplateColumns={COLUMNS}
                columnGap="5"
                borderTop="1px solid"
                borderColor="hairline"
                py="0.5"
              >
                <Text role="cell" fontWeight={line.setupId === baseline ? "400" : "600"} truncate>
                  {labelOf(line.setupId)}
                  {line.setupId === baseline ? " ○" : ""}
                </Text>
                <Text role="cell" truncate display={{ base: "none", md: "block" }}>
                  {test.name}
                </Text>
                <Text role="cell" textStyle="figure" textAlign="right">
                  {timeText(line.timeS)}
                </Text>
                <Text role="cell" textStyle="figure" textAlign="right" fontWeight="600">
                  {line.setupId === baseline ? "1" : `${figure(line.speedup, 2)} ×`}
                </Text>
                <Text role="cell" textStyle="figure" textAlign="right" display={{ base: "none", md: "block" }}>
                  {line.setupId === baseline ? "" : line.secondsSaved >= 0 ? timeText(line.secondsSaved) : `−${timeText(-line.secondsSaved)}`}
                </Text>
                <Text role="cell" textStyle="figure" textAlign="right" display={{ base: "none", md: "block" }}>
                  {line.realtime === undefined ? "" : `${figure(line.realtime, 2)} ×`}
                </Text>
                <Text role="cell" color="quiet" display={{ base: "none", md: "block" }}>
                  {line.bytes === undefined ? "" : `${bytesText(line.bytes)}${line.onFrontier ? ", on the frontier" : ", beaten in both"}`}
                </Text>
              </Box>
            )),
        )}
      </Box>
      {sized.length > 1 && (
        <Box mt="6">
          <Text as="h3" fontSize="16px" fontWeight="600">
            Output size against time
          </Text>
          <ChartFrame
            title="Output size against time"
            summary={sized
              .map(({ setupId, test, timeS, bytes }) => `${labelOf(setupId)}, ${test.name}: ${timeText(timeS)}, ${bytesText(bytes ?? 0)}`)
              .join("; ")}
            conditions={["Settings that no other of the same row beats in both time and size are joined. Quality is an opinion of its own."]}
            table={{
              heads: ["setup", "test", "time, s", "output, MB", "frontier"],
              rows: sized.map(({ setupId, test, timeS, bytes, onFrontier }) => ({
                key: `${setupId}/${test.key}`,
                cells: [
                  { text: labelOf(setupId), sort: labelOf(setupId) },
                  { text: test.name, sort: test.name },
                  { text: figure(timeS, 1), sort: timeS },
                  { text: figure((bytes ?? 0) / 1e6, 0), sort: bytes ?? 0 },
                  { text: onFrontier ? "yes" : "no", sort: Number(onFrontier) },
                ],
              })),
            }}
          >
            <Box h="260px" position="relative">
              <SizeChart lines={sized} labelOf={labelOf} />
            </Box>
            <Flex gap="4" wrap="wrap" textStyle="small" color="quiet">
              {[...new Set(sized.map(({ setupId }) => setupId))].slice(0, 5).map((id, i) => (
                <span key={id}>
                  {["●", "■", "▲", "◆", "✶"][i]} {labelOf(id)}
                </span>
              ))}
            </Flex>
          </ChartFrame>
        </Box>
      )}
      {money.some(({ priceRatio }) => priceRatio !== undefined) && (
        <Box mt="6">
          <Text as="h3" fontSize="16px" fontWeight="600">
            How many times dearer, how many times faster
          </Text>
          <Text color="quiet" mb="1">
            Against {labelOf(baseline)}, street prices in {region?.name ?? region?.code}, {model.today}.
          </Text>
          {money
            .filter(({ priceRatio }) => priceRatio !== undefined)
            .map(({ setupId, priceRatio, ratios }) => {
              const sorted = [...ratios].sort((a, b) => b.ratio - a.ratio);
              return (
                <Box key={setupId} borderTop="1px solid" borderColor="hairline" py="2">
                  <Text>
                    <Text as="span" fontWeight="600">
                      {labelOf(setupId)}
                    </Text>{" "}
                    costs {figure(priceRatio as number, 2)} times as much; it is {figure(sorted.at(-1)?.ratio ?? 1, 2)} to {figure(sorted[0]?.ratio ?? 1, 2)}{" "}
                    times as fast.
                  </Text>
                  <Text color="quiet">{sorted.map(({ test, ratio }) => `${test.name} ${figure(ratio, 2)} ×`).join(", ")}</Text>
                </Box>
              );
            })}
        </Box>
      )}
      <StepFoot legend="Times as fast: the baseline's time divided by this one. Saved: seconds less than the baseline." />
    </Box>
  );
}
