import { asc, isNotNull } from "drizzle-orm";
import { type DeskModel, findingEffects } from "@/core/report";
import { reviews } from "@/db/schema";
import { loadReview } from "./loadReview";
import { remembered } from "./remembered";
import type { Deps } from "./useCase";

/** The open doubts of the whole lab, by review; those that could change a published number most stand first. */
export async function loadDesk(deps: Deps): Promise<DeskModel> {
  return remembered(deps, "desk", () => readDesk(deps));
}

async function readDesk(deps: Deps): Promise<DeskModel> {
  const rows = await deps.database.select({ id: reviews.id }).from(reviews).where(isNotNull(reviews.suiteId)).orderBy(asc(reviews.title), asc(reviews.id));
  const groups: DeskModel["reviews"] = [];
  for (const { id } of rows) {
    const model = await loadReview(deps, id);
    const open = model?.findings.filter(({ state, raised }) => state === "open" && raised) ?? [];
    if (!model || open.length === 0) continue;
    const effects = findingEffects(model, open);
    const doubts = open.map((finding) => {
      const effect = effects.get(finding.id);
      return {
        id: finding.id,
        check: finding.check,
        setup: model.setups.find((setup) => setup.id === finding.setupId)?.label ?? finding.setupId,
        test: model.tests.find(({ key }) => key === finding.testKey)?.name ?? null,
        sentence: finding.sentence,
        effect: effect ?? null,
      };
    });
    doubts.sort((a, b) => (b.effect?.largest ?? 0) - (a.effect?.largest ?? 0) || (a.id < b.id ? -1 : 1));
    groups.push({ id, title: model.title, doubts });
  }
  groups.sort((a, b) => (b.doubts[0]?.effect?.largest ?? 0) - (a.doubts[0]?.effect?.largest ?? 0) || (a.id < b.id ? -1 : 1));
  return { reviews: groups };
}
