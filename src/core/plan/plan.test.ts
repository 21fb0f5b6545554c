import { describe, expect, it } from "vitest";
import { createRandom } from "@/core/random";
import { inPriceBand, type KnownSetup, proposeReview, QuestionKind } from "./askReview";
import { cautionsOfChange } from "./cautions";
import { toICalendar, toPlanCsv } from "./exportPlan";
import { LabHours, openSeconds, openStretches } from "./labHours";
import { indexUncertainty, type LabHistory, proposeLeaveOuts, runsForVerdict } from "./leaveOut";
import { NO_CUTS, type OrderPolicy, type Plan, type PlanInput, type PlanSetup, type PlanTest, planReview } from "./planReview";
import { schedulePlan } from "./schedulePlan";
import { ASSUMED_TIMES, changeTasks, learnTimes, sumTimes } from "./timeModel";

const PLAIN: OrderPolicy = { baselineLast: false, baselineEvery: 0, alternate: false };

const card = (id: string, maker: string, benchId = "alder"): PlanSetup => ({
  id,
  label: id.toUpperCase(),
  benchId,
  benchRevision: 1,
  samples: 1,
  parts: [{ partId: id, kind: "gpu", maker }],
  state: {},
});

const game = (id: string, resolution = "2560x1440", more: Partial<PlanTest> = {}): PlanTest => ({
  key: `${id}-${resolution.split("x")[1]}@1`,
  name: `${id} ${resolution.split("x")[1]}`,
  workloadId: id,
  workloadName: id,
  kind: "frames",
  loads: "gpu",
  resolution,
  runsWanted: 3,
  loadS: 45,
  warmupS: 60,
  lengthS: 60,
  resetS: 15,
  ...more,
});

const input = (more: Partial<PlanInput> = {}): PlanInput => ({
  setups: [card("a", "Velm"), card("b", "Orrisk"), card("c", "Velm"), card("d", "Orrisk")],
  baselineId: "a",
  tests: [game("mill"), game("quay")],
  benches: [{ id: "alder", revision: 1, name: "Alder", twinOf: [] }],
  runsDone: new Map(),
  cuts: NO_CUTS,
  policy: PLAIN,
  times: learnTimes([]),
  ...more,
});

const make = (more: Partial<PlanInput> = {}): Plan => {
  const search = planReview(input(more), createRandom(1), 2000);
  for (;;) {
    const step = search.next();
    if (step.done) return step.value;
  }
};
const orderOf = (plan: Plan, bench = 0) => plan.benches[bench]?.blocks.map(({ setupId }) => setupId).join("");

describe("learnTimes", () => {
  it("starts from what is assumed, and from what a definition writes where it does", () => {
    const times = learnTimes([]);
    expect(times.estimate("swap:gpu", "x → y")).toMatchObject({ seconds: 720, source: "assumed", observations: 0 });
    expect(times.estimate("run", "mill@1", 90).seconds).toBe(90);
    expect(times.estimate("reset", "mill@1", 0).seconds).toBe(0);
  });

  it("draws an assumption towards what the lab takes, by how often it was seen: (2 × 720 + 8 × 1000) ÷ 10 = 944 s", () => {
    const seen = Array.from({ length: 8 }, () => ({ activity: "swap:gpu" as const, detail: "others", seconds: 1000 }));
    const learned = learnTimes(seen).estimate("swap:gpu", "x → y");
    expect(learned.seconds).toBeCloseTo(944, 9);
    expect(learned.source).toBe("learned from its kind");
    expect(learned.sd).toBeLessThan(ASSUMED_TIMES["swap:gpu"][1]);
    const own = learnTimes([...seen, { activity: "swap:gpu", detail: "x → y", seconds: 400 }]).estimate("swap:gpu", "x → y");
    expect(own.seconds).toBeLessThan(learned.seconds);
    expect(own.source).toBe("learned");
  });

  it("adds spreads of single times as squares but shares the error of a mean: 100 runs are no surer of it than one", () => {
    const one = learnTimes([]).estimate("swap:gpu", "x → y");
    const hundred = sumTimes(Array(100).fill(one));
    expect(hundred.seconds).toBe(72_000);
    expect(hundred.sd).toBeCloseTo(Math.sqrt(100 * one.sd ** 2 + (100 * one.sdOfMean) ** 2), 6);
    expect(hundred.sd / hundred.seconds).toBeGreaterThan(one.sdOfMean / one.seconds - 1e-9);
  });

  it("recovers a lab's hidden times from 40 observations within 5 %", () => {
    const random = createRandom(20261119);
    const seen = Array.from({ length: 40 }, () => ({ activity: "swap:cpu" as const, detail: "any", seconds: 2700 * Math.exp(0.2 * random.normal()) }));
    expect(Math.abs(learnTimes(seen).estimate("swap:cpu", "p → q").seconds / (2700 * Math.exp(0.02)) - 1)).toBeLessThan(0.05);
  });
});

