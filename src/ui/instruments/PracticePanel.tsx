"use client";

import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { frameStatistics, type InstrumentMessage, joinRecording } from "@/core/capture";
import type { HostLine } from "@/core/report";
import { SelectField, Trouble, useAction } from "../forms/fields";
import type { ActionAnswer } from "../review/ReviewContext";
import { StripChart } from "../sheet/StripChart";

/** What is compared between a clean recording and one with the fault: computed from the recording as any run's is. */
function readingsOf(messages: readonly InstrumentMessage[]): { name: string; text: string }[] {
  const { frameTimesMs, sensors, crash, gaps } = joinRecording(messages);
  const statistics = frameTimesMs.length > 0 ? frameStatistics(frameTimesMs) : undefined;
  const last = (channel: string) => sensors?.channels.find(({ name }) => name === channel)?.values.findLast((value) => !Number.isNaN(value));
  const line = (name: string, value: number | undefined, digits: number, unit: string) => ({
    name,
    text: value === undefined ? "not known" : `${value.toFixed(digits)} ${unit}`,
  });
  return [
    line("average", statistics?.averageFps, 1, "fps"),
    line("1 % low, percentile", statistics?.low1.percentileFps, 1, "fps"),
    line("longest frame", frameTimesMs.length > 0 ? frameTimesMs.reduce((most, one) => Math.max(most, one), 0) : undefined, 1, "ms"),
    line("card at the end", last("gpu_c"), 1, "°C"),
    line("hot spot at the end", last("hotspot_c"), 1, "°C"),
    line("card clock at the end", last("gpu_ghz"), 2, "GHz"),
    line("processor clock", last("cpu_ghz"), 2, "GHz"),
    line("processor load", last("cpu_load_ratio"), 2, "of 1"),
    line("card load", last("gpu_load_ratio"), 2, "of 1"),
    line("at the card", last("gpu_w"), 0, "W"),
    line("memory", last("memory_mts"), 0, "MT/s"),
    line("memory channels", last("memory_channels"), 0, ""),
    { name: "ended", text: crash ?? (gaps.length > 0 ? `with ${gaps.length} gap of a meter` : "as it should") },
  ];
}

/** A clean recording's readings stand beside the practice's, from the same scene. */
type Readings = { clean: ReturnType<typeof readingsOf> | undefined; now: ReturnType<typeof readingsOf> | undefined };

/** Practice: the stand-ins get one unknown fault; record, compare with how the bench should be, say what it is, and learn how it could be seen. */
export function PracticePanel({ host, practise }: { host: HostLine; practise: (input: unknown) => Promise<ActionAnswer<Record<string, unknown>>> }) {
  const { busy, trouble, setTrouble, act } = useAction();
  const live = useRef<{ stepKey: string; messages: InstrumentMessage[] }>({ stepKey: "", messages: [] });
  const [readings, setReadings] = useState<Readings>({ clean: undefined, now: undefined });
  const [recording, setRecording] = useState(false);
  const [guess, setGuess] = useState("");
  const [told, setTold] = useState<{ right: boolean; name: string; seen: string } | undefined>(undefined);
  const practising = host.list?.simulated?.practising ?? false;
  const faults = host.list?.simulated?.faults ?? [];

  const record = async (clean: boolean): Promise<InstrumentMessage[]> => {
    setRecording(true);
    live.current = { stepKey: `${clean}${performance.now()}`, messages: [] };
    const source = new EventSource(`/api/practice?host=${encodeURIComponent(host.address)}&clean=${clean}`);
    const messages = live.current.messages;
    await new Promise<void>((resolve) => {
      source.onmessage = ({ data }) => {
        const message = JSON.parse(data) as InstrumentMessage;
        messages.push(message);
        if (message.kind === "end" || message.kind === "crash") resolve();
      };
      source.onerror = () => {
        setTrouble("The instruments went away; record again.");
        resolve();
      };
    });
    source.close();
    setRecording(false);
    return messages;
  };
  const begin = async () => {
    setTold(undefined);
    setReadings({ clean: undefined, now: undefined });
    if ((await act(() => practise({ address: host.address, guess: null }))) === undefined) return;
    const clean = readingsOf(await record(true));
    setReadings({ clean, now: undefined });
  };
  const tell = async () => {
    const answer = await act(() => practise({ address: host.address, guess }));
    if (answer) setTold({ right: answer.right === true, name: String(answer.name), seen: String(answer.seen) });
  };
  return (
    <Box mt="10">
      <Text textStyle="title">Practice</Text>
      <Text color="quiet" mb="3" maxW="640px">
        One unknown fault is planted in the simulated bench. Record, look, and say what it is; then you are told how it could have been seen. Nothing of it
        reaches the lab's runs.
      </Text>
      <Flex gap="3" mb="3" align="end" wrap="wrap">
        <Button size="sm" disabled={busy || recording || practising} onClick={() => void begin()}>
          Begin a practice
        </Button>
        {practising && (
          <>
            <Button
              size="sm"
              disabled={busy || recording}
              onClick={async () => setReadings((await record(false).then((messages) => ({ ...readings, now: readingsOf(messages) }))) as Readings)}
            >
              Record the scene
            </Button>
            <SelectField
              label="I think it is"
              value={guess}
              onChange={setGuess}
              options={[{ value: "", label: "choose" }, ...faults.map(({ id, name }) => ({ value: id, label: name }))]}
              width="220px"
            />
            <Button size="sm" variant="outline" disabled={busy || recording || guess === ""} onClick={() => void tell()}>
              Tell me
            </Button>
          </>
        )}
      </Flex>
      <Trouble text={trouble} />
      {told && (
        <Text fontSize="16px" mb="3" role="status">
          <Box as="span" fontWeight="600" color={told.right ? "ink" : "doubt"}>
            {told.right ? "Yes: " : "No, it was: "}
            {told.name}.
          </Box>{" "}
          {told.seen}
        </Text>
      )}
      {(recording || readings.clean) && (
        <Grid templateColumns={{ base: "1fr", md: "420px minmax(0, 1fr)" }} gap="10">
          <Box>
            <StripChart messages={live} running={recording} />
          </Box>
          {readings.clean && (
            <Box role="table" aria-label="Readings">
              <Grid templateColumns="180px 130px 130px" gap="3" color="quiet" textStyle="small">
                <Text>reading</Text>
                <Text>as it should be</Text>
                <Text>this recording</Text>
              </Grid>
              {readings.clean.map(({ name, text }) => (
                <Grid key={name} role="row" templateColumns="180px 130px 130px" gap="3" py="0.5" borderTop="1px solid" borderColor="hairline">
                  <Text role="rowheader" color="quiet">
                    {name}
                  </Text>
                  <Text role="cell" textStyle="figure">
                    {text}
                  </Text>
                  <Text role="cell" textStyle="figure" fontWeight="600">
                    {readings.now?.find((one) => one.name === name)?.text ?? "–"}
                  </Text>
                </Grid>
              ))}
            </Box>
          )}
        </Grid>
      )}
    </Box>
  );
}
