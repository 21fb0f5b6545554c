import { mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import { expect, type Page, test } from "@playwright/test";
import { zipSync } from "fflate";
import { frameLog } from "#sim/largeLab";
import { createRandom } from "@/core/random";
import { complaintsOf, openPage, REVIEW, sitDown } from "./lab";

test.beforeEach(async ({ context, baseURL }) => sitDown(context, baseURL as string));

/** Marks a part of the trace chart between two shares of its width. */
async function mark(page: Page, from: number, to: number): Promise<void> {
  const box = await page.locator("[data-window]").boundingBox();
  if (!box) throw new Error("no chart");
  const x = (share: number) => box.x + 60 + share * (box.width - 120);
  await page.mouse.move(x(from), box.y + 120);
  await page.mouse.down();
  await page.mouse.move(x((from + to) / 2), box.y + 120);
  await page.mouse.move(x(to), box.y + 120);
  await page.mouse.up();
}

test("a run is looked into: sensors and other runs on one time axis, statistics of a marked part, zoom and back", async ({ page }) => {
  const complaints = complaintsOf(page);
  await openPage(page, `${REVIEW}/run/sorrel-70-copperfen-1440-1`);
  const chart = page.locator("[data-window]");
  await expect(chart).toHaveAttribute("data-drawn", "sorrel-70-copperfen-1440-1");
  await page.getByRole("button", { name: "at the card" }).click();
  await page.getByRole("button", { name: "run 3", exact: true }).click();
  await page.getByLabel("against", { exact: true }).selectOption({ label: "Tarnuth Grebe 12" });
  await expect(chart).toHaveAttribute("data-drawn", /sorrel-70-copperfen-1440-1 sorrel-70-copperfen-1440-3 .*grebe-12.* gpu_w/);
  await mark(page, 0.2, 0.5);
  const part = page.getByRole("region", { name: "The marked part" });
  await expect(part.getByRole("rowheader", { name: "Tarnuth Grebe 12 run 2" })).toBeVisible();
  await expect(part.getByText(/means: at the card \d+ W/)).toBeVisible();
  const whole = await chart.getAttribute("data-window");
  await page.keyboard.press("z");
  await expect(chart).not.toHaveAttribute("data-window", whole as string);
  await expect(part).toHaveCount(0);
  await page.keyboard.press("0");
  await expect(chart).toHaveAttribute("data-window", whole as string);
  for (const name of [/^Percentile curve of frame time; .*percentile.*tail mean.*time share/, /^Distribution of frame time/])
    await expect(page.getByRole("img", { name })).toBeVisible();
  // What is drawn is part of the address.
  await page.reload();
  await expect(chart).toHaveAttribute("data-drawn", /gpu_w/);
  expect(complaints).toEqual([]);
});

test("a part of a run is left out with a reason, changes its statistics, and is taken back", async ({ page }) => {
  await openPage(page, `${REVIEW}/run/sorrel-70-copperfen-1440-1`);
  const frames = page.getByText("frames", { exact: true }).locator("..").last();
  await expect(page.locator("[data-window]")).toHaveAttribute("data-drawn", /copperfen/);
  const before = (await frames.textContent()) as string;
  await mark(page, 0, 0.3);
  await page.keyboard.press("t");
  await page.getByLabel("Reason").fill("still loading");
  await page.keyboard.press("Enter");
  await expect(page.getByText(/left out: .* s, still loading \(Idris\)/)).toBeVisible();
  await expect(frames).not.toHaveText(before);
  await page.getByRole("button", { name: "Take it back" }).click();
  await expect(page.getByText(/left out: .* s, still loading/)).toHaveCount(0);
  await expect(frames).toHaveText(before);
});

test("values are typed, pasted as a block, filled down, undone and redone; a failure takes one key", async ({ page, context }) => {
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  await openPage(page, "/reviews/halyard-7-launch/run?type=1");
  const slot = (number: number, setup = "gpu-grebe-10") => page.locator(`[data-slot="${setup}/brackwater-oath-1440@1/${number}"]`);
  await slot(1).click();
  await page.keyboard.type("88.4");
  await page.keyboard.press("Enter");
  await expect(slot(1)).toHaveText("88.4");
  // A number that fits no unit is refused where it stands.
  await slot(2).click();
  await page.keyboard.type("88 W");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("alert").filter({ hasText: "does not fit this test" })).toBeVisible();
  await page.keyboard.press("Escape");
  await slot(2).click();
  await page.evaluate(() => navigator.clipboard.writeText("87.9\t88.8"));
  await page.keyboard.press("Control+v");
  await expect(slot(3)).toHaveText("88.8");
  await slot(1).click();
  await page.keyboard.press("Control+z");
  await expect(slot(3)).toHaveText("");
  await page.keyboard.press("Control+y");
  await expect(slot(3)).toHaveText("88.8");
  // A log is never typed over.
  await slot(1, "gpu-sorrel-70").click();
  await page.keyboard.type("1");
  await expect(page.getByRole("alert").filter({ hasText: "comes from a log" })).toBeVisible();
  await slot(2).click();
  await page.keyboard.press("f");
  await page.keyboard.type("driver crashed");
  await page.keyboard.press("Enter");
  await expect(slot(2)).toHaveText("failed");
  await page.reload();
  await expect(slot(1)).toHaveText("88.4");
  await expect(slot(2)).toHaveText("failed");
  await page.getByRole("button", { name: "Back to the cells" }).click();
  await expect(page.getByRole("gridcell", { name: /^Tarnuth Grebe 10, Brackwater Oath 1440: 88\.6 fps, 2 of 3 runs, doubt: too few runs/ })).toBeVisible();
});

