import type { PartKind } from "./schema";

/** A part with its specifications, as compatibility needs it. */
export interface FitPart {
  id: string;
  kind: PartKind;
  name: string;
  /** Specification values by key, as text with their unit apart. */
  specs: Readonly<Record<string, { value: string; unit: string | null }>>;
}

/** In the order of how bad it is. */
export type FitVerdict = "fits" | "fits with a note" | "not known" | "does not fit";
const ORDER: readonly FitVerdict[] = ["fits", "fits with a note", "not known", "does not fit"];

/** One rule's answer with its reason. */
export interface FitAnswer {
  rule: "socket" | "firmware" | "memory" | "cooler mounting" | "cooler rating" | "clearance" | "power headroom" | "power connectors";
  verdict: FitVerdict;
  reason: string;
}

/** What the rest of a system (board, memory, storage, fans) is allowed for, in watts. Common practice. */
const REST_W = 75;
/** Short peaks above sustained power that a supply must ride out: cards half as much again, processors a fifth. Common practice, from memory. */
const GPU_TRANSIENT = 0.5;
const CPU_TRANSIENT = 0.2;

/** The rule of power headroom in words, for the screen. */
export const HEADROOM_RULE =
  "Sustained: processor package power + card board power + 75 W for the rest. Peaks: + 50 % of the card's and + 20 % of the processor's power. The supply fits when its rating covers sustained and peaks; it fits with a note when it covers the sustained sum and 10 % more.";

const numberOf = (part: FitPart | undefined, ...keys: string[]): number | undefined => {
  for (const key of keys) {
    const value = Number(part?.specs[key]?.value);
    if (part?.specs[key] && Number.isFinite(value)) return value;
  }
  return undefined;
};
const textOf = (part: FitPart | undefined, key: string) => part?.specs[key]?.value.trim();
const listOf = (text: string) => text.split(/[,;/]/).map((one) => one.trim().toLowerCase());

/** The numbers of a version such as "B4 2.18", read from its last dotted number; undefined where there is none. */
function versionOf(text: string): number[] | undefined {
  const found = text.match(/\d+(?:\.\d+)+/g)?.at(-1);
  return found?.split(".").map(Number);
}

function isOlder(a: readonly number[], b: readonly number[]): boolean {
  for (let i = 0; i < Math.max(a.length, b.length); i += 1) {
    const difference = (a[i] ?? 0) - (b[i] ?? 0);
    if (difference !== 0) return difference < 0;
  }
  return false;
}

/** Connectors by kind, as in 2 × 8-pin + 1 × 16-pin; undefined where the text cannot be read. "none" is no connector. */
export function parseConnectors(text: string): Map<string, number> | undefined {
  const counts = new Map<string, number>();
  if (/^(none|0)$/i.test(text.trim())) return counts;
  for (const part of text.split(/[+,]/)) {
    const match = part.trim().match(/^(?:(\d+)\s*[×x]\s*)?(\d+-pin)$/i);
    if (!match) return undefined;
    const kind = (match[2] as string).toLowerCase();
    counts.set(kind, (counts.get(kind) ?? 0) + Number(match[1] ?? 1));
  }
  return counts;
}

const missing = (rule: FitAnswer["rule"], what: string): FitAnswer => ({ rule, verdict: "not known", reason: `${what} is not known; enter it with the part.` });

function judgeSocket(cpu: FitPart, board: FitPart): FitAnswer {
  const [own, offered] = [textOf(cpu, "socket"), textOf(board, "socket")];
  if (!own || !offered) return missing("socket", `The socket of ${own ? board.name : cpu.name}`);
  return own === offered
    ? { rule: "socket", verdict: "fits", reason: `Both are ${own}.` }
    : { rule: "socket", verdict: "does not fit", reason: `${cpu.name} needs ${own}, ${board.name} has ${offered}.` };
}

