import type { PartKind } from "@/core/bench";
import type { ChangeTask } from "./timeModel";

/** A caution that belongs to a step; those of mains and soaks are acknowledged before the step can be confirmed. */
export interface Caution {
  id: "mains" | "static" | "hot" | "cables" | "liquid" | "soak" | "passive" | "meter" | "warranty";
  text: string;
  acknowledge: boolean;
}

const CAUTIONS: Readonly<Record<Caution["id"], Omit<Caution, "id">>> = {
  mains: {
    text: "Switch off, unplug, and let it discharge for a minute before touching parts. Never open a power supply.",
    acknowledge: true,
  },
  static: { text: "Touch bare metal first: discharge static.", acknowledge: false },
  hot: { text: "Heatsinks and regulators stay hot after switching off; fins and fans are sharp.", acknowledge: false },
  cables: { text: "Use the supply's own cables only: modular cables are not interchangeable, even when they plug in.", acknowledge: false },
  liquid: { text: "Coolant and liquid metal conduct: keep them off live boards.", acknowledge: false },
  soak: {
    text: "Stop at the temperature limit, at any smell, at any smoke. Stay in the room for the whole soak.",
    acknowledge: true,
  },
  passive: { text: "This cooler is rated below the processor's power: never leave it alone, not for a minute.", acknowledge: true },
  meter: {
    text: "Mains power only through a finished, rated plug-in meter. Anything behind the wall or a panel is for licensed electricians under local codes.",
    acknowledge: true,
  },
  warranty: { text: "Overclocking and delidding may end a warranty.", acknowledge: false },
};

const caution = (id: Caution["id"]): Caution => ({ id, ...CAUTIONS[id] });

/** The cautions of a change of parts, the ones to acknowledge first. Settings alone need none, but clocks touch the warranty. */
export function cautionsOfChange(tasks: readonly ChangeTask[], state: Readonly<Record<string, string>>): Caution[] {
  const kinds = tasks.flatMap(({ activity }) => (activity.startsWith("swap:") ? [activity.slice(5) as PartKind] : []));
  const has = (...wanted: PartKind[]) => kinds.some((kind) => wanted.includes(kind));
  const ids: Caution["id"][] = [];
  if (kinds.length > 0) ids.push("mains", "static");
  if (has("gpu", "cpu", "cooler", "board")) ids.push("hot");
  if (has("gpu", "psu", "board", "system")) ids.push("cables");
  if (has("cpu", "cooler", "board")) ids.push("liquid");
  if (Object.keys(state).some((key) => /overclock|delid|power_limit|voltage/.test(key))) ids.push("warranty");
  return ids.map(caution);
}

/** The cautions of a run: soaks have their stop rules, an over-rated cooler its own. */
export function cautionsOfRun(kind: string, overRated: boolean): Caution[] {
  if (kind !== "soak") return [];
  return overRated ? [caution("soak"), caution("passive")] : [caution("soak")];
}

/** The caution of the pre-flight list where power is metered at the wall. */
export function cautionsOfPreFlight(metersTheWall: boolean): Caution[] {
  return metersTheWall ? [caution("meter")] : [];
}
