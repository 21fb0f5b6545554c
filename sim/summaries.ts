import { testKey } from "@/core/bench";
import type { LabTest, RunSummary } from "@/core/cell";
import type { QuickRun } from "./quickLab";
import { GAMES, RESOLUTIONS } from "./world";

/** The demo suite's tests as comparisons take them. */
export const DEMO_TESTS: LabTest[] = GAMES.flatMap((game) =>
  RESOLUTIONS.map(
    (resolution): LabTest => ({
      key: testKey(`${game.id}-${resolution.split("x")[1]}`, 1),
      id: `${game.id}-${resolution.split("x")[1]}`,
      version: 1,
      workloadId: game.id,
      workloadName: game.name,
      group: "games",
      name: `${game.name} ${resolution}`,
      kind: "frames",
      unit: "fps",
      better: "higher",
      resolution,
      settings: game.scene,
      ladder: null,
      mediaS: null,
    }),
  ),
);

/** A run summary with only what a test gives; everything else is not known. */
export function runOf(known: Partial<RunSummary> & Pick<RunSummary, "id" | "setupId" | "testKey" | "number">): RunSummary {
  return {
    status: "valid",
    reason: null,
    startedAt: null,
    frames: null,
    pacing: null,
    facts: null,
    content: null,
    block: null,
    ambientC: null,
    energy: {},
    result: null,
    outputBytes: null,
    typed: false,
    rowVersion: 1,
    cpuLoad: null,
    opinion: null,
    ...known,
  };
}

/** Quick runs of the simulator as run summaries. */
export function summariesOf(runs: readonly QuickRun[]): RunSummary[] {
  return runs.map((run) =>
    runOf({
      id: run.id,
      setupId: run.card,
      testKey: testKey(`${run.game}-${run.resolution.split("x")[1]}`, 1),
      number: run.number,
      status: run.failed ? "failed" : "valid",
      reason: run.failed ? "stopped" : null,
      result: run.failed ? null : run.fps,
    }),
  );
}
