/** A part of a bench, by its place. */
export interface BenchPart {
  partId: string;
  name: string;
  role: string;
  slot: string | null;
  quantity: number | null;
}

/** An immutable snapshot of a bench: what it is built of and how it is set. */
export interface BenchRevision {
  id: string;
  revision: number;
  name: string;
  createdOn: string | null;
  parts: BenchPart[];
  state: { key: string; value: string }[];
}

/** The states that every bench should say, in the order of a pre-flight list, with their names on screen. */
export const BENCH_STATE_NAMES: Readonly<Record<string, string>> = {
  firmware: "board firmware",
  os_build: "OS build",
  gpu_driver: "graphics driver",
  chipset_driver: "chipset driver",
  memory_profile: "memory profile",
  memory_rate: "memory runs at",
  memory_channels: "memory channels",
  power_plan: "power plan",
  gpu_clearance_mm: "room for a card, mm",
  cooler_clearance_mm: "room for a cooler, mm",
  room: "room",
  wall_meter: "meter at the wall",
};

/** A property's name on screen: a known state's name, or the key with its underscores opened. */
export function propertyName(property: string): string {
  return BENCH_STATE_NAMES[property] ?? property.replaceAll("_", " ");
}

/** Every property of a bench by its key: parts by role and slot as `part:cpu`, states by their own key. */
export function benchProperties(bench: Pick<BenchRevision, "parts" | "state">): Map<string, string> {
  const properties = new Map<string, string>();
  for (const { role, slot, name, quantity } of bench.parts) {
    const key = `part:${role}${slot ? ` ${slot}` : ""}`;
    const text = quantity && quantity > 1 ? `${quantity} × ${name}` : name;
    properties.set(key, properties.has(key) ? `${properties.get(key)}, ${text}` : text);
  }
  for (const { key, value } of bench.state) properties.set(key, value);
  return properties;
}

/** One line of the difference between two revisions; undefined where a property is absent. */
export interface BenchChange {
  property: string;
  before: string | undefined;
  after: string | undefined;
}

/** What changed from one bench revision to another, property by property, in the order of their names. */
export function compareRevisions(before: Pick<BenchRevision, "parts" | "state">, after: Pick<BenchRevision, "parts" | "state">): BenchChange[] {
  const [old, fresh] = [benchProperties(before), benchProperties(after)];
  return [...new Set([...old.keys(), ...fresh.keys()])]
    .sort()
    .filter((property) => old.get(property) !== fresh.get(property))
    .map((property) => ({ property, before: old.get(property), after: fresh.get(property) }));
}

/** A row of a review with everything about it that is not under test. */
export interface HeldRow {
  setupId: string;
  properties: Map<string, string>;
}

/** A property that rows of one review do not share, with the rows behind each value ("not known" where it is absent). */
export interface HeldDifference {
  property: string;
  values: { value: string | undefined; setupIds: string[] }[];
}

/**
 * The properties that were to be held constant and are not the same in all rows of a review. What is under test is not
 * among a row's properties. An unknown value differs from any known one: unknown is not "the same".
 */
export function heldDifferences(rows: readonly HeldRow[]): HeldDifference[] {
  const names = [...new Set(rows.flatMap(({ properties }) => [...properties.keys()]))].sort();
  return names.flatMap((property): HeldDifference[] => {
    const groups = new Map<string | undefined, string[]>();
    for (const row of rows) {
      const value = row.properties.get(property);
      groups.set(value, [...(groups.get(value) ?? []), row.setupId]);
    }
    return groups.size > 1 ? [{ property, values: [...groups].map(([value, setupIds]) => ({ value, setupIds })) }] : [];
  });
}
