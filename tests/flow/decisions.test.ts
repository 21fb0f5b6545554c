import { eq } from "drizzle-orm";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { buildSnapshot, suggestClaims } from "@/core/report";
import { audit, reports } from "@/db/schema";
import { changeRun } from "@/server/changeRun";
import { decideFinding } from "@/server/decideFinding";
import { addClaim, removeClaim } from "@/server/editClaims";
import { loadReview } from "@/server/loadReview";
import { loadFrames, loadRun } from "@/server/loadRun";
import { explain } from "@/server/problems";
import { loadReport, publishReport } from "@/server/publishReport";
import { updateOffer } from "@/server/updateOffer";
import type { Deps } from "@/server/useCase";
import { EDITOR, emptyLab, frames, importFiles, SECOND, smallPackage } from "../helpers/testLab";

let deps: Deps;
let drop: () => Promise<void>;
const model = async () => {
  const loaded = await loadReview(deps, "duel");
  if (!loaded) throw new Error("the review is gone");
  return loaded;
};
const finding = async (check: string) => (await model()).findings.find((one) => one.check === check);

beforeAll(async () => {
  ({ deps, drop } = await emptyLab());
  // One run of card-b is 20 % off; a claim of an unknown kind would block publication.
  const { "claims.csv": _, ...files } = smallPackage();
  files["datapackage.json"] = (files["datapackage.json"] as string).replace(',{"name":"claims","path":"claims.csv"}', "");
  const result = await importFiles(deps, { ...files, "frames/card-b-quay-2.csv": frames(100) });
  if (!result.ok) throw new Error(JSON.stringify(result.problem));
});
afterAll(() => drop());

