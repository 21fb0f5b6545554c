import { z } from "zod";

/** The names of a lab that may stand in the paths of its logs. */
export interface LabNames {
  setups: { id: string; label: string }[];
  tests: { key: string; id: string; name: string; workloadId: string; workloadName: string; resolution: string | null; settings: string }[];
}

/** How a person's paths are read: a template, and what its pieces mean where they are not the lab's own names. */
export const PathPattern = z.object({
  /** Such as `{setup}/{test}_{resolution}_run{run}.csv`; `{*}` is anything. */
  template: z.string().min(1).max(400),
  meanings: z.object({ setup: z.record(z.string(), z.string()), test: z.record(z.string(), z.string()), resolution: z.record(z.string(), z.string()) }),
});
export type PathPattern = z.infer<typeof PathPattern>;

export const NO_MEANINGS: PathPattern["meanings"] = { setup: {}, test: {}, resolution: {} };

/** Where a file belongs, as far as its path tells. */
export interface PathAssignment {
  path: string;
  /** The pieces of the path by what they name. */
  pieces: Partial<Record<PieceName, string>>;
  setupId: string | null;
  testKey: string | null;
  number: number | null;
  /** True where the number is only the order of the paths within their cell. */
  numberedByOrder: boolean;
  /** Why it is left over; null where it has its place. */
  trouble: string | null;
}

export const PIECES = ["setup", "test", "resolution", "run"] as const;
export type PieceName = (typeof PIECES)[number];

const words = (text: string) => text.toLowerCase().match(/[a-z]+|\d+/g) ?? [];
/** A name as a pattern: its words in order, whatever stands between them. */
const asPattern = (list: readonly string[]) => list.join("[^a-z0-9/]*");
const BEFORE = "(?<![a-z0-9])";
const AFTER = "(?![a-z0-9])";

const RESOLUTION_NAMES: Record<string, string> = {
  "720": "1280x720",
  "1080": "1920x1080",
  "1440": "2560x1440",
  "1600": "2560x1600",
  "2160": "3840x2160",
  "4320": "7680x4320",
  hd: "1280x720",
  fhd: "1920x1080",
  qhd: "2560x1440",
  wqhd: "2560x1440",
  uhd: "3840x2160",
  "4k": "3840x2160",
  "8k": "7680x4320",
};
const RESOLUTION = `${BEFORE}(?:(\\d{3,4}) ?[x×] ?(\\d{3,4})|(720|1080|1440|1600|2160|4320)p?|(w?qhd|[fu]?hd|[48]k))${AFTER}`;

/** A resolution as the lab writes it, from any of its usual spellings; undefined for what is none. */
export function resolutionOf(text: string): string | undefined {
  const match = new RegExp(`^${RESOLUTION}$`, "i").exec(text.trim());
  if (!match) return undefined;
  return match[1] ? `${match[1]}x${match[2]}` : RESOLUTION_NAMES[(match[3] ?? match[4] ?? "").toLowerCase()];
}

interface Spelling {
  id: string;
  pattern: string;
  length: number;
  /** The name somewhere in a path, and the name alone: made once, used for every path. */
  within: RegExp;
  alone: RegExp;
}

/** Every way in which a name may stand in a path: whole, by its id, without its first word (a maker, a kind). */
function spellings(names: readonly { id: string; texts: readonly string[] }[]): Spelling[] {
  const all = names.flatMap(({ id, texts }) =>
    texts.flatMap((text) => {
      const list = words(text);
      const shorter = list.length > 2 || (list.length === 2 && (list[1] as string).length > 3) ? [list.slice(1)] : [];
      return [list, ...shorter]
        .filter((one) => one.length > 0 && one.join("").length > 1)
        .map((one) => ({ id, pattern: asPattern(one), length: one.join("").length }));
    }),
  );
  // A spelling that two names share tells neither.
  const owners = new Map<string, Set<string>>();
  for (const { id, pattern } of all) owners.set(pattern, (owners.get(pattern) ?? new Set()).add(id));
  return all
    .filter(({ pattern }) => owners.get(pattern)?.size === 1)
    .sort((a, b) => b.length - a.length || (a.id < b.id ? -1 : 1))
    .map((one) => ({ ...one, within: new RegExp(`${BEFORE}${one.pattern}${AFTER}`), alone: new RegExp(`^[^a-z0-9]*${one.pattern}[^a-z0-9]*$`, "i") }));
}

