"use client";

import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { useRouter } from "next/navigation";
import { type ClipboardEvent, type KeyboardEvent, useEffect, useMemo, useRef, useState } from "react";
import { parseSlot, splitBlock } from "@/core/intake";
import { figure, type ReviewSetup, type ReviewTest } from "@/core/report";
import { Trouble } from "../forms/fields";
import { KeyHint, StepFoot, StepHead } from "../review/controls";
import { type SlotEdit, useKeptState, useReview } from "../review/ReviewContext";
import { SpineCell } from "../review/SpineCell";
import { useKeys } from "../review/useKeys";
import { type GridHandle, VirtualGrid } from "./VirtualGrid";
import { filledSlots, type Slot, type SlotColumn, slotAt, slotColumns, slotKey } from "./valueSlots";

/** One change of some slots, with what stood there before. */
interface Change {
  setupId: string;
  testKey: string;
  number: number;
  before: string;
  after: string;
}

/** A slot as it will read once it is written. */
function asTyped(text: string, unit: string, seen: number | null): Slot {
  const parsed = parseSlot(text, unit);
  if (!parsed.ok || parsed.value.kind === "empty") return { text: "", shown: "", fixed: false, seen, state: "empty" };
  if (parsed.value.kind === "failed") return { text, shown: "failed", fixed: false, seen, state: "failed" };
  return { text, shown: figure(parsed.value.value.value), fixed: false, seen, state: "valid" };
}

/**
 * The grid as a sheet to type into, one slot a run: values with unit, times, sizes, `failed: why`. Blocks are pasted from a
 * spreadsheet and copied to one, filled down, undone and redone; each change is written at once, all of it or none.
 */
