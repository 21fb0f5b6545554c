import { createRandom } from "@/core/random";
import { plantedIn } from "./demoPackage";
import { trueFps, truePowerW, trueRunSpread } from "./truth";
import { CARDS, GAMES, RESOLUTIONS } from "./world";

/** One run of a quickly simulated lab: its rate and power, without frames. */
export interface QuickRun {
  id: string;
  card: string;
  game: string;
  resolution: string;
  number: number;
  fps: number;
  powerW: number;
  failed: boolean;
}

/**
 * The demo review's runs as rates only, from the same seed and streams as the recorded demo: thousands of labs a minute,
 * so that coverage and false alarms can be counted. Without faults, or with those planted in the demo.
 */
export function quickLab(seed: number, { planted, runs = 3 }: { planted: boolean; runs?: number }): QuickRun[] {
  const random = createRandom(seed);
  const result: QuickRun[] = [];
  for (const card of CARDS) {
    for (const game of GAMES) {
      for (const resolution of RESOLUTIONS) {
        for (let number = 1; number <= runs; number += 1) {
          const id = `${card.id}-${game.id}-${resolution.split("x")[1]}-${number}`;
          const noise = random.fork(id);
          const fault = planted
            ? plantedIn(card.id, game.id, resolution, number)
            : { recordedResolution: resolution, factor: 1, fails: false, capFps: undefined };
          const free = trueFps(card, game, fault.recordedResolution) * Math.exp(trueRunSpread(game, resolution) * noise.normal()) * fault.factor;
          result.push({
            id,
            card: card.id,
            game: game.id,
            resolution,
            number,
            fps: Math.min(free, fault.capFps ?? Number.POSITIVE_INFINITY),
            powerW: truePowerW(card, game, fault.recordedResolution) * Math.exp(0.006 * noise.normal()),
            failed: fault.fails,
          });
        }
      }
    }
  }
  return result;
}
