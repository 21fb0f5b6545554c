import { cellTimes, type PlanInput, runsOpen } from "./planReview";
import { sumTimes } from "./timeModel";

/**
 * The bench time that each setup's open runs still take, without swaps: launch, warm-up, runs and resets of every cell that is
 * short of runs.
 *
 * Shapes: one estimate a setup, in their order. Units: seconds with one standard deviation.
 */
export function workLeft(
  input: Pick<PlanInput, "tests" | "runsDone" | "cuts" | "times"> & { setups: readonly { id: string }[] },
): { setupId: string; seconds: number; sd: number }[] {
  return input.setups.map(({ id }) => ({
    setupId: id,
    ...sumTimes(input.tests.flatMap((test) => cellTimes(input.times, test, runsOpen(input, id, test)))),
  }));
}
