import { columnTypes, type Value } from "./columns";
import { RESOURCES, type Resource } from "./resources";
import type { ExchangeRow } from "./validatePackage";

/** Quotes a CSV cell where it must be (RFC 4180). */
function csvCell(text: string): string {
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

/** Orders two parsed values: not known first, numbers by size, text by code unit. */
function compareValues(a: Value, b: Value): number {
  if (a === b) return 0;
  if (a === null) return -1;
  if (b === null) return 1;
  return a < b ? -1 : 1;
}

/** Writes a resource as CSV: all its columns in the format's order, then the authors' own by name; rows sorted by key. */
export function writeTable(resource: Resource, rows: readonly ExchangeRow[]): string {
  const own = [...new Set(rows.flatMap(({ extra }) => Object.keys(extra ?? {})))].sort();
  const sorted = [...rows].sort((a, b) => {
    for (const column of resource.key) {
      const order = compareValues(a.values[column] ?? null, b.values[column] ?? null);
      if (order !== 0) return order;
    }
    return 0;
  });
  const lines = sorted.map((row) =>
    [
      ...resource.columns.map(({ name, type }) => {
        const value = row.values[name] ?? null;
        return value === null ? "" : csvCell(columnTypes[type].write(value));
      }),
      ...own.map((name) => csvCell(row.extra?.[name] ?? "")),
    ].join(","),
  );
  return `${[[...resource.columns.map(({ name }) => name), ...own].join(","), ...lines].join("\n")}\n`;
}

/** Writes frame times as the format's one-column log; numbers in their shortest form that reads back bit for bit. */
export function writeFrameLog(frameTimesMs: Float64Array): string {
  return `frame_time_ms\n${frameTimesMs.join("\n")}\n`;
}

/** Writes sensor channels beside their times; gaps stay empty. */
export function writeSensorLog(timeS: Float64Array, channels: readonly { name: string; values: Float64Array }[]): string {
  const lines = [["t_s", ...channels.map(({ name }) => name)].join(",")];
  for (let i = 0; i < timeS.length; i += 1) {
    const cells = channels.map(({ values }) => (Number.isNaN(values[i]) ? "" : String(values[i])));
    lines.push([String(timeS[i]), ...cells].join(","));
  }
  return `${lines.join("\n")}\n`;
}

/** The `datapackage.json` of an export: the resources that hold rows, with their fields and keys. */
export function writeManifest(name: string, resourceNames: readonly string[]): string {
  const resources = RESOURCES.filter((resource) => resourceNames.includes(resource.name)).map((resource) => ({
    name: resource.name,
    path: `${resource.name}.csv`,
    format: "csv",
    mediatype: "text/csv",
    encoding: "utf-8",
    schema: {
      fields: resource.columns.map((column) => ({
        name: column.name,
        description: columnTypes[column.type].expected,
        ...(column.required ? { constraints: { required: true } } : {}),
      })),
      primaryKey: resource.key,
    },
  }));
  return `${JSON.stringify({ name, parvex_format: 1, resources }, null, 2)}\n`;
}
