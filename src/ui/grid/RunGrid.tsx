"use client";

import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { useMemo, useRef, useState } from "react";
import { pixelsOf } from "@/core/bench";
import { aggregateCell, cellKey } from "@/core/cell";
import type { JudgedLimit, Limit } from "@/core/check";
import { figure, type ReviewSetup, type ReviewTest } from "@/core/report";
import { FilterField } from "../forms/fields";
import { InlineChoice, KeyHint, OrderChoice, ResolutionChoice, StepFoot, StepHead } from "../review/controls";
import { cachedMatrix, useOrderedSetups, useReview, useReviewState } from "../review/ReviewContext";
import { rowStyle, SpineCell } from "../review/SpineCell";
import { useKeys } from "../review/useKeys";

type CellState = "complete" | "short" | "missing" | "failed" | "doubtful";

/** What the grid shows of one cell. */
interface GridCell {
  setup: ReviewSetup;
  test: ReviewTest;
  mean: number | undefined;
  cv: number | undefined;
  valid: number;
  lost: number;
  state: CellState;
  limit: JudgedLimit | undefined;
  /** The state in words, for screen readers and the title. */
  words: string;
}

const LIMIT_WORDS: Record<Limit, string> = { cpu: "CPU", gpu: "GPU", memory: "memory", cap: "cap", mixed: "mixed", "not known": "·" };
const MARKS: Record<CellState, string> = { complete: "", short: "", missing: "", failed: "failed", doubtful: "doubt" };

function useGridCells(setups: ReviewSetup[], tests: ReviewTest[]): GridCell[][] {
  const { model } = useReview();
  const { school } = useReviewState();
  return useMemo(() => {
    const matrix = cachedMatrix(model, "result", school);
    const limits = new Map(model.limits.map((one) => [cellKey(one.setupId, one.testKey), one]));
    const doubtful = new Map<string, string>();
    for (const finding of model.findings) {
      if (finding.raised && finding.state === "open") doubtful.set(cellKey(finding.setupId, finding.testKey), finding.check);
    }
    return setups.map((setup) =>
      tests.map((test): GridCell => {
        const key = cellKey(setup.id, test.key);
        const cell = matrix.cells.get(key);
        const aggregate = cell && aggregateCell(cell.values);
        const runs = cell?.runs ?? [];
        const valid = cell?.values.length ?? 0;
        const failed = runs.some(({ status }) => status === "failed");
        const doubt = doubtful.get(key);
        const state: CellState = doubt
          ? "doubtful"
          : valid >= test.runsWanted
            ? "complete"
            : valid === 0 && failed
              ? "failed"
              : valid === 0
                ? "missing"
                : "short";
        const limit = limits.get(key);
        const words = `${setup.label}, ${test.name}: ${aggregate ? `${figure(aggregate.mean, 1)} ${test.unit}` : "no value"}, ${valid} of ${test.runsWanted} runs${doubt ? `, doubt: ${doubt}` : failed ? ", failed run" : ""}${limit ? `; limit ${limit.limit}, ${limit.confidence}: ${limit.reasons.join(", ")}` : ""}`;
        return { setup, test, mean: aggregate?.mean, cv: aggregate?.cv, valid, lost: runs.length - valid, state, limit, words };
      }),
    );
  }, [model, school, setups, tests]);
}

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

