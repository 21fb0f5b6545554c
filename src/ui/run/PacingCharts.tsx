"use client";

import { Box, Grid, Text } from "@chakra-ui/react";
import type { Plugin } from "chart.js";
import { useTheme } from "next-themes";
import { useEffect, useMemo, useRef } from "react";
import { type FrameStatistics, frameDistribution, percentileCurve } from "@/core/capture";
import { figure } from "@/core/report";
import { Chart, chartTheme } from "../charts/chartSetup";
import { SCHOOL_NAMES } from "../review/controls";
import { SCHOOLS } from "../review/ReviewContext";

/** A run of which curves are drawn. */
export interface PacedRun {
  id: string;
  label: string;
  tone: "accent" | "quiet" | 2;
  frameTimesMs: Float64Array;
}

interface Mark {
  name: string;
  value: number;
}

const frameTimeAt = (school: (typeof SCHOOLS)[number], low1: FrameStatistics["low1"]) =>
  1000 / { percentile: low1.percentileFps, tail_mean: low1.tailMeanFps, time_share: low1.timeShareFps }[school];

const schoolMarks = ({ low1 }: FrameStatistics): Mark[] =>
  SCHOOLS.map((school) => ({
    name: `${SCHOOL_NAMES[school]}, ${figure(frameTimeAt(school, low1), 1)} ms`,
    value: frameTimeAt(school, low1),
  }));

/** Lines across the chart at the 1 % lows of the three schools, each with its name. */
function markPlugin(marks: Mark[], axis: "x" | "y", theme: ReturnType<typeof chartTheme>): Plugin<"line"> {
  return {
    id: `lows-${axis}`,
    afterDatasetsDraw: ({ ctx, chartArea, scales }) => {
      const scale = scales[axis];
      if (!scale) return;
      ctx.save();
      ctx.font = `12.5px ${theme.font}`;
      ctx.fillStyle = theme.ink;
      ctx.strokeStyle = theme.ink;
      ctx.lineWidth = 1;
      ctx.setLineDash([2, 3]);
      const taken: number[] = [];
      for (const { name, value } of marks) {
        const at = scale.getPixelForValue(value);
        const [low, high] = axis === "x" ? [chartArea.left, chartArea.right] : [chartArea.top, chartArea.bottom];
        if (at < low || at > high) continue;
        ctx.beginPath();
        if (axis === "x") {
          ctx.moveTo(at, chartArea.top);
          ctx.lineTo(at, chartArea.bottom);
        } else {
          ctx.moveTo(chartArea.left, at);
          ctx.lineTo(chartArea.right, at);
        }
        ctx.stroke();
        // Labels step aside where two lows lie close together.
        let slot = axis === "x" ? 0 : at - 3;
        while (taken.some((one) => Math.abs(one - slot) < 14)) slot += axis === "x" ? 15 : -14;
        taken.push(slot);
        if (axis === "x") {
          const rightward = at < (chartArea.left + chartArea.right) / 2;
          ctx.textAlign = rightward ? "left" : "right";
          ctx.fillText(name, at + (rightward ? 4 : -4), chartArea.top + 12 + slot);
        } else {
          ctx.textAlign = "left";
          ctx.fillText(name, chartArea.left + 6, slot);
        }
      }
      ctx.restore();
    },
  };
}

function useChart(make: (canvas: HTMLCanvasElement, theme: ReturnType<typeof chartTheme>) => Chart, parts: readonly unknown[]) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { resolvedTheme } = useTheme();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the parts name what the chart is made of
  useEffect(() => {
    if (!canvas.current) return;
    const chart = make(canvas.current, chartTheme());
    return () => chart.destroy();
  }, [resolvedTheme, ...parts]);
  return canvas;
}

const toneColour = (tone: PacedRun["tone"], theme: ReturnType<typeof chartTheme>) =>
  tone === "accent" ? theme.accent : tone === "quiet" ? theme.quiet : theme.series[tone];

/** How the line of a run is drawn, the same in both charts. */
const lineIn = (theme: ReturnType<typeof chartTheme>) => (run: PacedRun) => ({
  borderColor: toneColour(run.tone, theme),
  borderWidth: run.tone === "accent" ? 2 : 1.25,
  pointRadius: 0,
});

/** How far into the slow end a share lies: 0 at none, 1 at 90 %, 2 at 99 %, 3 at 99.9 %. */
const nines = (share: number) => -Math.log10(1 - share);