describe("changeTasks", () => {
  const fitted = (parts: [string, PlanSetup["parts"][0]["kind"], string?][], state = {}) => ({
    id: "s",
    parts: parts.map(([partId, kind, maker]) => ({ partId, kind, maker: maker ?? null })),
    state,
  });

  it("swaps a card and cleans its driver only where the maker changes", () => {
    const [a, b, c] = [fitted([["a", "gpu", "Velm"]]), fitted([["b", "gpu", "Velm"]]), fitted([["c", "gpu", "Orrisk"]])];
    expect(changeTasks(a, b).map(({ activity }) => activity)).toEqual(["swap:gpu"]);
    expect(changeTasks(a, c).map(({ activity }) => activity)).toEqual(["swap:gpu", "driver clean-up"]);
    expect(changeTasks(undefined, a).map(({ activity }) => activity)).toEqual(["swap:gpu"]);
    expect(changeTasks(a, a)).toEqual([]);
  });

  it("lets a board take processor, memory and cooler along, and a setting alone needs no screwdriver", () => {
    const old = fitted([
      ["p", "cpu"],
      ["q", "board"],
      ["m", "memory"],
    ]);
    const fresh = fitted([
      ["p2", "cpu"],
      ["q2", "board"],
      ["m2", "memory"],
    ]);
    expect(changeTasks(old, fresh)).toEqual([{ activity: "swap:board", detail: "q → q2", partIds: ["q2", "p2", "m2"] }]);
    expect(changeTasks(fitted([["p", "cpu"]], { sticks: "1" }), fitted([["p", "cpu"]], { sticks: "2" }))).toEqual([
      { activity: "state change", detail: "sticks", partIds: [] },
    ]);
  });
});

describe("cautionsOfChange", () => {
  it("asks to acknowledge mains at every change of parts, at none of settings", () => {
    const swap = cautionsOfChange([{ activity: "swap:gpu", detail: "", partIds: [] }], {});
    expect(swap[0]).toMatchObject({ id: "mains", acknowledge: true });
    expect(swap.map(({ id }) => id)).toContain("cables");
    expect(cautionsOfChange([{ activity: "state change", detail: "", partIds: [] }], {})).toEqual([]);
    expect(cautionsOfChange([{ activity: "swap:cpu", detail: "", partIds: [] }], { overclock: "1" }).map(({ id }) => id)).toEqual([
      "mains",
      "static",
      "hot",
      "liquid",
      "warranty",
    ]);
  });
});

