import { runOf } from "#sim/summaries";
import type { FrameRates, RunSummary } from "@/core/cell";
import { DEFAULT_THRESHOLDS } from "@/core/check";
import type { ReviewModel } from "@/core/report";
import type { Offer } from "@/core/value";

const lows = (fps: number) => ({ percentileFps: fps, tailMeanFps: fps * 0.9, timeShareFps: fps * 0.95 });
const rates = (fps: number): FrameRates => ({ frames: Math.round(fps * 60), durationS: 60, averageFps: fps, low1: lows(fps * 0.75), low01: lows(fps * 0.6) });

const offer = (id: string, partId: string, region: string, currency: string, minor: number, change: Partial<Offer> = {}): Offer => ({
  id,
  partId,
  region,
  kind: "street",
  condition: "new",
  price: { minor, currency },
  taxIncluded: true,
  rebate: null,
  rebateKind: null,
  shipping: { minor: 0, currency },
  inStock: true,
  shop: "a shop",
  seenOn: "2026-11-18",
  rowVersion: 1,
  ...change,
});

const SPEED: Record<string, number> = { base: 100, fast: 125, near: 101 };
const WATTS: Record<string, number> = { base: 200, fast: 205, near: 160 };
const WORKLOADS = ["mill", "quay", "loft", "weir"];
const RESOLUTIONS = ["1920x1080", "2560x1440", "3840x2160"];

/** A small whole review: three cards, four workloads at three resolutions, three quiet runs each, two regions. */
export function smallModel(change: Partial<ReviewModel> = {}): ReviewModel {
  const tests = WORKLOADS.flatMap((workload, w) =>
    RESOLUTIONS.map((resolution, r) => ({
      key: `${workload}-${r}@1`,
      id: `${workload}-${r}`,
      version: 1,
      workloadId: workload,
      workloadName: workload,
      group: "games",
      name: `${workload} ${resolution}`,
      kind: "frames" as const,
      unit: "fps",
      better: "higher" as const,
      resolution,
      settings: "a scene · preset High",
      ladder: null,
      mediaS: null,
      runsWanted: 3,
      position: w * 3 + r + 1,
    })),
  );
  const runs: RunSummary[] = Object.keys(SPEED).flatMap((setupId) =>
    tests.flatMap((test, t) =>
      [1, 2, 3].map((number) => {
        const wobble = 1 + 0.008 * Math.sin(7 * t + 3 * number + setupId.length);
        const fps = ((SPEED[setupId] as number) * wobble) / (1 + RESOLUTIONS.indexOf(test.resolution) * 0.6);
        const frames = rates(fps);
        return runOf({
          id: `${setupId}-${test.id}-${number}`,
          setupId,
          testKey: test.key,
          number,
          frames,
          energy: { device: { joules: (WATTS[setupId] as number) * 60, meanW: WATTS[setupId] as number } },
        });
      }),
    ),
  );
  const setups = Object.keys(SPEED).map((id, i) => ({
    id,
    label: `Card ${id}`,
    role: (id === "fast" ? "subject" : "peer") as "subject" | "peer",
    position: i + 1,
    benchId: "oak",
    benchRevision: 1,
    partIds: [`part-${id}`],
    kinds: ["gpu" as const],
    cpuId: "octet",
    gpuId: `part-${id}`,
    properties: { "part:gpu": `Card ${id}`, gpu_driver: "of October", power_plan: "balanced" } as Record<string, string>,
    releasedOn: "2026-03-01",
    maker: "Velm",
    facts: [{ key: "vram", value: "12", unit: "GiB" }],
  }));
  return {
    id: "small",
    title: "Small",
    question: null,
    questionKind: null,
    baselineId: "base",
    margin: 0.03,
    lowSchool: "percentile",
    priceRule: "street_lowest",
    embargoUntil: null,
    today: "2026-11-20",
    setups,
    tests,
    runs,
    findings: [],
    claims: [],
    regions: [
      { code: "NO", name: "Norway", currency: "NOK", taxIncluded: true, taxRate: 0.25, tariffPerKwh: null },
      { code: "JP", name: "Japan", currency: "JPY", taxIncluded: true, taxRate: 0.1, tariffPerKwh: null },
    ],
    offers: [
      offer("no-base", "part-base", "NO", "NOK", 400_000),
      offer("no-fast", "part-fast", "NO", "NOK", 600_000),
      offer("no-near", "part-near", "NO", "NOK", 380_000),
      offer("jp-base", "part-base", "JP", "JPY", 60_000),
      offer("jp-fast", "part-fast", "JP", "JPY", 70_000, { seenOn: "2026-10-01" }),
    ],
    bench: [{ name: "Bench Oak", revision: 1, state: [{ key: "os_build", value: "26.4" }], parts: [{ role: "cpu", name: "Ilvane Octet 8" }] }],
    reports: [],
    held: { differences: [], setups: [], common: [] },
    limits: [],
    thresholds: DEFAULT_THRESHOLDS,
    suiteId: null,
    constants: [],
    plan: null,
    workLeft: [],
    labSetups: [],
    partNames: {},
    ...change,
  };
}
