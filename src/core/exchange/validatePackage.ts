import { amountToDecimal, parseAmount } from "@/core/units";
import { columnTypes, type Value } from "./columns";
import { RESOURCES, type Resource, resourceNamed } from "./resources";

/** A row once parsed: every column of its resource, null where not known, and the author's own `x_` columns as text. */
export interface ExchangeRow {
  values: Record<string, Value>;
  extra: Record<string, string> | null;
}

/** Rows by resource name. */
export type ExchangeRows = Record<string, ExchangeRow[]>;

/** A CSV file cut into cells, with the line of each row; no meaning yet. */
export interface RawTable {
  file: string;
  header: string[];
  rows: { line: number; cells: string[] }[];
}

/** One thing that is wrong with a package: where, why, and what to do. */
export interface PackageProblem {
  kind: "bad-package";
  file: string;
  line: number | null;
  column: string | null;
  reason: string;
}

/** Collects problems; keeps the first hundred and counts the rest. */
export class ProblemList {
  readonly first: PackageProblem[] = [];
  total = 0;

  add(file: string, line: number | null, column: string | null, reason: string): void {
    this.total += 1;
    if (this.first.length < 100) this.first.push({ kind: "bad-package", file, line, column, reason });
  }
}

/** Joins key values into one string; a separator that no parsed text holds unescaped. */
export function keyText(values: Record<string, Value>, columns: readonly string[]): string {
  return JSON.stringify(columns.map((column) => values[column] ?? null));
}

const shown = (text: string) => `"${text.length > 60 ? `${text.slice(0, 60)}…` : text}"`;

/** Where each column of a resource stands in a file, and the author's own columns. */
function readHeader(resource: Resource, table: RawTable, problems: ProblemList) {
  const own = table.header.flatMap((name, at) => (name.startsWith("x_") ? [{ name, at }] : []));
  const seen = new Set<string>();
  for (const name of table.header) {
    if (seen.has(name)) problems.add(table.file, 1, name, `the column ${name} appears twice; keep one`);
    seen.add(name);
    if (!name.startsWith("x_") && !resource.columns.some((column) => column.name === name)) {
      problems.add(table.file, 1, name, `${shown(name)} is not a column of ${resource.name}; remove it, or begin its name with x_ to keep it as your own`);
    }
  }
  for (const column of resource.columns) {
    if (column.required && !seen.has(column.name)) {
      problems.add(table.file, 1, column.name, `the required column ${column.name} is missing`);
    }
  }
  return { own, at: new Map(table.header.map((name, i) => [name, i])) };
}

const looksLikeDecimalComma = (text: string) => /^-?\d+,\d+$/.test(text);

/** Parses one file of a resource; rows with a problem are reported and left out. */
export function parseTable(resource: Resource, table: RawTable, problems: ProblemList): { row: ExchangeRow; line: number }[] {
  const { own, at } = readHeader(resource, table, problems);
  const parsed: { row: ExchangeRow; line: number }[] = [];
  for (const { line, cells } of table.rows) {
    if (cells.length !== table.header.length) {
      const hint = cells.length < table.header.length ? "is the file cut off here?" : "a text with a comma needs quotes; decimals take a point";
      problems.add(table.file, line, null, `the row has ${cells.length} cells, the header ${table.header.length}; ${hint}`);
      continue;
    }
    const values: Record<string, Value> = {};
    let good = true;
    for (const column of resource.columns) {
      const position = at.get(column.name);
      const text = position === undefined ? "" : (cells[position] as string);
      if (text === "") {
        values[column.name] = null;
        if (column.required) {
          good = false;
          if (position !== undefined) problems.add(table.file, line, column.name, `${column.name} is empty; it must be filled`);
        }
        continue;
      }
      const type = columnTypes[column.type];
      const result = type.schema.safeParse(text);
      if (result.success) values[column.name] = result.data;
      else {
        good = false;
        const comma = looksLikeDecimalComma(text) ? " (a decimal comma? write a point)" : "";
        problems.add(table.file, line, column.name, `${shown(text)} is not ${type.expected}${comma}`);
      }
    }
    if (!good) continue;
    const extra = own.flatMap(({ name, at: i }) => (cells[i] === "" ? [] : [[name, cells[i] as string] as const]));
    const row = { values, extra: extra.length > 0 ? Object.fromEntries(extra.sort()) : null };
    if (keepRules(resource, row, (column, reason) => problems.add(table.file, line, column, reason))) parsed.push({ row, line });
  }
  return parsed;
}