/** The review's grid: setups down, tests across; value, spread, runs and state of each cell. Arrows move, Enter opens. */
export function RunGrid() {
  const { model } = useReview();
  const { row, resolution, show, setState } = useReviewState();
  const setups = useOrderedSetups();
  const [filter, setFilter] = useState("");
  const [below, setBelow] = useState<"spread" | "limit">("spread");
  const tests = useMemo(() => {
    const wanted = filter.trim().toLowerCase();
    return model.tests
      .filter(
        (test) =>
          (!resolution || test.resolution === resolution || !test.resolution) && `${test.name} ${test.group} ${test.settings}`.toLowerCase().includes(wanted),
      )
      .sort((a, b) => a.position - b.position || pixelsOf(a.resolution) - pixelsOf(b.resolution));
  }, [model, resolution, filter]);
  const cells = useGridCells(setups, tests);
  const [at, setAt] = useState<[number, number]>([0, 0]);
  const grid = useRef<HTMLDivElement>(null);

  const focusCell = (r: number, c: number) => {
    const next: [number, number] = [Math.max(0, Math.min(setups.length - 1, r)), Math.max(0, Math.min(tests.length - 1, c))];
    setAt(next);
    const target = grid.current?.querySelector<HTMLElement>(`[data-cell="${next[0]}-${next[1]}"]`);
    target?.focus();
    target?.scrollIntoView({ block: "nearest", inline: "nearest" });
  };
  const needsWork = ({ state }: GridCell) => state !== "complete";
  const nextDoubtful = () => {
    const flat = cells.flat();
    const from = at[0] * tests.length + at[1];
    const order = [...flat.keys()].map((i) => (from + 1 + i) % flat.length);
    const found = order.find((i) => needsWork(flat[i] as GridCell));
    if (found !== undefined) focusCell(Math.floor(found / tests.length), found % tests.length);
  };
  useKeys({ n: nextDoubtful, Escape: () => show && setState({ show: null }) });
  const onKeyDown = (event: React.KeyboardEvent) => {
    const moves: Record<string, [number, number]> = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] };
    const move = moves[event.key];
    if (!move) return;
    event.preventDefault();
    focusCell(at[0] + move[0], at[1] + move[1]);
  };

  const flat = cells.flat();
  const lacking = flat.filter(needsWork).length;
  const columns = `240px repeat(${tests.length}, minmax(66px, 1fr)) 56px`;
  return (
    <Box>
      <StepHead title="Runs">
        <ResolutionChoice />
        <OrderChoice />
        <InlineChoice
          label="below each"
          value={below}
          options={[
            { value: "spread", label: "spread and runs" },
            { value: "limit", label: "what limits it" },
          ]}
          onChange={setBelow}
        />
        <FilterField what="tests" value={filter} onChange={setFilter} width="140px" />
        <Text ml="auto" color={lacking > 0 ? "doubt" : "quiet"}>
          {lacking > 0 ? `${lacking} of ${flat.length} cells need a look` : `all ${flat.length} cells complete`}
        </Text>
      </StepHead>
      {tests.length === 0 ? (
        <Text color="quiet" py="8">
          {model.tests.length === 0 ? "This review has no suite yet; import one with its tests." : "No test fits the filter."}
        </Text>
      ) : (
        <Box ref={grid} role="grid" aria-label="Cells of the review" overflowX="auto" mx={{ base: -3, md: 0 }} onKeyDown={onKeyDown}>
          <Box minW={`${240 + 66 * tests.length + 56}px`}>
            <Box role="row" display="grid" gridTemplateColumns={columns} alignItems="end">
              <Box role="columnheader" position="sticky" left="0" bg="paper" zIndex="1" color="quiet" pb="1" pl="34px">
                Setup
              </Box>
              {tests.map((test) => (
                <Box key={test.key} role="columnheader" px="1" pb="1" textStyle="small" textAlign="right" lineHeight="15px" hyphens="auto" title={test.name}>
                  {test.workloadName}
                  {!resolution && test.resolution && (
                    <Box as="span" display="block" color="quiet">
                      {test.resolution.split("x")[1]}
                    </Box>
                  )}
                </Box>
              ))}
              <Box role="columnheader" textStyle="small" color="quiet" textAlign="right" pb="1">
                runs
              </Box>
            </Box>
            {cells.map((line, r) => {
              const setup = setups[r] as ReviewSetup;
              const [have, want] = line.reduce(([a, b], cell) => [a + Math.min(cell.valid, cell.test.runsWanted), b + cell.test.runsWanted], [0, 0]);
              return (
                <Box key={setup.id} role="row" display="grid" gridTemplateColumns={columns} {...rowStyle(row === setup.id)}>
                  <Box role="rowheader" position="sticky" left="0" bg={row === setup.id ? "accentWash" : "paper"} zIndex="1" h="full" py="1">
                    <SpineCell setup={setup} />
                  </Box>
                  {line.map((cell, c) => (
                    <chakra.button
                      key={cell.test.key}
                      type="button"
                      role="gridcell"
                      data-cell={`${r}-${c}`}
                      data-state={cell.state}
                      tabIndex={r === at[0] && c === at[1] ? 0 : -1}
                      aria-label={cell.words}
                      title={cell.words}
                      onFocus={() => setAt([r, c])}
                      onClick={() => setState({ show: `cell:${setup.id}/${cell.test.key}`, row: setup.id })}
                      h="full"
                      px="1"
                      textAlign="right"
                      cursor="pointer"
                      bg={cell.state === "doubtful" ? "doubtWash" : undefined}
                      _hover={{ bg: cell.state === "doubtful" ? "doubtWash" : "wash" }}
                    >
                      <Box fontWeight="600" fontSize="15px" fontStretch="84%" lineHeight="19px" color={cell.mean === undefined ? "quiet" : "ink"}>
                        {cell.mean === undefined ? (cell.state === "failed" ? "failed" : "–") : figure(cell.mean, cell.mean >= 100 ? 0 : 1)}
                      </Box>
                      <Box
                        textStyle="small"
                        color={cell.state === "doubtful" || cell.state === "failed" ? "doubt" : "quiet"}
                        lineHeight="14px"
                        whiteSpace="nowrap"
                      >
                        {below === "limit" ? (
                          MARKS[cell.state] ||
                          (cell.limit && `${LIMIT_WORDS[cell.limit.limit]}${cell.limit.confidence === "likely" && cell.limit.limit !== "not known" ? "?" : ""}`)
                        ) : (
                          <>
                            {MARKS[cell.state] || (cell.cv === undefined ? "" : `${figure(100 * cell.cv, 1)} %`)}{" "}
                            <RunStrokes valid={cell.valid} lost={cell.lost} wanted={cell.test.runsWanted} />
                          </>
                        )}
                      </Box>
                    </chakra.button>
                  ))}
                  <Box role="gridcell" textStyle="figure" textAlign="right" color={have < want ? "doubt" : "quiet"}>
                    {have}/{want}
                  </Box>
                </Box>
              );
            })}
          </Box>
        </Box>
      )}
      <StepFoot
        legend={
          <Flex gap="4" wrap="wrap">
            <span>large: mean in the test's unit (fps)</span>
            <span>{below === "limit" ? "small: what held the rate; ? where only neighbours show it" : "small: CV of the runs"}</span>
            <Flex as="span" gap="1" align="center">
              <RunStrokes valid={1} lost={0} wanted={1} /> valid
            </Flex>
            <Flex as="span" gap="1" align="center">
              <RunStrokes valid={0} lost={1} wanted={1} /> discarded or failed
            </Flex>
            <Flex as="span" gap="1" align="center">
              <RunStrokes valid={0} lost={0} wanted={1} /> still to run
            </Flex>
          </Flex>
        }
      >
        <KeyHint keys="← ↑ ↓ →" does="move" />
        <KeyHint keys="Enter" does="open runs" />
        <KeyHint keys="N" does="next to look at" />
      </StepFoot>
    </Box>
  );
}
