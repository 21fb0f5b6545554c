import { expect, type Page, test } from "@playwright/test";
import { complaintsOf, openPage, sitDown } from "./lab";

test.describe.configure({ mode: "serial" });
test.beforeEach(async ({ context, baseURL }) => sitDown(context, baseURL as string, "operator"));

const DUEL = "/reviews/duel-of-three";
const sheetHeading = (page: Page) => page.getByRole("heading", { level: 1 });

test("a bench is revised with its difference in sight, and the old revision stays", async ({ page }) => {
  await openPage(page, "/benches");
  await expect(page.getByText("2 changes since revision 2")).toBeVisible();
  await page.getByRole("button", { name: /Bench Rowan/ }).click();
  await page.getByRole("button", { name: "New revision" }).click();
  await expect(page.getByText("Nothing differs from revision 1.")).toBeVisible();
  await page.getByLabel("power plan").fill("highest");
  await expect(page.getByRole("table", { name: "Changes since revision 1" })).toContainText("balanced");
  await page.getByRole("button", { name: "Make revision 2" }).click();
  // The editor shows the same head and changes while it saves; it is stored when the editor has closed.
  await expect(page.getByRole("button", { name: "New revision" })).toBeVisible();
  await expect(page.getByText("Bench Rowan, revision 2")).toBeVisible();
  await expect(page.getByText("1 change since revision 1")).toBeVisible();
  await page.reload();
  await page.getByRole("button", { name: "1", exact: true }).click();
  await expect(page.getByText("Bench Rowan, revision 1")).toBeVisible();
});

test("tests expand from resolution × preset × switch in one go, and a suite takes them by drag and drop", async ({ page }) => {
  await openPage(page, "/suites");
  await page.getByRole("button", { name: "Define tests" }).click();
  await page.getByLabel("workload").fill("Fennel Mire");
  await page.getByLabel("scene or task").fill("reed maze, 20 s");
  await page.getByLabel("resolutions", { exact: false }).fill("2560x1440, 3840x2160");
  await page.getByLabel("ray tracing").fill("off, on");
  await page.getByLabel("the watch starts").fill("first step");
  await page.getByLabel("the watch stops").fill("20 s later");
  await page.getByLabel("warm-up, s").fill("10");
  await page.getByLabel("length, s", { exact: true }).fill("20");
  await expect(page.getByText("Makes 4 tests")).toBeVisible();
  await page.getByRole("button", { name: "Define 4 tests" }).click();
  await expect(page.getByRole("status").filter({ hasText: "4 tests defined." })).toBeVisible();

  await page.getByRole("button", { name: "New suite" }).click();
  await page.getByLabel("name of the suite").fill("Two mires");
  await page.getByLabel("filter the lab's tests").fill("fennel");
  const target = page.getByLabel("Tests of the suite");
  // By mouse …
  const handle = page.getByRole("button", { name: "Move fennel-mire-1440@1" });
  const [from, to] = [await handle.boundingBox(), await target.boundingBox()];
  if (!from || !to) throw new Error("nothing to drag");
  await page.mouse.move(from.x + 6, from.y + 8);
  await page.mouse.down();
  await page.mouse.move(from.x + 40, from.y + 30, { steps: 4 });
  await page.mouse.move(to.x + to.width / 2, to.y + 60, { steps: 8 });
  await page.mouse.up();
  await expect(target.locator('[data-test="fennel-mire-1440@1"]')).toBeVisible();
  // … and by button; the order is changed by keyboard.
  await page.getByRole("button", { name: "Add Fennel Mire 2160", exact: true }).click();
  await expect(target.locator("[data-test]")).toHaveCount(2);
  await page.getByLabel("Runs of Fennel Mire 1440", { exact: true }).fill("2");
  await page.getByLabel("Runs of Fennel Mire 2160", { exact: true }).fill("1");
  await expect(page.getByText("2 tests, 3 runs a row.", { exact: false })).toBeVisible();
  await page.getByRole("button", { name: "Make the suite" }).click();
  await expect(page.getByRole("status").filter({ hasText: "The suite is saved." })).toBeVisible();
  await expect(page).toHaveURL(/suite=two-mires/);
});

