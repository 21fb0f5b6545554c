import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { createRandom } from "@/core/random";
import { afterOpenSeconds, LabHours, openSeconds, openStretches } from "./labHours";
import { openWork, proposeLeaveOuts } from "./leaveOut";
import { NO_CUTS, type Plan, type PlanInput, type PlanSetup, type PlanTest, planReview } from "./planReview";
import { foldSheet, mayMove, type SheetEvent, sheetSteps, timeLeft } from "./runSheet";
import { schedulePlan } from "./schedulePlan";
import { learnTimes } from "./timeModel";

const MAKERS = ["Velm", "Orrisk", "Tarnuth"];
const START = Date.parse("2026-11-23T08:00:00Z");
const HOURS: LabHours = LabHours.parse({
  timeZone: "America/Sao_Paulo",
  week: [1, 2, 3, 4, 5, 6].map((weekday) => ({ weekday, opensMinute: 480, closesMinute: 1080 })),
  daysOff: [],
});
const STRETCHES = openStretches(HOURS, START, 200);

/** A lab of so many cards and tests, some runs there already, made from a seed. */
function labOf(seed: number, cards: number, tests: number): PlanInput {
  const random = createRandom(seed);
  const setups = Array.from(
    { length: cards },
    (_, i): PlanSetup => ({
      id: `s${i}`,
      label: `S${i}`,
      benchId: i % 3 === 2 ? "rowan" : "alder",
      benchRevision: 1,
      samples: 1,
      parts: [{ partId: `p${i}`, kind: "gpu", maker: MAKERS[Math.floor(random.next() * 3)] as string }],
      state: {},
    }),
  );
  const list = Array.from(
    { length: tests },
    (_, i): PlanTest => ({
      key: `t${i}@1`,
      name: `T${i}`,
      workloadId: `w${i % 4}`,
      workloadName: `W${i % 4}`,
      kind: "frames",
      loads: "gpu",
      resolution: "2560x1440",
      runsWanted: 1 + Math.floor(random.next() * 4),
      loadS: 30,
      warmupS: i % 2 ? 0 : 60,
      lengthS: 60,
      resetS: 15,
    }),
  );
  return {
    setups,
    baselineId: "s0",
    tests: list,
    benches: [
      { id: "alder", revision: 1, name: "Alder", twinOf: [{ id: "rowan", revision: 1 }] },
      { id: "rowan", revision: 1, name: "Rowan", twinOf: [] },
    ],
    runsDone: new Map(
      setups.flatMap(({ id }) => list.map(({ key }): [string, number] => [`${id}/${key}`, random.next() < 0.3 ? Math.floor(random.next() * 4) : 0])),
    ),
    cuts: NO_CUTS,
    policy: { baselineLast: seed % 2 === 0, baselineEvery: seed % 3, alternate: seed % 5 === 0 },
    times: learnTimes([]),
  };
}

function planOf(input: PlanInput): Plan {
  const search = planReview(input, createRandom(1), 2000);
  for (;;) {
    const step = search.next();
    if (step.done) return step.value;
  }
}

const labs = fc.record({ seed: fc.integer({ min: 1, max: 10_000 }), cards: fc.integer({ min: 1, max: 7 }), tests: fc.integer({ min: 1, max: 6 }) });

