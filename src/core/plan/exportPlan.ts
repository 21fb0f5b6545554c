import type { Schedule, ScheduledItem } from "./schedulePlan";

/** What the items of a plan are called. */
export interface PlanNames {
  setup(id: string): string;
  test(key: string): string;
  bench(id: string): string;
}

const stamp = (ms: number) => `${new Date(ms).toISOString().replace(/[-:]/g, "").slice(0, 15)}Z`;
const escape = (text: string) => text.replace(/[\\;,]/g, (mark) => `\\${mark}`).replace(/\n/g, "\\n");

/** Folds a content line at 75 octets, as RFC 5545 §3.1 asks; never within a character. */
function fold(line: string): string {
  const encoder = new TextEncoder();
  const parts: string[] = [];
  let part = "";
  let octets = 0;
  for (const character of line) {
    const size = encoder.encode(character).length;
    if (octets + size > (parts.length === 0 ? 75 : 74)) {
      parts.push(part);
      part = "";
      octets = 0;
    }
    part += character;
    octets += size;
  }
  return [...parts, part].join("\r\n ");
}

/** What one item is about, in words. */
export function describeItem(item: ScheduledItem, names: PlanNames): string {
  if (item.kind === "pre-flight") return `Pre-flight list, ${names.bench(item.benchId)}`;
  if (item.kind === "change") return `Fit ${names.setup(item.setupId)}`;
  return `${names.setup(item.setupId)}: ${names.test(item.testKey as string)}, ${item.runs} ${item.runs === 1 ? "run" : "runs"}`;
}

/** Work of one setup on one bench without a break: what a calendar shows as one entry. */
function entriesOf(schedule: Schedule): { items: ScheduledItem[]; fromMs: number; toMs: number }[] {
  const entries: { items: ScheduledItem[]; fromMs: number; toMs: number }[] = [];
  for (const item of [...schedule.items].sort((a, b) => (a.benchId < b.benchId ? -1 : a.benchId > b.benchId ? 1 : a.fromMs - b.fromMs))) {
    const last = entries.at(-1);
    const before = last?.items.at(-1);
    if (last && before && before.benchId === item.benchId && before.blockIndex === item.blockIndex && last.toMs === item.fromMs) {
      last.items.push(item);
      last.toMs = item.toMs;
    } else entries.push({ items: [item], fromMs: item.fromMs, toMs: item.toMs });
  }
  return entries;
}

/**
 * A schedule as an iCalendar file: one event for each setup's work without a break, and the deadline.
 *
 * Source: RFC 5545 (§3.4 calendar object, §3.1 folding, §3.3.11 text, §3.8.4.7 UID).
 */
export function toICalendar(schedule: Schedule, names: PlanNames, review: { id: string; title: string; deadlineMs: number | null }, stampMs: number): string {
  const events = entriesOf(schedule).map(({ items, fromMs, toMs }) => {
    const first = items[0] as ScheduledItem;
    const tests = items.filter(({ kind }) => kind === "test");
    return [
      "BEGIN:VEVENT",
      `UID:${review.id}-${first.benchId}-${first.blockIndex}-${stamp(fromMs)}@parvex`,
      `DTSTAMP:${stamp(stampMs)}`,
      `DTSTART:${stamp(fromMs)}`,
      `DTEND:${stamp(toMs)}`,
      `SUMMARY:${escape(`${names.bench(first.benchId)}: ${names.setup(first.setupId)}`)}`,
      `DESCRIPTION:${escape([`${review.title}, ${first.part}`, ...items.filter(({ kind }) => kind !== "test").map((item) => describeItem(item, names)), ...tests.map((item) => describeItem(item, names))].join("\n"))}`,
      "END:VEVENT",
    ];
  });
  const deadline =
    review.deadlineMs === null
      ? []
      : [
          "BEGIN:VEVENT",
          `UID:${review.id}-deadline@parvex`,
          `DTSTAMP:${stamp(stampMs)}`,
          `DTSTART:${stamp(review.deadlineMs)}`,
          `SUMMARY:${escape(`${review.title}: embargo ends`)}`,
          "END:VEVENT",
        ];
  const lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Parvex//Lab plan//EN", "CALSCALE:GREGORIAN", ...events.flat(), ...deadline, "END:VCALENDAR"];
  return `${lines.map(fold).join("\r\n")}\r\n`;
}

const csvText = (text: string) => (/[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);

/** A schedule as CSV (RFC 4180): a row for each item, times in UTC, durations in minutes with one standard deviation. */
export function toPlanCsv(schedule: Schedule, names: PlanNames): string {
  const rows = schedule.items.map((item) =>
    [
      names.bench(item.benchId),
      new Date(item.fromMs).toISOString(),
      new Date(item.toMs).toISOString(),
      names.setup(item.setupId),
      item.part,
      item.kind,
      item.testKey ?? "",
      String(item.runs),
      (item.seconds / 60).toFixed(1),
      (item.sd / 60).toFixed(1),
    ].map(csvText),
  );
  return `${[["bench", "from", "to", "setup", "part", "kind", "test", "runs", "minutes", "sd_minutes"], ...rows].map((row) => row.join(",")).join("\r\n")}\r\n`;
}