test("a review starts from its question: rivals are proposed with reasons, and all of it is editable", async ({ page }) => {
  await openPage(page, "/reviews/new");
  await page.getByRole("radio", { name: /Head to head/ }).click();
  await page.getByRole("button", { name: /^Orrisk Halyard 7/ }).click();
  await page.getByRole("button", { name: /^Velm Sorrel 65/ }).click();
  const rows = page.getByRole("table", { name: "Rows of the review" });
  await expect(rows.getByRole("row")).toHaveCount(2);
  // Its price band and speed are searchable: the dearer rival is offered with the reason.
  await page.getByLabel("another row").selectOption({ label: "Velm Sorrel 70, same price band" });
  await expect(rows.getByRole("row")).toHaveCount(3);
  await page.getByLabel("title").fill("Duel of three");
  await page.getByLabel("id, for addresses").fill("duel-of-three");
  await page.getByLabel("suite", { exact: true }).selectOption({ label: "Two mires" });
  await page.getByLabel("Velm Sorrel 65 is the baseline").check();
  await page.getByRole("button", { name: "Start the review" }).click();
  await expect(page).toHaveURL(/duel-of-three\/bench/);
  await expect(page.getByRole("heading", { name: "Everything else is held constant" })).toBeVisible();
  await expect(page.getByText("less than 5 mm to spare")).toBeVisible();
});

test("what was to be held constant and is not is shown at once; it is declared, or splits the charts", async ({ page }) => {
  await openPage(page, "/reviews/new");
  await page.getByRole("button", { name: /^Orrisk Halyard 6/ }).click();
  await page.getByRole("button", { name: "Add a setup" }).click();
  await page.getByLabel("maker").fill("Velm");
  await page.getByLabel("name", { exact: true }).fill("Velm Sorrel 50");
  await page.getByLabel("facts, one a line").fill("board_power: 640 W\nlength: 251 mm\npower_connectors: 1 × 8-pin");
  await page.getByLabel("bench", { exact: true }).selectOption({ label: "Bench Rowan, revision 2" });
  await page.getByRole("button", { name: "Add the setup" }).click();
  await expect(page.getByRole("table", { name: "Rows of the review" })).toContainText("Velm Sorrel 50");
  await page.getByLabel("title").fill("Two benches");
  await page.getByLabel("id, for addresses").fill("two-benches");
  await page.getByLabel("another row").selectOption({ label: "Orrisk Halyard 6" });
  await page.getByLabel("another row").selectOption({ label: "Tarnuth Grebe 12" });
  await page.getByLabel("Orrisk Halyard 6 is the baseline").check();
  await page.getByLabel("suite", { exact: true }).selectOption({ label: "Graphics cards, autumn 2026" });
  await page.getByRole("button", { name: "Start the review" }).click();
  await expect(page).toHaveURL(/two-benches\/bench/);
  // Power headroom is judged before money and time are spent.
  await expect(page.getByText(/120 \+ 640 \+ 75 = 835 W sustained, 1179 W with peaks, supply 850 W/)).toBeVisible();
  await expect(page.getByRole("link", { name: /^Bench 1 not fitting/ })).toBeVisible();
  const line = page.locator('[data-difference="power_plan"]');
  await expect(line).toContainText("balanced");
  await expect(line).toContainText("highest");
  await line.getByRole("button", { name: "Declare" }).click();
  await expect(line.getByRole("alert")).toContainText("Say why it could not be held");
  await line.getByLabel("why it could not be held").fill("its board has no other plan");
  await line.getByRole("button", { name: "Declare" }).click();
  await expect(line).toContainText("declared by Runa: its board has no other plan");
  await openPage(page, "/reviews/two-benches/compare");
  await expect(page.getByText("Not the same in all rows: power plan (its board has no other plan).")).toBeVisible();
  // A row that is still to be run does not empty the comparison of the others.
  await expect(page.getByRole("row", { name: /Velm Sorrel 50 .*not run yet/ })).toBeVisible();
  await openPage(page, "/reviews/two-benches/bench");
  await line.getByRole("button", { name: "Take back" }).click();
  await line.getByLabel("why it could not be held").fill("another plan, another chart");
  await line.getByRole("button", { name: "Split charts" }).click();
  await expect(line).toContainText("a chart for each value by Runa");
  await openPage(page, "/reviews/two-benches/compare");
  const rows = page.getByRole("table", { name: "Relative performance" }).locator("[data-setup]");
  await expect(rows).toHaveCount(2);
  await page.getByLabel("chart", { exact: true }).selectOption({ label: "highest" });
  await expect(page.getByLabel("baseline", { exact: true }).locator("option")).toHaveText(["Velm Sorrel 50"]);
  await expect(page.getByText("Not the same in all rows", { exact: false })).toHaveCount(0);
});

