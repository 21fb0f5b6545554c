"use client";

import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { LabHours } from "@/core/plan";
import { TextField, Trouble, useAction } from "../forms/fields";
import type { ActionAnswer } from "../review/ReviewContext";

const DAYS = ["Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"];
const ORDER = [1, 2, 3, 4, 5, 6, 0];
const clock = (minute: number) => `${String(Math.floor(minute / 60)).padStart(2, "0")}:${String(minute % 60).padStart(2, "0")}`;

/** "09:00–12:00, 13:00–18:00" as stretches of one day; undefined where it cannot be read. */
export function parseDay(text: string, weekday: number): LabHours["week"] | undefined {
  if (text.trim() === "") return [];
  const stretches = text.split(",").map((part) => part.trim().match(/^(\d{1,2}):(\d{2})\s*[–-]\s*(\d{1,2}):(\d{2})$/));
  if (stretches.some((match) => !match)) return undefined;
  return stretches.map((match) => {
    const [a, b, c, d] = (match as RegExpMatchArray).slice(1).map(Number) as [number, number, number, number];
    return { weekday, opensMinute: a * 60 + b, closesMinute: c * 60 + d };
  });
}

/** When the lab is open, day by day, in its own time zone. */
export function LabHoursEditor({
  hours,
  rowVersion,
  save,
  onClose,
}: {
  hours: LabHours;
  rowVersion: number;
  save: (input: { rowVersion: number; hours: LabHours }) => Promise<ActionAnswer>;
  onClose: () => void;
}) {
  const { busy, trouble, setTrouble, act } = useAction();
  const [zone, setZone] = useState(hours.timeZone);
  const [off, setOff] = useState(hours.daysOff.join(", "));
  const [days, setDays] = useState(() =>
    Object.fromEntries(
      ORDER.map((weekday) => [
        weekday,
        hours.week
          .filter((one) => one.weekday === weekday)
          .map(({ opensMinute, closesMinute }) => `${clock(opensMinute)}–${clock(closesMinute)}`)
          .join(", "),
      ]),
    ),
  );
  const submit = async () => {
    const week: LabHours["week"] = [];
    for (const weekday of ORDER) {
      const day = parseDay(days[weekday] ?? "", weekday);
      if (!day) return setTrouble(`${DAYS[weekday]}: write stretches like 09:00–12:00, 13:00–18:00, or leave the line empty.`);
      week.push(...day);
    }
    const daysOff = off
      .split(/[,\s]+/)
      .filter(Boolean)
      .sort();
    if ((await act(() => save({ rowVersion, hours: { timeZone: zone.trim(), week, daysOff } }))) !== undefined) onClose();
  };
  return (
    <Box border="1px solid" borderColor="hairline" bg="raised" p="4" mb="5">
      <Grid templateColumns={{ base: "1fr 1fr", md: "repeat(4, 1fr)" }} gap="4">
        {ORDER.map((weekday) => (
          <TextField
            key={weekday}
            label={DAYS[weekday] as string}
            value={days[weekday] ?? ""}
            placeholder="closed"
            onChange={(text) => setDays({ ...days, [weekday]: text })}
          />
        ))}
        <TextField label="time zone" value={zone} onChange={setZone} />
      </Grid>
      <Box mt="4">
        <TextField label="days off" value={off} onChange={setOff} placeholder="2026-12-24, 2026-12-25" />
      </Box>
      <Flex gap="3" mt="4" align="center">
        <Button size="sm" disabled={busy} onClick={() => void submit()}>
          Save the hours
        </Button>
        <Button size="sm" variant="outline" onClick={onClose}>
          Leave them
        </Button>
        <Text textStyle="small" color="quiet">
          An empty day is closed.
        </Text>
      </Flex>
      <Trouble text={trouble} />
    </Box>
  );
}
