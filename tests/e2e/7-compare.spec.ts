import { readFileSync } from "node:fs";
import { expect, test } from "@playwright/test";
import { complaintsOf, openPage, REVIEW, sitDown } from "./lab";

test.beforeEach(async ({ context, baseURL }) => sitDown(context, baseURL as string));

test("weights move figures at once and rows when they are let go; the address keeps them and a mix is saved", async ({ page }) => {
  const complaints = complaintsOf(page);
  await openPage(page, `${REVIEW}/compare?res=all`);
  const table = page.getByRole("table", { name: "Relative performance" });
  const figure = table.getByRole("button", { name: /^Velm Sorrel 70, average/ });
  const before = await figure.getAttribute("aria-label");
  // The dotted line for other workloads comes from a worker.
  await expect(table.locator("[data-choice]")).not.toHaveCount(0);
  await page.keyboard.press("w");
  const slider = page.getByLabel("Weight of Saltpan Courier");
  await slider.fill("0");
  await expect(figure).not.toHaveAttribute("aria-label", before as string);
  await slider.blur();
  await expect(page).toHaveURL(/weights=saltpan-courier/);
  await page.getByLabel("save this mix as").fill("no courier");
  await page.getByRole("button", { name: "Save mix" }).click();
  await page.getByRole("button", { name: "Weigh all the same" }).click();
  await expect(figure).toHaveAttribute("aria-label", before as string);
  await page.getByLabel("saved mix").selectOption({ label: "no courier" });
  await expect(figure).not.toHaveAttribute("aria-label", before as string);
  expect(complaints).toEqual([]);
});

test("the index is counted in other ways, each with its name; a chart is also a table and leaves as SVG with text as text", async ({ page }) => {
  await openPage(page, `${REVIEW}/compare?res=3840x2160`);
  await page.getByLabel("counted by").selectOption("arithmetic");
  await expect(page.getByText("Arithmetic mean of fps, as many publish it", { exact: false })).toBeVisible();
  await page.getByLabel("counted by").selectOption("fit");
  await expect(page.getByText(/Fitted over \d+ cells; \d\.\d % are filled in/)).toBeVisible();
  await page.getByLabel("counted by").selectOption("index");
  await page.getByRole("button", { name: "as a table" }).click();
  const table = page.getByRole("table", { name: /as a table$/ });
  await table.getByRole("button", { name: "index" }).click();
  await expect(table.getByRole("row").nth(1)).toContainText("Orrisk Halyard 9");
  await table.getByRole("button", { name: "index" }).click();
  await expect(table.getByRole("row").nth(1)).toContainText("Tarnuth Grebe 8");
  const [svg] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: "SVG" }).click()]);
  const text = readFileSync((await svg.path()) as string, "utf8");
  expect(text).toContain(">Orrisk Halyard 9</text>");
  expect(text).toContain("95 % run noise");
  const [png] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: "PNG" }).click()]);
  expect(
    readFileSync((await png.path()) as string)
      .subarray(1, 4)
      .toString(),
  ).toBe("PNG");
});

test("head to head: sorted differences with verdicts, both directions in words, turned round by one key", async ({ page }) => {
  await openPage(page, `${REVIEW}/compare?view=duel&a=gpu-sorrel-70&b=gpu-halyard-9`);
  await expect(
    page.getByText(/^Velm Sorrel 70 is 1\d\.\d % slower than Orrisk Halyard 9; Orrisk Halyard 9 is 1\d\.\d % faster than Velm Sorrel 70\.$/),
  ).toBeVisible();
  const rows = page.getByRole("table", { name: "Velm Sorrel 70 against Orrisk Halyard 9" }).getByRole("row");
  await expect(rows).toHaveCount(15);
  await page.getByPlaceholder("filter: game, API, ray tracing …").fill("classic API");
  await expect(rows).toHaveCount(4);
  await page.keyboard.press("Escape");
  await page.getByPlaceholder("filter: game, API, ray tracing …").blur();
  await page.keyboard.press("s");
  await expect(page.getByText(/^Orrisk Halyard 9 is \d+\.\d % faster than Velm Sorrel 70;/)).toBeVisible();
});

