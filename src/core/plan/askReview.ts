import { z } from "zod";
import type { PartKind, SetupRole } from "@/core/bench";

/** The kinds of question that a review may answer. */
export const QuestionKind = z.enum([
  "launch",
  "head_to_head",
  "upgrade",
  "generations",
  "same_clocks",
  "one_factor",
  "entry_against_dearer",
  "cooler_enough",
  "play_and_stream",
]);
export type QuestionKind = z.infer<typeof QuestionKind>;

interface QuestionWords {
  name: string;
  asks: string;
  /** Properties to be held constant, by bench key, beside everything else of the bench. */
  constants: string[];
  resolutions: "all" | "low" | "native" | "middle";
}

const USUAL = ["board", "memory kit and rate", "cooler", "power supply", "OS build", "drivers", "firmware", "power plan", "room"];

/** Each kind of question in words, with what it holds constant and which resolutions it needs. */
export const QUESTIONS: Readonly<Record<QuestionKind, QuestionWords>> = {
  launch: { name: "Launch review", asks: "Is this the one to buy in its price band?", constants: USUAL, resolutions: "all" },
  head_to_head: { name: "Head to head", asks: "Which of these two?", constants: USUAL, resolutions: "all" },
  upgrade: { name: "Worth the upgrade", asks: "Is it worth it from what people own, three to five years old?", constants: USUAL, resolutions: "middle" },
  generations: { name: "Generation against generation", asks: "How much has changed from one generation to the next?", constants: USUAL, resolutions: "all" },
  same_clocks: {
    name: "Same clocks",
    asks: "How much is architecture, how much is frequency?",
    constants: [...USUAL, "clock, locked and read back"],
    resolutions: "low",
  },
  one_factor: { name: "One factor only", asks: "What does this one change do?", constants: [...USUAL, "everything but the one factor"], resolutions: "middle" },
  entry_against_dearer: {
    name: "Entry against dearer",
    asks: "What does several times the money buy?",
    constants: ["OS build", "drivers", "room"],
    resolutions: "middle",
  },
  cooler_enough: {
    name: "Is the cooler enough",
    asks: "Can an included or passive cooler cope?",
    constants: [...USUAL.filter((one) => one !== "cooler"), "fan setting", "paste and mount", "room within 2 °C"],
    resolutions: "native",
  },
  play_and_stream: {
    name: "Play and stream",
    asks: "Can one machine play and stream at once?",
    constants: [...USUAL, "encoder and its preset"],
    resolutions: "middle",
  },
};

/** A setup of the lab with what a proposal goes by. */
export interface KnownSetup {
  setupId: string;
  label: string;
  kind: PartKind;
  maker: string | null;
  releasedOn: string | null;
  /** Street price of its parts in one region, in major units; null where it is not sold new or a price is missing. */
  price: number | null;
  /** Log of its index over the lab's tests; null where it was not tested with others. */
  logIndex: number | null;
  validRuns: number;
}

/** A suite of the lab as a proposal goes by it. */
export interface KnownSuite {
  suiteId: string;
  name: string;
  loads: string[];
  groups: string[];
  resolutions: string[];
  /** Setups of the lab that have runs on it. */
  setupsMeasured: number;
}

/** A member of a proposed review, with the reason. */
export interface ProposedSetup {
  setupId: string;
  role: SetupRole;
  why: string;
}

/** What is proposed for a question; every part of it can be changed. */
export interface Proposal {
  title: string;
  question: string;
  baselineId: string;
  setups: ProposedSetup[];
  suiteId: string | null;
  suiteWhy: string;
  resolutions: string[];
  constants: string[];
}

const PRICE_BAND = 0.2;
const EQUAL_SPEED = 0.1;

/** Setups of a kind in the same price band as one (± 20 %), nearest first, without itself. */
export function inPriceBand(one: KnownSetup, all: readonly KnownSetup[], band = PRICE_BAND): KnownSetup[] {
  if (one.price === null) return [];
  const off = (other: KnownSetup) => Math.abs(Math.log((other.price as number) / (one.price as number)));
  return all
    .filter((other) => other.setupId !== one.setupId && other.kind === one.kind && other.price !== null && off(other) <= Math.log1p(band))
    .sort((a, b) => off(a) - off(b) || (a.setupId < b.setupId ? -1 : 1));
}

/** Setups of a kind of equal performance (index within ± 10 %), nearest first, without itself. */
export function ofEqualSpeed(one: KnownSetup, all: readonly KnownSetup[], band = EQUAL_SPEED): KnownSetup[] {
  if (one.logIndex === null) return [];
  const off = (other: KnownSetup) => Math.abs((other.logIndex as number) - (one.logIndex as number));
  return all
    .filter((other) => other.setupId !== one.setupId && other.kind === one.kind && other.logIndex !== null && off(other) <= Math.log1p(band))
    .sort((a, b) => off(a) - off(b) || (a.setupId < b.setupId ? -1 : 1));
}

const yearsBefore = (a: KnownSetup, b: KnownSetup) =>
  a.releasedOn && b.releasedOn ? (Date.parse(b.releasedOn) - Date.parse(a.releasedOn)) / 31_557_600_000 : undefined;

