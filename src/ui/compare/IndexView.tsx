"use client";

import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { parseAsBoolean, parseAsStringLiteral, useQueryState } from "nuqs";
import { useEffect, useMemo, useState } from "react";
import { resolutionLabel } from "@/core/bench";
import { judgeInterval } from "@/core/cell";
import { arithmeticMeans, type IndexRow, ranksOf } from "@/core/compare";
import { failureCosts, figure, type RowChart, sparseIndex } from "@/core/report";
import { ChartFrame } from "../charts/ChartFrame";
import { linearScale } from "../charts/scale";
import {
  BaselineChoice,
  DeclaredDifferences,
  GroupChoice,
  InlineChoice,
  KeyHint,
  OrderChoice,
  ResolutionChoice,
  SCHOOL_NAMES,
  SchoolChoice,
  StepFoot,
} from "../review/controls";
import { readWeights, useOrderedSetups, useReview, useReviewState, writeWeights } from "../review/ReviewContext";
import { useKeys } from "../review/useKeys";
import { GameByGame } from "./GameByGame";
import { type FigureColumn, IndexNumber, IndexTable, LeftOut } from "./IndexTable";
import { RESAMPLES, useChoice } from "./useCompareWorker";
import { useCompiled, useWeighed } from "./useIndex";
import { rankText, verdictWords } from "./verdictWords";
import { WeightSliders } from "./WeightSliders";

const COLUMNS = { base: "minmax(150px, 1fr) 80px 80px", md: "240px minmax(260px, 1fr) 84px 84px 190px" };
const WAYS = ["index", "median", "arithmetic", "fit"] as const;
const WAY_LABELS = {
  index: "geometric mean",
  median: "geometric mean of median runs",
  arithmetic: "arithmetic mean of rates",
  fit: "two-way fit, cells filled in",
} as const;

/** How often a row is ahead, level, behind, or open, over its tests. */
function countVerdicts({ ratios }: IndexRow): string {
  const count = (...kinds: string[]) => ratios.filter(({ ratio }) => kinds.includes(ratio.verdict)).length;
  const parts: [number, string][] = [
    [count("ahead"), "ahead"],
    [count("level", "level-small-difference"), "level"],
    [count("behind"), "behind"],
    [count("unresolved", "unknown"), "open"],
  ];
  return parts
    .filter(([n]) => n > 0)
    .map(([n, word]) => `${n} ${word}`)
    .join(", ");
}

