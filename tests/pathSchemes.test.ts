// How people file their logs: folders and names in many manners, read back to where each log belongs. A path is put in its
// own place or is left over with a reason; it is never put in another's.
import { describe, expect, it } from "vitest";
import { CARDS, GAMES, RESOLUTIONS } from "#sim/world";
import { assignPaths, clashesOf, type LabNames, NO_MEANINGS, proposePattern, resolutionOf } from "@/core/intake";
import { createRandom } from "@/core/random";

const NAMES: LabNames = {
  setups: CARDS.map(({ id, name }) => ({ id, label: name })),
  tests: GAMES.flatMap((game) =>
    RESOLUTIONS.map((resolution) => {
      const id = `${game.id}-${resolution.split("x")[1]}`;
      return {
        key: `${id}@1`,
        id,
        name: `${game.name} ${resolution.split("x")[1]}`,
        workloadId: game.id,
        workloadName: game.name,
        resolution,
        settings: game.scene,
      };
    }),
  ),
};

interface Place {
  setupId: string;
  testKey: string;
  number: number;
}

/** Every cell of the demo lab with three runs. */
const PLACES = CARDS.flatMap(({ id, name }) =>
  GAMES.flatMap((game) =>
    RESOLUTIONS.flatMap((resolution) =>
      [1, 2, 3].map((number) => ({
        place: { setupId: id, testKey: `${game.id}-${resolution.split("x")[1]}@1`, number },
        card: name,
        game,
        resolution,
        number,
      })),
    ),
  ),
);
type Filed = (typeof PLACES)[number];

const height = (resolution: string) => resolution.split("x")[1] as string;
const snake = (text: string) => text.toLowerCase().replaceAll(" ", "_");
const kebab = (text: string) => text.toLowerCase().replaceAll(" ", "-");
const camel = (text: string) => text.replaceAll(" ", "");

/** Manners of filing: from the place of a run to its path. */
const MANNERS: Record<string, (filed: Filed) => string> = {
  "folder a card, run in words": ({ card, game, resolution, number }) => `${card}/${game.name} ${height(resolution)}p run ${number}.csv`,
  "folder a card, underscores": ({ card, game, resolution, number }) => `${snake(card)}/${snake(game.name)}_${height(resolution)}_run${number}.csv`,
  "ids of the lab": ({ place, game, resolution, number }) => `${place.setupId}/${game.id}/${resolution}/${number}.csv`,
  "all in one name": ({ card, game, resolution, number }) => `${kebab(card)}--${kebab(game.name)}--${resolution}--r${number}.csv`,
  "folder a game, card in the name": ({ card, game, resolution, number }) => `bench/${game.name}/${resolution}/${card} #${number}.log`,
  "deep, with a date": ({ card, game, resolution, number }) => `2026-11-02/${card}/${game.name}/${height(resolution)}p/pass ${number}.txt`,
  "named resolutions": ({ card, game, resolution, number }) =>
    `${card}/${game.name} ${{ "1920x1080": "FHD", "2560x1440": "QHD", "3840x2160": "4K" }[resolution]} run${number}.csv`,
  "order turned round": ({ card, game, resolution, number }) => `run${number}/${resolution}/${game.name}/${card}.csv`,
  "capitals and an ending more": ({ card, game, resolution, number }) => `${card.toUpperCase()}/${game.name.toUpperCase()}_${resolution}_${number}.CSV.gz`,
};

const assignedBy = (paths: readonly string[]) => assignPaths(paths, proposePattern(paths, NAMES), NAMES);
const placeOf = ({ setupId, testKey, number }: { setupId: string | null; testKey: string | null; number: number | null }) => `${setupId} ${testKey} ${number}`;