test("the plan is ordered in a worker, says whether it fits, and shows what leaving out saves and costs", async ({ page }) => {
  const complaints = complaintsOf(page);
  await openPage(page, "/reviews/halyard-7-launch/plan");
  await expect(page.getByRole("heading", { name: /^1\d h .* of work$/ })).toBeVisible();
  await expect(page.locator("[data-plan-quality]")).toContainText("No order is shorter");
  await expect(page.getByText(/of open time before the embargo/)).toBeVisible();
  await expect(page.getByRole("img", { name: /Timeline: Bench Alder ends/ })).toBeVisible();
  const hours = async () => Number((await page.getByRole("heading", { name: /of work$/ }).textContent())?.match(/^(\d+) h/)?.[1]);
  const before = await hours();
  await page.getByRole("button", { name: "Leave out" }).first().click();
  await expect.poll(hours).toBeLessThan(before);
  await expect(page.getByText("Left out now:", { exact: false })).toBeVisible();
  await page.getByRole("button", { name: "Put everything back" }).click();
  await expect.poll(hours).toBe(before);
  const [calendar] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: "iCalendar" }).click()]);
  expect(calendar.suggestedFilename()).toBe("halyard-7-launch.ics");
  // The lab closes on all days but one: the same work ends later.
  const ends = () => page.getByText(/^ends /).textContent();
  const soon = await ends();
  await page.getByRole("button", { name: "Lab hours" }).click();
  for (const day of ["Tuesday", "Wednesday", "Thursday", "Friday"]) await page.getByLabel(day).fill("");
  await page.getByRole("button", { name: "Save the hours" }).click();
  await expect.poll(ends).not.toBe(soon);
  await expect(page.getByText(/of open time too late|it may well not fit|ends/).first()).toBeVisible();
  expect(complaints).toEqual([]);
});

/** Acknowledges and checks everything that the present step asks for, by keys alone. */
async function prepareByKeys(page: Page): Promise<void> {
  for (let i = 0; i < 16; i += 1) {
    const primary = await page.locator("kbd", { hasText: "Space" }).locator("..").textContent();
    if (/acknowledge first/.test(primary ?? "")) await page.keyboard.press("a");
    else if (/ is so$/.test(primary ?? "")) await page.keyboard.press(" ");
    else return;
    await expect(page.locator("kbd", { hasText: "Space" }).locator("..")).not.toHaveText(primary ?? "");
  }
}