describe("planReview", () => {
  it("begins with the baseline and keeps makers together: one clean-up instead of two", () => {
    expect(orderOf(make())).toMatch(/^ac(bd|db)$/);
    expect(make().order.exact).toBe(true);
  });

  it("repeats the baseline last, and in between where drift is feared", () => {
    const last = make({ policy: { ...PLAIN, baselineLast: true } });
    expect(orderOf(last)).toMatch(/^a...a$/);
    expect(last.benches[0]?.blocks.at(-1)).toMatchObject({
      part: "baseline last",
      tests: [
        { testKey: "mill-1440@1", runs: 1 },
        { testKey: "quay-1440@1", runs: 1 },
      ],
    });
    expect(orderOf(make({ policy: { baselineLast: true, baselineEvery: 1, alternate: false } }))).toMatch(/^a.a.a.a$/);
  });

  it("goes forward and back where asked, A-B-B-A, with all runs", () => {
    const plan = make({ setups: [card("a", "Velm"), card("b", "Velm")], policy: { ...PLAIN, alternate: true } });
    expect(orderOf(plan)).toBe("abba");
    expect(plan.benches[0]?.blocks.map(({ tests }) => tests[0]?.runs)).toEqual([2, 2, 1, 1]);
  });

  it("plans no run that is there, none that is cut, and says which setup no bench may run", () => {
    const plan = make({
      runsDone: new Map([
        ["b/mill-1440@1", 3],
        ["b/quay-1440@1", 1],
      ]),
      cuts: { ...NO_CUTS, tests: ["quay-1440@1"], runs: { "mill-1440@1": 2 } },
      setups: [...input().setups, card("e", "Velm", "rowan")],
    });
    expect(orderOf(plan)).not.toContain("b");
    expect(plan.benches[0]?.blocks[0]?.tests).toEqual([{ testKey: "mill-1440@1", runs: 2 }]);
    expect(plan.left).toEqual([{ setupId: "e", reason: "no chosen bench is its own or a declared twin of it" }]);
  });

  it("shares work over declared twins only, each with the baseline, and says when one sample is not enough", () => {
    const twins = [
      { id: "alder", revision: 1, name: "Alder", twinOf: [] },
      { id: "rowan", revision: 2, name: "Rowan", twinOf: [{ id: "alder", revision: 1 }] },
    ];
    const setups = ["a", "b", "c", "d", "e", "f"].map((id) => card(id, "Velm"));
    const tests = Array.from({ length: 12 }, (_, i) => game(`game${i}`));
    const plan = make({ setups, benches: twins, tests });
    expect(plan.benches).toHaveLength(2);
    expect(plan.benches.every(({ blocks }) => blocks[0]?.setupId === "a")).toBe(true);
    expect(plan.notes[0]).toContain("A is on 2 benches and there is 1 sample");
    const strangers = make({ setups, benches: [twins[0] as (typeof twins)[0], { ...(twins[1] as (typeof twins)[0]), twinOf: [] }], tests });
    expect(strangers.benches).toHaveLength(1);
  });
});

const HOURS: LabHours = LabHours.parse({
  timeZone: "Europe/Oslo",
  week: [1, 2, 3, 4, 5].map((weekday) => ({ weekday, opensMinute: 540, closesMinute: 1020 })),
  daysOff: ["2026-11-25"],
});

describe("openStretches", () => {
  it("opens on weekdays in the lab's own zone, not on days off", () => {
    // 2026-11-23 is a Monday; Oslo is an hour ahead in winter.
    const stretches = openStretches(HOURS, Date.parse("2026-11-23T10:00:00Z"), 7);
    expect(stretches.map(({ fromMs, toMs }) => [new Date(fromMs).toISOString(), new Date(toMs).toISOString()])).toEqual([
      ["2026-11-23T10:00:00.000Z", "2026-11-23T16:00:00.000Z"],
      ["2026-11-24T08:00:00.000Z", "2026-11-24T16:00:00.000Z"],
      ["2026-11-26T08:00:00.000Z", "2026-11-26T16:00:00.000Z"],
      ["2026-11-27T08:00:00.000Z", "2026-11-27T16:00:00.000Z"],
    ]);
    expect(openSeconds(stretches, Date.parse("2026-11-23T15:00:00Z"), Date.parse("2026-11-24T09:00:00Z"))).toBe(7200);
  });

  it("follows the clock change: 09:00 in Oslo is 07:00 UTC in summer and 08:00 in winter", () => {
    const stretches = openStretches(HOURS, Date.parse("2026-10-23T00:00:00Z"), 4);
    expect(stretches.map(({ fromMs }) => new Date(fromMs).toISOString())).toEqual(["2026-10-23T07:00:00.000Z", "2026-10-26T08:00:00.000Z"]);
  });

  it("refuses an unknown zone and a day that closes before it opens", () => {
    expect(LabHours.safeParse({ ...HOURS, timeZone: "Mars/Olympus" }).success).toBe(false);
    expect(LabHours.safeParse({ ...HOURS, week: [{ weekday: 1, opensMinute: 600, closesMinute: 600 }] }).success).toBe(false);
  });
});

