import type { ReviewModel } from "./reviewModel";

/** The charts that a review is split into by the editor: one for each value of the properties that could not be held. */
export function chartsOf(model: ReviewModel): { id: string; name: string; setupIds: string[] }[] {
  const split = model.held.differences.filter(({ declared }) => declared?.decision === "split");
  if (split.length === 0) return [];
  const charts = new Map<string, string[]>();
  for (const { id } of model.setups) {
    const name = split.map(({ values }) => values.find(({ setupIds }) => setupIds.includes(id))?.value ?? "not known").join(", ");
    charts.set(name, [...(charts.get(name) ?? []), id]);
  }
  return [...charts].map(([name, setupIds], i) => ({ id: String(i + 1), name, setupIds }));
}

/** The part of a review that one of its charts shows; its own baseline where that is among its rows, else its first row. */
export function chartModel(model: ReviewModel, chart: string | null): ReviewModel {
  const charts = chartsOf(model);
  const rows = (charts.find(({ id }) => id === chart) ?? charts.find(({ setupIds }) => setupIds.includes(model.baselineId)))?.setupIds;
  if (!rows) return model;
  const setups = model.setups.filter(({ id }) => rows.includes(id));
  return { ...model, setups, baselineId: rows.includes(model.baselineId) ? model.baselineId : (setups[0]?.id ?? model.baselineId) };
}