/** Rules that span columns. Amounts are brought to their currency's decimals here. */
function keepRules(resource: Resource, row: ExchangeRow, refuse: (column: string, reason: string) => void): boolean {
  const { values } = row;
  let good = true;
  const no = (column: string, reason: string) => {
    good = false;
    refuse(column, reason);
  };
  if (resource.name === "offers") {
    for (const column of ["price", "rebate", "shipping"]) {
      if (values[column] === null) continue;
      const currency = values.currency as string;
      const amount = parseAmount(values[column] as string, currency);
      if ("reason" in amount) no(column, amount.reason);
      else if (column === "price" && amount.minor === 0) no(column, "a price of 0 is not a price; leave the row out if the price is not known");
      else values[column] = amountToDecimal({ minor: amount.minor, currency });
    }
    if ((values.rebate === null) !== (values.rebate_kind === null)) no("rebate_kind", "a rebate and its kind go together; fill both or neither");
  }
  if (resource.name === "runs") {
    if (values.status !== "valid" && values.reason === null) no("reason", `a ${values.status} run needs a reason`);
    if (values.started_at !== null && values.ended_at !== null && (values.ended_at as number) < (values.started_at as number)) {
      no("ended_at", "the run ends before it starts");
    }
  }
  if (resource.name === "trace_edits" && !((values.to_s as number) > (values.from_s as number))) no("to_s", "to_s must be after from_s");
  return good;
}

/** What the lab already has: whether a row of a resource with these column values exists. */
export type LabHas = (resource: string, columns: readonly string[], key: string) => boolean;

/** Alternative keys that must be unique as well. */
const UNIQUE: Record<string, string[][]> = {
  runs: [["setup_id", "test_id", "test_version", "number"]],
  review_setups: [["review_id", "position"]],
};

/**
 * Parses and checks all tables of a package against the format, each other and the lab.
 *
 * Shapes: `tables` by resource name; lacking resources are fine as long as what refers to them is in the lab.
 * Errors: collected in `problems`, each with file, line, column, reason; rows are only to be used when there are none.
 */
export function validatePackage(tables: Map<string, RawTable>, labHas: LabHas, problems: ProblemList): ExchangeRows {
  const parsed = new Map<string, { row: ExchangeRow; line: number }[]>();
  for (const resource of RESOURCES) {
    const table = tables.get(resource.name);
    if (table) parsed.set(resource.name, parseTable(resource, table, problems));
  }
  const indexes = new Map<string, Set<string>>();
  const packageHas = (name: string, columns: readonly string[], key: string) => {
    const indexName = `${name}/${columns.join()}`;
    let index = indexes.get(indexName);
    if (!index) {
      index = new Set((parsed.get(name) ?? []).map(({ row }) => keyText(row.values, columns)));
      indexes.set(indexName, index);
    }
    return index.has(key);
  };
  for (const [name, rows] of parsed) {
    const resource = resourceNamed(name);
    const file = (tables.get(name) as RawTable).file;
    for (const columns of [resource.key, ...(UNIQUE[name] ?? [])]) {
      const firstLine = new Map<string, number>();
      for (const { row, line } of rows) {
        const key = keyText(row.values, columns);
        const first = firstLine.get(key);
        if (first === undefined) firstLine.set(key, line);
        else problems.add(file, line, columns[0] as string, `the same ${columns.join(" + ")} as line ${first}; each may appear once`);
      }
    }
    for (const reference of resource.references) {
      for (const { row, line } of rows) {
        if (reference.columns.some((column) => row.values[column] === null)) continue;
        const key = keyText(row.values, reference.columns);
        if (packageHas(reference.resource, reference.target, key) || labHas(reference.resource, reference.target, key)) continue;
        const column = reference.columns.at(-1) as string;
        const named = reference.columns.map((part) => row.values[part]).join(" ");
        problems.add(file, line, column, `${reference.resource} has no ${shown(named)}, neither in this package nor in the lab; correct it or add the row`);
      }
    }
  }
  return Object.fromEntries([...parsed].map(([name, rows]) => [name, rows.map(({ row }) => row)]));
}