const START = Date.parse("2026-11-23T08:00:00Z");
const names = { setup: (id: string) => id.toUpperCase(), test: (key: string) => key, bench: (id: string) => id };
const lay = (plan: Plan, more: Partial<Parameters<typeof schedulePlan>[0]> = {}, days = 14) =>
  schedulePlan({
    plan,
    setups: input().setups,
    tests: input().tests,
    times: learnTimes([]),
    stretches: openStretches(HOURS, START, days),
    startMs: START,
    deadlineMs: null,
    oneOperator: true,
    ...more,
  });

describe("schedulePlan", () => {
  it("adds a cell up as launch + warm-up + runs × (length + reset), with settings first", () => {
    const schedule = lay(make());
    const cell = schedule.items.find(({ kind }) => kind === "test");
    expect(cell?.seconds).toBeCloseTo(60 + 45 + 60 + 3 * (60 + 15), 9);
    expect(cell?.runs).toBe(3);
    expect(schedule.items.filter(({ kind }) => kind === "pre-flight")).toHaveLength(1);
    expect(schedule.items.filter(({ kind }) => kind === "change")).toHaveLength(4);
  });

  it("works only in open hours, cuts nothing in two that fits a day, and says what misses the deadline", () => {
    const many = Array.from({ length: 40 }, (_, i) => game(`game${i}`));
    const plan = make({ tests: many });
    const deadlineMs = Date.parse("2026-11-24T12:00:00Z");
    const schedule = lay(plan, { tests: many, deadlineMs });
    for (const { fromMs, toMs } of schedule.items) {
      expect(new Date(fromMs).getUTCHours()).toBeGreaterThanOrEqual(8);
      expect(toMs - fromMs).toBeLessThan(3 * 3_600_000);
      expect(new Date(toMs).toISOString().slice(11) <= "16:00:00.000Z").toBe(true);
    }
    expect(schedule.slackSeconds).toBeLessThan(0);
    expect(schedule.late.length).toBeGreaterThan(0);
    expect(schedule.late.every(({ toMs }) => toMs > deadlineMs)).toBe(true);
    // The gaps of nights aside, all work is there.
    expect(schedule.items.reduce((sum, { seconds }) => sum + seconds, 0)).toBeCloseTo(schedule.seconds, 6);
  });

  it("has no end where the calendar has none", () => {
    const schedule = lay(make(), { stretches: [] });
    expect(schedule.endsMs).toBeNull();
    expect(schedule.items).toEqual([]);
    expect(schedule.seconds).toBeGreaterThan(0);
  });

  it("lets one pair of hands serve two benches one after the other", () => {
    const benches = [
      { id: "alder", revision: 1, name: "Alder", twinOf: [] },
      { id: "rowan", revision: 1, name: "Rowan", twinOf: [] },
    ];
    const setups = [card("a", "Velm"), card("b", "Velm", "rowan")];
    const plan = make({ setups, benches });
    const hands = (oneOperator: boolean) => lay(plan, { setups, oneOperator }).items.filter(({ kind }) => kind !== "test");
    const overlaps = (items: ReturnType<typeof hands>) => items.some((x) => items.some((y) => x !== y && x.fromMs < y.toMs && y.fromMs < x.toMs));
    expect(overlaps(hands(true))).toBe(false);
    expect(overlaps(hands(false))).toBe(true);
  });
});

