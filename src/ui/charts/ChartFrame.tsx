"use client";

import { Box, chakra, Flex, Text, VisuallyHidden } from "@chakra-ui/react";
import { type ReactNode, useRef, useState } from "react";
import { type RowChart, rowChartSvg } from "@/core/report";

/** A chart as a table: heads, and rows of a text with the number it is sorted by. */
export interface ChartTable {
  heads: string[];
  rows: { key: string; cells: { text: string; sort: number | string }[] }[];
}

function save(blob: Blob, name: string): void {
  const url = URL.createObjectURL(blob);
  const link = document.createElement("a");
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}

/** The shipped font as a data address: a picture made of an SVG sees nothing of the page's fonts. */
async function fontStyle(): Promise<string> {
  for (const sheet of document.styleSheets) {
    for (const rule of sheet.cssRules) {
      const source = rule instanceof CSSFontFaceRule && /Archivo/.test(rule.style.getPropertyValue("font-family")) ? rule.cssText : "";
      const url = /url\("?([^")]+)"?\)/.exec(source)?.[1];
      if (!url || !/latin-(?!ext)|U\+0+-00FF|U\+00-FF/i.test(`${url} ${source}`)) continue;
      const bytes = new Uint8Array(await (await fetch(new URL(url, sheet.href ?? location.href))).arrayBuffer());
      let binary = "";
      for (const byte of bytes) binary += String.fromCharCode(byte);
      return `<style>@font-face{font-family:'Archivo Variable';font-weight:100 900;src:url(data:font/woff2;base64,${btoa(binary)})}</style>`;
    }
  }
  return "";
}

/** An SVG as a PNG at twice its size. */
async function pngOf(svg: string): Promise<Blob> {
  const styled = svg.replace("<title>", `${await fontStyle().catch(() => "")}<title>`);
  const image = new Image();
  image.src = URL.createObjectURL(new Blob([styled], { type: "image/svg+xml" }));
  await image.decode();
  const canvas = document.createElement("canvas");
  canvas.width = image.naturalWidth * 2;
  canvas.height = image.naturalHeight * 2;
  const context = canvas.getContext("2d");
  context?.drawImage(image, 0, 0, canvas.width, canvas.height);
  URL.revokeObjectURL(image.src);
  return new Promise((resolve, reject) => canvas.toBlob((blob) => (blob ? resolve(blob) : reject(new Error("no picture came out"))), "image/png"));
}

/** A canvas of Chart.js as a PNG on the page's ground, with its conditions printed small underneath. */
async function canvasPng(source: HTMLCanvasElement, title: string, conditions: readonly string[]): Promise<Blob> {
  const ratio = source.width / source.clientWidth;
  const style = getComputedStyle(document.documentElement);
  const canvas = document.createElement("canvas");
  const [head, line] = [34 * ratio, 17 * ratio];
  canvas.width = source.width + 32 * ratio;
  canvas.height = source.height + head + (conditions.length + 1) * line;
  const context = canvas.getContext("2d");
  if (!context) throw new Error("this browser gives no canvas");
  context.fillStyle = style.getPropertyValue("--chakra-colors-paper").trim();
  context.fillRect(0, 0, canvas.width, canvas.height);
  context.fillStyle = style.getPropertyValue("--chakra-colors-ink").trim();
  context.font = `600 ${17 * ratio}px 'Archivo Variable', sans-serif`;
  context.fillText(title, 16 * ratio, 23 * ratio);
  context.drawImage(source, 16 * ratio, head);
  context.fillStyle = style.getPropertyValue("--chakra-colors-quiet").trim();
  context.font = `${11.5 * ratio}px 'Archivo Variable', sans-serif`;
  conditions.forEach((text, i) => {
    context.fillText(text, 16 * ratio, head + source.height + (i + 1) * line);
  });
  return new Promise((resolve, reject) => canvas.toBlob((blob) => (blob ? resolve(blob) : reject(new Error("no picture came out"))), "image/png"));
}