describe("findings and runs", () => {
  it("are raised by the import, and a decision needs its reason", async () => {
    const outlier = await finding("outlier run");
    expect(outlier).toMatchObject({ state: "open", runId: "card-b-quay-2", raised: true });
    const refused = await decideFinding(deps, EDITOR, { findingId: outlier?.id as string, rowVersion: 1, decision: "dismiss", reason: "" });
    expect(refused).toMatchObject({ ok: false, problem: { kind: "invalid" } });
  });

  it("a decision survives a re-import, and discarding takes the run out of the ranking until it is taken back", async () => {
    const outlier = await finding("outlier run");
    const decide = (decision: "discard-runs" | "reopen", rowVersion: number) =>
      decideFinding(deps, EDITOR, { findingId: outlier?.id as string, rowVersion, decision, reason: "overlay was on" });
    expect(await decide("discard-runs", outlier?.rowVersion as number)).toMatchObject({ ok: true, value: { state: "accepted" } });
    expect((await model()).runs.find(({ id }) => id === "card-b-quay-2")).toMatchObject({ status: "discarded", reason: "outlier run: overlay was on" });
    expect(await finding("too few runs")).toMatchObject({ state: "open", sentence: "2 of 3 runs are valid (run 2 discarded: outlier run: overlay was on)." });
    expect(await finding("outlier run")).toMatchObject({ state: "accepted", raised: false, who: "Idris", reason: "overlay was on" });

    expect(await decide("reopen", (outlier?.rowVersion as number) + 1)).toMatchObject({ ok: true });
    expect((await model()).runs.find(({ id }) => id === "card-b-quay-2")?.status).toBe("valid");
    expect(await finding("outlier run")).toMatchObject({ state: "open", raised: true });
    expect(await finding("too few runs")).toBeUndefined();
  });

  it("a dismissed doubt opens again when a run behind it changes", async () => {
    const outlier = await finding("outlier run");
    await decideFinding(deps, EDITOR, {
      findingId: outlier?.id as string,
      rowVersion: outlier?.rowVersion as number,
      decision: "dismiss",
      reason: "seen before",
    });
    expect(await finding("outlier run")).toMatchObject({ state: "dismissed" });
    const more = smallPackage();
    const keep = Object.fromEntries(["tests", "setups", "workloads", "benches"].map((name) => [`${name}.csv`, more[`${name}.csv`] as string]));
    const added = await importFiles(deps, {
      "datapackage.json": JSON.stringify({ parvex_format: 1, resources: [{ name: "runs", path: "runs.csv" }] }),
      ...keep,
      "runs.csv": "id,setup_id,test_id,test_version,number,status,frames_path\nextra,card-b,quay,1,4,valid,frames/extra.csv\n",
      "frames/extra.csv": frames(126),
    });
    expect(added).toMatchObject({ ok: true });
    expect(await finding("outlier run")).toMatchObject({ state: "open", reason: null });
  });

  it("tells the second editor of one doubt instead of overwriting", async () => {
    const outlier = await finding("outlier run");
    const input = { findingId: outlier?.id as string, rowVersion: outlier?.rowVersion as number, decision: "accept" as const, reason: "known" };
    expect(await decideFinding(deps, EDITOR, input)).toMatchObject({ ok: true });
    expect(await decideFinding(deps, SECOND, { ...input, decision: "dismiss" })).toMatchObject({
      ok: false,
      problem: { kind: "changed-meanwhile", who: "Idris" },
    });
  });

  it("a run is discarded and restored with its reason, each with an audit row", async () => {
    const run = await loadRun(deps, "card-a-mill-3");
    expect(
      await changeRun(deps, EDITOR, { runId: "card-a-mill-3", rowVersion: run?.rowVersion as number, status: "discarded", reason: "wrong scene" }),
    ).toMatchObject({ ok: true });
    expect(await changeRun(deps, SECOND, { runId: "card-a-mill-3", rowVersion: run?.rowVersion as number, status: "valid", reason: "" })).toMatchObject({
      ok: false,
      problem: { kind: "changed-meanwhile" },
    });
    expect(await changeRun(deps, SECOND, { runId: "card-a-mill-3", rowVersion: (run?.rowVersion as number) + 1, status: "valid", reason: "" })).toMatchObject({
      ok: true,
    });
    const trail = await deps.database.select().from(audit).where(eq(audit.subject, "run:card-a-mill-3")).orderBy(audit.id);
    expect(trail.map(({ who, action }) => [who, action])).toEqual([
      ["editor", "discard run"],
      ["second-editor", "restore run"],
    ]);
    expect((await loadFrames(deps, "card-a-mill-3"))?.length).toBe(400);
  });
});

describe("two editors of one price", () => {
  it("the second is told who was first and what it reads now, and nothing of hers is written", async () => {
    const before = (await model()).offers.find(({ id }) => id === "offer-b");
    const rowVersion = before?.rowVersion as number;
    expect(await updateOffer(deps, EDITOR, { offerId: "offer-b", rowVersion, price: "5499" })).toMatchObject({
      ok: true,
      value: { price: "5499.00", rowVersion: rowVersion + 1 },
    });
    const second = await updateOffer(deps, SECOND, { offerId: "offer-b", rowVersion, price: "5 799" });
    expect(second).toMatchObject({ ok: false, problem: { kind: "changed-meanwhile", who: "Idris", now: "5499.00 NOK" } });
    if (!second.ok) expect(explain(second.problem).sentence).toContain("Idris changed this price at 16:00 UTC");
    const after = (await model()).offers.find(({ id }) => id === "offer-b");
    expect(after).toMatchObject({ price: { minor: 549_900, currency: "NOK" }, seenOn: "2026-11-20" });
  });

  it("of two who write at the same moment, exactly one is written", async () => {
    const rowVersion = (await model()).offers.find(({ id }) => id === "offer-a")?.rowVersion as number;
    const results = await Promise.all(
      [EDITOR, SECOND].map((actor, i) => updateOffer(deps, actor, { offerId: "offer-a", rowVersion, price: String(5000 + i) })),
    );
    expect(results.filter(({ ok }) => ok)).toHaveLength(1);
  });

  it("a price of 0, with a comma or with words is refused in words", async () => {
    const offer = (await model()).offers.find(({ id }) => id === "offer-b");
    for (const price of ["0", "49,90", "cheap"]) {
      const refused = await updateOffer(deps, EDITOR, { offerId: "offer-b", rowVersion: offer?.rowVersion as number, price });
      expect(refused).toMatchObject({ ok: false, problem: { kind: "invalid" } });
    }
  });
});

