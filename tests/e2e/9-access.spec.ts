import { expect, test } from "@playwright/test";
import { expectNoBreaches, openPage, REVIEW, sitDown } from "./lab";

// Reads only: these run beside each other, once the lab's work is done.
test.beforeEach(async ({ context, baseURL }) => sitDown(context, baseURL as string));

const DUEL = "/reviews/duel-of-three";

for (const place of [
  "/",
  "/parts",
  "/doubts",
  "/intake",
  "/benches",
  "/suites",
  "/instruments",
  "/instruments/browser",
  "/reviews/new",
  `${DUEL}/ask`,
  `${DUEL}/bench`,
  `${DUEL}/suite`,
  "/reviews/halyard-7-launch/plan",
  "/sheet/duel-of-three/alder",
  `${REVIEW}/run`,
  "/reviews/halyard-7-launch/run?type=1",
  `${REVIEW}/run/sorrel-70-copperfen-1440-1`,
  `${REVIEW}/check`,
  `${REVIEW}/compare?row=gpu-sorrel-70`,
  `${REVIEW}/compare?show=index:result:gpu-sorrel-70`,
  `${REVIEW}/compare?view=duel`,
  `${REVIEW}/compare?view=robust`,
  "/reviews/hexad-6/compare?view=pairs",
  "/reviews/stream-and-play/compare?view=ladders",
  "/reviews/hexad-6/compare?view=work",
  `${REVIEW}/value`,
  `${REVIEW}/power`,
  `${REVIEW}/say`,
]) {
  test(`${place} keeps WCAG 2.2 AA, light and dark`, async ({ page }) => {
    if (place.startsWith("/sheet")) {
      await page.goto(place);
      await expect(page.getByText("linking …")).toHaveCount(0);
    } else await openPage(page, place);
    await expectNoBreaches(page);
  });
}

test("on a phone every main page keeps within its width", async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  for (const place of ["/", "/doubts", "/intake", "/parts", `${REVIEW}/run`, `${REVIEW}/check`, `${REVIEW}/compare`, `${REVIEW}/value`, `${REVIEW}/power`]) {
    await openPage(page, place);
    const wide = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
    expect(wide, place).toBeLessThanOrEqual(0);
  }
});

test("a page that takes its time shows that it is under way, and the line goes with its coming", async ({ page }) => {
  // With motion, as most people have it: the line grows.
  await page.emulateMedia({ reducedMotion: "no-preference" });
  await openPage(page, "/");
  await page.route(/\/parts/, async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 2500));
    await route.continue();
  });
  await page.getByRole("link", { name: "Parts and prices" }).click();
  const status = page.getByRole("status").filter({ hasText: "The page is being read." });
  await expect(status).toHaveCount(1);
  const width = () => page.locator("[data-underway]").evaluate((line) => line.getBoundingClientRect().width);
  await expect.poll(width).toBeGreaterThan(100);
  await expect(page).toHaveURL(/\/parts/);
  await expect(status).toHaveCount(0);
});
