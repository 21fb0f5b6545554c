"use client";

import { Box } from "@chakra-ui/react";
import { useTheme } from "next-themes";
import { type PointerEvent, useCallback, useEffect, useRef, useState } from "react";
import { thinSeries } from "@/core/capture";
import { Chart, chartTheme } from "../charts/chartSetup";

/** A line of the chart: frame times of a run, or a sensor channel with a unit of its own. */
export interface TraceLine {
  id: string;
  label: string;
  /** Seconds on the shared axis. */
  x: Float64Array;
  y: Float64Array;
  unit: string;
  tone: "accent" | "quiet" | 0 | 1 | 2;
  dash?: number[] | undefined;
}

/** A stretch of the shared time axis, in seconds. */
export interface Stretch {
  fromS: number;
  toS: number;
}

const SMALLEST_WINDOW_S = 0.25;

/** The points of a line within a window, thinned to what the canvas can show. */
function pointsOf({ x, y }: TraceLine, { fromS, toS }: Stretch, width: number): { x: number; y: number }[] {
  const thin = thinSeries(x, y, fromS, toS, Math.max(100, Math.round(width)));
  return Array.from(thin.x, (at, i) => ({ x: at, y: thin.y[i] as number }));
}

const isFrameTime = (line: TraceLine) => line.unit === "ms";

/**
 * Frame times and sensor channels on one time axis. Drag marks a stretch, the wheel zooms about the pointer; only what the
 * window shows is drawn, so that a run of any length stays quick.
 */
