import { z } from "zod";

/** A positive, finite duration of one frame in milliseconds. */
export const Milliseconds = z.number().positive().brand<"Milliseconds">();
export type Milliseconds = z.infer<typeof Milliseconds>;

/** A moment: milliseconds since 1970-01-01T00:00:00Z. */
export const Instant = z.int().brand<"Instant">();
export type Instant = z.infer<typeof Instant>;

/** A calendar day, `2026-05-04`. */
export const IsoDate = z.iso.date();

/** A series with its unit; the values are not objects but one typed array. */
export interface Series<U extends string = string> {
  readonly unit: U;
  readonly values: Float64Array;
}

/** Whole days from one calendar day to a later one (negative if it is earlier). */
export function daysBetween(fromIsoDate: string, toIsoDate: string): number {
  const day = (text: string) => {
    const [year, month, date] = text.slice(0, 10).split("-").map(Number) as [number, number, number];
    // Days from civil (proleptic Gregorian): exact and free of any clock or zone.
    const y = month <= 2 ? year - 1 : year;
    const era = Math.floor(y / 400);
    const yearOfEra = y - era * 400;
    const dayOfYear = Math.floor((153 * (month + (month > 2 ? -3 : 9)) + 2) / 5) + date - 1;
    return era * 146097 + yearOfEra * 365 + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100) + dayOfYear;
  };
  return day(toIsoDate) - day(fromIsoDate);
}
