"use client";

import { Box, Flex, Text } from "@chakra-ui/react";
import { type OpenStretch, openSeconds, type PlanModel, type Schedule, type ScheduledItem } from "@/core/plan";
import { hoursText, momentText, namesOf } from "./planWords";

interface Bar {
  setupId: string;
  part: ScheduledItem["part"];
  fromS: number;
  toS: number;
  changeS: number;
  items: ScheduledItem[];
}

/** A bench's work as bars, one for each setup in a row, along open time. */
function barsOf(schedule: Schedule, benchId: string, at: (ms: number) => number): Bar[] {
  const bars: (Bar & { block: number })[] = [];
  for (const item of schedule.items.filter((one) => one.benchId === benchId)) {
    const last = bars.at(-1);
    const [fromS, toS] = [at(item.fromMs), at(item.toMs)];
    if (last && last.block === item.blockIndex) {
      last.toS = toS;
      last.items.push(item);
      if (item.kind !== "test") last.changeS += toS - fromS;
    } else
      bars.push({ block: item.blockIndex, setupId: item.setupId, part: item.part, fromS, toS, changeS: item.kind === "test" ? 0 : toS - fromS, items: [item] });
  }
  return bars;
}

/** The plan as a calm timeline along the lab's open hours: nights and days off take no room. Days on the ruler, a line for each bench, the deadline. */
export function PlanTimeline({ model, schedule, stretches, startMs }: { model: PlanModel; schedule: Schedule; stretches: OpenStretch[]; startMs: number }) {
  const names = namesOf(model);
  const at = (ms: number) => openSeconds(stretches, startMs, ms);
  const endS = Math.max(...schedule.items.map(({ toMs }) => at(toMs)), 3600);
  const deadlineS = model.review.deadlineMs === null ? undefined : at(model.review.deadlineMs);
  const shownS = Math.min(Math.max(endS * 1.08, deadlineS === undefined ? 0 : deadlineS * 1.02), endS * 2.2);
  const x = (seconds: number) => `${(100 * seconds) / shownS}%`;
  const days = stretches.map((stretch) => ({ fromS: at(stretch.fromMs), ms: stretch.fromMs })).filter(({ fromS }) => fromS < shownS);
  const every = Math.max(1, Math.ceil(days.length / 12));
  return (
    <Box
      position="relative"
      mb="3"
      role="img"
      aria-label={`Timeline: ${schedule.benches.map(({ benchId, endsMs }) => `${names.bench(benchId)} ends ${endsMs === null ? "after the calendar" : momentText(endsMs, model.hours.timeZone)}`).join("; ")}`}
    >
      <Box position="relative" h="34px" ml="150px">
        <svg width="100%" height="14" style={{ display: "block", overflow: "visible" }} aria-hidden>
          <line x1="0" x2="100%" y1="0.5" y2="0.5" stroke="var(--chakra-colors-ink)" />
          {Array.from({ length: Math.min(400, Math.floor(shownS / 3600) + 1) }, (_, hour) => (
            <line key={hour} x1={x(hour * 3600)} x2={x(hour * 3600)} y1="0" y2="5" stroke="var(--chakra-colors-tick)" />
          ))}
          {days.map(({ fromS }) => (
            <line key={fromS} x1={x(fromS)} x2={x(fromS)} y1="0" y2="14" stroke="var(--chakra-colors-ink)" />
          ))}
        </svg>
        {days.map(
          ({ fromS, ms }, i) =>
            i % every === 0 &&
            // A name needs room up to the next one, or to the end.
            ((days[i + every]?.fromS ?? shownS) - fromS) / shownS > 0.07 && (
              <Text key={ms} position="absolute" left={x(fromS)} top="13px" pl="4px" textStyle="small" color="quiet" whiteSpace="nowrap">
                {momentText(ms, model.hours.timeZone).split(",")[0]}
              </Text>
            ),
        )}
      </Box>
      {schedule.benches.map(({ benchId, seconds, sd }) => (
        <Flex key={benchId} h="46px" align="center" borderBottom="1px solid" borderColor="hairline">
          <Box w="150px" flexShrink="0" pr="3">
            <Text fontWeight="600" truncate lineHeight="18px">
              {names.bench(benchId)}
            </Text>
            <Text textStyle="small" color="quiet" whiteSpace="nowrap">
              {hoursText(seconds)} ± {hoursText(sd)}
            </Text>
          </Box>
          <Box position="relative" flex="1" h="36px">
            {barsOf(schedule, benchId, at).map((bar) => {
              const label = names.setup(bar.setupId);
              const tests = bar.items.filter(({ kind }) => kind === "test").length;
              const checking = bar.part.startsWith("baseline");
              return (
                <Box
                  key={`${bar.fromS}`}
                  position="absolute"
                  left={x(bar.fromS)}
                  w={x(bar.toS - bar.fromS)}
                  top="3px"
                  h="30px"
                  borderLeft="2px solid"
                  borderColor={checking ? "tick" : "ink"}
                  bg="wash"
                  overflow="hidden"
                  title={`${label}, ${bar.part}: ${tests} tests, ${hoursText(bar.toS - bar.fromS)}, of it ${hoursText(bar.changeS)} changing parts`}
                >
                  <Box position="absolute" left="0" top="0" bottom="0" w={`${(100 * bar.changeS) / (bar.toS - bar.fromS)}%`} bg="hairline" />
                  {(bar.toS - bar.fromS) / shownS > 0.05 && (
                    <>
                      <Text position="relative" pl="5px" textStyle="small" lineHeight="15px" truncate fontWeight={checking ? "400" : "600"}>
                        {label}
                      </Text>
                      <Text position="relative" pl="5px" textStyle="small" lineHeight="13px" truncate>
                        {checking ? bar.part : hoursText(bar.toS - bar.fromS)}
                      </Text>
                    </>
                  )}
                </Box>
              );
            })}
            {deadlineS !== undefined && deadlineS <= shownS && (
              <Box position="absolute" left={x(deadlineS)} top="0" bottom="0" borderLeft="2px solid" borderColor="accent.solid" />
            )}
          </Box>
        </Flex>
      ))}
      <Flex gap="5" pt="1" textStyle="small" color="quiet" ml="150px" justify="space-between">
        <span>grey at the left of a bar: changing parts; short ticks: open hours; nights take no room</span>
        {deadlineS !== undefined && (
          <Text as="span" color="accent.fg">
            {deadlineS <= shownS ? "blue line: embargo" : `the embargo is ${hoursText(deadlineS - shownS)} of open time further right`}
          </Text>
        )}
      </Flex>
    </Box>
  );
}
