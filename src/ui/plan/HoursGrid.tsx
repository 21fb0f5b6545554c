"use client";

import { Box, Grid, Text } from "@chakra-ui/react";
import type { PlanModel, Schedule } from "@/core/plan";
import { useReview } from "../review/ReviewContext";
import { rowStyle, SpineCell } from "../review/SpineCell";
import { momentText } from "./planWords";

const hours = (seconds: number) => (seconds / 3600).toFixed(seconds >= 36_000 ? 0 : 1);

/** The plan as the grid: setups down, workloads across, hours in the cells; what changes of parts take, and the sum. */
export function HoursGrid({ model, schedule }: { model: PlanModel; schedule: Schedule }) {
  const { whole } = useReview();
  const workloads = [...new Map(model.tests.map(({ workloadId, workloadName }) => [workloadId, workloadName]))];
  const workloadOf = new Map(model.tests.map(({ key, workloadId }) => [key, workloadId]));
  const sum = (wanted: (item: Schedule["items"][number]) => boolean) => schedule.items.filter(wanted).reduce((total, { seconds }) => total + seconds, 0);
  // When its own runs are done; a check for drift may come back to it later.
  const finished = (id: string) => {
    const ends = schedule.items.filter((item) => item.setupId === id && (item.part === "main" || item.part === "back")).map(({ toMs }) => toMs);
    return ends.length > 0 ? momentText(Math.max(...ends), model.hours.timeZone) : "";
  };
  const columns = `240px repeat(${workloads.length}, minmax(54px, 1fr)) 58px 44px 112px`;
  return (
    <Box overflowX="auto">
      <Box minW={`${460 + 54 * workloads.length}px`} role="table" aria-label="Hours of each setup">
        <Grid role="row" templateColumns={columns} alignItems="end" color="quiet" textStyle="small">
          <Text role="columnheader" pl="34px">
            hours
          </Text>
          {workloads.map(([id, name]) => (
            <Text key={id} role="columnheader" textAlign="right" px="1" lineHeight="15px" hyphens="auto" title={name}>
              {name}
            </Text>
          ))}
          <Text role="columnheader" textAlign="right">
            changes
          </Text>
          <Text role="columnheader" textAlign="right">
            all
          </Text>
          <Text role="columnheader" textAlign="right">
            finished
          </Text>
        </Grid>
        {whole.setups.map((setup) => (
          <Grid key={setup.id} role="row" templateColumns={columns} {...rowStyle(false)} minH="40px">
            <Box role="rowheader">
              <SpineCell setup={setup} />
            </Box>
            {workloads.map(([id]) => {
              const seconds = sum((item) => item.setupId === setup.id && item.testKey !== null && workloadOf.get(item.testKey) === id);
              return (
                <Text key={id} role="cell" textStyle="figure" textAlign="right" px="1" color={seconds > 0 ? "ink" : "quiet"}>
                  {seconds > 0 ? hours(seconds) : "·"}
                </Text>
              );
            })}
            <Text role="cell" textStyle="figure" textAlign="right" color="quiet">
              {hours(sum((item) => item.setupId === setup.id && item.kind !== "test"))}
            </Text>
            <Text role="cell" textStyle="figure" textAlign="right" fontWeight="600">
              {hours(sum((item) => item.setupId === setup.id))}
            </Text>
            <Text role="cell" textStyle="small" textAlign="right" color="quiet" whiteSpace="nowrap">
              {finished(setup.id)}
            </Text>
          </Grid>
        ))}
      </Box>
    </Box>
  );
}
