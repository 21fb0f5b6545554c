"use client";

import { Box, chakra, Flex, Text, VisuallyHidden } from "@chakra-ui/react";
import { parseAsString, parseAsStringLiteral, useQueryState } from "nuqs";
import { useMemo, useRef, useState } from "react";
import type { Limit } from "@/core/check";
import { figure, type ReviewSetup } from "@/core/report";
import { FilterField } from "../forms/fields";
import { hoursText } from "../plan/planWords";
import { InlineChoice, KeyHint, OrderChoice, ResolutionChoice, StepFoot, StepHead } from "../review/controls";
import { cachedMatrix, useOrderedSetups, useReview, useReviewState } from "../review/ReviewContext";
import { SpineCell } from "../review/SpineCell";
import { useKeys } from "../review/useKeys";
import { bytesText, CELL_KINDS, type CellState, GROUPINGS, type GridCell, gridCells, groupTests, isOfKind, sortRows } from "./gridCells";
import { useCellDrop } from "./useCellDrop";
import { ValueSheet } from "./ValueSheet";
import { type GridHandle, VirtualGrid } from "./VirtualGrid";

const LIMIT_WORDS: Record<Limit, string> = { cpu: "CPU", gpu: "GPU", memory: "memory", cap: "cap", mixed: "mixed", "not known": "·" };
const MARKS: Record<CellState, string> = { complete: "", short: "", missing: "", failed: "failed", doubtful: "doubt" };
const KIND_LABELS = {
  all: "all",
  work: "that need a look",
  doubtful: "in doubt",
  missing: "short of runs",
  failed: "failed",
  cpu: "held by the CPU",
  gpu: "held by the GPU",
  memory: "held by memory",
  cap: "capped",
} as const;

/** Of all cells at once: hundreds of them are drawn together, and a style worked out for each would be most of the time that takes. */
const CELL_STYLE = {
  "& .cell": { px: "1", textAlign: "right", cursor: "pointer" },
  "& .cell:hover": { bg: "wash" },
  "& .cell:focus-visible": { outlineOffset: "-2px" },
  "& .cell[data-state=doubtful]": { bg: "doubtWash" },
  "& .cell[data-faded]": { opacity: 0.35 },
  "& .cell[data-hot]": { bg: "accentWash", outline: "2px solid var(--chakra-colors-accent-solid)" },
  "& .value": { display: "block", fontWeight: "600", fontSize: "15px", fontStretch: "84%", lineHeight: "19px", color: "ink" },
  "& .value[data-unknown]": { color: "quiet" },
  "& .note": { display: "block", textStyle: "small", color: "quiet", lineHeight: "14px", whiteSpace: "nowrap" },
  "& .cell:is([data-state=doubtful], [data-state=failed]) .note": { color: "doubt" },
} as const;

/** One short stroke a run: full for valid, crossed for lost, dotted for one that is still to come. */
function RunStrokes({ valid, lost, wanted }: { valid: number; lost: number; wanted: number }) {
  const strokes = [
    ...Array<string>(valid).fill("valid"),
    ...Array<string>(lost).fill("lost"),
    ...Array<string>(Math.max(0, wanted - valid - lost)).fill("open"),
  ];
  return (
    <svg width={strokes.length * 5} height="9" aria-hidden style={{ display: "inline-block", verticalAlign: "-1px" }}>
      {strokes.map((kind, i) => (
        <line
          key={`${kind}-${i}`}
          x1={i * 5 + (kind === "lost" ? 0.5 : 2)}
          x2={i * 5 + (kind === "lost" ? 3.5 : 2)}
          y1="1"
          y2="8"
          stroke={kind === "lost" ? "var(--chakra-colors-doubt)" : kind === "open" ? "var(--chakra-colors-tick)" : "currentColor"}
          strokeWidth="1.5"
          strokeDasharray={kind === "open" ? "1 2" : undefined}
        />
      ))}
    </svg>
  );
}

