import { expect, test } from "@playwright/test";
import { complaintsOf, openPage, REVIEW, sitDown } from "./lab";

test.beforeEach(async ({ context, baseURL }) => sitDown(context, baseURL as string));

test("the lab's home says what the review still lacks, and each lack leads to its step", async ({ page }) => {
  const complaints = complaintsOf(page);
  await openPage(page, "/");
  await expect(page.getByRole("link", { name: "Velm Sorrel 70" })).toBeVisible();
  await expect(page.getByText("755 of 756")).toBeVisible();
  await page.getByRole("link", { name: "6 doubts open" }).click();
  await expect(page.getByRole("heading", { name: "6 doubts to settle" })).toBeVisible();
  expect(complaints).toEqual([]);
});

test("the grid is walked by keyboard: N goes to the next doubtful cell, Enter opens its runs, Esc closes", async ({ page }) => {
  await openPage(page, `${REVIEW}/run`);
  const cell = page.getByRole("gridcell", { name: /^Tarnuth Grebe 12, Brackwater Oath 1440: 97\.\d fps, 3 of 3 runs; limit gpu/ });
  await expect(cell).toBeVisible();
  await page.keyboard.press("n");
  const doubtful = page.getByRole("gridcell", { name: /Velm Sorrel 70, Copperfen 1440.*doubt: outlier run/ });
  await expect(doubtful).toBeFocused();
  await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("gridcell", { name: /Velm Sorrel 70, Gantry 41 1440/ })).toBeFocused();
  await page.keyboard.press("ArrowLeft");
  await page.keyboard.press("Enter");
  const drawer = page.getByRole("dialog");
  await expect(drawer.getByText("Velm Sorrel 70, Copperfen")).toBeVisible();
  await expect(drawer.getByText(/SD \d+\.\d+ fps, CV \d\.\d+ %, 3 runs/)).toBeVisible();
  await expect(page).toHaveURL(/show=cell/);
  // The drawer is part of the address: a reload loses nothing.
  await page.reload();
  await expect(page.getByRole("dialog").getByText("Velm Sorrel 70, Copperfen")).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("dialog")).toHaveCount(0);
});

test("the grid filters as one types and shows all resolutions at once", async ({ page }) => {
  await openPage(page, `${REVIEW}/run`);
  await page.getByLabel("Filter tests").fill("copper");
  await expect(page.getByRole("columnheader", { name: "Copperfen" })).toBeVisible();
  await expect(page.getByRole("columnheader", { name: "Gantry 41" })).toHaveCount(0);
  await page.getByLabel("at", { exact: true }).selectOption("all");
  await expect(page.getByRole("columnheader", { name: /Copperfen/ })).toHaveCount(3);
  await page.getByLabel("Filter tests").fill("nothing like this");
  await expect(page.getByText("No test fits the filter.")).toBeVisible();
});

test("a run shows its frame times and its lows in three schools; siblings are one key away", async ({ page }) => {
  const complaints = complaintsOf(page);
  await openPage(page, `${REVIEW}/run/sorrel-70-copperfen-1440-2`);
  await expect(page.getByRole("img", { name: /Frame time of Velm Sorrel 70, Copperfen 1440, run 2/ })).toBeVisible();
  for (const school of ["percentile", "tail mean", "time share"]) await expect(page.getByRole("rowheader", { name: school })).toBeVisible();
  await page.keyboard.press("ArrowRight");
  await expect(page).toHaveURL(/copperfen-1440-3/);
  await expect(page.getByRole("link", { name: "run 3" })).toHaveAttribute("aria-current", "page");
  expect(complaints).toEqual([]);
});

test("the baseline is switched without changing the order, and percentages keep their base", async ({ page }) => {
  await openPage(page, `${REVIEW}/compare`);
  const table = page.getByRole("table", { name: "Relative performance" });
  const names = () => table.locator("[data-setup]").evaluateAll((list) => list.map((one) => (one as HTMLElement).dataset.setup));
  const before = await names();
  const figure = table.getByRole("button", { name: /^Velm Sorrel 70, average/ });
  const first = Number((await figure.getAttribute("aria-label"))?.match(/average ([\d.]+)/)?.[1]);
  expect(first).toBeGreaterThan(115);
  await page.getByLabel("baseline", { exact: true }).selectOption({ label: "Orrisk Halyard 9" });
  await expect(page.getByRole("heading", { name: "How fast against Orrisk Halyard 9?" })).toBeVisible();
  expect(await names()).toEqual(before);
  await table.locator('[data-setup="gpu-sorrel-70"]').click();
  await expect(page.getByText(/Velm Sorrel 70 is 1\d\.\d % slower; Orrisk Halyard 9 is 1\d\.\d % faster/)).toBeVisible();
  await expect(page).toHaveURL(/baseline=gpu-halyard-9/);
  await page.keyboard.press("o");
  const ranked = await names();
  expect(ranked).not.toEqual(before);
  expect(ranked[0]).toBe("gpu-halyard-9");
  // Baseline, row and order hold in the next step.
  await page.getByRole("link", { name: /^Power/ }).click();
  await expect(page.getByRole("heading", { name: "Frames for each joule against Orrisk Halyard 9" })).toBeVisible();
  await expect(page.locator('[data-setup="gpu-sorrel-70"]')).toHaveAttribute("aria-pressed", "true");
});