export function ValueSheet({ setups, tests, onClose }: { setups: ReviewSetup[]; tests: ReviewTest[]; onClose: () => void }) {
  const { model, actions } = useReview();
  const router = useRouter();
  const grid = useRef<GridHandle>(null);
  const field = useRef<HTMLInputElement>(null);
  const columns = useMemo(() => slotColumns(model, tests), [model, tests]);
  const filled = useMemo(() => filledSlots(model), [model]);
  const [fresh, setFresh] = useState<ReadonlyMap<string, Slot>>(new Map());
  const [editing, setEditing] = useState<{ row: number; column: number; text: string } | undefined>(undefined);
  const [anchor, setAnchor] = useKeptState<[number, number]>("values anchor", [0, 0]);
  const [at, setAt] = useKeptState<[number, number]>("values at", [0, 0]);
  const [trouble, setTrouble] = useState<string | undefined>(undefined);
  const [saving, setSaving] = useState(0);
  const [undos, setUndos] = useKeptState<Change[][]>("values undos", []);
  const [redos, setRedos] = useKeptState<Change[][]>("values redos", []);
  // What the lab has now holds; slots typed meanwhile are part of it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new model makes the fresh slots part of it
  useEffect(() => setFresh(new Map()), [filled]);

  // The sheet is for the keyboard: it takes the focus, where it was before if it was open before.
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when the sheet opens
  useEffect(() => grid.current?.focus(at[0], at[1]), []);

  const slot = (row: number, column: number) => slotAt(filled, fresh, setups[row] as ReviewSetup, columns[column] as SlotColumn);

  const write = async (changes: Change[]): Promise<boolean> => {
    const unitOf = new Map(tests.map(({ key, unit }) => [key, unit]));
    const seenOf = ({ setupId, testKey, number }: Change) => {
      const key = slotKey(setupId, testKey, number);
      return (fresh.get(key) ?? filled.get(key))?.seen ?? null;
    };
    const edits = changes.map(
      (change): SlotEdit => ({
        setupId: change.setupId,
        testKey: change.testKey,
        number: change.number,
        text: change.after,
        seen: seenOf(change),
      }),
    );
    for (const { testKey, text } of edits) {
      const parsed = parseSlot(text, unitOf.get(testKey) ?? "");
      if (!parsed.ok) {
        setTrouble(`${parsed.problem.reason}. Nothing was written.`);
        return false;
      }
    }
    setTrouble(undefined);
    setSaving((n) => n + 1);
    const answer = await actions.enterValues({ edits });
    setSaving((n) => n - 1);
    if (!answer.ok) {
      setTrouble(answer.sentence);
      return false;
    }
    const versions = new Map(answer.value.written.map(({ slot: key, rowVersion }) => [key, rowVersion]));
    setFresh((now) => {
      const next = new Map(now);
      for (const { setupId, testKey, number, after } of changes) {
        const key = slotKey(setupId, testKey, number);
        next.set(key, asTyped(after, unitOf.get(testKey) ?? "", versions.get(key) ?? null));
      }
      return next;
    });
    router.refresh();
    return true;
  };
  const change = async (changes: Change[]) => {
    const real = changes.filter(({ before, after }) => before !== after.trim());
    if (real.length === 0) return;
    if (await write(real)) {
      setUndos((list) => [...list, real]);
      setRedos([]);
    }
  };
  const turned = (changes: Change[]) => changes.map((one) => ({ ...one, before: one.after, after: one.before }));
  const undo = async () => {
    const last = undos.at(-1);
    if (last && (await write(turned(last)))) {
      setUndos((list) => list.slice(0, -1));
      setRedos((list) => [...list, last]);
    }
  };
  const redo = async () => {
    const last = redos.at(-1);
    if (last && (await write(last))) {
      setRedos((list) => list.slice(0, -1));
      setUndos((list) => [...list, last]);
    }
  };

  /** The change of one slot, or why it may not be typed into. */
  const changeAt = (row: number, column: number, after: string): Change | undefined => {
    const [setup, head] = [setups[row], columns[column]];
    if (!setup || !head) return undefined;
    const { text, fixed } = slot(row, column);
    if (fixed) {
      setTrouble(`${setup.label}, ${head.test.name}, run ${head.number} comes from a log or a run sheet; discard it in its own view.`);
      return undefined;
    }
    return { setupId: setup.id, testKey: head.test.key, number: head.number, before: text, after };
  };
  const area = {
    top: Math.min(anchor[0], at[0]),
    bottom: Math.max(anchor[0], at[0]),
    left: Math.min(anchor[1], at[1]),
    right: Math.max(anchor[1], at[1]),
  };
  const inArea = (row: number, column: number) => row >= area.top && row <= area.bottom && column >= area.left && column <= area.right;
  const changesOf = (texts: (row: number, column: number) => string | undefined, rows: number[], across: number[]): Change[] | undefined => {
    const changes: Change[] = [];
    for (const row of rows) {
      for (const column of across) {
        const text = texts(row, column);
        if (text === undefined) continue;
        const one = changeAt(row, column, text);
        if (!one) return undefined;
        changes.push(one);
      }
    }
    return changes;
  };
  const range = (from: number, to: number) => Array.from({ length: to - from + 1 }, (_, i) => from + i);
  const clear = () => {
    const changes = changesOf(() => "", range(area.top, area.bottom), range(area.left, area.right));
    if (changes) void change(changes);
  };
  const fillDown = () => {
    const bottom = area.bottom === area.top ? Math.min(setups.length - 1, area.top + 1) : area.bottom;
    const changes = changesOf((_, column) => slot(area.top, column).text, range(area.top + 1, bottom), range(area.left, area.right));
    if (changes) void change(changes);
  };
  const paste = (event: ClipboardEvent) => {
    if (editing) return;
    event.preventDefault();
    const block = splitBlock(event.clipboardData.getData("text/plain"));
    const width = Math.max(0, ...block.map((line) => line.length));
    if (block.length === 0 || width === 0) return;
    if (area.top + block.length > setups.length || area.left + width > columns.length) {
      setTrouble(`The block has ${block.length} rows and ${width} columns and reaches beyond the sheet from here. Nothing was written.`);
      return;
    }
    const changes = changesOf(
      (row, column) => block[row - area.top]?.[column - area.left],
      range(area.top, area.top + block.length - 1),
      range(area.left, area.left + width - 1),
    );
    if (changes) void change(changes);
  };
  const copy = (event: ClipboardEvent) => {
    if (editing) return;
    event.preventDefault();
    const lines = range(area.top, area.bottom).map((row) =>
      range(area.left, area.right)
        .map((column) => slot(row, column).text)
        .join("\t"),
    );
    event.clipboardData.setData("text/plain", lines.join("\n"));
  };

  const edit = (row: number, column: number, text: string) => {
    if (!changeAt(row, column, text)) return;
    setTrouble(undefined);
    setEditing({ row, column, text });
  };
  useEffect(() => {
    if (editing) field.current?.focus();
  }, [editing]);
  const commit = async (then: [number, number]) => {
    if (!editing) return;
    const { row, column, text } = editing;
    const parsed = parseSlot(text, columns[column]?.test.unit ?? "");
    if (!parsed.ok) return setTrouble(`${parsed.problem.reason}.`);
    const one = changeAt(row, column, text.trim());
    setEditing(undefined);
    setAnchor([row + then[0], column + then[1]]);
    grid.current?.focus(row + then[0], column + then[1]);
    if (one) await change([one]);
  };
  const onKeyDown = (event: KeyboardEvent, row: number, column: number) => {
    if (editing) {
      const moves: Record<string, [number, number]> = { Enter: [1, 0], Tab: [0, event.shiftKey ? -1 : 1] };
      const move = moves[event.key];
      if (move) {
        event.preventDefault();
        void commit(move);
      } else if (event.key === "Escape") {
        event.stopPropagation();
        setEditing(undefined);
        grid.current?.focus(row, column);
      }
      return;
    }
    const control = event.ctrlKey || event.metaKey;
    const run = (work: () => void) => {
      event.preventDefault();
      work();
    };
    if (control && event.key === "z") return run(() => void undo());
    if (control && (event.key === "y" || event.key === "Z")) return run(() => void redo());
    if (control && event.key === "d") return run(fillDown);
    if (control) return;
    if (event.key === "Delete" || event.key === "Backspace") return run(clear);
    if (event.key === "Enter" || event.key === "F2") return run(() => edit(row, column, slot(row, column).text));
    if (event.key === "f") return run(() => edit(row, column, "failed: "));
    if (/^[\d.,]$/.test(event.key)) return run(() => edit(row, column, event.key));
  };
  useKeys({ Escape: onClose });

  const typedHere = columns[at[1]] && setups[at[0]] ? slot(at[0], at[1]) : undefined;
  return (
    <Box onPaste={paste} onCopy={copy}>
      <StepHead title="Type values">
        <Text color="quiet">one column a run; a value with or without unit, mm:ss, a size after a slash, or failed: why</Text>
        <Flex ml="auto" gap="4">
          <chakra.button type="button" cursor="pointer" disabled={undos.length === 0} _disabled={{ color: "quiet" }} onClick={() => void undo()}>
            Undo
          </chakra.button>
          <chakra.button type="button" cursor="pointer" disabled={redos.length === 0} _disabled={{ color: "quiet" }} onClick={() => void redo()}>
            Redo
          </chakra.button>
          <chakra.button type="button" color="accent.fg" cursor="pointer" onClick={onClose}>
            Back to the cells
          </chakra.button>
        </Flex>
      </StepHead>
      <VirtualGrid
        ref={grid}
        label="Values to type"
        rows={setups}
        columns={columns}
        rowHeight={40}
        columnWidth={88}
        headHeight={50}
        onMove={(row, column, selecting) => {
          setAt([row, column]);
          if (!selecting) setAnchor([row, column]);
        }}
        onKeyDown={onKeyDown}
        spineHead="Setup"
        head={(c) => {
          const column = columns[c];
          return (
            column && (
              <>
                {column.first && (
                  <Box as="span" display="block" overflow="hidden" css={{ display: "-webkit-box", WebkitLineClamp: 2, WebkitBoxOrient: "vertical" }}>
                    {column.test.name}
                  </Box>
                )}
                <Box as="span" display="block" color="quiet">
                  run {column.number}, {column.test.unit}
                </Box>
              </>
            )
          );
        }}
        rowStyle={() => ({})}
        spine={(r) => <SpineCell setup={setups[r] as ReviewSetup} />}
        cell={(r, c, { key, ...props }) => {
          const column = columns[c] as SlotColumn;
          const one = slot(r, c);
          const now = editing?.row === r && editing.column === c;
          const name = `${setups[r]?.label}, ${column.test.name}, run ${column.number}: ${one.text || "empty"}${one.fixed ? ", from a log" : ""}`;
          return now ? (
            <Box key={key as string} role="gridcell" {...(props as { style: Record<string, string> })} zIndex="2" tabIndex={-1}>
              <chakra.input
                ref={field}
                value={editing.text}
                aria-label={`Value of ${setups[r]?.label}, ${column.test.name}, run ${column.number}`}
                onChange={(event) => setEditing({ ...editing, text: event.currentTarget.value })}
                onBlur={() => editing && void commit([0, 0])}
                w="full"
                minW={editing.text.length > 9 ? `${editing.text.length + 3}ch` : undefined}
                h="full"
                px="1"
                textAlign="right"
                bg="raised"
                outline="2px solid var(--chakra-colors-accent-solid)"
              />
            </Box>
          ) : (
            <chakra.button
              key={key as string}
              {...props}
              type="button"
              aria-label={name}
              aria-selected={inArea(r, c)}
              data-slot={slotKey(setups[r]?.id ?? "", column.test.key, column.number)}
              onClick={(event) => {
                setAt([r, c]);
                if (!event.shiftKey) setAnchor([r, c]);
              }}
              onDoubleClick={() => edit(r, c, one.text)}
              // Inside the slot: outside it the standing heads would cover half of it.
              _focusVisible={{ outlineOffset: "-2px" }}
              px="1"
              textAlign="right"
              borderLeft={column.first ? "1px solid" : undefined}
              borderColor="hairline"
              bg={inArea(r, c) ? "accentWash" : undefined}
              color={one.state === "failed" ? "doubt" : one.fixed ? "quiet" : "ink"}
              textDecoration={one.state === "discarded" ? "line-through" : undefined}
              textStyle="figure"
              fontSize="15px"
              whiteSpace="nowrap"
              overflow="hidden"
            >
              {one.shown}
            </chakra.button>
          );
        }}
      />
      <Trouble text={trouble} />
      <Text mt="2" color="quiet" role="status">
        {saving > 0 ? "Writing …" : typedHere?.text ? `${typedHere.text}${typedHere.fixed ? ", from a log" : ""}` : "\u00a0"}
      </Text>
      <StepFoot legend="Quiet figures come from logs and are not typed over. Each change is written at once; doubts are checked anew.">
        <KeyHint keys="0 … 9" does="type" />
        <KeyHint keys="F" does="failed, why" />
        <KeyHint keys="Del" does="clear" />
        <KeyHint keys="Ctrl D" does="fill down" />
        <KeyHint keys="Ctrl Z" does="undo" />
        <KeyHint keys="Esc" does="back" />
      </StepFoot>
    </Box>
  );
}