describe("any plan", () => {
  it("plans every run that is missing once, checks for drift aside, and none that is there (seed 11)", () => {
    fc.assert(
      fc.property(labs, ({ seed, cards, tests }) => {
        const input = labOf(seed, cards, tests);
        const planned = new Map<string, number>();
        for (const { blocks } of planOf(input).benches)
          for (const { setupId, part, tests: own } of blocks)
            if (!part.startsWith("baseline"))
              for (const { testKey, runs } of own) planned.set(`${setupId}/${testKey}`, (planned.get(`${setupId}/${testKey}`) ?? 0) + runs);
        for (const { id } of input.setups)
          for (const { key, runsWanted } of input.tests) {
            const missing = Math.max(0, runsWanted - (input.runsDone.get(`${id}/${key}`) ?? 0));
            expect(planned.get(`${id}/${key}`) ?? 0, `${id}/${key}`).toBe(missing);
          }
      }),
      { seed: 11, numRuns: 60 },
    );
  });

  it("runs a setup only on its own bench or a declared twin of it (seed 12)", () => {
    fc.assert(
      fc.property(labs, ({ seed, cards, tests }) => {
        const input = labOf(seed, cards, tests);
        for (const { id, blocks } of planOf(input).benches)
          for (const { setupId } of blocks) {
            const home = input.setups.find((setup) => setup.id === setupId)?.benchId;
            // Alder is declared a twin of Rowan; Rowan takes none of Alder's but what is its own.
            expect(id === home || id === "alder").toBe(true);
          }
      }),
      { seed: 12, numRuns: 60 },
    );
  });

  it("is laid over open hours without overlaps on a bench, and takes as long as its steps together (seed 13)", () => {
    fc.assert(
      fc.property(labs, fc.boolean(), ({ seed, cards, tests }, oneOperator) => {
        const input = labOf(seed, cards, tests);
        const plan = planOf(input);
        const schedule = schedulePlan({
          plan,
          setups: input.setups,
          tests: input.tests,
          times: input.times,
          stretches: STRETCHES,
          startMs: START,
          deadlineMs: null,
          oneOperator,
        });
        for (const { benchId } of schedule.benches) {
          const own = schedule.items.filter((item) => item.benchId === benchId).sort((a, b) => a.fromMs - b.fromMs);
          own.forEach((item, i) => {
            if (i > 0) expect(item.fromMs).toBeGreaterThanOrEqual((own[i - 1] as typeof item).toMs);
            expect(openSeconds(STRETCHES, item.fromMs, item.toMs)).toBeCloseTo(item.seconds, 3);
          });
        }
        expect(schedule.items.reduce((sum, { seconds }) => sum + seconds, 0)).toBeCloseTo(schedule.seconds, 3);
        if (oneOperator) {
          const hands = schedule.items.filter(({ kind }) => kind !== "test").sort((a, b) => a.fromMs - b.fromMs);
          for (const [i, item] of hands.entries()) if (i > 0) expect(item.fromMs).toBeGreaterThanOrEqual((hands[i - 1] as typeof item).toMs);
        }
      }),
      { seed: 13, numRuns: 40 },
    );
  });

  it("has less work under any cut than without, and the same under none (seed 14)", () => {
    fc.assert(
      fc.property(labs, ({ seed, cards, tests }) => {
        const input = labOf(seed, cards, tests);
        const all = openWork(input);
        for (const cuts of [
          { ...NO_CUTS, tests: [input.tests[0]?.key as string] },
          { ...NO_CUTS, resolutions: ["2560x1440"] },
          { ...NO_CUTS, runs: Object.fromEntries(input.tests.map(({ key }) => [key, 1])) },
          { ...NO_CUTS, cells: [`s0/${input.tests[0]?.key}`] },
        ])
          expect(openWork({ ...input, cuts })).toBeLessThanOrEqual(all);
        expect(openWork({ ...input, cuts: { ...NO_CUTS, resolutions: ["2560x1440"] } })).toBe(0);
        expect(openWork({ ...input, cuts: NO_CUTS })).toBe(all);
      }),
      { seed: 14, numRuns: 40 },
    );
  });
});

describe("any way through a run sheet", () => {
  const KINDS: SheetEvent["kind"][] = ["start", "done", "failed", "skipped", "rerun", "note", "check", "acknowledge", "undo"];

  it("only makes moves that are allowed, forgets no step, and ends where all is done, failed or skipped (seed 15)", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 10_000 }), (seed) => {
        const random = createRandom(seed);
        const input = labOf(seed, 2, 2);
        const blocks = planOf({ ...input, policy: { baselineLast: false, baselineEvery: 0, alternate: false } }).benches[0]?.blocks ?? [];
        const steps = sheetSteps(blocks, {
          setups: input.setups,
          tests: input.tests,
          times: input.times,
          benchName: "Alder",
          metersTheWall: true,
          overRated: new Set(),
        });
        const events: SheetEvent[] = [];
        let atMs = START;
        for (let i = 0; i < 120; i += 1) {
          atMs += 1000 * (1 + Math.floor(random.next() * 300));
          const sheet = foldSheet(steps, events);
          const state = sheet.steps[sheet.current] ?? sheet.steps.at(-1);
          if (!state) break;
          const kind = KINDS[Math.floor(random.next() * KINDS.length)] as SheetEvent["kind"];
          const wanted =
            kind === "check"
              ? state.step.checks.find(({ id }) => !state.checked.includes(id))?.id
              : kind === "acknowledge"
                ? state.step.cautions.find(({ id }) => !state.acknowledged.includes(id))?.id
                : "why";
          const of = kind === "rerun" ? sheet.steps[Math.floor(random.next() * sheet.steps.length)] : state;
          const event: SheetEvent = {
            sequence: events.length + 1,
            atMs,
            who: "operator",
            stepKey: of?.step.key ?? "",
            kind,
            text: wanted ?? null,
            runId: null,
            pace: 1,
          };
          if (mayMove(sheet, event).ok) events.push(event);
        }
        const sheet = foldSheet(steps, events);
        const keys = sheet.steps.map(({ step }) => step.key);
        expect(new Set(keys).size).toBe(keys.length);
        for (const { key } of steps) expect(keys).toContain(key);
        sheet.steps.forEach(({ status }, i) => {
          if (i < sheet.current) expect(["done", "failed", "skipped"]).toContain(status);
        });
        expect(timeLeft(sheet, atMs).seconds).toBeGreaterThanOrEqual(0);
        expect(timeLeft(sheet, atMs).seconds === 0).toBe(sheet.current === sheet.steps.length);
        expect(foldSheet(steps, structuredClone(events))).toEqual(sheet);
      }),
      { seed: 15, numRuns: 40 },
    );
  });
});

