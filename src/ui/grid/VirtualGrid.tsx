"use client";

import { Box } from "@chakra-ui/react";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, type ReactNode, type Ref, useCallback, useEffect, useImperativeHandle, useLayoutEffect, useRef, useState } from "react";

/** What a grid answers to from outside. */
export interface GridHandle {
  /** Moves the focus to a cell, drawn already or not. */
  focus: (row: number, column: number) => void;
}

/** A band over neighbouring columns. */
export interface Band {
  name: string;
  from: number;
  count: number;
}

const SPINE = 240;
const SPINE_NARROW = 150;
const TAIL = 84;
const BAND = 22;
/** The last column stands still at the right as the first does at the left: what is left to do is always in sight. */
const TAIL_CELL = {
  position: "sticky",
  right: "0",
  ml: "auto",
  flexShrink: "0",
  zIndex: "1",
  display: "flex",
  flexDirection: "column",
  textAlign: "right",
  borderLeft: "1px solid",
  borderLeftColor: "hairline",
} as const;

/**
 * A grid whose heads stand still while its cells scroll; only what is in sight is drawn, so that sixty rows of a hundred and
 * twenty columns move as freely as six of fourteen. Arrows move, with Shift they select.
 */
export function VirtualGrid({
  label,
  rows,
  columns,
  rowHeight,
  columnWidth,
  headHeight,
  bands,
  head,
  spineHead,
  tailHead,
  spine,
  tail,
  cell,
  rowStyle,
  onMove,
  onKeyDown,
  ref,
}: {
  label: string;
  rows: { id: string }[];
  columns: { key: string }[];
  rowHeight: number;
  columnWidth: number;
  headHeight: number;
  bands?: Band[] | undefined;
  head: (column: number) => ReactNode;
  spineHead: ReactNode;
  tailHead?: ReactNode;
  spine: (row: number) => ReactNode;
  /** What stands at the right end of a row; no column of its own where not given. */
  tail?: ((row: number) => ReactNode) | undefined;
  /** One cell; `props` put it in its place and make it reachable by keyboard. */
  cell: (row: number, column: number, props: Record<string, unknown>) => ReactNode;
  rowStyle: (row: number) => Record<string, unknown>;
  onMove?: ((row: number, column: number, selecting: boolean) => void) | undefined;
  onKeyDown?: ((event: KeyboardEvent, row: number, column: number) => void) | undefined;
  ref?: Ref<GridHandle>;
}) {
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(1240);
  const [at, setAt] = useState<[number, number]>([0, 0]);
  const wanted = useRef<[number, number] | undefined>(undefined);
  useLayoutEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    setWidth(element.clientWidth);
    return () => observer.disconnect();
  }, []);
  const spineWidth = width < 600 ? SPINE_NARROW : SPINE;
  const tailWidth = width < 600 || !tail ? 0 : TAIL;
  const each = Math.max(columnWidth, Math.floor((width - spineWidth - tailWidth) / Math.max(1, columns.length)));
  const bandHeight = bands ? BAND : 0;
  const top = headHeight + bandHeight;
  const across = useVirtualizer({
    horizontal: true,
    count: columns.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => each,
    overscan: 3,
    paddingStart: spineWidth,
    scrollPaddingStart: spineWidth,
    scrollPaddingEnd: tailWidth,
    initialRect: { width: 1240, height: 700 },
  });
  const down = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 4,
    paddingStart: top,
    scrollPaddingStart: top,
    initialRect: { width: 1240, height: 700 },
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: sizes changed, places are to be measured anew
  useEffect(() => across.measure(), [each, spineWidth]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: sizes changed, places are to be measured anew
  useEffect(() => down.measure(), [rowHeight, top]);

  const focus = useCallback(
    (row: number, column: number, selecting = false) => {
      const next: [number, number] = [Math.max(0, Math.min(rows.length - 1, row)), Math.max(0, Math.min(columns.length - 1, column))];
      setAt(next);
      wanted.current = next;
      down.scrollToIndex(next[0]);
      across.scrollToIndex(next[1]);
      onMove?.(next[0], next[1], selecting);
    },
    [rows.length, columns.length, down, across, onMove],
  );
  useImperativeHandle(ref, () => ({ focus }), [focus]);
  // A cell out of sight is drawn only after the grid has scrolled to it: the focus waits for it.
  useEffect(() => {
    if (!wanted.current) return;
    const target = scroller.current?.querySelector<HTMLElement>(`[data-cell="${wanted.current[0]}-${wanted.current[1]}"]`);
    if (!target) return;
    wanted.current = undefined;
    target.focus({ preventScroll: true });
  });

  const keys = (event: KeyboardEvent) => {
    const page = Math.max(1, Math.floor(((scroller.current?.clientHeight ?? 400) - top) / rowHeight) - 1);
    const moves: Record<string, [number, number]> = {
      ArrowUp: [-1, 0],
      ArrowDown: [1, 0],
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
      PageUp: [-page, 0],
      PageDown: [page, 0],
      Home: [0, -columns.length],
      End: [0, columns.length],
    };
    const move = moves[event.key];
    const inField = (event.target as HTMLElement).tagName === "INPUT";
    if (!move || inField || event.ctrlKey || event.metaKey) return onKeyDown?.(event, at[0], at[1]);
    event.preventDefault();
    focus(at[0] + move[0], at[1] + move[1], event.shiftKey);
  };

  const totalWidth = spineWidth + each * columns.length + tailWidth;
  const drawnColumns = across.getVirtualItems();
  return (
    <Box
      ref={scroller}
      role="grid"
      aria-label={label}
      aria-rowcount={rows.length + 1}
      aria-colcount={columns.length + (tail ? 2 : 1)}
      onKeyDown={keys}
      overflow="auto"
      maxH="max(320px, calc(100dvh - 236px))"
      mx={{ base: -3, md: 0 }}
      position="relative"
    >
      <Box role="presentation" position="relative" w={`${totalWidth}px`} h={`${down.getTotalSize()}px`}>
        <Box role="row" aria-rowindex={1} position="sticky" top="0" zIndex="3" bg="paper" h={`${top}px`} w={`${totalWidth}px`} display="flex">
          {bands?.map((band) => (
            <Box
              key={band.name}
              role="presentation"
              position="absolute"
              top="0"
              left={`${spineWidth + band.from * each}px`}
              w={`${band.count * each}px`}
              h={`${BAND}px`}
              borderLeft="1px solid"
              borderColor="tick"
              pl="1"
              textStyle="small"
              color="quiet"
              // Clipped rather than hidden: a hidden overflow would be what the name sticks to, not the grid.
              overflowX="clip"
              whiteSpace="nowrap"
            >
              <Box as="span" position="sticky" left={`${spineWidth + 6}px`}>
                {band.name}
              </Box>
            </Box>
          ))}
          <Box
            role="columnheader"
            aria-colindex={1}
            position="sticky"
            left="0"
            w={`${spineWidth}px`}
            flexShrink="0"
            h={`${top}px`}
            bg="paper"
            zIndex="2"
            color="quiet"
            display="flex"
            alignItems="flex-end"
            pb="1"
            pl={spineWidth === SPINE ? "34px" : "2"}
          >
            {spineHead}
          </Box>
          {drawnColumns.map(({ index, start }) => (
            <Box
              key={columns[index]?.key}
              role="columnheader"
              aria-colindex={index + 2}
              position="absolute"
              top={`${bandHeight}px`}
              left={`${start}px`}
              w={`${each}px`}
              h={`${headHeight}px`}
              display="flex"
              flexDirection="column"
              justifyContent="flex-end"
              textAlign="right"
              px="1"
              pb="1"
              textStyle="small"
              lineHeight="15px"
            >
              {head(index)}
            </Box>
          ))}
          {tailWidth > 0 && (
            <Box
              role="columnheader"
              aria-colindex={columns.length + 2}
              {...TAIL_CELL}
              w={`${tailWidth}px`}
              h={`${top}px`}
              bg="paper"
              justifyContent="flex-end"
              pb="1"
              textStyle="small"
              color="quiet"
            >
              {tailHead}
            </Box>
          )}
        </Box>
        {down.getVirtualItems().map(({ index: row, start }) => (
          <Box
            key={rows[row]?.id}
            role="row"
            aria-rowindex={row + 2}
            position="absolute"
            top="0"
            left="0"
            w={`${totalWidth}px`}
            h={`${rowHeight}px`}
            transform={`translateY(${start}px)`}
            borderTop="1px solid"
            borderColor="hairline"
            display="flex"
            {...rowStyle(row)}
          >
            <Box
              role="rowheader"
              aria-colindex={1}
              position="sticky"
              left="0"
              zIndex="1"
              w={`${spineWidth}px`}
              flexShrink="0"
              h="full"
              bg="paper"
              {...rowStyle(row)}
            >
              {spine(row)}
            </Box>
            {drawnColumns.map(({ index: column, start: left }) =>
              cell(row, column, {
                key: columns[column]?.key,
                role: "gridcell",
                "aria-colindex": column + 2,
                "data-cell": `${row}-${column}`,
                tabIndex: row === at[0] && column === at[1] ? 0 : -1,
                onFocus: () => setAt([row, column]),
                style: { position: "absolute", top: 0, left: `${left}px`, width: `${each}px`, height: "100%" },
              }),
            )}
            {tail && tailWidth > 0 && (
              <Box
                role="gridcell"
                aria-colindex={columns.length + 2}
                {...TAIL_CELL}
                w={`${tailWidth}px`}
                h="full"
                bg="paper"
                justifyContent="center"
                {...rowStyle(row)}
              >
                {tail(row)}
              </Box>
            )}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
