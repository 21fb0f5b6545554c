"use client";

import { Box, Button, chakra, Flex, Text } from "@chakra-ui/react";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useId, useRef, useState } from "react";
import type { IntakeModel, LogKind } from "@/core/intake";
import { figure } from "@/core/report";
import { FilterField, TextField } from "../forms/fields";

/** Where one file belongs, by the pattern or by a person's correction. */
export interface AssignedLine {
  path: string;
  setupId: string | null;
  testKey: string | null;
  number: number | null;
  kind: LogKind;
  byOrder: boolean;
  corrected: boolean;
  trouble: string | null;
}

/** What a person says of some files instead of the pattern. */
export interface Correction {
  setupId?: string;
  testKey?: string;
  number?: number;
  /** Not to be taken in. */
  leftOut?: boolean;
}

const ROW = 30;

/** The whole assignment, filtered and corrected: choose files (Shift for a stretch), type where they belong, apply. */
export function AssignmentTable({
  lines,
  left,
  model,
  onCorrect,
  onUndo,
  canUndo,
}: {
  lines: AssignedLine[];
  left: { path: string; reason: string }[];
  model: IntakeModel;
  /** Corrections by path. */
  onCorrect: (corrections: Map<string, Correction>) => void;
  onUndo: () => void;
  canUndo: boolean;
}) {
  const [filter, setFilter] = useState("");
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [last, setLast] = useState<string | undefined>(undefined);
  const [setup, setSetup] = useState("");
  const [test, setTest] = useState("");
  const [run, setRun] = useState("");
  const scroller = useRef<HTMLDivElement>(null);
  const ids = useId();
  const labelOf = (id: string | null) => model.names.setups.find((one) => one.id === id)?.label ?? "";
  const testOf = (key: string | null) => model.names.tests.find((one) => one.key === key)?.name ?? "";
  const shown = [...lines]
    .filter((line) => `${line.path} ${line.trouble ?? ""} ${labelOf(line.setupId)} ${testOf(line.testKey)}`.toLowerCase().includes(filter.toLowerCase()))
    .sort((a, b) => Number(a.trouble === null) - Number(b.trouble === null));
  const rows = useVirtualizer({ count: shown.length, getScrollElement: () => scroller.current, estimateSize: () => ROW, overscan: 12 });
  const setupId = model.names.setups.find(({ label, id }) => label === setup || id === setup)?.id;
  const testKey = model.names.tests.find(({ name, key }) => name === test || key === test)?.key;
  const number = /^\d+$/.test(run.trim()) ? Number(run) : undefined;
  const unclear = (setup !== "" && !setupId) || (test !== "" && !testKey) || (run !== "" && !(number && number >= 1));
  const choose = (path: string, stretch: boolean) => {
    const next = new Set(chosen);
    const paths = shown.map((line) => line.path);
    const [from, to] = [paths.indexOf(last ?? path), paths.indexOf(path)];
    if (stretch && from >= 0) for (const one of paths.slice(Math.min(from, to), Math.max(from, to) + 1)) next.add(one);
    else if (!next.delete(path)) next.add(path);
    setChosen(next);
    setLast(path);
  };
  const apply = (change: (i: number) => Correction) => {
    onCorrect(new Map(shown.filter(({ path }) => chosen.has(path)).map(({ path }, i) => [path, change(i)])));
    setChosen(new Set());
    setSetup("");
    setTest("");
    setRun("");
  };
  const ready = lines.filter(({ trouble }) => trouble === null).length;
  const all = shown.length > 0 && shown.every(({ path }) => chosen.has(path));
  return (
    <Box>
      <Flex mt="4" mb="2" gap="5" align="center" wrap="wrap">
        <Text fontWeight="600">
          {figure(ready, 0)} files have their place; {figure(lines.length - ready + left.length, 0)} are left over.
        </Text>
        <FilterField what="files" value={filter} onChange={setFilter} />
        {canUndo && (
          <chakra.button type="button" color="accent.fg" cursor="pointer" onClick={onUndo}>
            Undo the last correction
          </chakra.button>
        )}
      </Flex>
      {chosen.size > 0 && (
        <Flex gap="4" align="flex-end" wrap="wrap" bg="accentWash" px="3" py="2" mb="1" role="group" aria-label="Correct the chosen files">
          <Text fontWeight="600">{chosen.size} chosen</Text>
          <TextField label="setup" width="200px" value={setup} onChange={setSetup} list={`${ids}-setups`} placeholder="as it is" />
          <TextField label="test" width="240px" value={test} onChange={setTest} list={`${ids}-tests`} placeholder="as it is" />
          <TextField label="run, counted up" width="110px" value={run} onChange={setRun} placeholder="as it is" />
          <Button
            size="sm"
            disabled={unclear || (!setup && !test && !run)}
            onClick={() =>
              apply((i) => ({
                ...(setupId ? { setupId } : {}),
                ...(testKey ? { testKey } : {}),
                ...(number === undefined ? {} : { number: number + i }),
                leftOut: false,
              }))
            }
          >
            Put them there
          </Button>
          <Button size="sm" variant="outline" onClick={() => apply(() => ({ leftOut: true }))}>
            Leave them out
          </Button>
          {unclear && <Text color="doubt">Choose from the lab's own names; a run is a whole number.</Text>}
          <datalist id={`${ids}-setups`}>
            {model.names.setups.map(({ id, label }) => (
              <option key={id} value={label} />
            ))}
          </datalist>
          <datalist id={`${ids}-tests`}>
            {model.names.tests.map(({ key, name }) => (
              <option key={key} value={name} />
            ))}
          </datalist>
        </Flex>
      )}
      <Box as="ul" listStyleType="none">
        {left.slice(0, 100).map(({ path, reason }) => (
          <chakra.li key={path} color="doubt" py="0.5">
            {path}: {reason}
          </chakra.li>
        ))}
        {left.length > 100 && <chakra.li color="doubt">… and {figure(left.length - 100, 0)} more that are no logs</chakra.li>}
      </Box>
      <Flex as="label" gap="2" align="center" color="quiet" py="1">
        <chakra.input
          type="checkbox"
          checked={all}
          onChange={() => setChosen(all ? new Set() : new Set(shown.map(({ path }) => path)))}
          accentColor="var(--chakra-colors-accent-solid)"
        />
        all {figure(shown.length, 0)} shown
      </Flex>
      <Box ref={scroller} role="table" aria-label="Where each file belongs" aria-rowcount={shown.length} overflowY="auto" maxH="460px">
        <Box role="rowgroup" position="relative" h={`${rows.getTotalSize()}px`}>
          {rows.getVirtualItems().map(({ index, start }) => {
            const line = shown[index] as AssignedLine;
            const taken = line.trouble === null && model.taken[`${line.setupId}/${line.testKey}`]?.includes(line.number ?? 0);
            return (
              <Box
                key={line.path}
                role="row"
                aria-rowindex={index + 1}
                position="absolute"
                top="0"
                left="0"
                w="full"
                h={`${ROW}px`}
                transform={`translateY(${start}px)`}
                display="grid"
                gridTemplateColumns={{ base: "22px minmax(0, 1fr) minmax(0, 1fr)", md: "22px minmax(0, 3fr) minmax(0, 2fr) minmax(0, 2fr) 150px" }}
                gap="3"
                alignItems="center"
                borderTop="1px solid"
                borderColor="hairline"
                bg={chosen.has(line.path) ? "accentWash" : undefined}
                onClick={(event) => (event.target as HTMLElement).tagName !== "INPUT" && choose(line.path, event.shiftKey)}
                cursor="pointer"
              >
                <Box role="cell">
                  <chakra.input
                    type="checkbox"
                    aria-label={`Choose ${line.path}`}
                    checked={chosen.has(line.path)}
                    onChange={() => choose(line.path, false)}
                    accentColor="var(--chakra-colors-accent-solid)"
                  />
                </Box>
                <Text role="cell" truncate title={line.path}>
                  {line.path}
                </Text>
                {line.trouble ? (
                  <Text role="cell" color="doubt" gridColumn={{ md: "3 / -1" }} truncate title={line.trouble}>
                    {line.trouble}
                  </Text>
                ) : (
                  <>
                    <Text role="cell" truncate>
                      {labelOf(line.setupId)}
                    </Text>
                    <Text role="cell" truncate display={{ base: "none", md: "block" }}>
                      {testOf(line.testKey)}
                    </Text>
                    <Text role="cell" color={taken ? "doubt" : "quiet"} display={{ base: "none", md: "block" }}>
                      run {line.number}
                      {line.corrected ? ", corrected" : line.byOrder ? ", by order" : ""}
                      {taken ? ", is there" : ""}
                    </Text>
                  </>
                )}
              </Box>
            );
          })}
        </Box>
      </Box>
    </Box>
  );
}
