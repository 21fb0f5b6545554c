import { z } from "zod";
import {
  Better,
  CacheState,
  FindingState,
  LoadedComponent,
  LowSchool,
  OfferCondition,
  OfferKind,
  PartKind,
  PowerAt,
  RebateKind,
  Resolution,
  RunStatus,
  SetupRole,
  Slug,
  TestKind,
} from "@/core/bench";
import { CurrencyCode, IsoDate } from "@/core/units";

/** A cell's value once parsed; null is "not known". */
export type Value = string | number | boolean | null;

/** A kind of column: how its text is read, and how its value is written back so that writing and reading agree. */
export interface ColumnType {
  /** What the column holds, for error messages. */
  expected: string;
  schema: z.ZodType<string | number | boolean>;
  write: (value: string | number | boolean) => string;
}

const plain = (expected: string, schema: z.ZodType<string | number | boolean>): ColumnType => ({ expected, schema, write: String });
const oneOf = (choices: z.ZodEnum<Readonly<Record<string, string>>>): ColumnType => plain(`one of ${choices.options.join(", ")}`, choices as z.ZodType<string>);

const decimal = z
  .string()
  .regex(/^-?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/)
  .transform(Number)
  .refine(Number.isFinite);

const instant = z.iso.datetime({ offset: true }).transform((text, context) => {
  const at = Date.parse(text);
  if (Number.isNaN(at)) context.addIssue({ code: "custom", message: "not a moment" });
  return at;
});

const NUMBER = "a number with a point, such as 16.7";

/** All kinds of columns of the exchange format. */
export const columnTypes = {
  slug: plain("an id of a–z, 0–9, . _ - (at most 120)", Slug),
  text: plain("text", z.string().max(10_000)),
  number: plain(NUMBER, decimal),
  positive: plain(
    `${NUMBER}, above 0`,
    decimal.refine((n) => n > 0),
  ),
  notNegative: plain(
    `${NUMBER}, not below 0`,
    decimal.refine((n) => n >= 0),
  ),
  share: plain(
    "a share between 0 and 1, such as 0.25",
    decimal.refine((n) => n >= 0 && n <= 1),
  ),
  integer: plain("a whole number", decimal.refine(Number.isSafeInteger)),
  count: plain(
    "a whole number from 1",
    decimal.refine((n) => Number.isSafeInteger(n) && n >= 1 && n < 2 ** 31),
  ),
  boolean: plain(
    "true or false",
    z.enum(["true", "false"]).transform((text) => text === "true"),
  ),
  date: plain("a day such as 2026-05-04", IsoDate),
  instant: {
    expected: "a moment with its zone, such as 2026-05-04T09:30:00Z",
    schema: instant,
    write: (value) => new Date(value as number).toISOString().replace(".000Z", "Z"),
  },
  currency: plain("an ISO 4217 code such as NOK", CurrencyCode),
  /** Kept as text until the row's currency is known. */
  amount: plain("an amount with a point, such as 4999.90", z.string().regex(/^\d+(\.\d+)?$/)),
  sha256: plain("64 hexadecimal digits", z.string().regex(/^[0-9a-f]{64}$/)),
  resolution: plain("a resolution such as 2560x1440", Resolution),
  framesPath: plain("a path such as frames/run-1.csv", z.string().regex(/^frames\/[A-Za-z0-9._-]+\.csv$/)),
  sensorsPath: plain("a path such as sensors/run-1.csv", z.string().regex(/^sensors\/[A-Za-z0-9._-]+\.csv$/)),
  partKind: oneOf(PartKind),
  testKind: oneOf(TestKind),
  better: oneOf(Better),
  loads: oneOf(LoadedComponent),
  cache: oneOf(CacheState),
  setupRole: oneOf(SetupRole),
  runStatus: oneOf(RunStatus),
  lowSchool: oneOf(LowSchool),
  offerKind: oneOf(OfferKind),
  condition: oneOf(OfferCondition),
  rebateKind: oneOf(RebateKind),
  powerAt: oneOf(PowerAt),
  block: oneOf(z.enum(["first", "last"])),
  findingState: oneOf(FindingState),
} as const satisfies Record<string, ColumnType>;

export type ColumnTypeName = keyof typeof columnTypes;
