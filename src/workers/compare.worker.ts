import { type ChoiceInterval, choiceOfWorkloads, type IndexTable, type SmallestSubset, smallestSubset } from "@/core/compare";
import { createRandom } from "@/core/random";

/** What the page asks for: the interval for the choice of workloads, or the smallest subset that keeps the order. */
export type CompareRequest =
  | { kind: "choice"; table: IndexTable; baselineId: string; weights: [string, number][]; resamples: number; seed: number }
  | { kind: "subset"; table: IndexTable; baselineId: string };

/** What comes back; cancelling is ending the worker. */
export type CompareReply =
  | { kind: "choice"; intervals: ChoiceInterval[] | undefined }
  | { kind: "progress"; tried: number; of: number }
  | { kind: "subset"; subset: SmallestSubset }
  | { kind: "failed"; reason: string };

const reply = (message: CompareReply) => self.postMessage(message);

self.onmessage = ({ data }: MessageEvent<CompareRequest>) => {
  try {
    if (data.kind === "choice") {
      const { table, baselineId, weights, resamples, seed } = data;
      reply({ kind: "choice", intervals: choiceOfWorkloads(table, { baselineId, resamples, random: createRandom(seed), weights: new Map(weights) }) });
      return;
    }
    const search = smallestSubset(data.table, data.baselineId);
    let step = search.next();
    while (!step.done) {
      reply({ kind: "progress", ...step.value });
      step = search.next();
    }
    reply({ kind: "subset", subset: step.value });
  } catch (error) {
    reply({ kind: "failed", reason: error instanceof Error ? error.message : String(error) });
  }
};