test("the grid groups, sorts and narrows to what is asked for; the address keeps it", async ({ page }) => {
  await openPage(page, `${REVIEW}/run?res=all`);
  const grid = page.getByRole("grid", { name: "Cells of the review" });
  await page.getByLabel("by", { exact: true }).selectOption("resolution");
  await expect(grid.getByText("1920 × 1080")).toBeVisible();
  await page.getByLabel("cells", { exact: true }).selectOption("doubtful");
  await expect(grid.locator('[data-state="doubtful"]').first()).toBeVisible();
  const rows = grid.getByRole("rowheader");
  expect(await rows.count()).toBeLessThan(6);
  await page.getByLabel("cells", { exact: true }).selectOption("all");
  await grid
    .getByRole("button", { name: /^Copperfen/ })
    .first()
    .click();
  await expect(page).toHaveURL(/sort=copperfen-1080%401%3Adown|sort=copperfen-1080@1:down/);
  await expect(rows.first()).toContainText("Orrisk Halyard 9");
  await page.getByLabel("Filter setups").fill("velm");
  await expect(rows).toHaveCount(2);
});

test("a zip of logs is taken in; files the pattern cannot place are chosen together and put where they belong", async ({ page }, info) => {
  const zip = path.join(info.outputDir, "odd.zip");
  mkdirSync(info.outputDir, { recursive: true });
  const log = (seed: number) => frameLog(900, 77, createRandom(seed));
  writeFileSync(zip, zipSync({ "one.csv": log(41), "two.csv": log(42), "../out.csv": log(43) }, { level: 1 }));
  await openPage(page, "/intake");
  await page.getByLabel("Logs", { exact: true }).setInputFiles(zip);
  await expect(page.getByText("odd/../out.csv: its path leads out of the zip")).toBeVisible();
  await expect(page.getByText("0 files have their place; 3 are left over.")).toBeVisible();
  await page.getByLabel("all 2 shown").check();
  const bar = page.getByRole("group", { name: "Correct the chosen files" });
  await bar.getByLabel("setup").fill("Tarnuth Grebe 10");
  await bar.getByLabel("test").fill("Copperfen 1440");
  await bar.getByLabel("run, counted up").fill("1");
  await bar.getByRole("button", { name: "Put them there" }).click();
  await expect(page.getByText("2 files have their place; 1 are left over.")).toBeVisible();
  await page.getByRole("button", { name: "Undo the last correction" }).click();
  await expect(page.getByText("0 files have their place; 3 are left over.")).toBeVisible();
  await page.getByLabel("all 2 shown").check();
  await bar.getByLabel("setup").fill("Tarnuth Grebe 10");
  await bar.getByLabel("test").fill("Copperfen 1440");
  await bar.getByLabel("run, counted up").fill("1");
  await bar.getByRole("button", { name: "Put them there" }).click();
  await page.getByRole("button", { name: "Take in 2 files" }).click();
  await expect(page.getByText("2 files stored, 0 there before, 0 refused")).toBeVisible();
});

test("a log dropped on a cell becomes its next run", async ({ page }) => {
  await openPage(page, "/reviews/halyard-7-launch/run?res=2560x1440");
  const cell = page.getByRole("gridcell", { name: /^Tarnuth Grebe 10, Gantry 41 1440: no value/ });
  const content = new TextDecoder().decode(frameLog(700, 101, createRandom(51)));
  const data = await page.evaluateHandle((text) => {
    const transfer = new DataTransfer();
    transfer.items.add(new File([text], "gantry.csv", { type: "text/csv" }));
    return transfer;
  }, content);
  await cell.dispatchEvent("drop", { dataTransfer: data });
  await expect(page.getByText("Filed as run 1 of Tarnuth Grebe 10, Gantry 41 1440.")).toBeVisible();
  const filled = page.getByRole("gridcell", { name: /^Tarnuth Grebe 10, Gantry 41 1440: 10\d\.\d fps, 1 of 3 runs/ });
  await expect(filled).toBeVisible();
  // The same log a second time is refused by name.
  await filled.dispatchEvent("drop", { dataTransfer: data });
  await expect(page.getByText("it holds the same log as run 1 of this cell; it was not filed a second time")).toBeVisible();
  await expect(filled).toBeVisible();
});

test("a scene recorded in this browser is filed as a run, and found to be capped by the display", async ({ page }) => {
  await openPage(page, "/instruments/browser");
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true);
  await page.getByLabel("setup", { exact: true }).selectOption({ label: "Velm Sorrel 65" });
  await page.getByLabel("test", { exact: true }).selectOption({ label: "Gantry 41 1080" });
  await page.getByLabel("seconds").fill("5");
  await page.getByLabel("shapes drawn").fill("20");
  await page.getByRole("button", { name: "Record", exact: true }).click();
  const recorded = page.getByRole("region", { name: "What was recorded" });
  await expect(recorded.getByText(/display \d+\.\d Hz, clock step \d+ µs$/)).toBeVisible();
  await recorded.getByRole("button", { name: "File it as a run" }).click();
  await expect(recorded.getByText("Filed as a run.")).toBeVisible();
  await page.goto("/doubts");
  const doubt = page.getByRole("link", { name: /^frame cap Velm Sorrel 65, Gantry 41 1080/ }).first();
  await expect(doubt).toBeVisible();
  await doubt.click();
  await expect(page.getByText(/runs? looks? capped at \d+\.\d fps/).first()).toBeVisible();
});