describe("exports of a plan", () => {
  const schedule = lay(make(), { deadlineMs: Date.parse("2026-11-27T12:00:00Z") });

  it("writes an iCalendar that RFC 5545 allows: CRLF, folded at 75 octets, escaped, one UID each, the deadline", () => {
    const text = toICalendar(
      schedule,
      { ...names, setup: (id) => `Card “${id}”, the long-winded; one` },
      { id: "duel", title: "Two cards", deadlineMs: Date.parse("2026-11-27T12:00:00Z") },
      START,
    );
    expect(text.startsWith("BEGIN:VCALENDAR\r\nVERSION:2.0\r\n")).toBe(true);
    expect(text.endsWith("END:VCALENDAR\r\n")).toBe(true);
    const lines = text.split("\r\n");
    expect(lines.every((line) => new TextEncoder().encode(line).length <= 75)).toBe(true);
    expect(lines.some((line) => line.includes("\n"))).toBe(false);
    const unfolded = text.replaceAll("\r\n ", "");
    const ids = [...unfolded.matchAll(/^UID:(.+)$/gm)].map((match) => match[1]);
    expect(new Set(ids).size).toBe(ids.length);
    expect(unfolded).toContain("\\, the long-winded\\; one");
    expect(unfolded).toContain("DTSTART:20261127T120000Z");
    expect((unfolded.match(/BEGIN:VEVENT/g) ?? []).length).toBe((unfolded.match(/END:VEVENT/g) ?? []).length);
  });

  it("writes a row an item with times in UTC", () => {
    const rows = toPlanCsv(schedule, names).trimEnd().split("\r\n");
    expect(rows[0]).toBe("bench,from,to,setup,part,kind,test,runs,minutes,sd_minutes");
    expect(rows).toHaveLength(schedule.items.length + 1);
    expect(rows[1]).toContain("alder,2026-11-23T08:00:00.000Z");
  });
});

describe("proposeLeaveOuts", () => {
  const tests = ["mill", "quay", "fen", "oath"].flatMap((id) => [game(id, "1920x1080"), game(id, "2560x1440")]);
  const setups = ["a", "b", "c", "d"].map((id) => card(id, "Velm"));
  // Mill at 1080 is limited by the processor: three cards level there, apart above.
  const speed: Record<string, number> = { a: 0, b: 0.2, c: 0.32, d: 0.45 };
  // Oath separates the cards more than the others do.
  const lean: Record<string, number> = { mill: 0, quay: 0.001, fen: -0.001, oath: 0.1 };
  const historyOf = (limited: boolean): LabHistory => ({
    logSpeed: new Map(
      setups.flatMap(({ id }) =>
        tests.map((test) => [
          `${id}/${test.key}`,
          limited && test.key === "mill-1080@1"
            ? 5 + Math.min(speed[id] as number, 0.2)
            : 5 + (speed[id] as number) * (1 + (lean[test.workloadId] as number)) - (test.resolution === "2560x1440" ? 0.3 : 0),
        ]),
      ),
    ),
    spread: new Map(tests.map(({ key }, i) => [key, { sLog: i === 0 ? 0.03 : 0.006, df: 60 }])),
  });
  const plan = input({ setups, tests });
  const proposals = proposeLeaveOuts(plan, historyOf(false), { subjectIds: ["d"] });
  const of = (kind: string, among = proposals) => among.filter((one) => one.kind === kind);

  it("asks for as many runs as a 3 % verdict needs: two at 0.6 %, many at 3 %", () => {
    // t(60) = 2.0003; 2.0003 × 0.006 × √(2/2) = 1.2 % < ln 1.03 = 2.96 %; at 3 %: n > 2 (2.0003 × 0.03 ÷ 0.02956)² = 8.2.
    expect(runsForVerdict({ sLog: 0.006, df: 60 })).toBe(2);
    expect(runsForVerdict({ sLog: 0.03, df: 60 })).toBe(9);
    const [runs] = of("runs");
    expect(Object.keys(runs?.cuts.runs ?? {})).toHaveLength(tests.length - 1);
    // 4 setups × 7 tests × one run of 75 s.
    expect(runs?.secondsSaved).toBeCloseTo(4 * 7 * 75, 6);
    expect(runs?.after.runNoise).toBeGreaterThan(runs?.before.runNoise as number);
  });

  it("offers workloads whose omission keeps order and index, with the hours and the wider choice of workloads", () => {
    expect(of("workload").map(({ id }) => id)).toContain("workload:quay");
    const quay = of("workload").find(({ id }) => id === "workload:quay");
    expect(quay?.cuts.tests).toEqual(["quay-1080@1", "quay-1440@1"]);
    expect(quay?.secondsSaved).toBeGreaterThan(3000);
    expect(quay?.reason).toMatch(/4 setups of earlier reviews keep their order and no index moves by more than 0\.\d+ %/);
    expect(of("workload").map(({ id }) => id)).not.toContain("workload:oath");
  });

  it("offers cells where the processor is the limit, never those of subject or baseline", () => {
    const cells = of("cells", proposeLeaveOuts(plan, historyOf(true), { subjectIds: ["d"] }))[0]?.cuts.cells ?? [];
    expect(cells.length).toBeGreaterThan(0);
    expect(cells.every((cell) => cell.endsWith("/mill-1080@1") && !cell.startsWith("a/") && !cell.startsWith("d/"))).toBe(true);
  });

  it("cuts nothing by itself, saves what it says, and is silent without history", () => {
    expect(plan.cuts).toEqual(NO_CUTS);
    const silent = proposeLeaveOuts(plan, { logSpeed: new Map(), spread: new Map() }, { subjectIds: [] });
    expect(silent).toEqual([]);
    expect(indexUncertainty(tests, NO_CUTS, { logSpeed: new Map(), spread: new Map() })).toEqual({ runNoise: undefined, choice: undefined });
    const chosen = of("resolution")[0];
    expect(chosen?.consequence).toContain("says nothing at");
    expect(proposals.map(({ secondsSaved }) => secondsSaved)).toEqual([...proposals.map(({ secondsSaved }) => secondsSaved)].sort((x, y) => y - x));
  });
});