/** The percentile curve and the distribution of a run's frame times, with the 1 % lows of all three schools marked. */
export default function PacingCharts({ runs, statistics }: { runs: PacedRun[]; statistics: FrameStatistics }) {
  const curves = useMemo(() => runs.map((run) => ({ run, points: percentileCurve(run.frameTimesMs) })), [runs]);
  const spreads = useMemo(() => {
    const [first] = runs;
    if (!first) return [];
    const own = frameDistribution(first.frameTimesMs);
    const range = { fromMs: own.fromMs, toMs: own.fromMs + own.stepMs * own.shares.length };
    return runs.map((run) => ({ run, distribution: frameDistribution(run.frameTimesMs, own.shares.length, range) }));
  }, [runs]);
  const base = (theme: ReturnType<typeof chartTheme>) => {
    const font = { family: theme.font, size: 13 };
    return {
      font,
      axis: (text: string) => ({
        type: "linear" as const,
        title: { display: true, text, color: theme.quiet, font },
        ticks: { color: theme.quiet, font, maxRotation: 0 },
        grid: { color: theme.hairline, tickLength: 6 },
        border: { color: theme.quiet },
      }),
    };
  };
  const curve = useChart(
    (canvas, theme) => {
      const { axis } = base(theme);
      const lineOf = lineIn(theme);
      return new Chart(canvas, {
        type: "line",
        data: {
          datasets: curves.map(({ run, points }) => ({
            label: run.label,
            data: points.map(({ share, frameTimeMs }) => ({ x: nines(share), y: frameTimeMs })),
            ...lineOf(run),
          })),
        },
        options: {
          animation: false,
          parsing: false,
          maintainAspectRatio: false,
          interaction: { mode: "nearest", axis: "x", intersect: false },
          plugins: {
            tooltip: {
              displayColors: false,
              callbacks: {
                title: ([item]) => `${(100 * (1 - 10 ** -(item?.parsed.x ?? 0))).toFixed(2)} % of frames`,
                label: (item) => `${item.dataset.label}: within ${(item.parsed.y ?? 0).toFixed(2)} ms`,
              },
            },
          },
          scales: {
            x: {
              ...axis("share of frames that are no longer"),
              min: 0,
              max: 4,
              ticks: {
                ...axis("").ticks,
                stepSize: 1,
                callback: (value) => ["0 %", "90 %", "99 %", "99.9 %", "99.99 %"][Number(value)] ?? "",
              },
            },
            y: { ...axis("frame time, ms"), grace: "5%" },
          },
        },
        plugins: [markPlugin(schoolMarks(statistics), "y", theme)],
      });
    },
    [curves, statistics],
  );
  const spread = useChart(
    (canvas, theme) => {
      const { axis } = base(theme);
      const lineOf = lineIn(theme);
      return new Chart(canvas, {
        type: "line",
        data: {
          datasets: spreads.map(({ run, distribution }) => ({
            label: run.label,
            data: distribution.shares.map((share, i) => ({ x: distribution.fromMs + i * distribution.stepMs, y: 100 * share })),
            ...lineOf(run),
            stepped: true,
          })),
        },
        options: {
          animation: false,
          parsing: false,
          maintainAspectRatio: false,
          interaction: { mode: "nearest", axis: "x", intersect: false },
          plugins: {
            tooltip: {
              displayColors: false,
              callbacks: {
                title: ([item]) => `from ${(item?.parsed.x ?? 0).toFixed(2)} ms`,
                label: (item) => `${item.dataset.label}: ${(item.parsed.y ?? 0).toFixed(2)} % of frames`,
              },
            },
          },
          scales: { x: axis("frame time, ms"), y: { ...axis("frames, %"), min: 0 } },
        },
        plugins: [markPlugin(schoolMarks(statistics), "x", theme)],
      });
    },
    [spreads, statistics],
  );
  const marks = schoolMarks(statistics)
    .map(({ name }) => name)
    .join("; ");
  return (
    <Grid templateColumns={{ base: "1fr", lg: "1fr 1fr" }} gap="8" mt="6">
      <Box>
        <Text fontWeight="600">How much of the run stays within</Text>
        <Box h="240px" position="relative">
          <canvas ref={curve} role="img" aria-label={`Percentile curve of frame time; 1 % lows as frame times: ${marks}`} />
        </Box>
      </Box>
      <Box>
        <Text fontWeight="600">How long frames took</Text>
        <Box h="240px" position="relative">
          <canvas ref={spread} role="img" aria-label={`Distribution of frame time; 1 % lows as frame times: ${marks}`} />
        </Box>
      </Box>
    </Grid>
  );
}
