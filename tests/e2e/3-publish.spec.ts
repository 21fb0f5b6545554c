import { expect, test } from "@playwright/test";
import { breaches, complaintsOf, openPage, REVIEW, sitDown } from "./lab";

test.describe.configure({ mode: "serial" });
test.beforeEach(async ({ context, baseURL }) => sitDown(context, baseURL as string));

test("doubts are decided by keyboard with a reason, and a discarded run comes back by undo", async ({ page }) => {
  await openPage(page, `${REVIEW}/check`);
  await expect(page.locator("[data-finding]")).toHaveCount(6);
  for (const check of ["frame cap", "outlier run", "scatter", "resolution inversion", "too few runs"]) {
    await expect(page.locator("[data-finding]").filter({ hasText: check })).toHaveCount(1);
  }
  await page.locator("[data-finding]").filter({ hasText: "outlier run" }).click();
  await expect(page.getByText(/Run 2 is \d+\.\d % below the mean of the other 2/)).toBeVisible();
  await page.keyboard.press("x");
  await page.getByLabel("Reason").fill("overlay was on");
  await page.keyboard.press("Enter");
  await expect(page.getByText("The doubted runs are discarded.")).toBeVisible();
  await expect(page.locator("[data-finding]").filter({ hasText: "outlier run" })).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.locator("[data-finding]").filter({ hasText: "outlier run" })).toHaveCount(1);

  // A dismissal stays after a reload.
  await page.locator("[data-finding]").filter({ hasText: "scatter" }).click();
  await page.keyboard.press("d");
  await page.getByLabel("Reason").fill("the scene varies");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { name: "5 doubts to settle" })).toBeVisible();
  await page.reload();
  await expect(page.getByRole("heading", { name: "5 doubts to settle" })).toBeVisible();
  await page.getByLabel("show", { exact: true }).selectOption("decided");
  await expect(page.getByText(/dismissed by Idris on .*: the scene varies/)).toBeVisible();
});

test("capped and swapped runs are discarded; the ranking leaves their tests out and says so", async ({ page }) => {
  await openPage(page, `${REVIEW}/check`);
  for (const [check, reason] of [
    ["frame cap", "limiter left on"],
    ["resolution inversion", "labels mixed up"],
  ] as const) {
    await page.locator("[data-finding]").filter({ hasText: check }).click();
    await page.keyboard.press("x");
    await page.getByLabel("Reason").fill(reason);
    await page.keyboard.press("Enter");
    await expect(page.locator("[data-finding]").filter({ hasText: check })).toHaveCount(0);
  }
  await openPage(page, `${REVIEW}/compare?res=2560x1440`);
  await expect(page.getByText("Left out for all rows: Tidewright 1440 (Velm Sorrel 60 has no valid run)")).toBeVisible();
  await expect(page.getByText("13 workloads")).toBeVisible();
});

test("a version is published with sentences that hold, and only knowingly with open doubts", async ({ page }) => {
  await openPage(page, `${REVIEW}/say`);
  await page.getByRole("button", { name: "Take it" }).first().click();
  await expect(page.getByText(/holds now: 1\d\.\d % faster, ahead/)).toBeVisible();
  await page.getByRole("button", { name: "Publish version 1" }).click();
  await expect(page.getByRole("alert").filter({ hasText: "doubts are open" })).toBeVisible();
  await page.getByText("Publish with open doubts; they are printed on the page").click();
  await page.getByRole("button", { name: "Publish version 1" }).click();
  await expect(page.getByRole("link", { name: "Version 1", exact: true })).toBeVisible();
  await expect(page.getByRole("link", { name: /^Say/ })).toContainText("version 1 out");
});

test("the published page needs nobody, reads well on a phone, and follows the reader's region", async ({ browser, baseURL }) => {
  const context = await browser.newContext({ baseURL, viewport: { width: 390, height: 844 } });
  const page = await context.newPage();
  const complaints = complaintsOf(page);
  await page.goto("/p/sorrel-70-launch");
  await expect(page.getByRole("heading", { name: "Velm Sorrel 70", level: 1 })).toBeVisible();
  await expect(page.getByRole("region", { name: "Verdict" })).toContainText(/Velm Sorrel 70 is 1\d\.\d % faster than Tarnuth Grebe 12 at 2560 × 1440/);
  await expect(page.getByText("Published with open doubts")).toBeVisible();
  const width = await page.evaluate(() => document.documentElement.scrollWidth);
  expect(width).toBeLessThanOrEqual(390);
  await page.getByLabel("in", { exact: true }).selectOption("JP");
  await expect(page.getByText("price, JPY")).toBeVisible();
  await expect(page).toHaveURL(/region=JP/);
  expect(await breaches(page)).toEqual([]);
  expect(complaints).toEqual([]);
});

test("a later version supersedes the first, whose page stays as it was", async ({ page }) => {
  await openPage(page, `${REVIEW}/say`);
  await page.getByText("Publish with open doubts; they are printed on the page").click();
  await page.getByRole("button", { name: "Publish version 2" }).click();
  await expect(page.getByRole("link", { name: "Version 2", exact: true })).toBeVisible();
  await page.goto("/p/sorrel-70-launch?version=1");
  await expect(page.getByText("A newer version supersedes this one.")).toBeVisible();
  const missing = await page.goto("/p/no-such-report");
  expect(missing?.status()).toBe(404);
  await expect(page.getByText("There is nothing at this address")).toBeVisible();
});