test("an index opens its evidence: interval, formula in words, what was left out, the tests behind it", async ({ page }) => {
  await openPage(page, `${REVIEW}/compare?res=3840x2160`);
  await page.getByRole("button", { name: /^Velm Sorrel 70, average/ }).click();
  const drawer = page.getByRole("dialog");
  await expect(drawer.getByText(/95 % interval \d+\.\d to \d+\.\d, run noise only/)).toBeVisible();
  await expect(drawer.getByText(/geometric mean over 14 workloads/)).toBeVisible();
  await drawer.getByRole("button", { name: /Gantry 41/ }).click();
  await expect(drawer.getByText("Velm Sorrel 70, Gantry 41")).toBeVisible();
  await expect(drawer.getByText("Runs", { exact: true })).toBeVisible();
});

test("a typed price re-ranks at once, Esc puts it back, Enter records it, and undo takes it back", async ({ page }) => {
  await openPage(page, `${REVIEW}/value?region=NO`);
  const cost = page.locator('[data-cost="gpu-halyard-9"]');
  const was = await cost.textContent();
  const price = page.getByLabel("Price of Orrisk Halyard 9 in NOK");
  const before = await price.inputValue();
  await price.fill("3000");
  await expect(cost).not.toHaveText(was as string);
  await expect(page.getByText("tried, not recorded: Enter records it as seen today, Esc puts it back")).toBeVisible();
  await price.press("Escape");
  await expect(cost).toHaveText(was as string);
  await price.fill("7 777");
  await price.press("Enter");
  await expect(page.getByText("The price of Orrisk Halyard 9 is recorded.")).toBeVisible();
  await expect(page.locator('[data-value-row="gpu-halyard-9"]').getByText("0 d ago")).toBeVisible();
  await page.reload();
  await expect(price).toHaveValue("7777");
  await price.fill(before);
  await price.press("Enter");
  await expect(page.getByText("The price of Orrisk Halyard 9 is recorded.")).toBeVisible();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(price).toHaveValue("7777");
  // A card that is not sold new has no price, which is not a price of 0.
  await expect(page.locator('[data-cost="gpu-grebe-8"]')).toHaveText("–");
});

test("two editors of one price: the second is told who was first, and nothing is overwritten", async ({ browser, baseURL }) => {
  const [one, two] = await Promise.all(
    ["editor", "second-editor"].map(async (personId) => {
      const context = await browser.newContext({ baseURL });
      await sitDown(context, baseURL as string, personId);
      const page = await context.newPage();
      await openPage(page, "/parts?region=NO&find=sorrel+70");
      return page;
    }),
  );
  if (!one || !two) throw new Error("two pages");
  const field = "Velm Sorrel 70, Brattelid, NOK";
  await two.getByLabel(field).fill("5111");
  await one.getByLabel(field).fill("5222");
  await one.getByLabel(field).press("Enter");
  await expect(one.getByText(/the price is recorded/)).toBeVisible();
  await two.getByLabel(field).press("Enter");
  await expect(two.getByRole("alert").filter({ hasText: "Idris changed this price" })).toContainText("it now reads 5222.00 NOK");
  await two.reload();
  await expect(two.getByLabel(field)).toHaveValue("5222");
});

test("who has not said who they are may look but not write", async ({ browser, baseURL }) => {
  const context = await browser.newContext({ baseURL });
  const page = await context.newPage();
  await openPage(page, "/parts?region=PL&find=sorrel+60");
  const field = page.getByLabel("Velm Sorrel 60, launch, PLN");
  await field.fill("1");
  await field.press("Enter");
  await expect(page.getByRole("alert").filter({ hasText: "Say who you are first" })).toBeVisible();
  await page.getByLabel("Who is working").selectOption({ label: "Maely, editor" });
  await expect(page.getByLabel("Who is working")).toHaveValue("second-editor");
});

test("parts filter as one types, and the command field reaches every step", async ({ page }) => {
  await openPage(page, "/parts");
  await page.getByLabel("Filter parts").fill("halyard");
  await expect(page.getByText("3 of 23 parts")).toBeVisible();
  await page.keyboard.press("Control+k");
  await page.getByPlaceholder("Go to, find, do …").fill("sorrel power");
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(/reviews\/sorrel-70-launch\/power/);
});