/** A sortable table. */
function SortableTable({ table, label }: { table: ChartTable; label: string }) {
  const [by, setBy] = useState<{ column: number; down: boolean } | undefined>(undefined);
  const rows = by
    ? [...table.rows].sort((a, b) => {
        const [x, y] = [a.cells[by.column]?.sort ?? 0, b.cells[by.column]?.sort ?? 0];
        const order = typeof x === "number" && typeof y === "number" ? x - y : String(x).localeCompare(String(y), "en", { numeric: true });
        return (by.down ? -order : order) || (a.key < b.key ? -1 : 1);
      })
    : table.rows;
  return (
    <Box overflowX="auto">
      <chakra.table
        aria-label={label}
        w="full"
        css={{
          "& th, & td": {
            padding: "4px 14px 4px 0",
            textAlign: "right",
            fontWeight: 400,
            borderTop: "1px solid var(--chakra-colors-hairline)",
            whiteSpace: "nowrap",
          },
          "& th:first-of-type, & td:first-of-type": { textAlign: "left" },
        }}
      >
        <thead>
          <tr>
            {table.heads.map((head, column) => (
              <th key={head} scope="col" aria-sort={by?.column === column ? (by.down ? "descending" : "ascending") : "none"}>
                <chakra.button
                  type="button"
                  color="quiet"
                  cursor="pointer"
                  onClick={() => setBy(by?.column === column ? (by.down ? { column, down: false } : undefined) : { column, down: true })}
                >
                  {head}
                  {by?.column === column ? (by.down ? " ↓" : " ↑") : ""}
                </chakra.button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.key}>
              {row.cells.map(({ text }, i) => (
                <td key={table.heads[i]}>
                  <Text as="span" textStyle={i === 0 ? undefined : "figure"}>
                    {text}
                  </Text>
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </chakra.table>
    </Box>
  );
}

/** A chart with what belongs to every chart: a summary for screen readers, its sortable table, and its pictures to take away. */
export function ChartFrame({
  title,
  summary,
  table,
  rowChart,
  conditions,
  children,
}: {
  title: string;
  /** What the chart says, in a sentence. */
  summary: string;
  table: ChartTable;
  /** Of a row chart: drawn anew as SVG for taking away. Others are taken as the canvas they are. */
  rowChart?: (() => RowChart) | undefined;
  conditions: readonly string[];
  children: ReactNode;
}) {
  const [asTable, setAsTable] = useState(false);
  const [trouble, setTrouble] = useState<string | undefined>(undefined);
  const holder = useRef<HTMLDivElement>(null);
  const name = title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "")
    .slice(0, 60);
  const take = async (kind: "svg" | "png") => {
    setTrouble(undefined);
    try {
      if (rowChart) {
        const svg = rowChartSvg(rowChart());
        save(kind === "svg" ? new Blob([svg], { type: "image/svg+xml" }) : await pngOf(svg), `${name}.${kind}`);
        return;
      }
      const canvas = holder.current?.querySelector("canvas");
      if (!canvas) throw new Error("there is no chart to take");
      save(await canvasPng(canvas, title, conditions), `${name}.png`);
    } catch (error) {
      setTrouble(`The picture could not be made: ${(error as Error).message}.`);
    }
  };
  const button = { type: "button", color: "quiet", cursor: "pointer", _hover: { color: "ink" } } as const;
  return (
    <Box as="section" aria-label={title}>
      <VisuallyHidden>{summary}</VisuallyHidden>
      <Box ref={holder} display={asTable ? "none" : undefined}>
        {children}
      </Box>
      {asTable && <SortableTable table={table} label={`${title}, as a table`} />}
      <Flex gap="4" mt="2" textStyle="small" justify="flex-end">
        {trouble && (
          <Text role="alert" color="doubt">
            {trouble}
          </Text>
        )}
        <chakra.button {...button} aria-pressed={asTable} onClick={() => setAsTable(!asTable)}>
          {asTable ? "as a chart" : "as a table"}
        </chakra.button>
        <chakra.button {...button} onClick={() => void take("png")}>
          PNG
        </chakra.button>
        {rowChart && (
          <chakra.button {...button} onClick={() => void take("svg")}>
            SVG
          </chakra.button>
        )}
      </Flex>
    </Box>
  );
}
