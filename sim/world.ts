/**
 * The demo world: an invented lab with invented makers, parts, games and shops, and the hidden truth behind each.
 * Nothing here is measured; the truth is what tests ask Parvex to recover.
 */
export interface CardTruth {
  id: string;
  maker: string;
  name: string;
  releasedOn: string;
  role: "subject" | "peer" | "owned";
  vramGib: number;
  boardPowerW: number;
  boostGhz: number;
  lengthMm: number;
  connectors: string;
  /** Work done per second relative to the baseline card where nothing else limits. */
  speed: number;
  /** How much of the speed is lost as pixels grow: narrow memory hurts at 2160. */
  pixelPenalty: number;
}

export const CARDS: readonly CardTruth[] = [
  {
    id: "grebe-12",
    maker: "Tarnuth",
    name: "Tarnuth Grebe 12",
    releasedOn: "2026-02-10",
    role: "peer",
    vramGib: 12,
    boardPowerW: 172,
    boostGhz: 2.48,
    lengthMm: 267,
    connectors: "1 × 8-pin",
    speed: 1,
    pixelPenalty: 0,
  },
  {
    id: "sorrel-70",
    maker: "Velm",
    name: "Velm Sorrel 70",
    releasedOn: "2026-05-19",
    role: "subject",
    vramGib: 16,
    boardPowerW: 206,
    boostGhz: 2.71,
    lengthMm: 281,
    connectors: "2 × 8-pin",
    speed: 1.19,
    pixelPenalty: -0.02,
  },
  {
    id: "halyard-9",
    maker: "Orrisk",
    name: "Orrisk Halyard 9",
    releasedOn: "2026-03-03",
    role: "peer",
    vramGib: 16,
    boardPowerW: 241,
    boostGhz: 2.9,
    lengthMm: 312,
    connectors: "2 × 8-pin",
    speed: 1.38,
    pixelPenalty: -0.03,
  },
  {
    id: "halyard-6",
    maker: "Orrisk",
    name: "Orrisk Halyard 6",
    releasedOn: "2026-01-21",
    role: "peer",
    vramGib: 12,
    boardPowerW: 178,
    boostGhz: 2.62,
    lengthMm: 254,
    connectors: "1 × 8-pin",
    speed: 1.06,
    pixelPenalty: 0.01,
  },
  {
    id: "sorrel-60",
    maker: "Velm",
    name: "Velm Sorrel 60",
    releasedOn: "2025-11-11",
    role: "peer",
    vramGib: 12,
    boardPowerW: 148,
    boostGhz: 2.55,
    lengthMm: 242,
    connectors: "1 × 8-pin",
    speed: 1.015,
    pixelPenalty: 0.02,
  },
  {
    id: "grebe-8",
    maker: "Tarnuth",
    name: "Tarnuth Grebe 8",
    releasedOn: "2023-09-05",
    role: "owned",
    vramGib: 8,
    boardPowerW: 162,
    boostGhz: 2.2,
    lengthMm: 251,
    connectors: "1 × 8-pin",
    speed: 0.77,
    pixelPenalty: 0.05,
  },
];

/** Cards that came to the lab last: no run of them is there yet, so that a review of them can be planned and run on the simulated bench. */
export const NEW_CARDS: readonly CardTruth[] = [
  {
    id: "halyard-7",
    maker: "Orrisk",
    name: "Orrisk Halyard 7",
    releasedOn: "2026-11-16",
    role: "subject",
    vramGib: 16,
    boardPowerW: 198,
    boostGhz: 2.78,
    lengthMm: 276,
    connectors: "2 × 8-pin",
    speed: 1.22,
    pixelPenalty: -0.02,
  },
  {
    id: "sorrel-65",
    maker: "Velm",
    name: "Velm Sorrel 65",
    releasedOn: "2026-10-27",
    role: "peer",
    vramGib: 12,
    boardPowerW: 171,
    boostGhz: 2.66,
    lengthMm: 327,
    connectors: "1 × 8-pin",
    speed: 1.1,
    pixelPenalty: 0,
  },
  {
    id: "grebe-10",
    maker: "Tarnuth",
    name: "Tarnuth Grebe 10",
    releasedOn: "2026-10-06",
    role: "peer",
    vramGib: 10,
    boardPowerW: 155,
    boostGhz: 2.41,
    lengthMm: 262,
    connectors: "1 × 8-pin",
    speed: 0.93,
    pixelPenalty: 0.03,
  },
];