/** Relative performance: who is how much faster than the baseline, average and low, how sure that is, and on which games it rests. */
export function IndexView() {
  const { model } = useReview();
  const { baseline, resolution, row, school, order, group, weights: weightText, setState } = useReviewState();
  const [way, setWay] = useQueryState("count", parseAsStringLiteral(WAYS).withDefault("index"));
  const [onlyOwnLimit, setOnlyOwnLimit] = useQueryState("own", parseAsBoolean.withDefault(false));
  const [weighing, setWeighing] = useState(weightText !== "");
  const committed = useMemo(() => readWeights(weightText), [weightText]);
  const [live, setLive] = useState<ReadonlyMap<string, number>>(committed);
  useEffect(() => setLive(committed), [committed]);
  const setups = useOrderedSetups();
  const options = { onlyOwnLimit, aggregate: way === "median" ? ("median" as const) : ("mean" as const) };
  const compiled = useCompiled("result", options);
  const compiledLows = useCompiled("low1", options);
  const weighed = useWeighed(compiled, live);
  const lows = useWeighed(compiledLows, live);
  const choice = useChoice(compiled.table, baseline, committed);
  const base = model.setups.find(({ id }) => id === baseline);
  const selected = setups.find(({ id }) => id === row);

  const fit = useMemo(
    () => (way === "fit" ? sparseIndex(model, compiled.matrix, { baselineId: baseline, resolution, group }) : undefined),
    [way, model, compiled, baseline, resolution, group],
  );
  const arithmetic = useMemo(
    () => (way === "arithmetic" && compiled.table ? arithmeticMeans(compiled.matrix, compiled.table.setupIds, compiled.table.tests) : undefined),
    [way, compiled],
  );
  // The other ways of counting take the place of the index; what they do not know is not drawn.
  const ranking = useMemo(() => {
    const plain = { seLog: undefined, df: 0, low: undefined, high: undefined, level: 0.95 as const, furtherRuns: undefined };
    if (fit?.ok) {
      const ranks = ranksOf(new Map(fit.value.rows.map(({ row: id, log }) => [id, log])));
      const rows = fit.value.rows.map(({ row: id, log, seLog }): IndexRow => {
        const rank = ranks.get(id) ?? 1;
        const judged = judgeInterval({ estimate: log, se: id === baseline ? undefined : seLog, df: fit.value.residualDf, margin: model.margin });
        return { ...judged, setupId: id, index: Math.exp(log), rankFrom: rank, rankTo: rank, ratios: compiled.ratios.get(id) ?? [] };
      });
      return { ...weighed, rows };
    }
    if (arithmetic) {
      const own = arithmetic.means.get(baseline) ?? 1;
      const ranks = ranksOf(arithmetic.means);
      const rows = weighed.rows.map((one): IndexRow => {
        const index = (arithmetic.means.get(one.setupId) ?? Number.NaN) / own;
        const rank = ranks.get(one.setupId) ?? 1;
        return { ...one, ...plain, logRatio: Math.log(index), index, rankFrom: rank, rankTo: rank, verdict: "unknown" };
      });
      return { ...weighed, rows };
    }
    return weighed;
  }, [fit, arithmetic, weighed, baseline, compiled, model.margin]);
  const failures = useMemo(
    () => failureCosts(model, compiled.matrix, { baselineId: baseline, resolution, group }),
    [model, compiled, baseline, resolution, group],
  );

  const move = (by: number) => {
    const at = setups.findIndex(({ id }) => id === row);
    const next = setups[Math.max(0, Math.min(setups.length - 1, at + by))];
    if (next) setState({ row: next.id });
  };
  useKeys({
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    b: () => row && setState({ baseline: row }),
    e: () => row && setState({ show: `index:result:${row}` }),
    o: () => setState({ order: order === "rank" ? "review" : "rank" }),
    w: () => setWeighing(!weighing),
    Escape: () => setState({ show: null }),
  });

  const labelOf = (id: string) => model.setups.find((one) => one.id === id)?.label ?? id;
  const choices = (
    <Flex gap={{ base: 3, md: 6 }} mb="3" wrap="wrap" rowGap="1" align="center">
      <ResolutionChoice />
      <GroupChoice />
      <BaselineChoice />
      {lows.rows.length > 0 && <SchoolChoice />}
      <OrderChoice />
      <InlineChoice
        label="counted by"
        value={way}
        options={WAYS.map((value) => ({ value, label: WAY_LABELS[value] }))}
        onChange={(value) => void setWay(value)}
      />
      <InlineChoice
        label="tests"
        value={onlyOwnLimit ? "own" : "all"}
        options={[
          { value: "all", label: "all" },
          { value: "own", label: "where the part was the limit" },
        ]}
        onChange={(value) => void setOnlyOwnLimit(value === "own")}
      />
      <chakra.button type="button" color="accent.fg" cursor="pointer" aria-expanded={weighing} onClick={() => setWeighing(!weighing)}>
        {weighing ? "Hide the weights" : "Weigh the workloads"}
      </chakra.button>
      <Text color="quiet" ml="auto">
        stands on <span>{ranking.workloads} workloads</span>, {ranking.testKeys.length} tests
      </Text>
    </Flex>
  );
  if (ranking.rows.length === 0) {
    return (
      <>
        {choices}
        <Text color="quiet">
          No test has a valid run for every setup here that was run, or the baseline has none yet. Fill the grid in Run, or choose another resolution or group.
        </Text>
        <LeftOut leftOut={ranking.leftOut} />
        <DeclaredDifferences />
      </>
    );
  }
  const hasLows = lows.rows.length > 0;
  const lowOf = (setupId: string) => lows.rows.find((one) => one.setupId === setupId);
  const drawsChoice = way === "index" || way === "median";
  const points = [
    ...ranking.rows.flatMap((one) => [one.index, one.low ?? one.index, one.high ?? one.index, ...one.ratios.map(({ ratio }) => ratio.ratio)]),
    ...(drawsChoice ? [...choice.values()].flatMap(({ low, high }) => [low, high]) : []),
    ...lows.rows.map(({ index }) => index),
    1,
    1 / (1 + model.margin),
  ];
  const scale = linearScale(100 * Math.min(...points) - 1, 100 * Math.max(...points) + 1);
  const figures: FigureColumn[] = [
    {
      head: "average",
      cell: (setup, line) => <IndexNumber ranking={ranking} row={line} name="average" show={`index:result:${setup.id}`} label={setup.label} />,
    },
    {
      head: hasLows ? "1 % low" : "",
      cell: (setup) => {
        const low = lowOf(setup.id);
        return low && <IndexNumber ranking={lows} row={low} name="1 % low" show={`index:low1:${setup.id}`} label={setup.label} />;
      },
    },
  ];
  const title = `How fast against ${base?.label}`;
  const where = resolution ? resolutionLabel(resolution) : "all resolutions";
  const conditions = [
    `${group ?? "tests"}, ${where}: ${ranking.workloads} workloads, ${ranking.testKeys.length} tests; ${WAY_LABELS[way]}; ${live.size > 0 ? "weighed by the reader" : "every workload weighs the same"}.`,
    `Whisker: 95 % run noise, re-running only, not another sample, mount or day.${drawsChoice && choice.size > 0 ? " Dotted: 95 % for the choice of workloads, drawn again with all their resolutions." : ""}`,
    `${hasLows ? `Ring: 1 % low by ${SCHOOL_NAMES[school]}. ` : ""}Band: level within ${figure(100 * model.margin, 0)} %. ${model.bench.map(({ name, revision }) => `${name}, revision ${revision}`).join("; ")}; ${model.today}.`,
  ];
  const rows = setups.flatMap((setup) => {
    const line = ranking.rows.find(({ setupId }) => setupId === setup.id);
    return line ? [{ setup, line, low: lowOf(setup.id) }] : [];
  });
  const chart = (): RowChart => ({
    title,
    subtitle: `${where}, ${group}: baseline = 100`,
    unit: "index",
    min: scale.min,
    max: scale.max,
    major: scale.major,
    minor: scale.minor,
    base: 100,
    band: [100 / (1 + model.margin), 100 * (1 + model.margin)],
    rows: rows.map(({ setup, line, low }) => ({
      label: setup.label,
      value: 100 * line.index,
      low: line.low === undefined ? undefined : 100 * line.low,
      high: line.high === undefined ? undefined : 100 * line.high,
      choiceLow: drawsChoice && setup.id !== baseline && choice.get(setup.id) ? 100 * (choice.get(setup.id)?.low as number) : undefined,
      choiceHigh: drawsChoice && setup.id !== baseline && choice.get(setup.id) ? 100 * (choice.get(setup.id)?.high as number) : undefined,
      ring: setup.id === baseline || !low ? undefined : 100 * low.index,
      ticks: setup.id === baseline ? [] : line.ratios.map(({ ratio }) => 100 * ratio.ratio),
      hollow: setup.id === baseline,
      text: `${figure(100 * line.index, 1)}${low ? `, low ${figure(100 * low.index, 1)}` : ""}`,
    })),
    conditions,
  });
  return (
    <Box>
      {choices}
      {weighing && compiled.table && (
        <WeightSliders
          workloads={[...new Map(compiled.table.tests.map((test) => [test.workloadId, test.workloadName]))].map(([id, name]) => ({ id, name }))}
          weights={live}
          onMove={setLive}
          onLetGo={(weights) => writeWeights(weights) !== weightText && setState({ weights: writeWeights(weights) })}
        />
      )}
      {way === "fit" && fit && !fit.ok && (
        <Text color="doubt" mb="2">
          {fit.problem.kind === "not-joined"
            ? `No fit: ${fit.problem.groups.map((one) => one.map(labelOf).join(", ")).join(" and ")} share no test; any number between them would be invented.`
            : fit.problem.kind === "too-sparse"
              ? `No fit: ${labelOf(fit.problem.row)} lacks ${fit.problem.missing} of ${fit.problem.of} tests, more than 30 %.`
              : "No fit: there are too few cells to judge it by."}{" "}
          Shown is the index on the tests that all have.
        </Text>
      )}
      {fit?.ok && (
        <Text color="quiet" mb="2">
          Fitted over {fit.value.observations} cells; {figure(100 * fit.value.filledShare, 1)} % are filled in
          {fit.value.rows.some(({ filled }) => filled > 0)
            ? ` (${fit.value.rows.flatMap(({ row: id, filled }) => (filled > 0 ? [`${labelOf(id)} ${filled}`] : [])).join(", ")})`
            : ""}
          . Its whisker shows how parts differ from workload to workload, not run noise.
        </Text>
      )}
      {way === "arithmetic" && (
        <Text color="quiet" mb="2">
          {arithmetic
            ? `Arithmetic mean of ${arithmetic.unit}, as many publish it: games with high rates count most. It has no interval here.`
            : "These tests count in several units or some are better lower; an arithmetic mean of them means nothing. Shown is the index."}
        </Text>
      )}
      <ChartFrame
        title={title}
        summary={rows
          .map(({ setup, line }) => `${setup.label}: index ${figure(100 * line.index, 1)}, ${verdictWords(line).says}, rank ${rankText(line)}`)
          .join("; ")}
        conditions={conditions}
        rowChart={chart}
        table={{
          heads: ["setup", "rank", "index", "from", "to", "other workloads from", "to ", "1 % low", "ahead, level, behind", "says"],
          rows: rows.map(({ setup, line, low }) => {
            const own = choice.get(setup.id);
            const cell = (value: number | undefined) => ({ text: value === undefined ? "–" : figure(100 * value, 1), sort: value ?? -1 });
            return {
              key: setup.id,
              cells: [
                { text: setup.label, sort: setup.label },
                { text: rankText(line), sort: line.rankFrom },
                cell(line.index),
                cell(line.low),
                cell(line.high),
                cell(own?.low),
                cell(own?.high),
                cell(low?.index),
                { text: countVerdicts(line), sort: line.ratios.filter(({ ratio }) => ratio.verdict === "ahead").length },
                { text: setup.id === baseline ? "baseline" : verdictWords(line).says, sort: verdictWords(line).says },
              ],
            };
          }),
        }}
      >
        <IndexTable
          label="Relative performance"
          ranking={ranking}
          scale={scale}
          columns={COLUMNS}
          figures={figures}
          ringOf={(setupId) => {
            const low = lowOf(setupId);
            return low && 100 * low.index;
          }}
          choiceOf={drawsChoice ? (setupId) => choice.get(setupId) : undefined}
          counts={countVerdicts}
        />
      </ChartFrame>
      <LeftOut leftOut={ranking.leftOut} />
      {failures.map(({ setupId, testKeys, index, asSlowest }) => (
        <Text key={setupId} mt="1" color="doubt" fontSize="13px">
          {labelOf(setupId)} failed {testKeys.map((key) => model.tests.find((test) => test.key === key)?.name).join(", ")}: counted there like the slowest row
          that finished, its index would be {figure(100 * asSlowest, 1)} instead of {figure(100 * index, 1)}.
        </Text>
      ))}
      {compiled.foreign.length > 0 && (
        <Text mt="1" color="quiet" fontSize="13px">
          {compiled.foreign.length} tests are left out because something else than the part under test was the limit in some row:{" "}
          {compiled.foreign.map((key) => model.tests.find((test) => test.key === key)?.name).join(", ")}.
        </Text>
      )}
      {selected && selected.id !== baseline && base && <GameByGame setup={selected} base={base} ranking={ranking} lows={lows} />}
      {!selected && (
        <Text mt="4" color="quiet">
          Select a row to see it test by test.
        </Text>
      )}
      <DeclaredDifferences />
      <StepFoot
        legend={
          <Flex gap="4" wrap="wrap">
            <span>│ one test</span>
            <span>● {WAY_LABELS[way]}</span>
            <span>├─┤ 95 % run noise: re-running only, not other samples or days</span>
            {drawsChoice && <span>┈ 95 % for other workloads of the kind, {figure(RESAMPLES, 0)} drawings</span>}
            {hasLows && <span>◦ 1 % low by {SCHOOL_NAMES[school]}</span>}
          </Flex>
        }
      >
        <KeyHint keys="↑ ↓" does="row" />
        <KeyHint keys="B" does="baseline" />
        <KeyHint keys="O" does="order" />
        <KeyHint keys="W" does="weights" />
        <KeyHint keys="E" does="evidence" />
      </StepFoot>
    </Box>
  );
}