/** Peers by the question's own rule, each with its reason. */
function peersFor(kind: QuestionKind, subject: KnownSetup, all: readonly KnownSetup[]): ProposedSetup[] {
  const others = all.filter(({ setupId, kind: one }) => setupId !== subject.setupId && one === subject.kind);
  const named = (list: readonly KnownSetup[], role: SetupRole, why: (one: KnownSetup) => string): ProposedSetup[] =>
    list.map((one) => ({ setupId: one.setupId, role, why: why(one) }));
  const older = others.filter((one) => (yearsBefore(one, subject) ?? 0) >= 2);
  const relatives = others.filter((one) => one.maker !== null && one.maker === subject.maker);
  const priced = named(inPriceBand(subject, all), "peer", () => "in the same price band");
  const level = named(ofEqualSpeed(subject, all), "peer", () => "of equal performance");
  const owned = named(older, "owned", (one) => `${Math.round(yearsBefore(one, subject) ?? 0)} years older: what people own`);
  switch (kind) {
    case "upgrade":
      return owned.length > 0 ? [...owned, ...priced.slice(0, 2)] : [...level];
    case "generations":
    case "same_clocks":
      return named(relatives, "peer", () => "of the same maker");
    case "entry_against_dearer":
      return named(
        others.filter((one) => one.price !== null && subject.price !== null && one.price >= 2 * subject.price),
        "peer",
        (one) => `costs ${((one.price as number) / (subject.price as number)).toFixed(1)} × as much`,
      );
    case "head_to_head":
      return [...priced, ...level].slice(0, 1);
    case "one_factor":
    case "cooler_enough":
    case "play_and_stream":
      return named(relatives.slice(0, 1), "peer", () => "the nearest relative");
    case "launch":
      return [...priced, ...level, ...owned];
  }
}

/** The suite that loads what is under test and that most setups have been through: history stays comparable. */
function suiteFor(kind: QuestionKind, part: PartKind, suites: readonly KnownSuite[]): { suite: KnownSuite | undefined; why: string } {
  const wanted = kind === "cooler_enough" || part === "cooler" ? "soak" : kind === "play_and_stream" ? "streaming" : undefined;
  const byGroup = wanted ? suites.filter(({ groups }) => groups.includes(wanted)) : [];
  const loading = suites.filter(({ loads }) => loads.includes(part === "gpu" ? "gpu" : part === "storage" ? "storage" : part === "memory" ? "memory" : "cpu"));
  const pool = byGroup.length > 0 ? byGroup : loading;
  const suite = [...pool].sort((a, b) => b.setupsMeasured - a.setupsMeasured || (a.suiteId < b.suiteId ? -1 : 1))[0];
  if (!suite) return { suite: undefined, why: "No suite of the lab loads this kind of part; make one first." };
  return {
    suite,
    why: `It loads what is under test, and ${suite.setupsMeasured} ${suite.setupsMeasured === 1 ? "setup has" : "setups have"} been through it.`,
  };
}

/**
 * Proposes a review for a question: baseline, peers with their reasons, suite, resolutions, what to hold constant; from
 * the lab's own prices and results. Everything in it is meant to be edited.
 *
 * Shapes: `subjectIds` name 1 or more known setups (two for a head to head).
 * Errors: RangeError without a known subject.
 * Source: common practice (competitors by the same price band, ± 20 %, or equal performance, ± 10 %).
 */
export function proposeReview(
  kind: QuestionKind,
  subjectIds: readonly string[],
  lab: { setups: readonly KnownSetup[]; suites: readonly KnownSuite[] },
): Proposal {
  const subjects = subjectIds.flatMap((id) => lab.setups.find(({ setupId }) => setupId === id) ?? []);
  const first = subjects[0];
  if (!first) throw new RangeError(`a review needs a known setup as its subject, got ${subjectIds.join(", ") || "none"}`);
  const members: ProposedSetup[] = subjects.map(({ setupId }) => ({ setupId, role: "subject", why: "what the question is about" }));
  const wanted = kind === "head_to_head" && subjects.length > 1 ? [] : peersFor(kind, first, lab.setups);
  for (const peer of wanted) if (!members.some(({ setupId }) => setupId === peer.setupId)) members.push(peer);
  const { suite, why } = suiteFor(kind, first.kind, lab.suites);
  // People compare to what they own or to the nearest rival; where neither is there, the subject stands for itself.
  const baseline =
    (kind === "upgrade" ? members.find(({ role }) => role === "owned") : undefined) ?? members.find(({ role }) => role === "peer") ?? members.at(-1);
  const pixels = (text: string) => text.split("x").reduce((product, side) => product * Number(side), 1);
  const sorted = [...(suite?.resolutions ?? [])].sort((a, b) => pixels(a) - pixels(b));
  const rule = QUESTIONS[kind].resolutions;
  const resolutions =
    rule === "all" || sorted.length === 0
      ? sorted
      : [rule === "low" ? sorted[0] : rule === "native" ? sorted.at(-1) : sorted[Math.floor((sorted.length - 1) / 2)]];
  return {
    title:
      kind === "head_to_head" && members.length > 1
        ? members
            .slice(0, 2)
            .map(({ setupId }) => lab.setups.find((one) => one.setupId === setupId)?.label)
            .join(" or ")
        : first.label,
    question: QUESTIONS[kind].asks,
    baselineId: (baseline as ProposedSetup).setupId,
    setups: members,
    suiteId: suite?.suiteId ?? null,
    suiteWhy: why,
    resolutions: resolutions.filter((one) => one !== undefined),
    constants: QUESTIONS[kind].constants,
  };
}