describe("open hours", () => {
  it("counts on and back alike: so many open seconds after an instant are so many open seconds away (seed 16)", () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 40 * 86_400 }), fc.integer({ min: 1, max: 500_000 }), (offsetS, seconds) => {
        const from = START + offsetS * 1000;
        const end = afterOpenSeconds(STRETCHES, from, seconds);
        expect(end).not.toBeNull();
        expect(openSeconds(STRETCHES, from, end as number)).toBeCloseTo(seconds, 6);
      }),
      { seed: 16 },
    );
    expect(afterOpenSeconds([], START, 1)).toBeNull();
  });

  it("never overlaps, stays in order, and closes on days off, in any zone", () => {
    for (const timeZone of ["Europe/Oslo", "Asia/Tokyo", "America/Sao_Paulo", "Pacific/Auckland", "UTC"]) {
      const hours = {
        timeZone,
        week: [
          { weekday: 2, opensMinute: 0, closesMinute: 1440 },
          { weekday: 3, opensMinute: 0, closesMinute: 600 },
        ],
        daysOff: ["2026-12-08"],
      };
      const stretches = openStretches(hours, START, 30);
      for (const [i, one] of stretches.entries()) if (i > 0) expect(one.fromMs).toBeGreaterThan((stretches[i - 1] as typeof one).toMs);
      // Tuesday into Wednesday morning is one stretch of 34 hours; the Tuesday off leaves only its Wednesday.
      expect(stretches.map(({ fromMs, toMs }) => (toMs - fromMs) / 3_600_000)).toContain(34);
      expect(
        stretches.some(({ fromMs, toMs }) => (toMs - fromMs) / 3_600_000 === 10),
        timeZone,
      ).toBe(true);
    }
  });
});

describe("a very full review", () => {
  it("is planned, laid over the calendar and weighed for what to leave out in a few seconds: 60 setups, 120 tests, 3 benches", () => {
    const random = createRandom(20261123);
    const full = labOf(7, 60, 120);
    const setups = full.setups.map((setup) => ({ ...setup, benchId: "alder" }));
    const benches = ["alder", "rowan", "elm"].map((id) => ({ id, revision: 1, name: id, twinOf: id === "alder" ? [] : [{ id: "alder", revision: 1 }] }));
    const seen = Array.from({ length: 3000 }, (_, i) => ({ activity: "run" as const, detail: `t${i % 120}@1`, seconds: 60 + 5 * random.next() }));
    const input: PlanInput = { ...full, setups, benches, policy: { baselineLast: true, baselineEvery: 0, alternate: false }, times: learnTimes(seen) };
    const started = Date.now();
    const plan = (() => {
      const search = planReview(input, createRandom(1));
      for (;;) {
        const step = search.next();
        if (step.done) return step.value;
      }
    })();
    const plannedMs = Date.now() - started;
    const schedule = schedulePlan({
      plan,
      setups,
      tests: input.tests,
      times: input.times,
      stretches: STRETCHES,
      startMs: START,
      deadlineMs: null,
      oneOperator: true,
    });
    const scheduledMs = Date.now() - started - plannedMs;
    const history = {
      logSpeed: new Map(
        setups.slice(0, 20).flatMap(({ id }, i) => input.tests.map(({ key }): [string, number] => [`${id}/${key}`, 5 + 0.03 * i + 0.01 * random.next()])),
      ),
      spread: new Map(input.tests.map(({ key }): [string, { sLog: number; df: number }] => [key, { sLog: 0.01, df: 40 }])),
    };
    const weighed = proposeLeaveOuts(input, history, { subjectIds: ["s1"] });
    const gap = plan.order.makespanMinutes / plan.order.lowerBoundMinutes - 1;
    console.log(
      `60 setups, 120 tests, 3 benches: ordered in ${plannedMs} ms (gap to the lower bound ${(100 * gap).toFixed(2)} %), laid over the calendar in ${scheduledMs} ms, left-outs weighed in ${Date.now() - started - plannedMs - scheduledMs} ms`,
    );
    expect(plan.benches).toHaveLength(3);
    expect(schedule.items.length).toBeGreaterThan(5000);
    expect(weighed.length).toBeGreaterThan(0);
    expect(gap).toBeLessThan(0.02);
    // 2 s are asked for the order; a machine under load is given ten times that before the test calls it broken.
    expect(plannedMs).toBeLessThan(20_000);
  });
});
