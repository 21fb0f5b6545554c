import { CARDS, type CardTruth, GAMES, type GameTruth, RESOLUTIONS } from "./world";

const pixels = (resolution: string) => {
  const [width, height] = resolution.split("x").map(Number) as [number, number];
  return width * height;
};
const PIXELS_1440 = pixels("2560x1440");

/** What a card alone would give in a game at a resolution, in fps. */
export function cardFps(card: CardTruth, game: GameTruth, resolution: string): number {
  const share = pixels(resolution) / PIXELS_1440;
  const lean = game.lean[card.maker] ?? 0;
  return game.baseFps * card.speed * Math.exp(lean) * share ** -(game.pixelExponent + card.pixelPenalty);
}

/**
 * The true rate of a card in a game at a resolution: the softened lower of what card and processor allow, in fps. `cpuSpeed`
 * is the processor's speed in games against the bench's own.
 */
export function trueFps(card: CardTruth, game: GameTruth, resolution: string, cpuSpeed = 1): number {
  const sharpness = 8;
  return (cardFps(card, game, resolution) ** -sharpness + (game.cpuCeilingFps * cpuSpeed) ** -sharpness) ** (-1 / sharpness);
}

/** The true mean power at the card, in watts: full where the card is the limit, less where it waits. */
export function truePowerW(card: CardTruth, game: GameTruth, resolution: string): number {
  const gpu = cardFps(card, game, resolution);
  return card.boardPowerW * (0.42 + 0.55 * Math.min(1, trueFps(card, game, resolution) / gpu));
}

/** Run-to-run spread of a test (log scale): about 1.2 %, differing by a quarter between tests. */
export function trueRunSpread(game: GameTruth, resolution: string): number {
  // A fixed hash, so that the truth needs no seed.
  let hash = 17;
  for (const letter of `${game.id}${resolution}`) hash = (Math.imul(hash, 31) + letter.charCodeAt(0)) >>> 0;
  const offset = ((hash % 1000) / 1000 - 0.5) * 2;
  return 0.012 * Math.exp(0.25 * offset);
}

/** The hidden truth of the whole demo review: rates, powers and spreads by card, game and resolution. */
export function hiddenTruth() {
  return GAMES.flatMap((game) =>
    RESOLUTIONS.flatMap((resolution) =>
      CARDS.map((card) => ({
        card: card.id,
        game: game.id,
        resolution,
        fps: trueFps(card, game, resolution),
        powerW: truePowerW(card, game, resolution),
        runSpread: trueRunSpread(game, resolution),
      })),
    ),
  );
}