export interface GameTruth {
  id: string;
  name: string;
  scene: string;
  api: string;
  preset: string;
  /** The baseline's rate at 2560x1440 where only the card limits, in fps. */
  baseFps: number;
  /** The rate that the bench's processor allows, in fps. */
  cpuCeilingFps: number;
  /** Exponent of the rate over pixels. */
  pixelExponent: number;
  /** Spread of frame times within a run (log scale). */
  frameSpread: number;
  /** Share of stutters among frames. */
  stutterShare: number;
  /** Leaning towards a maker's design, log scale, by maker. */
  lean: Readonly<Record<string, number>>;
  vramGib2160: number;
}

const game = (
  id: string,
  name: string,
  scene: string,
  api: string,
  baseFps: number,
  cpuCeilingFps: number,
  pixelExponent: number,
  frameSpread: number,
  stutterShare: number,
  lean: [velm: number, orrisk: number, tarnuth: number],
  vramGib2160: number,
): GameTruth => ({
  id,
  name,
  scene,
  api,
  preset: "High",
  baseFps,
  cpuCeilingFps,
  pixelExponent,
  frameSpread,
  stutterShare,
  vramGib2160,
  lean: { Velm: lean[0], Orrisk: lean[1], Tarnuth: lean[2] },
});

export const GAMES: readonly GameTruth[] = [
  game("brackwater-oath", "Brackwater Oath", "causeway at dusk, 60 s", "explicit", 98, 212, 0.72, 0.1, 0.0006, [0.05, -0.02, 0], 9.1),
  game("copperfen", "Copperfen", "market walk, 60 s", "explicit", 84, 168, 0.66, 0.12, 0.0009, [-0.03, 0.04, 0], 8.4),
  game("gantry-41", "Gantry 41", "crane descent, 60 s", "explicit", 133, 296, 0.75, 0.09, 0.0003, [0.07, 0.01, 0], 7.2),
  game("hexhollow-rally", "Hexhollow Rally", "stage 3, first 60 s", "classic", 141, 241, 0.62, 0.08, 0.0002, [-0.06, 0.02, 0], 6.1),
  game("lanternwick", "Lanternwick", "rooftop loop, 60 s", "explicit", 72, 190, 0.78, 0.13, 0.0011, [0.02, -0.05, 0], 10.3),
  game("mossgrave-toll", "Mossgrave Toll", "bridge toll, 60 s", "explicit", 66, 151, 0.74, 0.14, 0.0014, [0.09, 0.03, 0], 10.9),
  game("oriel-drift", "Oriel Drift", "hangar exit, 60 s", "explicit", 118, 262, 0.7, 0.09, 0.0004, [-0.02, -0.03, 0], 7.7),
  game("pale-antenna", "Pale Antenna", "array field, 60 s", "explicit", 91, 205, 0.73, 0.11, 0.0007, [0.03, 0.05, 0], 8.8),
  game("saltpan-courier", "Saltpan Courier", "salt road, 60 s", "classic", 156, 232, 0.58, 0.1, 0.0005, [-0.08, -0.01, 0], 6.6),
  game("tidewright", "Tidewright", "harbour storm, 60 s", "explicit", 77, 178, 0.76, 0.12, 0.0008, [0.04, 0.02, 0], 9.6),
  game("tollmere-seven", "Tollmere Seven", "district 4 chase, 60 s", "explicit", 104, 224, 0.71, 0.1, 0.0006, [0.01, -0.02, 0], 8.1),
  game("umber-regatta", "Umber Regatta", "lap 1, 60 s", "classic", 168, 318, 0.65, 0.08, 0.0002, [-0.04, 0.06, 0], 5.4),
  game("winterglass-keep", "Winterglass Keep", "outer ward, 60 s", "explicit", 59, 143, 0.77, 0.13, 0.0012, [0.06, -0.04, 0], 11.2),
  game("wrenfall-parish", "Wrenfall Parish", "procession, 60 s", "explicit", 88, 174, 0.69, 0.12, 0.001, [0, 0.01, 0], 8.9),
];

