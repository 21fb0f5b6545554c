"use client";

import { useTheme } from "next-themes";
import { useEffect, useRef } from "react";
import { Chart, chartTheme } from "../charts/chartSetup";

/** Frame time against the time of the run; spikes survive the thinning (minimum and maximum of each pixel are kept). */
export default function FrameChart({ frameTimesMs, label }: { frameTimesMs: Float64Array; label: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { resolvedTheme } = useTheme();
  useEffect(() => {
    if (!canvas.current) return;
    // The theme's class is on the page by now; its colours are read each time the theme changes.
    const theme = chartTheme();
    void resolvedTheme;
    const points = new Array<{ x: number; y: number }>(frameTimesMs.length);
    let atMs = 0;
    for (let i = 0; i < frameTimesMs.length; i += 1) {
      const frame = frameTimesMs[i] as number;
      points[i] = { x: atMs / 1000, y: frame };
      atMs += frame;
    }
    const axis = (text: string) => ({
      type: "linear" as const,
      title: { display: true, text, color: theme.quiet, font: { family: theme.font, size: 13 } },
      ticks: { color: theme.quiet, font: { family: theme.font, size: 13 }, maxRotation: 0 },
      grid: { color: theme.hairline, drawTicks: true, tickLength: 6 },
      border: { color: theme.quiet },
    });
    const chart = new Chart(canvas.current, {
      type: "line",
      data: { datasets: [{ label, data: points, borderColor: theme.accent, borderWidth: 1, pointRadius: 0 }] },
      options: {
        animation: false,
        parsing: false,
        normalized: true,
        maintainAspectRatio: false,
        interaction: { mode: "nearest", axis: "x", intersect: false },
        plugins: {
          decimation: { enabled: true, algorithm: "min-max" },
          tooltip: {
            displayColors: false,
            callbacks: {
              title: ([item]) => `${(item?.parsed.x ?? 0).toFixed(2)} s`,
              label: (item) => `${(item.parsed.y ?? 0).toFixed(2)} ms, ${(1000 / (item.parsed.y ?? 1)).toFixed(1)} fps`,
            },
          },
        },
        scales: { x: { ...axis("time of the run, s"), max: Math.ceil(atMs / 1000) }, y: { ...axis("frame time, ms"), min: 0 } },
      },
    });
    return () => chart.destroy();
  }, [frameTimesMs, label, resolvedTheme]);
  return <canvas ref={canvas} role="img" aria-label={`Frame time of ${label} over the run, in milliseconds`} />;
}
