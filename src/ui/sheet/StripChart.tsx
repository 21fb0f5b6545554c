"use client";

import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import type { InstrumentMessage } from "@/core/capture";
import { CHANNEL_NAMES } from "../charts/channelNames";
import { chartTheme } from "../charts/chartTheme";

/** Seconds of bench time that a strip shows at least. */
const LEAST_S = 20;

/** Minimum and maximum of a series in each pixel column: spikes survive, and drawing costs the width, not the samples. */
export function columnsOf(points: readonly { t: number; y: number }[], fromS: number, toS: number, width: number): { min: number; max: number }[] {
  const columns: { min: number; max: number }[] = Array.from({ length: width }, () => ({ min: Number.POSITIVE_INFINITY, max: Number.NEGATIVE_INFINITY }));
  for (const { t, y } of points) {
    const column = columns[Math.min(width - 1, Math.max(0, Math.floor(((t - fromS) / (toS - fromS)) * width)))];
    if (!column) continue;
    column.min = Math.min(column.min, y);
    column.max = Math.max(column.max, y);
  }
  return columns;
}

function drawStrip(canvas: HTMLCanvasElement, points: readonly { t: number; y: number }[], fromS: number, toS: number, label: string): void {
  const ratio = window.devicePixelRatio || 1;
  const [width, height] = [canvas.clientWidth, canvas.clientHeight];
  if (canvas.width !== Math.round(width * ratio)) {
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
  }
  const context = canvas.getContext("2d");
  if (!context || width === 0) return;
  const theme = chartTheme();
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  context.clearRect(0, 0, width, height);
  context.strokeStyle = theme.hairline;
  context.beginPath();
  context.moveTo(0, height - 0.5);
  context.lineTo(width, height - 0.5);
  context.stroke();
  const columns = columnsOf(points, fromS, toS, Math.floor(width));
  const seen = columns.filter(({ max }) => max > Number.NEGATIVE_INFINITY);
  if (seen.length === 0) return;
  const [low, high] = [Math.min(...seen.map(({ min }) => min)), Math.max(...seen.map(({ max }) => max))];
  const spread = Math.max(high - low, Math.abs(high) * 0.02, 1e-9);
  const y = (value: number) => height - 3 - ((value - low) / spread) * (height - 16);
  if (fromS < 0 && toS > 0) {
    context.strokeStyle = theme.quiet;
    context.setLineDash([2, 3]);
    context.beginPath();
    context.moveTo((-fromS / (toS - fromS)) * width, 0);
    context.lineTo((-fromS / (toS - fromS)) * width, height);
    context.stroke();
    context.setLineDash([]);
  }
  context.strokeStyle = theme.ink;
  context.lineWidth = 1.25;
  context.beginPath();
  let open = false;
  columns.forEach(({ min, max }, x) => {
    if (max === Number.NEGATIVE_INFINITY) return;
    if (open) context.lineTo(x, y(max));
    else context.moveTo(x, y(max));
    context.lineTo(x, y(min) + 0.5);
    open = true;
  });
  context.stroke();
  context.fillStyle = theme.quiet;
  context.font = `12px ${theme.font}`;
  context.fillText(`${label} ${high.toFixed(high < 10 ? 1 : 0)}`, 0, 10);
}

/** Live strips of a recording: frame time, and what the instruments read last; drawn once a frame whatever comes in. */
export function StripChart({ messages, running }: { messages: React.RefObject<{ stepKey: string; messages: InstrumentMessage[] }>; running: boolean }) {
  const frames = useRef<HTMLCanvasElement>(null);
  const heat = useRef<HTMLCanvasElement>(null);
  const [last, setLast] = useState<Record<string, number>>({});
  const [gone, setGone] = useState<string[]>([]);
  useEffect(() => {
    let handle = 0;
    let read = 0;
    let of = "";
    let frameTimes: { t: number; y: number }[] = [];
    let temperatures: { t: number; y: number }[] = [];
    let values: Record<string, number> = {};
    let away = new Set<string>();
    let fromS = 0;
    let toS = LEAST_S;
    let toldMs = 0;
    const draw = (nowMs: number) => {
      handle = requestAnimationFrame(draw);
      const { stepKey, messages: list } = messages.current;
      if (stepKey !== of || list.length < read) {
        of = stepKey;
        read = 0;
        frameTimes = [];
        temperatures = [];
        values = {};
        away = new Set();
        fromS = list[0]?.t_s ?? 0;
        toS = fromS + LEAST_S;
      }
      if (read === list.length) return;
      for (; read < list.length; read += 1) {
        const message = list[read] as InstrumentMessage;
        toS = Math.max(toS, message.t_s);
        fromS = Math.min(fromS, message.t_s);
        if (message.kind === "frames") {
          let t = message.t_s;
          for (const y of message.frame_time_ms) {
            frameTimes.push({ t, y });
            t += y / 1000;
          }
        } else if (message.kind === "sensors") {
          values = { ...values, ...message.values };
          const temperature = message.values.gpu_c ?? message.values.cpu_c;
          if (temperature !== undefined) temperatures.push({ t: message.t_s, y: temperature });
        } else if (message.kind === "gone") away.add(`${message.instrument}: ${message.reason}`);
        else if (message.kind === "back") away = new Set([...away].filter((text) => !text.startsWith(message.instrument)));
      }
      if (frames.current) drawStrip(frames.current, frameTimes, fromS, toS, "frame time, ms");
      if (heat.current) drawStrip(heat.current, temperatures, fromS, toS, "temperature, °C");
      // Figures change four times a second at most: faster cannot be read.
      if (nowMs - toldMs > 250) {
        toldMs = nowMs;
        setLast(values);
        setGone([...away]);
      }
    };
    handle = requestAnimationFrame(draw);
    return () => cancelAnimationFrame(handle);
  }, [messages]);
  const shown = Object.entries(CHANNEL_NAMES).flatMap(([channel, { name, unit, digits }]) =>
    last[channel] === undefined ? [] : [{ channel, name, text: `${last[channel].toFixed(digits)}${unit ? ` ${unit}` : ""}` }],
  );
  return (
    <Box data-live={running ? "on" : "off"}>
      <canvas ref={frames} style={{ width: "100%", height: 74, display: "block" }} role="img" aria-label="Frame time of this recording, live" />
      <canvas
        ref={heat}
        style={{ width: "100%", height: 54, display: "block", marginTop: 8 }}
        role="img"
        aria-label="Temperature during this recording, live"
      />
      <Flex wrap="wrap" columnGap="5" rowGap="0.5" mt="2" textStyle="figure" color="quiet">
        {shown.map(({ channel, name, text }) => (
          <span key={channel}>
            {name} {text}
          </span>
        ))}
      </Flex>
      {gone.map((text) => (
        <Text key={text} color="doubt" textStyle="small">
          no signal from {text}
        </Text>
      ))}
    </Box>
  );
}