export default function TraceChart({
  lines,
  durationS,
  view,
  onView,
  brush,
  onBrush,
  trims,
  label,
}: {
  lines: TraceLine[];
  durationS: number;
  view: Stretch;
  onView: (view: Stretch) => void;
  brush: Stretch | undefined;
  onBrush: (brush: Stretch | undefined) => void;
  trims: Stretch[];
  label: string;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const holder = useRef<HTMLDivElement>(null);
  const chart = useRef<Chart<"line", { x: number; y: number }[]> | null>(null);
  const [area, setArea] = useState({ left: 0, right: 0, top: 0, bottom: 0 });
  const dragFrom = useRef<number | undefined>(undefined);
  const { resolvedTheme } = useTheme();
  const latest = useRef({ view, onView, durationS });
  latest.current = { view, onView, durationS };

  // The chart itself is made anew only when its lines or the theme change; a moved window only hands it other points.
  useEffect(() => {
    if (!canvas.current) return;
    void resolvedTheme;
    const theme = chartTheme();
    const font = { family: theme.font, size: 13 };
    const colourOf = (tone: TraceLine["tone"]) => (tone === "accent" ? theme.accent : tone === "quiet" ? theme.quiet : theme.series[tone]);
    const units = [...new Set(lines.filter((line) => !isFrameTime(line)).map(({ unit }) => unit))];
    const width = canvas.current.clientWidth;
    const own = new Chart(canvas.current, {
      type: "line",
      data: {
        datasets: lines.map((line) => ({
          label: line.label,
          data: pointsOf(line, latest.current.view, width),
          borderColor: colourOf(line.tone),
          borderWidth: isFrameTime(line) ? 1 : 1.75,
          borderDash: line.dash ?? [],
          pointRadius: 0,
          spanGaps: false,
          yAxisID: isFrameTime(line) ? "y" : `y_${line.unit}`,
          order: isFrameTime(line) ? 1 : 0,
        })),
      },
      options: {
        animation: false,
        parsing: false,
        normalized: true,
        maintainAspectRatio: false,
        interaction: { mode: "nearest", axis: "x", intersect: false },
        plugins: {
          tooltip: {
            displayColors: false,
            callbacks: {
              title: ([item]) => `${(item?.parsed.x ?? 0).toFixed(2)} s`,
              label: (item) => {
                const line = lines[item.datasetIndex];
                const value = item.parsed.y ?? 0;
                if (!line || isFrameTime(line)) return `${line?.label ?? ""}: ${value.toFixed(2)} ms, ${(1000 / value).toFixed(1)} fps`;
                return `${line.label}: ${value.toFixed(2)} ${line.unit}`;
              },
            },
          },
        },
        scales: {
          x: {
            type: "linear",
            min: latest.current.view.fromS,
            max: latest.current.view.toS,
            title: { display: true, text: "time of the run, s", color: theme.quiet, font },
            ticks: { color: theme.quiet, font, maxRotation: 0, includeBounds: false, callback: (value) => Number(Number(value).toFixed(2)) },
            grid: { color: theme.hairline, tickLength: 6 },
            border: { color: theme.quiet },
          },
          y: {
            type: "linear",
            min: 0,
            display: lines.some(isFrameTime),
            title: { display: true, text: "frame time, ms", color: theme.quiet, font },
            ticks: { color: theme.quiet, font },
            grid: { color: theme.hairline, tickLength: 6 },
            border: { color: theme.quiet },
          },
          ...Object.fromEntries(
            units.map((unit) => [
              `y_${unit}`,
              {
                type: "linear" as const,
                position: "right" as const,
                grace: "8%",
                title: { display: true, text: unit, color: theme.quiet, font },
                ticks: { color: theme.quiet, font },
                grid: { drawOnChartArea: false, color: theme.hairline },
                border: { color: theme.quiet },
              },
            ]),
          ),
        },
      },
    });
    chart.current = own;
    const measure = () => setArea({ left: own.chartArea.left, right: own.chartArea.right, top: own.chartArea.top, bottom: own.chartArea.bottom });
    measure();
    own.options.onResize = () => requestAnimationFrame(measure);
    if (holder.current) holder.current.dataset.drawn = lines.map(({ id }) => id).join(" ");
    return () => {
      chart.current = null;
      own.destroy();
    };
  }, [lines, resolvedTheme]);

  useEffect(() => {
    const own = chart.current;
    const x = own?.options.scales?.x;
    if (!own || !x) return;
    const width = own.width;
    lines.forEach((line, i) => {
      const dataset = own.data.datasets[i];
      if (dataset) dataset.data = pointsOf(line, view, width);
    });
    x.min = view.fromS;
    x.max = view.toS;
    own.update("none");
    setArea({ left: own.chartArea.left, right: own.chartArea.right, top: own.chartArea.top, bottom: own.chartArea.bottom });
  }, [lines, view]);

  // React's own wheel listener may not keep the page from scrolling.
  useEffect(() => {
    const element = holder.current;
    if (!element) return;
    const onWheel = (event: WheelEvent) => {
      const own = chart.current;
      if (!own || Math.abs(event.deltaY) < Math.abs(event.deltaX)) return;
      event.preventDefault();
      const { view: now, onView: tell, durationS: whole } = latest.current;
      const at = own.scales.x?.getValueForPixel(event.offsetX) ?? now.fromS;
      const factor = event.deltaY > 0 ? 1.25 : 0.8;
      const span = Math.min(whole, Math.max(SMALLEST_WINDOW_S, (now.toS - now.fromS) * factor));
      const share = (at - now.fromS) / (now.toS - now.fromS);
      const fromS = Math.max(0, Math.min(whole - span, at - share * span));
      tell({ fromS, toS: fromS + span });
    };
    element.addEventListener("wheel", onWheel, { passive: false });
    return () => element.removeEventListener("wheel", onWheel);
  }, []);

  const secondsAt = useCallback((event: PointerEvent) => {
    const own = chart.current;
    const box = canvas.current?.getBoundingClientRect();
    const value = own && box ? (own.scales.x?.getValueForPixel(event.clientX - box.left) ?? 0) : 0;
    return Math.max(0, Math.min(latest.current.durationS, value));
  }, []);
  const onDown = (event: PointerEvent) => {
    if (event.button !== 0) return;
    dragFrom.current = secondsAt(event);
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
  };
  const onMove = (event: PointerEvent) => {
    if (dragFrom.current === undefined) return;
    const to = secondsAt(event);
    const [fromS, toS] = [Math.min(dragFrom.current, to), Math.max(dragFrom.current, to)];
    if (toS - fromS > (view.toS - view.fromS) / 200) onBrush({ fromS, toS });
  };
  const onUp = (event: PointerEvent) => {
    if (dragFrom.current === undefined) return;
    const to = secondsAt(event);
    if (Math.abs(to - dragFrom.current) <= (view.toS - view.fromS) / 200) onBrush(undefined);
    dragFrom.current = undefined;
  };

  const span = view.toS - view.fromS;
  const place = ({ fromS, toS }: Stretch) => {
    const at = (s: number) => area.left + ((Math.max(view.fromS, Math.min(view.toS, s)) - view.fromS) / span) * (area.right - area.left);
    return { left: `${at(fromS)}px`, width: `${Math.max(0, at(toS) - at(fromS))}px`, top: `${area.top}px`, height: `${area.bottom - area.top}px` };
  };
  return (
    <Box
      ref={holder}
      position="relative"
      h="full"
      onPointerDown={onDown}
      onPointerMove={onMove}
      onPointerUp={onUp}
      cursor="crosshair"
      css={{ touchAction: "pan-y" }}
      data-window={`${view.fromS.toFixed(2)}-${view.toS.toFixed(2)}`}
    >
      {trims.map((trim) => (
        <Box
          key={`${trim.fromS}-${trim.toS}`}
          position="absolute"
          style={place(trim)}
          pointerEvents="none"
          css={{ background: "repeating-linear-gradient(135deg, transparent 0 5px, var(--chakra-colors-hairline) 5px 6px)" }}
        />
      ))}
      {brush && (
        <Box
          position="absolute"
          style={place(brush)}
          pointerEvents="none"
          bg="accentWash"
          opacity={0.7}
          borderX="1px solid"
          borderColor="accent.solid"
          data-brush
        />
      )}
      <canvas ref={canvas} role="img" aria-label={label} style={{ position: "relative" }} />
    </Box>
  );
}
