"use client";

import { Box, Button, chakra, Flex, Text } from "@chakra-ui/react";
import { useMemo } from "react";
import { frameStatistics, framesBetween, type SensorLog } from "@/core/capture";
import { figure } from "@/core/report";
import { channelOf } from "../charts/channelNames";
import { SCHOOL_NAMES } from "../review/controls";
import { useReviewState } from "../review/ReviewContext";
import type { Stretch } from "./TraceChart";
import type { LoadedFrames } from "./useRunLogs";

/** The statistics of the marked part, for each run drawn, and the mean of each channel over it. */
export function BrushPanel({
  brush,
  runs,
  sensors,
  onZoom,
  onTrim,
}: {
  brush: Stretch;
  runs: { label: string; frames: LoadedFrames; shiftS: number }[];
  sensors: SensorLog | undefined;
  onZoom: () => void;
  onTrim: (() => void) | undefined;
}) {
  const { school } = useReviewState();
  const rows = useMemo(
    () =>
      runs.map(({ label, frames, shiftS }) => {
        const part = framesBetween(frames.frameTimesMs, frames.startsS, brush.fromS - shiftS, brush.toS - shiftS);
        return { label, statistics: part.length > 0 ? frameStatistics(part.slice()) : undefined };
      }),
    [runs, brush],
  );
  const means = useMemo(
    () =>
      (sensors?.channels ?? []).flatMap(({ name, values }) => {
        const inside = values.filter((value, i) => {
          const at = sensors?.timeS[i] as number;
          return at >= brush.fromS && at < brush.toS && !Number.isNaN(value);
        });
        return inside.length > 0 ? [{ name, mean: inside.reduce((sum, value) => sum + value, 0) / inside.length }] : [];
      }),
    [sensors, brush],
  );
  const low = { percentile: "percentileFps", tail_mean: "tailMeanFps", time_share: "timeShareFps" } as const;
  return (
    <Box role="region" aria-label="The marked part" borderTop="1px solid" borderBottom="1px solid" borderColor="accent.solid" py="2" mb="2">
      <Flex gap="5" align="baseline" wrap="wrap">
        <Text fontWeight="600">
          {figure(brush.fromS, 2)} to {figure(brush.toS, 2)} s
        </Text>
        <Button size="xs" variant="outline" onClick={onZoom}>
          Zoom in
        </Button>
        {onTrim && (
          <Button size="xs" variant="outline" onClick={onTrim}>
            Leave this part out
          </Button>
        )}
        <Text color="quiet">1 % low by {SCHOOL_NAMES[school]}</Text>
      </Flex>
      <chakra.table
        mt="1"
        css={{
          "& th, & td": { padding: "2px 24px 2px 0", textAlign: "right", fontWeight: 400 },
          "& th:first-of-type": { textAlign: "left" },
          "& thead th": { color: "var(--chakra-colors-quiet)" },
        }}
      >
        <thead>
          <tr>
            <th scope="col">of the part</th>
            <th scope="col">average, fps</th>
            <th scope="col">1 % low, fps</th>
            <th scope="col">median, ms</th>
            <th scope="col">longest, ms</th>
            <th scope="col">stutters</th>
            <th scope="col">frames</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ label, statistics }) => (
            <tr key={label}>
              <th scope="row">{label}</th>
              {statistics ? (
                [
                  figure(statistics.averageFps, 1),
                  figure(statistics.low1[low[school]], 1),
                  figure(statistics.medianFrameTimeMs, 2),
                  figure(statistics.maxFrameTimeMs, 2),
                  String(statistics.stutters),
                  figure(statistics.frames, 0),
                ].map((text, i) => (
                  <td key={`${label}-${i}`}>
                    <Text textStyle="figure">{text}</Text>
                  </td>
                ))
              ) : (
                <td colSpan={6}>no frame begins here</td>
              )}
            </tr>
          ))}
        </tbody>
      </chakra.table>
      {means.length > 0 && (
        <Text textStyle="figure" color="quiet">
          means: {means.map(({ name, mean }) => `${channelOf(name).name} ${figure(mean, channelOf(name).digits)} ${channelOf(name).unit}`.trim()).join(", ")}
        </Text>
      )}
    </Box>
  );
}