function judgeFirmware(cpu: FitPart, firmware: string | undefined): FitAnswer[] {
  const needed = textOf(cpu, "needs_firmware");
  if (!needed) return [];
  const [wanted, has] = [versionOf(needed), firmware ? versionOf(firmware) : undefined];
  if (!wanted || !has) return [missing("firmware", "The bench's firmware version")];
  return isOlder(has, wanted)
    ? [
        {
          rule: "firmware",
          verdict: "does not fit",
          reason: `${cpu.name} starts from firmware ${needed}; the bench has ${firmware}. Update it with the old processor first.`,
        },
      ]
    : [{ rule: "firmware", verdict: "fits", reason: `${firmware} is at least ${needed}.` }];
}

function judgeMemory(memory: FitPart, board: FitPart): FitAnswer {
  const [own, offered] = [textOf(memory, "memory_type"), textOf(board, "memory_type")];
  if (!own || !offered) return missing("memory", `The memory type of ${own ? board.name : memory.name}`);
  if (own !== offered) return { rule: "memory", verdict: "does not fit", reason: `${memory.name} is ${own}, ${board.name} takes ${offered}.` };
  const [rate, most] = [numberOf(memory, "memory_rate"), numberOf(board, "memory_rate_max")];
  if (rate !== undefined && most !== undefined && rate > most)
    return { rule: "memory", verdict: "fits with a note", reason: `Its profile is ${rate} MT/s, the board is specified to ${most}; read the rate back.` };
  return { rule: "memory", verdict: "fits", reason: `Both are ${own}.` };
}

function judgeCooler(cooler: FitPart, cpu: FitPart): FitAnswer[] {
  const [sockets, socket] = [textOf(cooler, "sockets"), textOf(cpu, "socket")];
  const mounting: FitAnswer =
    !sockets || !socket
      ? missing("cooler mounting", `The mounting of ${cooler.name} or the socket of ${cpu.name}`)
      : listOf(sockets).includes(socket.toLowerCase())
        ? { rule: "cooler mounting", verdict: "fits", reason: `${cooler.name} has a mounting for ${socket}.` }
        : { rule: "cooler mounting", verdict: "does not fit", reason: `${cooler.name} mounts on ${sockets}, not on ${socket}.` };
  const [rated, powerW] = [numberOf(cooler, "rated_power"), numberOf(cpu, "package_power", "tdp")];
  const rating: FitAnswer =
    rated === undefined || powerW === undefined
      ? missing("cooler rating", `The rating of ${cooler.name} or the power of ${cpu.name}`)
      : rated >= powerW
        ? { rule: "cooler rating", verdict: "fits", reason: `Rated ${rated} W for ${powerW} W.` }
        : {
            rule: "cooler rating",
            verdict: "fits with a note",
            reason: `Rated ${rated} W, the processor draws ${powerW} W: expect throttling; keep to the stop rule and stay with it.`,
          };
  return [mounting, rating];
}

function judgeClearance(part: FitPart, key: "length" | "height", room: string | undefined): FitAnswer {
  const needMm = numberOf(part, key);
  if (needMm === undefined) return missing("clearance", `The ${key} of ${part.name}`);
  if (room === "open") return { rule: "clearance", verdict: "fits", reason: "The bench is open." };
  const roomMm = room === undefined ? Number.NaN : Number(room);
  if (!Number.isFinite(roomMm)) return missing("clearance", `The room for ${part.name} on this bench`);
  if (needMm > roomMm) return { rule: "clearance", verdict: "does not fit", reason: `${part.name} is ${needMm} mm, there are ${roomMm} mm.` };
  return roomMm - needMm < 5
    ? { rule: "clearance", verdict: "fits with a note", reason: `${part.name} is ${needMm} mm of ${roomMm} mm: less than 5 mm to spare.` }
    : { rule: "clearance", verdict: "fits", reason: `${needMm} mm of ${roomMm} mm.` };
}