export const RESOLUTIONS = ["1920x1080", "2560x1440", "3840x2160"] as const;
export type DemoResolution = (typeof RESOLUTIONS)[number];

export const REGIONS = [
  { code: "NO", name: "Norway", currency: "NOK", taxIncluded: true, taxRate: 0.25, tariff: 1.35, exponent: 2, usd: 10.4 },
  { code: "PL", name: "Poland", currency: "PLN", taxIncluded: true, taxRate: 0.23, tariff: 1.02, exponent: 2, usd: 3.9 },
  { code: "JP", name: "Japan", currency: "JPY", taxIncluded: true, taxRate: 0.1, tariff: 34, exponent: 0, usd: 152 },
  { code: "BR", name: "Brazil", currency: "BRL", taxIncluded: true, taxRate: 0.17, tariff: 0.87, exponent: 2, usd: 5.6 },
] as const;

/** Price level of each card in an invented unit, and how regions differ: the same card is a bargain here and a bad buy there. */
export const LAUNCH_UNITS: Readonly<Record<string, number>> = {
  "grebe-12": 389,
  "sorrel-70": 489,
  "halyard-9": 629,
  "halyard-6": 429,
  "sorrel-60": 359,
  "grebe-8": 329,
  "halyard-7": 499,
  "sorrel-65": 429,
  "grebe-10": 339,
};
export const REGION_FACTOR: Readonly<Record<string, Readonly<Record<string, number>>>> = {
  NO: {
    "grebe-12": 1.26,
    "sorrel-70": 1.22,
    "halyard-9": 1.31,
    "halyard-6": 1.2,
    "sorrel-60": 1.24,
    "grebe-8": 1.02,
    "halyard-7": 1.25,
    "sorrel-65": 1.23,
    "grebe-10": 1.27,
  },
  PL: {
    "grebe-12": 1.2,
    "sorrel-70": 1.31,
    "halyard-9": 1.22,
    "halyard-6": 1.27,
    "sorrel-60": 1.16,
    "grebe-8": 1.0,
    "halyard-7": 1.24,
    "sorrel-65": 1.28,
    "grebe-10": 1.19,
  },
  JP: {
    "grebe-12": 1.12,
    "sorrel-70": 1.08,
    "halyard-9": 1.18,
    "halyard-6": 1.16,
    "sorrel-60": 1.21,
    "grebe-8": 0.95,
    "halyard-7": 1.14,
    "sorrel-65": 1.12,
    "grebe-10": 1.1,
  },
  BR: {
    "grebe-12": 1.66,
    "sorrel-70": 1.83,
    "halyard-9": 1.71,
    "halyard-6": 1.58,
    "sorrel-60": 1.79,
    "grebe-8": 1.4,
    "halyard-7": 1.69,
    "sorrel-65": 1.74,
    "grebe-10": 1.62,
  },
};
export const SHOPS: Readonly<Record<string, readonly [string, string]>> = {
  NO: ["Fjordnilsen Data", "Brattelid"],
  PL: ["Wizmarek", "Okrzeja Podzespoły"],
  JP: ["Tsubakuro Denki", "Minowa Parts"],
  BR: ["Caranduva Peças", "Itaporã Hardware"],
};
