import { expect, test } from "@playwright/test";
import { openPage, REVIEW, sitDown } from "./lab";

test.beforeEach(async ({ context, baseURL }) => sitDown(context, baseURL as string));

test("exchanged resolutions change places by one key with a reason, and back; a doubted run goes to the run sheet", async ({ page }) => {
  await openPage(page, `${REVIEW}/check`);
  await page.locator('[data-finding*="resolution-inversion"], [data-finding*="resolution inversion"]').click();
  await page.keyboard.press("m");
  await page.getByLabel("Reason").fill("labels mixed up");
  await page.keyboard.press("Enter");
  await expect(page.getByText("The runs are where they fit.")).toBeVisible();
  await expect(page.locator('[data-finding*="resolution"]')).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.locator('[data-finding*="resolution"]')).toHaveCount(1);
  await page.locator("[data-finding]", { hasText: "outlier run" }).click();
  await page.keyboard.press("r");
  await page.getByLabel("Reason").fill("something ran beside it");
  await page.keyboard.press("Enter");
  await page.getByRole("link", { name: "To the run sheet" }).click();
  await expect(page).toHaveURL(/\/sheet\/sorrel-70-launch\/alder/);
  await expect(page.getByRole("heading").first()).toBeVisible();
  await page.goto(`${REVIEW}/check`);
  await page.getByLabel("show", { exact: true }).selectOption("decided");
  await page.locator("[data-finding]", { hasText: "outlier run" }).click();
  await page.keyboard.press("o");
  await page.getByLabel("show", { exact: true }).selectOption("open");
  await expect(page.locator("[data-finding]", { hasText: "outlier run" })).toHaveCount(1);
  await expect(page.getByRole("heading", { name: "6 doubts to settle" })).toBeVisible();
});
