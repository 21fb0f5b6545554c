"use client";

import { Box, Button, chakra, Flex, Text } from "@chakra-ui/react";
import { closestCenter, DndContext, type DragEndEvent, KeyboardSensor, PointerSensor, useDroppable, useSensor, useSensors } from "@dnd-kit/core";
import { arrayMove, SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { GripVertical, X } from "lucide-react";
import { useState } from "react";
import type { SuiteLine, TestLine } from "@/core/report";
import { idOf, TextField, Trouble, useAction } from "../forms/fields";
import type { ActionAnswer } from "../review/ReviewContext";

interface Entry {
  testKey: string;
  runs: number;
}

interface Props {
  suite: SuiteLine | undefined;
  tests: TestLine[];
  /** What a clone begins with. */
  from: SuiteLine | undefined;
  editSuite: (input: unknown) => Promise<ActionAnswer<{ rowVersion: number }>>;
  onClose: (id?: string) => void;
}

/** A suite being made: tests are dragged from the lab's list into it and up and down within it, by mouse or keyboard; run counts stand beside them. */
export function SuiteEditor({ suite, tests, from, editSuite, onClose }: Props) {
  const { busy, trouble, act } = useAction();
  const [name, setName] = useState(suite?.name ?? (from ? `${from.name}, again` : ""));
  const [entries, setEntries] = useState<Entry[]>(suite?.tests ?? from?.tests ?? []);
  const [filter, setFilter] = useState("");
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const testOf = new Map(tests.map((test) => [test.key, test]));
  const chosenIds = new Set(entries.map(({ testKey }) => testOf.get(testKey)?.id));
  const offered = tests.filter(
    (test) =>
      test.newest &&
      !chosenIds.has(test.id) &&
      `${test.name} ${test.group} ${test.resolution ?? ""} ${test.preset ?? ""}`.toLowerCase().includes(filter.trim().toLowerCase()),
  );
  const add = (keys: string[], at = entries.length) =>
    setEntries((now) => [...now.slice(0, at), ...keys.map((testKey) => ({ testKey, runs: 3 })), ...now.slice(at)]);
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (!over) return;
    const [key, target] = [String(active.id), String(over.id)];
    const to = entries.findIndex(({ testKey }) => testKey === target);
    const own = entries.findIndex(({ testKey }) => testKey === key);
    if (own >= 0) {
      if (to >= 0) setEntries(arrayMove(entries, own, to));
    } else if (target === "suite" || to >= 0) add([key], to >= 0 ? to : entries.length);
  };
  const save = async () => {
    const id = suite?.id ?? idOf(name);
    const saved = await act(() => editSuite({ id, name, rowVersion: suite?.rowVersion ?? 0, tests: entries }));
    if (saved) onClose(id);
  };
  const runs = entries.reduce((sum, entry) => sum + entry.runs, 0);
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
      <Flex gap="10" direction={{ base: "column", lg: "row" }} align="stretch">
        <Box flex="1" minW="0">
          <Flex gap="4" align="end" mb="2">
            <TextField label="filter the lab's tests" value={filter} onChange={setFilter} />
            <Button size="xs" variant="outline" disabled={offered.length === 0} onClick={() => add(offered.map(({ key }) => key))} flexShrink="0">
              Add all {offered.length}
            </Button>
          </Flex>
          <Box maxH="60vh" overflowY="auto" aria-label="Tests of the lab">
            <SortableContext items={offered.map(({ key }) => key)} strategy={verticalListSortingStrategy}>
              {offered.map((test) => (
                <Draggable key={test.key} id={test.key}>
                  <Text flex="1" truncate>
                    {test.name}
                    <Box as="span" color="quiet">
                      {` ${[test.group, test.preset, test.version > 1 ? `version ${test.version}` : ""].filter(Boolean).join(", ")}`}
                    </Box>
                  </Text>
                  <Button size="2xs" variant="outline" aria-label={`Add ${test.name}`} onClick={() => add([test.key])}>
                    Add
                  </Button>
                </Draggable>
              ))}
            </SortableContext>
            {offered.length === 0 && <Text color="quiet">{tests.length === 0 ? "The lab has no tests yet; define some first." : "No other test fits."}</Text>}
          </Box>
        </Box>
        <Box flex="1" minW="0">
          <TextField label="name of the suite" value={name} onChange={setName} />
          <Text color="quiet" mt="2" mb="1">
            {entries.length} tests, {runs} runs a row. Drag to order; Space lifts a line, arrows move it.
          </Text>
          <DropArea>
            <SortableContext items={entries.map(({ testKey }) => testKey)} strategy={verticalListSortingStrategy}>
              {entries.map(({ testKey, runs: count }) => (
                <Draggable key={testKey} id={testKey}>
                  <Text flex="1" truncate>
                    {testOf.get(testKey)?.name ?? testKey}
                  </Text>
                  <chakra.input
                    type="number"
                    min={1}
                    max={100}
                    value={count}
                    aria-label={`Runs of ${testOf.get(testKey)?.name ?? testKey}`}
                    onChange={(event) => {
                      const value = Math.max(1, Math.min(100, Math.round(Number(event.currentTarget.value) || 1)));
                      setEntries((now) => now.map((entry) => (entry.testKey === testKey ? { ...entry, runs: value } : entry)));
                    }}
                    w="52px"
                    textAlign="right"
                    bg="transparent"
                    borderBottom="1px solid"
                    borderColor="tick"
                  />
                  <chakra.button
                    type="button"
                    minW="26px"
                    minH="26px"
                    aria-label={`Take ${testOf.get(testKey)?.name ?? testKey} out`}
                    cursor="pointer"
                    color="quiet"
                    onClick={() => setEntries((now) => now.filter((entry) => entry.testKey !== testKey))}
                  >
                    <X size={15} />
                  </chakra.button>
                </Draggable>
              ))}
            </SortableContext>
            {entries.length === 0 && (
              <Text color="quiet" py="6" textAlign="center">
                Drag tests here.
              </Text>
            )}
          </DropArea>
          {suite && suite.reviews.length > 0 && (
            <Text color="doubt" mt="2">
              {suite.reviews.map(({ title }) => title).join(", ")} {suite.reviews.length === 1 ? "goes" : "go"} by this suite and would change with it. Clone it
              to keep their history comparable.
            </Text>
          )}
          <Flex gap="3" mt="4">
            <Button size="sm" disabled={busy || name.trim() === ""} onClick={() => void save()}>
              {suite ? "Save the suite" : "Make the suite"}
            </Button>
            <Button size="sm" variant="outline" onClick={() => onClose()}>
              Leave it
            </Button>
          </Flex>
          <Trouble text={trouble} />
        </Box>
      </Flex>
    </DndContext>
  );
}

