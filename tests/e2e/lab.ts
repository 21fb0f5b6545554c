import AxeBuilder from "@axe-core/playwright";
import { type BrowserContext, expect, type Page } from "@playwright/test";

export const REVIEW = "/reviews/sorrel-70-launch";

/** Sits a person down at a browser. */
export async function sitDown(context: BrowserContext, baseURL: string, personId = "editor"): Promise<void> {
  await context.addCookies([{ name: "parvex_person", value: personId, url: baseURL }]);
}

/** Opens a page and waits until it answers to the hand. */
export async function openPage(page: Page, path: string): Promise<void> {
  await page.goto(path);
  await expect(page.getByLabel(/^Theme: /)).toBeVisible();
}

/** Collects what the browser's console complains of; a test ends by expecting nothing. */
export function complaintsOf(page: Page): string[] {
  const complaints: string[] = [];
  page.on("console", (message) => message.type() === "error" && complaints.push(message.text()));
  page.on("pageerror", (error) => complaints.push(error.message));
  return complaints;
}

/** Breaches of WCAG 2.2 AA on a page, by rule and place; in the second theme only colours can differ. */
export async function breaches(page: Page, coloursOnly = false): Promise<string[]> {
  // Without the second page that only documents of several origins need; a grid's later rows are made as its first are.
  const builder = new AxeBuilder({ page }).setLegacyMode().exclude('[role="grid"] [role="row"]:nth-child(n + 4)');
  const asked = coloursOnly ? builder.withRules(["color-contrast"]) : builder.withTags(["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]);
  const { violations } = await asked.analyze();
  return violations.flatMap(({ id, nodes }) => nodes.slice(0, 3).map(({ target }) => `${id}: ${target.join(" ")}`));
}

/** Expects a page to keep WCAG 2.2 AA in both themes. */
export async function expectNoBreaches(page: Page): Promise<void> {
  expect(await breaches(page), "light").toEqual([]);
  await page.emulateMedia({ colorScheme: "dark" });
  await expect(page.locator("html")).toHaveClass(/dark/);
  expect(await breaches(page, true), "dark").toEqual([]);
}
