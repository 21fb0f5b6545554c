import { metricValue } from "@/core/cell";
import { matrixOf, rankReview } from "./comparison";
import type { ReviewFinding, ReviewModel } from "./reviewModel";

/** What leaving the doubted runs out would do to what is published. */
export interface FindingEffect {
  /** Change of the row's overall index as a ratio, 0.01 for 1 %; null where no run of it is in doubt or none would be left. */
  indexChange: number | null;
  /** Rank now and without the doubted runs, 1 = first. */
  rankNow: number | null;
  rankWithout: number | null;
  /** The largest change that leaving them out makes to any one row's index. */
  largest: number;
}

/** The runs a finding would take out: the one it doubts, or all that it names. */
export function doubtedRuns(model: ReviewModel, finding: ReviewFinding): string[] {
  const known = new Set(model.runs.map(({ id }) => id));
  return (finding.runId ? [finding.runId] : finding.runIds).filter((id) => known.has(id));
}

/**
 * Computes how much each open doubt could change: the overall index and rank of its row with the doubted runs left out.
 * Where that empties a cell, the tests all rows still share carry the index, as on the published page.
 */
export function findingEffects(model: ReviewModel, findings: readonly ReviewFinding[]): Map<string, FindingEffect> {
  const rank = (of: ReviewModel) => {
    const { rows } = rankReview(of, matrixOf(of, "result", of.lowSchool), { baselineId: of.baselineId });
    const order = [...rows].sort((a, b) => b.index - a.index);
    return new Map(order.map((row, i) => [row.setupId, { index: row.index, rank: i + 1 }]));
  };
  const now = rank(model);
  const effects = new Map<string, FindingEffect>();
  for (const finding of findings) {
    const without = new Set(doubtedRuns(model, finding));
    const counts = model.runs.some(
      (run) =>
        without.has(run.id) && run.status === "valid" && metricValue(run, { metric: "result", school: model.lowSchool, powerAt: "device" }) !== undefined,
    );
    if (!counts) {
      effects.set(finding.id, { indexChange: null, rankNow: now.get(finding.setupId)?.rank ?? null, rankWithout: null, largest: 0 });
      continue;
    }
    const then = rank({ ...model, runs: model.runs.filter(({ id }) => !without.has(id)) });
    const change = (id: string) => {
      const [before, after] = [now.get(id), then.get(id)];
      return before && after ? after.index / before.index - 1 : null;
    };
    effects.set(finding.id, {
      indexChange: change(finding.setupId),
      rankNow: now.get(finding.setupId)?.rank ?? null,
      rankWithout: then.get(finding.setupId)?.rank ?? null,
      largest: Math.max(0, ...model.setups.map(({ id }) => Math.abs(change(id) ?? 0))),
    });
  }
  return effects;
}