/** The second line of a cell: its mark, its spread and runs, its limit or its output. */
function CellNote({ cell, below }: { cell: GridCell; below: "spread" | "limit" }) {
  if (below === "limit") {
    const { limit } = cell;
    return <>{MARKS[cell.state] || (limit && `${LIMIT_WORDS[limit.limit]}${limit.confidence === "likely" && limit.limit !== "not known" ? "?" : ""}`)}</>;
  }
  const says =
    MARKS[cell.state] || (cell.outputBytes !== undefined ? bytesText(cell.outputBytes) : cell.cv === undefined ? "" : `${figure(100 * cell.cv, 1)} %`);
  return (
    <>
      {says} <RunStrokes valid={cell.valid} lost={cell.lost} wanted={cell.test.runsWanted} />
    </>
  );
}

/** The runs a line of cells has of those wanted. */
const completeness = (line: readonly GridCell[]) =>
  line.reduce(([have, want], cell) => [have + Math.min(cell.valid, cell.test.runsWanted), want + cell.test.runsWanted] as [number, number], [0, 0] as [
    number,
    number,
  ]);

/** The review's grid: setups down, tests across; value, spread, runs and state of each cell. Arrows move, Enter opens, dropped logs become runs. */
export function RunGrid() {
  const { model } = useReview();
  const { row, resolution, school, show, setState } = useReviewState();
  const ordered = useOrderedSetups();
  const [filter, setFilter] = useState("");
  const [rowFilter, setRowFilter] = useState("");
  const [below, setBelow] = useState<"spread" | "limit">("spread");
  const [kind, setKind] = useQueryState("cells", parseAsStringLiteral(CELL_KINDS).withDefault("all"));
  const [by, setBy] = useQueryState("by", parseAsStringLiteral(GROUPINGS).withDefault("game"));
  const [sort, setSort] = useQueryState("sort", parseAsString);
  const [entering, setEntering] = useQueryState("type", parseAsString);
  const grid = useRef<GridHandle>(null);
  const at = useRef<[number, number]>([0, 0]);
  const { over, setOver, drop, notice } = useCellDrop();

  const shown = useMemo(() => {
    const wanted = filter.trim().toLowerCase();
    const wantedRow = rowFilter.trim().toLowerCase();
    const tests = model.tests.filter(
      (test) =>
        (!resolution || test.resolution === resolution || !test.resolution) && `${test.name} ${test.group} ${test.settings}`.toLowerCase().includes(wanted),
    );
    const setups = ordered.filter((setup) =>
      [setup.label, setup.maker, setup.role, ...setup.facts.map(({ value, unit }) => `${value} ${unit ?? ""}`)].join(" ").toLowerCase().includes(wantedRow),
    );
    const grouped = groupTests(tests, by);
    const all = gridCells(model, cachedMatrix(model, "result", school), setups, grouped.tests);
    if (kind === "all") return { ...grouped, ...sortRows(setups, all, sort) };
    const keptRows = setups.filter((_, r) => all[r]?.some((cell) => isOfKind(cell, kind)));
    const keptTests = grouped.tests.filter((_, c) => all.some((line) => isOfKind(line[c] as GridCell, kind)));
    const again = groupTests(keptTests, by);
    return { ...again, ...sortRows(keptRows, gridCells(model, cachedMatrix(model, "result", school), keptRows, again.tests), sort) };
  }, [model, resolution, school, filter, rowFilter, ordered, by, kind, sort]);
  const { setups, tests, cells, bands } = shown;

  const open = (r: number, c: number) => {
    const cell = cells[r]?.[c];
    if (cell) setState({ show: `cell:${cell.setup.id}/${cell.test.key}`, row: cell.setup.id });
  };
  const nextDoubtful = () => {
    const flat = cells.flat();
    const from = at.current[0] * tests.length + at.current[1];
    const found = [...flat.keys()].map((i) => (from + 1 + i) % flat.length).find((i) => flat[i]?.state !== "complete");
    if (found !== undefined) grid.current?.focus(Math.floor(found / tests.length), found % tests.length);
  };
  useKeys({ n: nextDoubtful, v: () => void setEntering("1"), Escape: () => show && setState({ show: null }) });

  const flat = cells.flat();
  const lacking = flat.filter(({ state }) => state !== "complete").length;
  const leftOf = new Map(model.workLeft.map(({ setupId, seconds }) => [setupId, seconds]));
  const left = setups.reduce((sum, { id }) => sum + (leftOf.get(id) ?? 0), 0);
  const sortBy = (key: string) => void setSort(sort === `${key}:down` ? `${key}:up` : sort === `${key}:up` ? null : `${key}:down`);
  const arrow = (key: string) => (sort === `${key}:down` ? " ↓" : sort === `${key}:up` ? " ↑" : "");
  const byResolution = by !== "resolution" && !resolution;
  // Under a band that bears the game's name each column says its resolution only.
  const bandNames = by === "game" && byResolution && bands !== undefined && tests.every(({ resolution: own }) => own);
  if (entering) return <ValueSheet setups={setups} tests={tests} onClose={() => void setEntering(null)} />;
  return (
    <Box>
      <StepHead title="Runs">
        <ResolutionChoice />
        <OrderChoice />
        <InlineChoice label="by" value={by} options={GROUPINGS.map((value) => ({ value, label: value }))} onChange={(value) => void setBy(value)} />
        <InlineChoice
          label="cells"
          value={kind}
          options={CELL_KINDS.map((value) => ({ value, label: KIND_LABELS[value] }))}
          onChange={(value) => void setKind(value)}
        />
        <InlineChoice
          label="below each"
          value={below}
          options={[
            { value: "spread", label: "spread and runs" },
            { value: "limit", label: "what limits it" },
          ]}
          onChange={setBelow}
        />
      </StepHead>
      <Flex gap="5" mb="3" wrap="wrap" align="baseline">
        <FilterField what="tests" value={filter} onChange={setFilter} width="140px" />
        <FilterField what="setups" value={rowFilter} onChange={setRowFilter} width="140px" />
        <chakra.button type="button" color="accent.fg" cursor="pointer" onClick={() => void setEntering("1")}>
          Type values
        </chakra.button>
        <Text ml="auto" color={lacking > 0 ? "doubt" : "quiet"}>
          {lacking > 0 ? `${lacking} of ${flat.length} cells need a look` : `all ${flat.length} cells complete`}
          {left > 0 && <chakra.span color="quiet"> · {hoursText(left)} of runs left, without swaps</chakra.span>}
        </Text>
      </Flex>
      {notice}
      {tests.length === 0 || setups.length === 0 ? (
        <Text color="quiet" py="8">
          {model.tests.length === 0
            ? "This review has no suite yet; import one with its tests."
            : kind !== "all"
              ? "No cell is of this kind."
              : setups.length === 0
                ? "No setup fits the filter."
                : "No test fits the filter."}
        </Text>
      ) : (
        <Box css={CELL_STYLE}>
          <VirtualGrid
            ref={grid}
            label="Cells of the review"
            rows={setups}
            columns={tests}
            rowHeight={52}
            columnWidth={72}
            headHeight={bandNames ? 36 : byResolution ? 66 : 52}
            bands={bands}
            onMove={(r, c) => {
              at.current = [r, c];
            }}
            onKeyDown={(event, r, c) => {
              if (event.key !== "Enter") return;
              event.preventDefault();
              open(r, c);
            }}
            spineHead="Setup"
            tailHead={
              <chakra.button type="button" cursor="pointer" onClick={() => sortBy("runs")}>
                runs, left{arrow("runs")}
              </chakra.button>
            }
            head={(c) => {
              const test = tests[c];
              if (!test) return null;
              const [have, want] = completeness(cells.map((line) => line[c] as GridCell));
              return (
                <chakra.button type="button" cursor="pointer" textAlign="right" title={`${test.name}: sort by it`} onClick={() => sortBy(test.key)}>
                  <Box
                    as="span"
                    display="block"
                    hyphens="auto"
                    overflow="hidden"
                    css={{ display: "-webkit-box", WebkitLineClamp: 2, WebkitBoxOrient: "vertical" }}
                  >
                    {bandNames ? <VisuallyHidden>{test.workloadName}</VisuallyHidden> : test.workloadName}
                    {!bandNames && arrow(test.key)}
                  </Box>
                  {byResolution && test.resolution && (
                    <Box as="span" display="block" color="quiet">
                      {test.resolution.split("x")[1]}
                      {bandNames && arrow(test.key)}
                    </Box>
                  )}
                  <Box as="span" display="block" color={have < want ? "doubt" : "quiet"} title={`${have} of ${want} runs`}>
                    {have < want ? `${have}/${want}` : "✓"}
                  </Box>
                </chakra.button>
              );
            }}
            rowStyle={(r) => (row === setups[r]?.id ? { bg: "accentWash" } : {})}
            spine={(r) => <SpineCell setup={setups[r] as ReviewSetup} />}
            tail={(r) => {
              const [have, want] = completeness(cells[r] ?? []);
              const seconds = leftOf.get(setups[r]?.id ?? "") ?? 0;
              return (
                <>
                  <Text textStyle="figure" color={have < want ? "doubt" : "quiet"}>
                    {have}/{want}
                  </Text>
                  {seconds > 0 && (
                    <Text textStyle="small" color="quiet">
                      {hoursText(seconds)}
                    </Text>
                  )}
                </>
              );
            }}
            cell={(r, c, { key, ...props }) => {
              const cell = cells[r]?.[c];
              if (!cell) return null;
              const place = `${cell.setup.id}/${cell.test.key}`;
              return (
                <button
                  key={key as string}
                  {...props}
                  type="button"
                  className="cell"
                  data-state={cell.state}
                  data-faded={kind !== "all" && !isOfKind(cell, kind) ? "" : undefined}
                  data-hot={over === place ? "" : undefined}
                  aria-label={cell.words}
                  title={cell.words}
                  onClick={() => open(r, c)}
                  onDragOver={(event) => {
                    event.preventDefault();
                    setOver(place);
                  }}
                  onDragLeave={() => setOver(undefined)}
                  onDrop={(event) => {
                    event.preventDefault();
                    void drop(event.dataTransfer.items, cell.setup, cell.test);
                  }}
                >
                  <span className="value" data-unknown={cell.mean === undefined ? "" : undefined}>
                    {cell.mean === undefined ? (cell.state === "failed" ? "failed" : "–") : figure(cell.mean, cell.mean >= 100 ? 0 : 1)}
                  </span>
                  <span className="note">
                    <CellNote cell={cell} below={below} />
                  </span>
                </button>
              );
            }}
          />
        </Box>
      )}
      <StepFoot
        legend={
          <Flex gap="4" wrap="wrap">
            <span>large: mean in the test's unit</span>
            <span>{below === "limit" ? "small: what held the rate; ? where only neighbours show it" : "small: CV of the runs, or the size of the output"}</span>
            <Flex as="span" gap="1" align="center">
              <RunStrokes valid={1} lost={0} wanted={1} /> valid
            </Flex>
            <Flex as="span" gap="1" align="center">
              <RunStrokes valid={0} lost={1} wanted={1} /> discarded or failed
            </Flex>
            <Flex as="span" gap="1" align="center">
              <RunStrokes valid={0} lost={0} wanted={1} /> still to run
            </Flex>
            <span>drop logs on a cell to file them there</span>
          </Flex>
        }
      >
        <KeyHint keys="← ↑ ↓ →" does="move" />
        <KeyHint keys="Enter" does="open runs" />
        <KeyHint keys="N" does="next to look at" />
        <KeyHint keys="V" does="type values" />
      </StepFoot>
    </Box>
  );
}