test("how robust the order is: rank ranges, influence, and the fewest workloads that keep it", async ({ page }) => {
  await openPage(page, `${REVIEW}/compare?view=robust&res=all`);
  await expect(page.getByText(/(All 6|\d of 6) rows keep their rank under \d+ ways of counting\./)).toBeVisible();
  await expect(page.getByRole("row", { name: /^Tarnuth Grebe 8 rank 6 never/ })).toBeVisible();
  await page.getByRole("button", { name: "Find the fewest workloads that keep the order" }).click();
  await expect(page.getByText(/\d+ of 14 keep the order: .* Exact: no smaller set does/)).toBeVisible();
});

test("one factor is found and named: the driver, and the two games that it moved", async ({ page }) => {
  await openPage(page, "/reviews/driver-11-14/compare?view=factor");
  await expect(page.getByText(/Only the graphics driver differs: “each maker's of 2026-11-14” in Halyard 6, driver 11-14/)).toBeVisible();
  await expect(page.getByText(/of 6 tests moved: .*Lanternwick \+\d/)).toBeVisible();
  await openPage(page, "/reviews/memory-sticks/compare?view=factor");
  await expect(page.getByText(/Only the memory sticks differs: “1”/)).toBeVisible();
});

test("a pair never tested together is predicted with an interval, never shown as measured; enough processors are named", async ({ page }) => {
  await openPage(page, "/reviews/hexad-6/compare?view=pairs&cpu=quartet-4&gpu=sorrel-70&res=1920x1080");
  await expect(page.getByText(/^Predicted, not measured\. Checked on \d+ measured pairs/)).toBeVisible();
  await expect(page.getByRole("row", { name: /^Copperfen predicted \d+/ })).toBeVisible();
  await expect(page.getByRole("heading", { name: "Which processor is enough for Velm Sorrel 70 at 1920 × 1080?" })).toBeVisible();
  await expect(page.getByText(/holds it back, over \d workloads/).first()).toBeVisible();
});

test("generations, ladders, timed work and money against speed each answer their question", async ({ page }) => {
  const complaints = complaintsOf(page);
  await openPage(page, "/reviews/hexad-6/compare?view=generations&res=1920x1080");
  await expect(page.getByRole("table", { name: "Uplift from Ilvane Quartet 4" }).getByRole("row")).toHaveCount(5);
  await expect(page.getByText(/\d+ a GHz/).first()).toBeVisible();
  await openPage(page, "/reviews/stream-and-play/compare?view=ladders");
  const ladder = page.getByRole("table", { name: "Copperfen while streaming: highest level that holds" });
  await expect(ladder.getByRole("row", { name: /Ilvane Octet 8 up to level 5/ })).toBeVisible();
  await expect(ladder.getByRole("row", { name: /Ilvane Hexad 6 up to level 3 level 4: processor above 95 %/ })).toBeVisible();
  await page.getByRole("button", { name: "144 fps" }).click();
  await expect(ladder.getByRole("row", { name: /Ilvane Hexad 6 (no level holds|up to level [12])/ })).toBeVisible();
  await openPage(page, "/reviews/two-systems/compare?view=work");
  await expect(page.getByText(/Hallbeck Tower costs \d\.\d+ times as much; it is \d\.\d+ to \d\.\d+ times as fast\./)).toBeVisible();
  await openPage(page, "/reviews/hexad-6/compare?view=work");
  await expect(page.getByRole("row", { name: /Ilvane Quartet 4 Reelwright, quick preset \d:\d\d 0\.\d\d × −/ })).toBeVisible();
  expect(complaints).toEqual([]);
});
