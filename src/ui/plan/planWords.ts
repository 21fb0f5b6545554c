import type { PlanModel, PlanNames } from "@/core/plan";

/** Hours and minutes as people say them: 31 h 20 min, 45 min. */
export function hoursText(seconds: number): string {
  const minutes = Math.round(Math.abs(seconds) / 60);
  const [h, m] = [Math.floor(minutes / 60), minutes % 60];
  if (h === 0) return `${m} min`;
  return h >= 20 || m === 0 ? `${Math.round(minutes / 60)} h` : `${h} h ${m} min`;
}

/** An instant in the lab's own time: Tue 24 Nov, 15:20. */
export function momentText(ms: number, timeZone: string): string {
  const parts = new Intl.DateTimeFormat("en-GB", {
    timeZone,
    weekday: "short",
    day: "numeric",
    month: "short",
    hour: "2-digit",
    minute: "2-digit",
    hourCycle: "h23",
  }).formatToParts(ms);
  const of = (type: string) => parts.find((part) => part.type === type)?.value ?? "";
  return `${of("weekday")} ${of("day")} ${of("month")}, ${of("hour")}:${of("minute")}`;
}

/** The names of a plan's setups, tests and benches. */
export function namesOf(model: PlanModel): PlanNames {
  const setups = new Map(model.setups.map(({ id, label }) => [id, label]));
  const tests = new Map(model.tests.map(({ key, name }) => [key, name]));
  const benches = new Map(model.benches.map(({ id, name }) => [id, name]));
  return { setup: (id) => setups.get(id) ?? id, test: (key) => tests.get(key) ?? key, bench: (id) => benches.get(id) ?? id };
}