function judgeHeadroom(psu: FitPart, cpu: FitPart | undefined, gpu: FitPart | undefined): FitAnswer {
  const rule = "power headroom";
  const ratedW = numberOf(psu, "rated_power");
  const cpuW = cpu ? numberOf(cpu, "package_power", "tdp") : 0;
  const gpuW = gpu ? numberOf(gpu, "board_power") : 0;
  if (ratedW === undefined) return missing(rule, `The rating of ${psu.name}`);
  if (cpuW === undefined || gpuW === undefined) return missing(rule, `The power of ${cpuW === undefined ? cpu?.name : gpu?.name}`);
  const sustainedW = cpuW + gpuW + REST_W;
  const peakW = Math.round(sustainedW + GPU_TRANSIENT * gpuW + CPU_TRANSIENT * cpuW);
  const sum = `${cpuW} + ${gpuW} + ${REST_W} = ${sustainedW} W sustained, ${peakW} W with peaks, supply ${ratedW} W`;
  if (ratedW >= peakW) return { rule, verdict: "fits", reason: `${sum}.` };
  return ratedW >= 1.1 * sustainedW
    ? { rule, verdict: "fits with a note", reason: `${sum}: peaks may trip it.` }
    : { rule, verdict: "does not fit", reason: `${sum}.` };
}

function judgeConnectors(psu: FitPart, gpu: FitPart): FitAnswer {
  const rule = "power connectors";
  const [own, offered] = [textOf(gpu, "power_connectors"), textOf(psu, "gpu_connectors")];
  const [need, have] = [own ? parseConnectors(own) : undefined, offered ? parseConnectors(offered) : undefined];
  if (!need || !have) return missing(rule, `What ${need ? psu.name : gpu.name} has of power connectors`);
  const short = [...need].filter(([kind, count]) => (have.get(kind) ?? 0) < count);
  return short.length === 0
    ? { rule, verdict: "fits", reason: `${own} needed, ${offered} there. Use the supply's own cables: modular cables are not interchangeable.` }
    : { rule, verdict: "does not fit", reason: `${gpu.name} needs ${own}; ${psu.name} has ${offered}.` };
}

/**
 * Whether parts go together on a bench: each rule with its verdict and reason. A rule whose parts are not there is not
 * asked; one whose facts are missing answers "not known", never "fits".
 *
 * Units: watts, millimetres, MT/s, as the specifications are entered.
 * Source: common practice; the allowances of power headroom are stated in HEADROOM_RULE.
 */
export function judgeFit(parts: readonly FitPart[], benchState: Readonly<Record<string, string>>): FitAnswer[] {
  const of = (kind: PartKind) => parts.find((part) => part.kind === kind);
  const [cpu, board, memory, cooler, gpu, psu] = [of("cpu"), of("board"), of("memory"), of("cooler"), of("gpu"), of("psu")];
  return [
    ...(cpu && board ? [judgeSocket(cpu, board)] : []),
    ...(cpu ? judgeFirmware(cpu, benchState.firmware) : []),
    ...(memory && board ? [judgeMemory(memory, board)] : []),
    ...(cooler && cpu ? judgeCooler(cooler, cpu) : []),
    ...(gpu ? [judgeClearance(gpu, "length", benchState.gpu_clearance_mm)] : []),
    ...(cooler ? [judgeClearance(cooler, "height", benchState.cooler_clearance_mm)] : []),
    ...(psu ? [judgeHeadroom(psu, cpu, gpu)] : []),
    ...(psu && gpu ? [judgeConnectors(psu, gpu)] : []),
  ];
}

/** The verdict over all rules: the worst of them; nothing judged is "not known". */
export function overallFit(answers: readonly FitAnswer[]): FitVerdict {
  if (answers.length === 0) return "not known";
  return answers.reduce<FitVerdict>((worst, { verdict }) => (ORDER.indexOf(verdict) > ORDER.indexOf(worst) ? verdict : worst), "fits");
}