function DropArea({ children }: { children: React.ReactNode }) {
  const { setNodeRef, isOver } = useDroppable({ id: "suite" });
  return (
    <Box
      ref={setNodeRef}
      minH="160px"
      maxH="52vh"
      overflowY="auto"
      border="1px solid"
      borderColor={isOver ? "accent.solid" : "hairline"}
      px="2"
      aria-label="Tests of the suite"
    >
      {children}
    </Box>
  );
}

/** A line that can be dragged by its handle, by mouse, finger or keyboard. */
function Draggable({ id, children }: { id: string; children: React.ReactNode }) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({ id });
  return (
    <Flex
      ref={setNodeRef}
      style={{ transform: CSS.Transform.toString(transform), transition: transition ?? undefined, zIndex: isDragging ? 2 : undefined, position: "relative" }}
      bg={isDragging ? "accentWash" : undefined}
      align="center"
      gap="2"
      minH="30px"
      borderBottom="1px solid"
      borderColor="hairline"
      data-test={id}
    >
      <chakra.button
        ref={setActivatorNodeRef}
        type="button"
        minW="26px"
        minH="26px"
        cursor="grab"
        color="quiet"
        {...attributes}
        {...listeners}
        aria-label={`Move ${id}`}
      >
        <GripVertical size={15} />
      </chakra.button>
      {children}
    </Flex>
  );
}
