/** One rung of a ladder as it was measured on one row; null where it was not. */
export interface Rung {
  level: number;
  testKey: string;
  averageFps: number | null;
  lowFps: number | null;
  /** Load of the processor, 0 to 1. */
  cpuLoad: number | null;
  /** The operator's verdict: whether it felt responsive. */
  responsive: boolean | null;
  failed: boolean;
}

/** What a rung has to keep. */
export interface LadderRule {
  averageFps: number;
  lowFps: number;
  /** The processor's load may not be above this. */
  mostCpuLoad: number;
}

export const DEFAULT_LADDER_RULE: LadderRule = { averageFps: 60, lowFps: 48, mostCpuLoad: 0.95 };

/** A rung with what it does not keep. */
export interface JudgedRung extends Rung {
  holds: boolean;
  /** What breaks it, in the order of the rule; empty where it holds. */
  breaks: string[];
  /** What is not known, and therefore not judged. */
  unknown: string[];
}

/**
 * Judges a ladder: the highest level that still keeps the average, the low, the processor's headroom and the operator's
 * "feels responsive". Levels count upwards: the first that breaks ends the ladder, whatever stands above it.
 *
 * Shapes: rungs in any order, each level once. `highest` is undefined where not even the lowest level holds.
 * Source: the product's rule of ladders.
 */
export function judgeLadder(rungs: readonly Rung[], rule: LadderRule = DEFAULT_LADDER_RULE): { rungs: JudgedRung[]; highest: number | undefined } {
  const sorted = [...rungs].sort((a, b) => a.level - b.level);
  let highest: number | undefined;
  let broken = false;
  const judged = sorted.map((rung): JudgedRung => {
    const breaks: string[] = [];
    const unknown: string[] = [];
    const check = (value: number | null, keeps: (value: number) => boolean, says: string, name: string) => {
      if (value === null) unknown.push(name);
      else if (!keeps(value)) breaks.push(says);
    };
    if (rung.failed && rung.averageFps === null) breaks.push("failed");
    else {
      check(rung.averageFps, (fps) => fps >= rule.averageFps, `average below ${rule.averageFps} fps`, "average");
      check(rung.lowFps, (fps) => fps >= rule.lowFps, `low below ${rule.lowFps} fps`, "low");
      check(rung.cpuLoad, (load) => load <= rule.mostCpuLoad, `processor above ${Math.round(100 * rule.mostCpuLoad)} %`, "processor load");
      if (rung.responsive === null) unknown.push("how it felt");
      else if (!rung.responsive) breaks.push("did not feel responsive");
    }
    const holds = breaks.length === 0 && rung.averageFps !== null;
    if (!holds) broken = true;
    else if (!broken) highest = rung.level;
    return { ...rung, holds, breaks, unknown };
  });
  return { rungs: judged, highest };
}
