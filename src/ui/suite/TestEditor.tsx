"use client";

import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useState } from "react";
import { type Better, definitionGaps, expandTests, type TestDefinition, type TestKind } from "@/core/bench";
import type { SuitesModel, TestLine } from "@/core/report";
import { idOf, SelectField, TextArea, TextField, Trouble, useAction } from "../forms/fields";
import type { ActionAnswer } from "../review/ReviewContext";

const UNITS: Record<TestKind, [unit: string, better: Better]> = {
  frames: ["fps", "higher"],
  time: ["s", "lower"],
  score: ["points", "higher"],
  rate: ["MB/s", "higher"],
  soak: ["°C", "none"],
  sound: ["dBA", "none"],
};
const listOf = (text: string) =>
  text
    .split(/[,;]/)
    .map((one) => one.trim())
    .filter(Boolean);
const secondsOf = (text: string) => (text.trim() === "" ? null : Number(text));

interface Props {
  model: SuitesModel;
  base: TestLine | undefined;
  defineTests: (input: unknown) => Promise<ActionAnswer<{ added: string[]; same: number }>>;
  onClose: (message?: string) => void;
}

/** A test's full written definition; resolution × preset × switches expand into tests in one go. An edited test becomes its next version. */
export function TestEditor({ model, base, defineTests, onClose }: Props) {
  const { busy, trouble, act } = useAction();
  const [text, setText] = useState(() => ({
    workload: base?.workloadName ?? "",
    group: base?.group ?? "games",
    dataSet: base?.dataSet ?? "",
    sha256: base?.sha256 ?? "",
    kind: (base?.kind ?? "frames") as TestKind,
    unit: base?.unit ?? "fps",
    better: (base?.better ?? "higher") as Better,
    loads: base?.loads ?? "gpu",
    scene: base?.scene ?? "",
    resolutions: base?.resolution ?? "1920x1080, 2560x1440, 3840x2160",
    presets: base?.preset ?? "High",
    rayTracing: base?.rayTracing ?? "off",
    upscaling: base?.upscaling ?? "off",
    frameGeneration: base?.frameGeneration ?? "off",
    api: base?.api ?? "",
    cache: base?.cache ?? "",
    startAt: base?.startAt ?? "",
    stopAt: base?.stopAt ?? "",
    loadS: base?.loadS?.toString() ?? "",
    warmupS: base?.warmupS?.toString() ?? "60",
    lengthS: base?.lengthS?.toString() ?? "60",
    resetS: base?.resetS?.toString() ?? "15",
    definition: base?.definition ?? "",
  }));
  const set = (field: keyof typeof text) => (value: string) => setText((now) => ({ ...now, [field]: value }));
  const workloadId = base?.workloadId ?? model.workloads.find(({ name }) => name === text.workload.trim())?.id ?? idOf(text.workload);
  const framed = text.kind === "frames";
  const definition: TestDefinition = {
    id: base?.id ?? workloadId,
    workloadId,
    name: base?.name ?? text.workload.trim(),
    kind: text.kind,
    unit: text.unit,
    better: text.better,
    loads: (text.loads || null) as TestDefinition["loads"],
    scene: text.scene || null,
    resolution: base?.resolution ?? null,
    renderResolution: base?.renderResolution ?? null,
    preset: text.presets || null,
    rayTracing: text.rayTracing || null,
    upscaling: text.upscaling || null,
    frameGeneration: text.frameGeneration || null,
    api: text.api || null,
    cache: (text.cache || null) as TestDefinition["cache"],
    startAt: text.startAt || null,
    stopAt: text.stopAt || null,
    loadS: secondsOf(text.loadS),
    warmupS: secondsOf(text.warmupS),
    lengthS: secondsOf(text.lengthS),
    resetS: secondsOf(text.resetS),
    definition: text.definition || null,
  };
  const tests = base
    ? [definition]
    : expandTests(definition, {
        resolutions: framed ? listOf(text.resolutions) : [],
        presets: listOf(text.presets),
        switches: framed
          ? (["rayTracing", "upscaling", "frameGeneration", "api"] as const)
              .map((field) => ({ field, values: listOf(text[field]) }))
              .filter(({ values }) => values.length > 0)
          : [],
      });
  const named = text.workload.trim() !== "";
  const gaps = definitionGaps(tests[0] ?? definition);
  const save = async () => {
    const workload = { id: workloadId, name: text.workload.trim(), group: text.group, dataSet: text.dataSet || null, sha256: text.sha256 || null };
    const made = await act(() => defineTests({ workload, tests }));
    if (made) onClose(made.added.length === 0 ? "Nothing has changed." : `${made.added.length === 1 ? made.added[0] : `${made.added.length} tests`} defined.`);
  };
  const field = (name: keyof typeof text, label: string, more: { hint?: string; placeholder?: string } = {}) => (
    <TextField label={label} value={text[name]} onChange={set(name)} {...more} />
  );
  return (
    <Box>
      <Text textStyle="title" mb="3">
        {base ? `${base.name}, version ${base.version + 1}` : "Define tests"}
      </Text>
      <Grid templateColumns={{ base: "1fr", lg: "1fr 1fr" }} gap="10">
        <Flex direction="column" gap="3">
          {base ? (
            <Text color="quiet">A changed definition is a new version; its runs are never mixed with those of version {base.version}.</Text>
          ) : (
            field("workload", "workload", { placeholder: "the game or program" })
          )}
          <Grid templateColumns="1fr 1fr" gap="3">
            {field("group", "group", { placeholder: "games, production, soak" })}
            <SelectField
              label="kind"
              value={text.kind}
              onChange={(kind) => setText((now) => ({ ...now, kind: kind as TestKind, unit: UNITS[kind as TestKind][0], better: UNITS[kind as TestKind][1] }))}
              options={Object.keys(UNITS).map((value) => ({ value, label: value }))}
            />
            {field("unit", "unit")}
            <SelectField
              label="better"
              value={text.better}
              onChange={set("better")}
              options={["higher", "lower", "none"].map((value) => ({ value, label: value }))}
            />
            <SelectField
              label="loads"
              value={text.loads}
              onChange={set("loads")}
              options={["cpu", "gpu", "memory", "storage", "mixed"].map((value) => ({ value, label: value }))}
            />
            <SelectField
              label="start"
              value={text.cache}
              onChange={set("cache")}
              options={[
                { value: "", label: "not said" },
                { value: "cold", label: "cold" },
                { value: "warm", label: "warm" },
              ]}
            />
          </Grid>
          {field("scene", "scene or task", { placeholder: "harbour walk, from the pier to the gate" })}
          {field("dataSet", "data set")}
          {field("sha256", "SHA-256 of the data set")}
          {framed && !base && field("resolutions", "resolutions", { hint: "several, with commas" })}
          {field("presets", base ? "preset" : "presets")}
          {framed && (
            <Grid templateColumns="1fr 1fr" gap="3">
              {field("rayTracing", "ray tracing", base ? {} : { hint: "off, on makes both" })}
              {field("upscaling", "upscaling")}
              {field("frameGeneration", "frame generation")}
              {field("api", "API")}
            </Grid>
          )}
        </Flex>
        <Flex direction="column" gap="3">
          {field("startAt", "the watch starts", { placeholder: "first movement" })}
          {field("stopAt", "the watch stops", { placeholder: "60 s later, by the recorder" })}
          <Grid templateColumns="repeat(4, 1fr)" gap="3">
            {field("loadS", "launch, s")}
            {field("warmupS", "warm-up, s")}
            {field("lengthS", "length, s")}
            {field("resetS", "reset, s")}
          </Grid>
          <TextArea label="definition, for whoever repeats it in two years" value={text.definition} onChange={set("definition")} />
          <Box>
            <Text fontWeight="600">
              {base ? "Becomes" : named ? `Makes ${tests.length} ${tests.length === 1 ? "test" : "tests"}` : "Name the workload to see its tests"}
            </Text>
            <Box maxH="190px" overflowY="auto">
              {(named ? tests : []).map(({ id, name }) => (
                <Flex key={id} gap="4" textStyle="small" py="0.5" borderTop="1px solid" borderColor="hairline">
                  <Text flex="1">{name}</Text>
                  <Text color="quiet">{id}</Text>
                </Flex>
              ))}
            </Box>
          </Box>
          {gaps.length > 0 && <Text color="doubt">Not written yet: {gaps.join(", ")}.</Text>}
          <Flex gap="3">
            <Button size="sm" disabled={busy || !named} onClick={() => void save()}>
              {base ? `Make version ${base.version + 1}` : `Define ${tests.length === 1 ? "the test" : `${tests.length} tests`}`}
            </Button>
            <Button size="sm" variant="outline" onClick={() => onClose()}>
              Leave it
            </Button>
          </Flex>
          <Trouble text={trouble} />
        </Flex>
      </Grid>
    </Box>
  );
}
