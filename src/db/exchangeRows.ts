import { sql } from "drizzle-orm";
import type { ExchangeRow, Resource, Value } from "@/core/exchange";
import { amountToDecimal, parseAmount } from "@/core/units";
import type { Tx } from "./client";

/**
 * Tables carry the exchange format's column names, so rows of any resource go in and out through JSON record sets.
 * Three things differ: money is minor units, moments are timestamps, and the paths of logs are made, not stored.
 */
const AMOUNTS = ["price", "rebate", "shipping"];
const PATHS = ["frames_path", "sensors_path"];
const ROWS_PER_STATEMENT = 2000;

const isAmount = (resource: Resource, column: string) => resource.name === "offers" && AMOUNTS.includes(column);
const isPath = (resource: Resource, column: string) => resource.name === "runs" && PATHS.includes(column);

function storedColumns(resource: Resource): { column: string; stored: string; kind: "plain" | "amount" | "instant" }[] {
  return resource.columns
    .filter(({ name }) => !isPath(resource, name))
    .map(({ name, type }) => ({
      column: name,
      stored: isAmount(resource, name) ? `${name}_minor` : name,
      kind: isAmount(resource, name) ? "amount" : type === "instant" ? "instant" : "plain",
    }));
}

function toStored(resource: Resource, row: ExchangeRow): Record<string, unknown> {
  const stored: Record<string, unknown> = { extra: row.extra };
  for (const { column, stored: name, kind } of storedColumns(resource)) {
    const value = row.values[column] ?? null;
    if (value === null) stored[name] = null;
    else if (kind === "instant") stored[name] = new Date(value as number).toISOString();
    else if (kind === "amount") {
      const amount = parseAmount(value as string, row.values.currency as string);
      if ("reason" in amount) throw new RangeError(`an unparsed amount reached the database: ${amount.reason}`);
      stored[name] = amount.minor;
    } else stored[name] = value;
  }
  return stored;
}

function fromStored(resource: Resource, stored: Record<string, unknown>): ExchangeRow {
  const values: Record<string, Value> = {};
  for (const { column, stored: name, kind } of storedColumns(resource)) {
    const value = (stored[name] ?? null) as Value;
    if (value === null) values[column] = null;
    else if (kind === "instant") values[column] = Date.parse(value as string);
    else if (kind === "amount") values[column] = amountToDecimal({ minor: value as number, currency: stored.currency as string });
    else values[column] = value;
  }
  return { values, extra: (stored.extra ?? null) as Record<string, string> | null };
}

/** Inserts rows of a resource. */
export async function insertRows(tx: Tx, resource: Resource, rows: readonly ExchangeRow[]): Promise<void> {
  const names = [...storedColumns(resource).map(({ stored }) => stored), "extra"];
  const columns = sql.join(
    names.map((name) => sql.identifier(name)),
    sql`, `,
  );
  const table = sql.identifier(resource.name);
  for (let from = 0; from < rows.length; from += ROWS_PER_STATEMENT) {
    const batch = JSON.stringify(rows.slice(from, from + ROWS_PER_STATEMENT).map((row) => toStored(resource, row)));
    await tx.execute(sql`insert into ${table} (${columns}) select ${columns} from jsonb_populate_recordset(null::${table}, ${batch}::jsonb)`);
  }
}

/** Replaces one row, named by its key, and raises its version where it has one. */
export async function replaceRow(tx: Tx, resource: Resource, row: ExchangeRow): Promise<void> {
  const stored = toStored(resource, row);
  const batch = JSON.stringify([stored]);
  const names = Object.keys(stored).filter((name) => !resource.key.includes(name));
  const sets = sql.join(
    names.map((name) => sql`${sql.identifier(name)} = incoming.${sql.identifier(name)}`),
    sql`, `,
  );
  const same = sql.join(
    resource.key.map((name) => sql`target.${sql.identifier(name)} is not distinct from incoming.${sql.identifier(name)}`),
    sql` and `,
  );
  const table = sql.identifier(resource.name);
  const versioned = ["regions", "parts", "offers", "suites", "reviews", "findings", "claims"].includes(resource.name);
  const raise = versioned ? sql`, row_version = target.row_version + 1` : sql``;
  await tx.execute(sql`update ${table} as target set ${sets}${raise} from jsonb_populate_recordset(null::${table}, ${batch}::jsonb) as incoming where ${same}`);
}

/** Reads all rows of a resource, or those whose column holds one of some values. */
export async function readRows(tx: Tx, resource: Resource, only?: { column: string; values: readonly string[] }): Promise<ExchangeRow[]> {
  const table = sql.identifier(resource.name);
  const where = only ? sql` where t.${sql.identifier(only.column)} = any(${sql.param([...only.values])}::text[])` : sql``;
  const result = await tx.execute<{ row: Record<string, unknown> }>(sql`select to_jsonb(t) as row from ${table} as t${where}`);
  return result.rows.map(({ row }) => fromStored(resource, row));
}
