import { z } from "zod";

const minuteOfDay = z.int().min(0).max(1440);

/** When the lab is open: hours by weekday (0 is Sunday), days off, all in the lab's own time zone. */
export const LabHours = z.object({
  timeZone: z.string().refine((zone) => {
    try {
      new Intl.DateTimeFormat("en", { timeZone: zone });
      return true;
    } catch {
      return false;
    }
  }, "This time zone is not known; write one like Europe/Oslo."),
  week: z
    .array(
      z
        .object({ weekday: z.int().min(0).max(6), opensMinute: minuteOfDay, closesMinute: minuteOfDay })
        .refine(({ opensMinute, closesMinute }) => closesMinute > opensMinute, "A day closes after it opens."),
    )
    .max(28),
  daysOff: z.array(z.iso.date()).max(366),
});
export type LabHours = z.infer<typeof LabHours>;

/** A stretch of open time, in milliseconds since 1970. */
export interface OpenStretch {
  fromMs: number;
  toMs: number;
}

const DAY_MS = 86_400_000;

/** Days that a plan looks ahead in the calendar. */
export const DAYS_AHEAD = 120;

/** Minutes by which a time zone is ahead of UTC at an instant. */
function offsetMinutes(timeZone: string, atMs: number): number {
  const parts = new Intl.DateTimeFormat("en-US", {
    timeZone,
    hourCycle: "h23",
    year: "numeric",
    month: "numeric",
    day: "numeric",
    hour: "numeric",
    minute: "numeric",
  }).formatToParts(atMs);
  const of = (type: string) => Number(parts.find((part) => part.type === type)?.value);
  return Math.round((Date.UTC(of("year"), of("month") - 1, of("day"), of("hour"), of("minute")) - atMs) / 60_000);
}

/**
 * The stretches in which the lab is open from an instant on, in order, for a number of days; stretches that meet are
 * one. A clock change within a day moves what lies after it, as it does in the room.
 *
 * Units: milliseconds since 1970 in UTC.
 */
export function openStretches(hours: LabHours, fromMs: number, days: number): OpenStretch[] {
  const off = new Set(hours.daysOff);
  const first = fromMs + offsetMinutes(hours.timeZone, fromMs) * 60_000;
  const stretches: OpenStretch[] = [];
  for (let day = 0; day < days; day += 1) {
    const midnightLocal = Math.floor(first / DAY_MS) * DAY_MS + day * DAY_MS;
    if (off.has(new Date(midnightLocal).toISOString().slice(0, 10))) continue;
    const weekday = new Date(midnightLocal).getUTCDay();
    const toUtc = (minute: number) => {
      const local = midnightLocal + minute * 60_000;
      const guess = local - offsetMinutes(hours.timeZone, local) * 60_000;
      return local - offsetMinutes(hours.timeZone, guess) * 60_000;
    };
    const open = hours.week.filter((one) => one.weekday === weekday).sort((a, b) => a.opensMinute - b.opensMinute);
    for (const { opensMinute, closesMinute } of open) {
      const stretch = { fromMs: Math.max(fromMs, toUtc(opensMinute)), toMs: toUtc(closesMinute) };
      if (stretch.toMs <= stretch.fromMs) continue;
      const last = stretches.at(-1);
      if (last && stretch.fromMs <= last.toMs) last.toMs = Math.max(last.toMs, stretch.toMs);
      else stretches.push(stretch);
    }
  }
  return stretches;
}

/** Open seconds between two instants. */
export function openSeconds(stretches: readonly OpenStretch[], fromMs: number, toMs: number): number {
  return stretches.reduce((sum, one) => sum + Math.max(0, Math.min(one.toMs, toMs) - Math.max(one.fromMs, fromMs)), 0) / 1000;
}

/** The instant after so many open seconds from another; null where the calendar ends before. */
export function afterOpenSeconds(stretches: readonly OpenStretch[], fromMs: number, seconds: number): number | null {
  let restMs = seconds * 1000;
  for (const stretch of stretches) {
    const start = Math.max(fromMs, stretch.fromMs);
    if (start >= stretch.toMs) continue;
    if (restMs <= stretch.toMs - start) return start + restMs;
    restMs -= stretch.toMs - start;
  }
  return null;
}