describe("proposeReview", () => {
  const known = (setupId: string, price: number | null, logIndex: number | null, releasedOn: string, maker = "Velm"): KnownSetup => ({
    setupId,
    label: setupId,
    kind: "gpu",
    maker,
    releasedOn,
    price,
    logIndex,
    validRuns: 9,
  });
  const setups = [
    known("new", 500, null, "2026-05-01"),
    known("near", 540, 0.3, "2026-02-01", "Orrisk"),
    known("far", 900, 0.6, "2026-01-01"),
    known("old", null, -0.3, "2022-04-01"),
    known("level", 300, 0.32, "2026-03-01", "Tarnuth"),
  ];
  const suites = [
    { suiteId: "cards", name: "Cards", loads: ["gpu"], groups: ["games"], resolutions: ["3840x2160", "1920x1080", "2560x1440"], setupsMeasured: 6 },
    { suiteId: "cores", name: "Cores", loads: ["cpu"], groups: ["games"], resolutions: ["1280x720"], setupsMeasured: 9 },
  ];

  it("finds rivals by the same price band and by equal performance, nearest first", () => {
    expect(inPriceBand(setups[0] as KnownSetup, setups).map(({ setupId }) => setupId)).toEqual(["near"]);
    const proposal = proposeReview("launch", ["near"], { setups, suites });
    expect(proposal.setups.map(({ setupId, why }) => [setupId, why])).toEqual([
      ["near", "what the question is about"],
      ["new", "in the same price band"],
      ["level", "of equal performance"],
      ["old", "4 years older: what people own"],
    ]);
    expect(proposal).toMatchObject({ suiteId: "cards", baselineId: "new", resolutions: ["1920x1080", "2560x1440", "3840x2160"] });
  });

  it("makes what people own the baseline of an upgrade, at the middle resolution", () => {
    expect(proposeReview("upgrade", ["new"], { setups, suites })).toMatchObject({ baselineId: "old", resolutions: ["2560x1440"] });
  });

  it("proposes something whole for every kind of question, the baseline one of its rows", () => {
    for (const kind of QuestionKind.options) {
      const proposal = proposeReview(kind, ["new"], { setups, suites });
      expect(
        proposal.setups.some(({ setupId }) => setupId === proposal.baselineId),
        kind,
      ).toBe(true);
      expect(new Set(proposal.setups.map(({ setupId }) => setupId)).size, kind).toBe(proposal.setups.length);
      expect(proposal.constants.length, kind).toBeGreaterThan(0);
    }
    expect(() => proposeReview("launch", ["nobody"], { setups, suites })).toThrow(RangeError);
    expect(proposeReview("launch", ["new"], { setups, suites: [] }).suiteWhy).toContain("make one first");
  });
});
