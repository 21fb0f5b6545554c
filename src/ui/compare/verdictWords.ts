import type { JudgedInterval } from "@/core/cell";

/** A verdict in plain words, with what would settle an open one. */
export function verdictWords(judged: Pick<JudgedInterval, "verdict" | "furtherRuns">): { says: string; more: string | undefined } {
  switch (judged.verdict) {
    case "ahead":
      return { says: "ahead", more: undefined };
    case "behind":
      return { says: "behind", more: undefined };
    case "level":
      return { says: "level", more: undefined };
    case "level-small-difference":
      return { says: "level", more: "a real but small difference" };
    case "unresolved":
      return {
        says: "unresolved",
        more:
          judged.furtherRuns === undefined
            ? "more runs will not settle it"
            : `${judged.furtherRuns} more ${judged.furtherRuns === 1 ? "run" : "runs"} of each would settle it`,
      };
    case "unknown":
      return { says: "not known", more: "no cell was run twice" };
  }
}

/** A rank, or the range that the data leave open: `2`, `2–3`. */
export function rankText({ rankFrom, rankTo }: { rankFrom: number; rankTo: number }): string {
  return rankFrom === rankTo ? String(rankFrom) : `${rankFrom}–${rankTo}`;
}