describe("the report", () => {
  it("takes only sentences that hold, and each once", async () => {
    const [claim] = suggestClaims(await model());
    if (!claim) throw new Error("nothing is suggested");
    const wrong = { ...claim.computation, verdict: "behind" } as typeof claim.computation;
    expect(await addClaim(deps, EDITOR, { reviewId: "duel", sentence: "It is slower.", computation: wrong })).toMatchObject({
      ok: false,
      problem: { kind: "invalid" },
    });
    const added = await addClaim(deps, EDITOR, { reviewId: "duel", ...claim });
    expect(added).toMatchObject({ ok: true });
    await addClaim(deps, EDITOR, { reviewId: "duel", sentence: "Reworded.", computation: claim.computation });
    expect((await model()).claims.map(({ sentence }) => sentence)).toEqual(["Reworded."]);
    if (added.ok) await removeClaim(deps, EDITOR, { claimId: added.value.id });
    await addClaim(deps, EDITOR, { reviewId: "duel", ...claim });
  });

  it("is published with open doubts only knowingly, and is frozen from then on", async () => {
    const run = await loadRun(deps, "card-a-quay-1");
    await changeRun(deps, EDITOR, { runId: "card-a-quay-1", rowVersion: run?.rowVersion as number, status: "discarded", reason: "menu" });
    expect(await publishReport(deps, EDITOR, { reviewId: "duel", acknowledgeDoubts: false })).toMatchObject({ ok: false, problem: { kind: "invalid" } });
    expect(await publishReport(deps, EDITOR, { reviewId: "duel", acknowledgeDoubts: true })).toMatchObject({ ok: true, value: { slug: "duel", version: 1 } });
    const frozen = deps.database.update(reports).set({ version: 7 });
    await expect(frozen).rejects.toThrow();
  });

  it("answers nobody before its embargo, and everybody after it", async () => {
    expect(await loadReport(deps, "duel")).toBeUndefined();
    const later = { ...deps, now: () => new Date("2026-11-21T11:00:01Z") };
    expect(await loadReport(later, "duel")).toMatchObject({ version: 1, newestVersion: 1 });
    expect(await loadReport(later, "duel", 2)).toBeUndefined();
  });

  it("is what the stored series give when everything is computed again", async () => {
    const later = { ...deps, now: () => new Date("2026-12-01T00:00:00Z") };
    const report = await loadReport(later, "duel");
    const again = buildSnapshot(await model());
    expect(report?.snapshot).toEqual(JSON.parse(JSON.stringify(again)));
    expect(report?.snapshot.doubts.some(({ state }) => state === "open")).toBe(true);
  });

  it("does not change when the lab does, and a second version supersedes it", async () => {
    const later = { ...deps, now: () => new Date("2026-12-01T00:00:00Z") };
    const offer = (await model()).offers.find(({ id }) => id === "offer-b");
    await updateOffer(deps, EDITOR, { offerId: "offer-b", rowVersion: offer?.rowVersion as number, price: "9999" });
    await publishReport(deps, EDITOR, { reviewId: "duel", acknowledgeDoubts: true });
    const [first, second] = await Promise.all([loadReport(later, "duel", 1), loadReport(later, "duel")]);
    expect(second).toMatchObject({ version: 2 });
    const priceIn = (report: typeof first) => report?.snapshot.value[0]?.rows.find(({ setupId }) => setupId === "card-b")?.price;
    expect([priceIn(first), priceIn(second)]).toEqual([5499, 9999]);
  });
});