const setupSpellings = ({ setups }: LabNames) => spellings(setups.map(({ id, label }) => ({ id, texts: [label, id] })));
const workloadSpellings = ({ tests }: LabNames) => {
  const workloads = new Map(tests.map((test) => [test.workloadId, test.workloadName]));
  return spellings([...workloads].map(([id, name]) => ({ id, texts: [name, id] })));
};

interface Span {
  piece: PieceName;
  from: number;
  to: number;
}

const overlaps = (spans: readonly Span[], from: number, to: number) => spans.some((span) => from < span.to && to > span.from);

/** What a path seems to name, and where; longer names first, each part of the path for one purpose. */
function spansOf(path: string, setups: readonly Spelling[], workloads: readonly Spelling[]): Span[] {
  const stem = path.toLowerCase().replace(/\.[a-z0-9]{1,6}(\.gz)?$/, "");
  const spans: Span[] = [];
  const find = (piece: PieceName, list: readonly Spelling[]) => {
    for (const { within } of list) {
      const match = within.exec(stem);
      if (!match || overlaps(spans, match.index, match.index + match[0].length)) continue;
      spans.push({ piece, from: match.index, to: match.index + match[0].length });
      return;
    }
  };
  find("setup", setups);
  find("test", workloads);
  for (const match of stem.matchAll(new RegExp(RESOLUTION, "g"))) {
    if (overlaps(spans, match.index, match.index + match[0].length)) continue;
    spans.push({ piece: "resolution", from: match.index, to: match.index + match[0].length });
    break;
  }
  const numbers = [...stem.matchAll(/(?<![0-9])\d{1,3}(?![0-9])/g)].filter((match) => !overlaps(spans, match.index, match.index + match[0].length));
  const named = numbers.find((match) => /(run|pass|lap|take|try|round|no|#|(?<![a-z])r)[ _.#-]*$/.test(stem.slice(0, match.index)));
  const run = named ?? numbers.filter((match) => match.index > stem.lastIndexOf("/")).at(-1);
  if (run) spans.push({ piece: "run", from: run.index, to: run.index + run[0].length });
  return spans.sort((a, b) => a.from - b.from);
}

/** The path with its spans as placeholders. */
function templateOf(path: string, spans: readonly Span[]): string {
  let template = "";
  let at = 0;
  for (const { piece, from, to } of spans) {
    template += `${path.slice(at, from)}{${piece}}`;
    at = to;
  }
  return template + path.slice(at);
}

const tokens = (template: string) => template.split(/(\{[a-z*]+\}|[/_ .-]+)/).filter((token) => token !== "");

/** One template for two that differ only in words of their own: those become `{*}`. */
function generalise(a: string, b: string): string | undefined {
  const [x, y] = [tokens(a), tokens(b)];
  if (x.length !== y.length) return undefined;
  const merged = x.map((token, i) =>
    token === y[i] ? token : /^(\{\*\}|[^{}/_ .-]+)$/.test(token) && /^(\{\*\}|[^{}/_ .-]+)$/.test(y[i] as string) ? "{*}" : undefined,
  );
  return merged.includes(undefined) ? undefined : merged.join("");
}

/**
 * Proposes how the paths of a drop name setup, test, resolution and run: the lab's own names are looked for in each path,
 * and the commonest arrangement becomes the template. Where the names are the person's own, folders that differ are
 * proposed as setup and test, for the person to confirm. Deterministic; nothing is assigned by it.
 */
export function proposePattern(paths: readonly string[], names: LabNames): PathPattern {
  const [setups, workloads] = [setupSpellings(names), workloadSpellings(names)];
  const counts = new Map<string, number>();
  for (const path of paths) {
    const template = templateOf(path, spansOf(path, setups, workloads));
    const known = [...counts.keys()].find((other) => other === template || generalise(other, template) !== undefined);
    const merged = known === undefined ? template : known === template ? template : (generalise(known, template) as string);
    const count = (known === undefined ? 0 : (counts.get(known) ?? 0)) + 1;
    if (known !== undefined) counts.delete(known);
    counts.set(merged, count);
  }
  const pieces = (template: string) => PIECES.filter((piece) => template.includes(`{${piece}}`)).length;
  const [best] = [...counts].sort((a, b) => b[1] * (1 + pieces(b[0])) - a[1] * (1 + pieces(a[0])) || (a[0] < b[0] ? -1 : 1));
  return { template: best ? namedByFolders(best[0]) : "{setup}/{test}_{resolution}_{run}.csv", meanings: NO_MEANINGS };
}

/** Parts of a path that differ without being known: the first is taken for the setup, the next for the test. */
function namedByFolders(template: string): string {
  let result = template;
  for (const piece of ["setup", "test"]) if (!result.includes(`{${piece}}`)) result = result.replace("{*}", `{${piece}}`);
  return result;
}

const escape = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, "\\$&");

/** The template as an expression; known names are tried before anything else, so that a name may hold the separators. */
function expressionOf(template: string, known: Partial<Record<PieceName, readonly string[]>>): RegExp {
  const seen = new Set<string>();
  const source = template
    .split(/(\{[a-z*]+\})/)
    .map((token) => {
      const piece = /^\{([a-z*]+)\}$/.exec(token)?.[1];
      if (piece === undefined) return escape(token);
      if (piece === "*") return "[^/]*?";
      if (!(PIECES as readonly string[]).includes(piece)) return escape(token);
      if (seen.has(piece)) return `\\k<${piece}>`;
      seen.add(piece);
      const alternatives = [...(known[piece as PieceName] ?? []), piece === "run" ? "\\d+" : "[^/]+?"];
      return `(?<${piece}>${alternatives.join("|")})`;
    })
    .join("");
  return new RegExp(`^${source}$`, "i");
}

const plural = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;

/**
 * Assigns each path its setup, test and run by the pattern. What a piece means is the person's word first, then the lab's
 * own names; what stays unknown or could be several things has its trouble in words, and no place.
 */
export function assignPaths(paths: readonly string[], { template, meanings }: PathPattern, names: LabNames): PathAssignment[] {
  const [setups, workloads] = [setupSpellings(names), workloadSpellings(names)];
  const expression = expressionOf(template, {
    setup: [...Object.keys(meanings.setup).map((value) => escape(value)), ...setups.map(({ pattern }) => pattern)],
    test: [...Object.keys(meanings.test).map((value) => escape(value)), ...workloads.map(({ pattern }) => pattern)],
    resolution: Object.keys(meanings.resolution).map((value) => escape(value)),
  });
  const exact = (list: readonly Spelling[], value: string) => list.find(({ alone }) => alone.test(value))?.id;
  const setupOf = remembering((value: string) => meanings.setup[value.toLowerCase()] ?? exact(setups, value));
  const testsOf = remembering((value: string) => {
    const meant = meanings.test[value.toLowerCase()];
    const workload = meant ?? exact(workloads, value);
    const byWorkload = names.tests.filter((test) => test.workloadId === workload || test.key === meant);
    return byWorkload.length > 0
      ? byWorkload
      : names.tests.filter((test) => [test.id, test.name].some((text) => words(text).join(" ") === words(value).join(" ")));
  });

  const assigned = paths.map((path): PathAssignment => {
    const groups = expression.exec(path)?.groups;
    const nothing: PathAssignment = {
      path,
      pieces: {},
      setupId: null,
      testKey: null,
      number: null,
      numberedByOrder: false,
      trouble: "its path does not fit the pattern",
    };
    if (!groups) return nothing;
    const pieces = Object.fromEntries(Object.entries(groups).filter(([, value]) => value !== undefined)) as PathAssignment["pieces"];
    const setupId = pieces.setup ? (setupOf(pieces.setup) ?? null) : null;
    const found = judgeTest(path, pieces, testsOf, meanings.resolution);
    const number = pieces.run ? Number(pieces.run) : null;
    const trouble = setupId === null ? (pieces.setup ? `no setup is called “${pieces.setup}”` : "the pattern names no setup") : found.trouble;
    return { path, pieces, setupId, testKey: found.testKey, number: number !== null && number >= 1 ? number : null, numberedByOrder: false, trouble };
  });
  return numberByOrder(assigned);
}

/** The same few names stand in thousands of paths: each is looked up once. */
function remembering<T>(look: (value: string) => T): (value: string) => T {
  const found = new Map<string, T>();
  return (value) => {
    if (!found.has(value)) found.set(value, look(value));
    return found.get(value) as T;
  };
}

function judgeTest(
  path: string,
  pieces: PathAssignment["pieces"],
  testsOf: (value: string) => LabNames["tests"],
  resolutions: Record<string, string>,
): { testKey: string | null; trouble: string | null } {
  if (!pieces.test) return { testKey: null, trouble: "the pattern names no test" };
  const tests = testsOf(pieces.test);
  if (tests.length === 0) return { testKey: null, trouble: `no test or workload is called “${pieces.test}”` };
  const resolution = pieces.resolution ? (resolutions[pieces.resolution.toLowerCase()] ?? resolutionOf(pieces.resolution)) : undefined;
  if (pieces.resolution && !resolution) return { testKey: null, trouble: `“${pieces.resolution}” is no known resolution` };
  const atResolution = resolution ? tests.filter((test) => test.resolution === resolution) : tests;
  if (atResolution.length === 0) return { testKey: null, trouble: `${tests[0]?.workloadName} has no test at ${resolution}` };
  if (atResolution.length === 1) return { testKey: atResolution[0]?.key ?? null, trouble: null };
  // Several settings or versions: the path may name what tells them apart.
  const inPath = new Set(words(path));
  const told = atResolution.filter((test) => {
    const shared = atResolution.filter((other) => other !== test).map((other) => new Set(words(other.settings)));
    const own = words(test.settings).filter((word) => shared.every((other) => !other.has(word)));
    return own.length > 0 && own.some((word) => inPath.has(word));
  });
  if (told.length === 1) return { testKey: told[0]?.key ?? null, trouble: null };
  return { testKey: null, trouble: `${plural(atResolution.length, "test")} fit: ${atResolution.map(({ name }) => name).join(", ")}` };
}

/** Files without a number get the order of their paths within the cell, and it is said. */
function numberByOrder(assigned: readonly PathAssignment[]): PathAssignment[] {
  const next = new Map<string, number>();
  const order = [...assigned].sort((a, b) => a.path.localeCompare(b.path, "en", { numeric: true }));
  const numbers = new Map<PathAssignment, number>();
  for (const one of order) {
    if (one.trouble !== null || one.number !== null) continue;
    const cell = `${one.setupId}/${one.testKey}`;
    next.set(cell, (next.get(cell) ?? 0) + 1);
    numbers.set(one, next.get(cell) as number);
  }
  return assigned.map((one) => (numbers.has(one) ? { ...one, number: numbers.get(one) as number, numberedByOrder: true } : one));
}

/** Files that claim the same place and give the same kind of log; one frame log and one sensor log make one run together. */
export function clashesOf(
  files: readonly { path: string; setupId: string | null; testKey: string | null; number: number | null; kind: "frames" | "sensors" | "both" }[],
): Map<string, string[]> {
  const places = new Map<string, { path: string; kind: string }[]>();
  for (const { path, setupId, testKey, number, kind } of files) {
    if (setupId === null || testKey === null || number === null) continue;
    for (const part of kind === "both" ? ["frames", "sensors"] : [kind]) {
      const place = `${setupId}\n${testKey}\n${number}\n${part}`;
      places.set(place, [...(places.get(place) ?? []), { path, kind: part }]);
    }
  }
  const clashes = new Map<string, string[]>();
  for (const list of places.values()) {
    if (list.length < 2) continue;
    for (const { path } of list) {
      const others = list.map((one) => one.path).filter((other) => other !== path);
      clashes.set(path, [...new Set([...(clashes.get(path) ?? []), ...others])]);
    }
  }
  return clashes;
}
