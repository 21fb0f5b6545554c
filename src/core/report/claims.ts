import { z } from "zod";
import type { Verdict } from "@/core/cell";
import { commonPowerAt, matrixOf, middleResolution, rankReview, valueOfReview } from "./comparison";
import { figure, percentDifference } from "./figures";
import type { ReviewModel } from "./reviewModel";

/** The computation that makes a sentence true; stored as JSON with the claim. */
export const Computation = z.discriminatedUnion("kind", [
  /** One setup is ahead of, behind or level with another at a resolution (or overall). */
  z.object({
    kind: z.literal("verdict"),
    setup: z.string(),
    against: z.string(),
    resolution: z.string().nullable(),
    verdict: z.enum(["ahead", "behind", "level"]),
  }),
  /** A setup has the lowest cost per frame in a region. */
  z.object({ kind: z.literal("lowest cost per frame"), setup: z.string(), region: z.string(), resolution: z.string() }),
  /** A setup gives the most frames per joule, beyond run noise against the next. */
  z.object({ kind: z.literal("most frames per joule"), setup: z.string(), resolution: z.string() }),
]);
export type Computation = z.infer<typeof Computation>;

/** Whether a claim holds on the data as they are, and why not. */
export interface ClaimCheck {
  holds: boolean;
  now: string;
}

const level = (verdict: Verdict) => verdict === "level" || verdict === "level-small-difference";
const labelOf = (model: ReviewModel, setupId: string) => model.setups.find(({ id }) => id === setupId)?.label ?? setupId;
const at = (resolution: string | null) => (resolution ? `at ${resolution.replace("x", " × ")}` : "over all resolutions");

function rankingOf(model: ReviewModel, baselineId: string, resolution: string | null) {
  return rankReview(model, matrixOf(model, "result", model.lowSchool), { baselineId, resolution: resolution ?? undefined });
}

function efficiencyOf(model: ReviewModel, baselineId: string, resolution: string) {
  const powerAt = commonPowerAt(model);
  return powerAt && rankReview(model, matrixOf(model, "frames_per_joule", model.lowSchool, powerAt), { baselineId, resolution });
}

/** The setup with the lowest known cost per frame. */
function cheapestPerFrame(model: ReviewModel, regionCode: string, resolution: string) {
  const region = model.regions.find(({ code }) => code === regionCode);
  if (!region) return undefined;
  const matrix = matrixOf(model, "result", model.lowSchool);
  const { lines } = valueOfReview(model, matrix, { baselineId: model.baselineId, resolution, region, rule: model.priceRule });
  const priced = lines.filter((line) => line.costPerFrame !== undefined);
  const [best] = priced.sort((a, b) => (a.costPerFrame as number) - (b.costPerFrame as number));
  return best && { best, region, of: priced.length };
}

/** Computes a claim again from the review's data. */
export function checkClaim(model: ReviewModel, computation: Computation): ClaimCheck {
  switch (computation.kind) {
    case "verdict": {
      const row = rankingOf(model, computation.against, computation.resolution).rows.find(({ setupId }) => setupId === computation.setup);
      if (!row) return { holds: false, now: "these two share no complete tests now" };
      const holds = computation.verdict === "level" ? level(row.verdict) : row.verdict === computation.verdict;
      return { holds, now: `${percentDifference(row.index)}, ${row.verdict}` };
    }
    case "lowest cost per frame": {
      const found = cheapestPerFrame(model, computation.region, computation.resolution);
      if (!found) return { holds: false, now: "no setup has a price and frames there now" };
      return {
        holds: found.best.setupId === computation.setup,
        now: `${labelOf(model, found.best.setupId)} at ${figure(found.best.costPerFrame as number)} ${found.region.currency} a frame per second`,
      };
    }
    case "most frames per joule": {
      const rows = efficiencyOf(model, computation.setup, computation.resolution)?.rows ?? [];
      const rivals = rows.filter(({ setupId }) => setupId !== computation.setup);
      const holds = rivals.length > 0 && rivals.every(({ verdict }) => verdict === "behind");
      const nearest = rivals.reduce<(typeof rivals)[number] | undefined>((a, b) => (!a || b.index > a.index ? b : a), undefined);
      return {
        holds,
        now: nearest ? `${labelOf(model, nearest.setupId)} is ${percentDifference(nearest.index)}, ${nearest.verdict}` : "power was not metered for all",
      };
    }
  }
}

/** A sentence that the data bear out now, offered to the editor. */
export interface SuggestedClaim {
  sentence: string;
  computation: Computation;
}

/** Sentences that hold now: the subject against each rival at the middle resolution, the cheapest frame by region, the thriftiest. */
export function suggestClaims(model: ReviewModel): SuggestedClaim[] {
  const resolution = middleResolution(model) ?? null;
  const subject = model.setups.find(({ role }) => role === "subject") ?? model.setups.find(({ id }) => id !== model.baselineId);
  const suggestions: SuggestedClaim[] = [];
  if (!subject) return suggestions;
  for (const rival of model.setups) {
    if (rival.id === subject.id) continue;
    const row = rankingOf(model, rival.id, resolution).rows.find(({ setupId }) => setupId === subject.id);
    if (!row || row.low === undefined || row.high === undefined || row.verdict === "unresolved" || row.verdict === "unknown") continue;
    const verdict = level(row.verdict) ? "level" : (row.verdict as "ahead" | "behind");
    const interval = `95 % interval ${figure(100 * row.low, 1)} to ${figure(100 * row.high, 1)} where ${rival.label} is 100`;
    const relation =
      verdict === "level"
        ? `${subject.label} and ${rival.label} are level ${at(resolution)} (within ${figure(100 * model.margin, 0)} %; ${interval})`
        : `${subject.label} is ${percentDifference(row.index)} than ${rival.label} ${at(resolution)} (${interval})`;
    suggestions.push({ sentence: `${relation}.`, computation: { kind: "verdict", setup: subject.id, against: rival.id, resolution, verdict } });
  }
  if (resolution) {
    for (const region of model.regions) {
      const found = cheapestPerFrame(model, region.code, resolution);
      if (!found || found.of < 2) continue;
      suggestions.push({
        sentence: `In ${region.name ?? region.code}, ${labelOf(model, found.best.setupId)} costs least per frame ${at(resolution)}: ${figure(found.best.costPerFrame as number)} ${region.currency} for each frame per second, at prices up to ${model.today}.`,
        computation: { kind: "lowest cost per frame", setup: found.best.setupId, region: region.code, resolution },
      });
    }
    const rows = efficiencyOf(model, model.baselineId, resolution)?.rows ?? [];
    const thriftiest = rows.reduce<(typeof rows)[number] | undefined>((a, b) => (!a || b.index > a.index ? b : a), undefined);
    if (thriftiest) {
      const computation: Computation = { kind: "most frames per joule", setup: thriftiest.setupId, resolution };
      if (checkClaim(model, computation).holds) {
        suggestions.push({
          sentence: `${labelOf(model, thriftiest.setupId)} gives the most frames per joule ${at(resolution)}, power metered at the ${commonPowerAt(model)}.`,
          computation,
        });
      }
    }
  }
  return suggestions;
}