test("the run sheet is walked by keyboard on the simulated bench to its end, on two screens in step", async ({ page, context }) => {
  test.slow();
  const complaints = complaintsOf(page);
  await openPage(page, `${DUEL}/plan`);
  await page.getByRole("button", { name: "Put this plan in force" }).click();
  await page.getByRole("link", { name: "Start the run sheet, Bench Alder" }).click();
  await expect(sheetHeading(page)).toHaveText("Pre-flight list of Bench Alder");
  await expect(page.getByText("linking …")).toHaveCount(0);

  // It refuses to go on while the meter's caution is not acknowledged.
  await page.keyboard.press(" ");
  await expect(page.getByText("Press A when you have read the caution and it is so.")).toBeVisible();
  await prepareByKeys(page);
  await page.keyboard.press(" ");
  await expect(sheetHeading(page)).toHaveText("Fit Velm Sorrel 65");
  await expect(page.getByText("Switch off, unplug, and let it discharge", { exact: false })).toBeVisible();

  // A phone beside the bench sees the same step, confirms a check there, and the bench sees it.
  const phone = await context.newPage();
  await phone.setViewportSize({ width: 390, height: 844 });
  await phone.goto(page.url());
  await expect(sheetHeading(phone)).toHaveText("Fit Velm Sorrel 65");
  await expect(phone.getByText("linking …")).toHaveCount(0);
  expect(await phone.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await prepareByKeys(page);
  await expect(phone.locator('button[aria-pressed="true"]')).toHaveCount(4);
  await phone.getByRole("button", { name: /it is fitted/ }).click();
  await expect(sheetHeading(page)).toContainText("Fennel Mire 1440");
  await phone.close();

  // Hurried two hundredfold, a run starts, its timer survives a reload, and it files itself.
  for (let i = 0; i < 2; i += 1) await page.keyboard.press("p");
  await expect(page.getByText("time × 60")).toBeVisible();
  await page.keyboard.press("n");
  await page.getByLabel("What was seen").fill("fan whine at the start");
  await page.keyboard.press("Enter");
  await expect(page.getByText("Noted: fan whine at the start")).toBeVisible();
  await prepareByKeys(page);
  await page.keyboard.press(" ");
  await page.reload();
  await expect(sheetHeading(page)).toContainText(/Fennel Mire 1440, 2 of 2|Fennel Mire 1440, 1 of 2/);
  await expect(sheetHeading(page)).toContainText("Fennel Mire 1440, 2 of 2");

  // A failed run is kept with its reason, another attempt follows, and the sheet says what that costs.
  await page.keyboard.press("f");
  await page.getByLabel("Why did it fail?").press("1");
  await expect(page.getByText(/The failed run is kept with its reason \(crash\)\. That takes .* more/)).toBeVisible();
  await expect(sheetHeading(page)).toContainText("3 of 3");

  for (let step = 0; step < 40; step += 1) {
    const heading = (await sheetHeading(page).textContent()) ?? "";
    if (heading === "All steps are done") break;
    await prepareByKeys(page);
    await page.keyboard.press(" ");
    await expect(sheetHeading(page)).not.toHaveText(heading);
  }
  await expect(sheetHeading(page)).toHaveText("All steps are done");
  await expect(page.getByText("1 failed, 0 skipped.", { exact: false })).toBeVisible();
  await page.getByRole("link", { name: "See them in the grid" }).click();
  await expect(page.getByRole("gridcell", { name: /Orrisk Halyard 7, Fennel Mire 2160: \d+\.\d fps, 1 of 1 runs/ })).toBeVisible();
  await expect(page.getByRole("link", { name: /^Plan/ })).toContainText("all run");
  // What it took is known to the next plan.
  await openPage(page, "/reviews/halyard-7-launch/plan");
  await expect(page.getByText(/Times learned from \d+ measured steps/)).toBeVisible();
  expect(complaints).toEqual([]);
});

test("practice plants one unknown fault, shows readings beside a clean recording, and tells how it could be seen", async ({ page }) => {
  await openPage(page, "/instruments");
  await page.getByRole("button", { name: "Begin a practice" }).click();
  await expect(page.getByText("Hidden while somebody practises.")).toBeVisible();
  await expect(page.getByRole("table", { name: "Readings" })).toBeVisible();
  await page.getByRole("button", { name: "Record the scene" }).click();
  await expect(page.getByRole("row", { name: /^average/ })).not.toContainText("–");
  await page.getByLabel("I think it is").selectOption({ label: "glitch" });
  await page.getByRole("button", { name: "Tell me" }).click();
  await expect(page.getByRole("status").filter({ hasText: /^(Yes: |No, it was: )/ })).toBeVisible();
  await expect(page.getByRole("checkbox", { name: "glitch" })).toBeVisible();
});