describe("paths as people file their logs", () => {
  for (const [manner, pathOf] of Object.entries(MANNERS)) {
    it(`${manner}: every log of the demo lab finds its place`, () => {
      const paths = PLACES.map(pathOf);
      const assigned = assignedBy(paths);
      const wrong = assigned.filter((one, i) => one.trouble !== null || placeOf(one) !== placeOf(PLACES[i]?.place as Place));
      expect(wrong.slice(0, 3).map(({ path, trouble, setupId, testKey, number }) => ({ path, trouble, setupId, testKey, number }))).toEqual([]);
      expect(clashesOf(assigned.map((one) => ({ ...one, kind: "frames" as const }))).size).toBe(0);
    });
  }

  it("a name that no setup bears is left over with its reason, and leads no log astray", () => {
    for (const pathOf of Object.values(MANNERS)) {
      const paths = PLACES.slice(0, 200).map(pathOf);
      const [card] = CARDS;
      const strange = paths.map((path) =>
        path.replace(new RegExp(`${card?.name}|${card?.id}|${snake(card?.name ?? "")}|${kebab(card?.name ?? "")}`, "i"), "Nobody 99"),
      );
      const assigned = assignPaths(strange, proposePattern(paths, NAMES), NAMES);
      for (const [i, one] of assigned.entries()) {
        if (strange[i] === paths[i]) continue;
        expect(one.trouble, one.path).not.toBeNull();
        expect(one.setupId, one.path).toBeNull();
      }
    }
  });

  it("mixed manners: what fits the commonest is placed, what does not is left over, nothing is misplaced", () => {
    const random = createRandom(17);
    const manners = Object.values(MANNERS);
    const common = manners[1] as (filed: Filed) => string;
    const paths = PLACES.map((filed) => (random.next() < 0.12 ? (manners[Math.floor(random.next() * manners.length)] as typeof common)(filed) : common(filed)));
    const assigned = assignedBy(paths);
    let placed = 0;
    for (const [i, one] of assigned.entries()) {
      if (one.trouble !== null) continue;
      placed += 1;
      expect(placeOf(one), one.path).toBe(placeOf(PLACES[i]?.place as Place));
    }
    expect(placed).toBeGreaterThan(PLACES.length * 0.85);
  });

  it("camel case and names run together are not taken apart: they are left over, not guessed", () => {
    const paths = PLACES.slice(0, 60).map(({ card, game, resolution, number }) => `${camel(card)}${camel(game.name)}${height(resolution)}${number}.csv`);
    expect(assignedBy(paths).filter(({ trouble }) => trouble === null)).toEqual([]);
  });

  it("what a person says a name means goes before the lab's own names", () => {
    const [a, b] = CARDS as [(typeof CARDS)[number], (typeof CARDS)[number]];
    const paths = [1, 2, 3].map((number) => `${a.name}/${GAMES[0]?.name} 1440 run${number}.csv`);
    const pattern = { ...proposePattern(paths, NAMES), meanings: { ...NO_MEANINGS, setup: { [a.name.toLowerCase()]: b.id } } };
    expect(assignPaths(paths, pattern, NAMES).map(({ setupId }) => setupId)).toEqual([b.id, b.id, b.id]);
  });

  it("two logs that claim one place are named to each other, a frame log and a sensor log of one run are not", () => {
    const at = { setupId: "card", testKey: "mill@1", number: 1 };
    const clash = clashesOf([
      { path: "a.csv", ...at, kind: "frames" },
      { path: "b.csv", ...at, kind: "sensors" },
      { path: "c.csv", ...at, kind: "both" },
      { path: "d.csv", ...at, number: 2, kind: "frames" },
    ]);
    expect([...clash].map(([path, others]) => [path, [...others].sort()])).toEqual([
      ["a.csv", ["c.csv"]],
      ["c.csv", ["a.csv", "b.csv"]],
      ["b.csv", ["c.csv"]],
    ]);
  });
});

describe("a resolution in its usual spellings", () => {
  it("is one of the lab's, whatever the spelling", () => {
    for (const [text, resolution] of [
      ["2560x1440", "2560x1440"],
      ["2560 × 1440", "2560x1440"],
      ["1440p", "2560x1440"],
      ["1440", "2560x1440"],
      ["QHD", "2560x1440"],
      ["wqhd", "2560x1440"],
      ["4k", "3840x2160"],
      ["UHD", "3840x2160"],
      ["fhd", "1920x1080"],
      ["3440x1440", "3440x1440"],
    ] as const)
      expect(resolutionOf(text), text).toBe(resolution);
    for (const text of ["", "ultra", "144", "14400", "x1440", "2560x"]) expect(resolutionOf(text), text).toBeUndefined();
  });
});
