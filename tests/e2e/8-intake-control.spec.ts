import { mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import { expect, type Page, type Route, test } from "@playwright/test";
import { frameLog } from "#sim/largeLab";
import { createRandom } from "@/core/random";
import { openPage, sitDown } from "./lab";

test.beforeEach(async ({ context, baseURL }) => sitDown(context, baseURL as string));

const LOGS = 48;

/** A folder of short logs of one cell; the numbers of its runs begin where no other test has any. */
function folderOfRuns(outputDir: string, name: string, first: number): string {
  const folder = path.join(outputDir, name);
  const into = path.join(folder, "Sorrel 65");
  mkdirSync(into, { recursive: true });
  for (let i = 0; i < LOGS; i += 1) writeFileSync(path.join(into, `Gantry 41_2160_run${first + i}.csv`), frameLog(300, 80, createRandom(first + i)));
  return folder;
}

/** Lets each message to the server wait a moment, so that there is something to break off. */
const slowly = (page: Page, answer: (route: Route, message: number) => Promise<void> = (route) => route.continue()) => {
  let message = 0;
  return page.route(/\/api\/intakes\/[^/]+$/, async (route) => {
    if (route.request().method() !== "POST") return route.continue();
    message += 1;
    const own = message;
    await new Promise((resolve) => setTimeout(resolve, 250));
    await answer(route, own).catch(() => {});
  });
};

async function drop(page: Page, folder: string): Promise<void> {
  await openPage(page, "/intake");
  await page.getByLabel("Folder of logs").setInputFiles(folder);
  await expect(page.getByText(`${LOGS} files have their place; 0 are left over.`)).toBeVisible();
  await page.getByRole("button", { name: `Take in ${LOGS} files` }).click();
}

const storedOf = async (page: Page) => Number(/(\d+) files stored/.exec((await page.getByText(/\d+ files stored/).textContent()) ?? "")?.[1]);

test("an import is paused, stands still, and goes on to its end", async ({ page }, info) => {
  await slowly(page);
  await drop(page, folderOfRuns(info.outputDir, "paused", 101));
  await expect(page.getByText(/Reading: (8|16|24) of 48 runs/)).toBeVisible();
  await page.getByRole("button", { name: "Pause" }).click();
  await expect(page.getByText(/^Paused: \d+ of 48 runs/)).toBeVisible();
  // What was on its way when the key was pressed may still come in; then nothing moves.
  await page.waitForTimeout(1500);
  const before = await storedOf(page);
  expect(before).toBeLessThan(LOGS);
  await page.waitForTimeout(1200);
  expect(await storedOf(page)).toBe(before);
  await page.getByRole("button", { name: "Go on" }).click();
  await expect(page.getByText("Taken in: 48 of 48 runs")).toBeVisible();
  await expect(page.getByText("48 files stored, 0 there before, 0 refused")).toBeVisible();
});

test("a server that goes away stops the import with a sentence; it goes on without a run lost or there twice", async ({ page }, info) => {
  // The third message never arrives; the fourth is stored, but its answer is lost on the way back.
  await slowly(page, async (route, message) => {
    if (message === 3) return route.abort("connectionrefused");
    if (message === 4) {
      await route.fetch();
      return route.abort("connectionreset");
    }
    return route.continue();
  });
  await drop(page, folderOfRuns(info.outputDir, "gone", 201));
  await expect(page.getByRole("alert").filter({ hasText: /It stands still: The server does not answer .* What was stored is kept\./ })).toBeVisible();
  const goOn = page.getByRole("button", { name: "Go on" });
  const ended = page.getByText("Taken in: 48 of 48 runs");
  await goOn.click();
  // The lost answer stops it once more, now or a moment later.
  await expect(goOn.or(ended).first()).toBeVisible();
  if (await goOn.isVisible()) await goOn.click();
  await expect(ended).toBeVisible();
  const said = (await page.getByText(/files stored/).textContent()) as string;
  const [stored, present, refused] = [/(\d+) files stored/, /(\d+) there before/, /(\d+) refused/].map((what) => Number(what.exec(said)?.[1]));
  expect((stored as number) + (present as number)).toBe(LOGS);
  expect(refused).toBe(0);
  await openPage(page, "/reviews/halyard-7-launch/run?res=3840x2160");
  const cell = page.getByRole("gridcell", { name: /^Velm Sorrel 65, Gantry 41 2160: / });
  // 96 runs by now with those of the test before: every number once.
  await expect(cell).toHaveAttribute("aria-label", /, 96 of 3 runs/);
});

test("a closed tab leaves an import open; the same folder dropped again goes on where it ended", async ({ page, context }, info) => {
  const folder = folderOfRuns(info.outputDir, "closed", 301);
  await slowly(page);
  await drop(page, folder);
  await expect(page.getByText(/Reading: (8|16|24) of 48 runs/)).toBeVisible();
  await page.close();
  const again = await context.newPage();
  // A message that was on its way when the tab was closed may still be stored.
  await again.waitForTimeout(2000);
  await openPage(again, "/intake");
  const left = again.getByText(/The import of “closed” was left open: (8|16|24|32) of 48 files are in\. Drop the same folder again and it goes on\./);
  await expect(left).toBeVisible();
  const settled = Number(/(\d+) of 48 files/.exec((await left.textContent()) ?? "")?.[1]);
  await again.getByLabel("Folder of logs").setInputFiles(folder);
  await again.getByRole("button", { name: `Take in ${LOGS} files` }).click();
  // Only what is missing is read again.
  await expect(again.getByText(`Taken in: ${LOGS - settled} of ${LOGS - settled} runs`)).toBeVisible();
  await expect(again.getByText(`${LOGS - settled} files stored, 0 there before, 0 refused`)).toBeVisible();
  await openPage(again, "/intake");
  await expect(again.getByText(/was left open/)).toHaveCount(0);
});

test("the rest of an import is cancelled: what is in stays in, the rest is not", async ({ page }, info) => {
  await slowly(page);
  await drop(page, folderOfRuns(info.outputDir, "cancelled", 401));
  await expect(page.getByText(/Reading: (8|16|24) of 48 runs/)).toBeVisible();
  await page.getByRole("button", { name: "Cancel the rest" }).click();
  await expect(page.getByText(/^Taken in: \d+ of 48 runs/)).toBeVisible();
  const stored = await storedOf(page);
  expect(stored).toBeGreaterThan(0);
  expect(stored).toBeLessThan(LOGS);
  await openPage(page, "/intake");
  await expect(page.getByText(/was left open/)).toHaveCount(0);
});
