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
