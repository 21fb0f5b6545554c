import { mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import { expect, test } from "@playwright/test";
import { frameLog } from "#sim/largeLab";
import { createRandom } from "@/core/random";
import { openPage, sitDown } from "./lab";

test.beforeEach(async ({ context, baseURL }) => sitDown(context, baseURL as string));

/** A folder with three good logs, one of a workload the lab calls otherwise, one that breaks off, and a text. */
function folderOfLogs(outputDir: string): string {
  const folder = path.join(outputDir, "evening");
  const into = path.join(folder, "Sorrel 65");
  mkdirSync(into, { recursive: true });
  for (const run of [1, 2, 3]) writeFileSync(path.join(into, `Copperfen_2160_run${run}.csv`), frameLog(1500, 90, createRandom(run)));
  writeFileSync(path.join(into, "Fen scene_2160_run4.csv"), frameLog(1500, 90, createRandom(4)));
  const broken = new TextDecoder().decode(frameLog(200, 90, createRandom(5))).split("\n");
  broken[120] = "0.5,oops,60";
  writeFileSync(path.join(into, "Tidewright_2160_run1.csv"), broken.join("\n"));
  writeFileSync(path.join(folder, "notes.txt"), "nothing strange was seen\n");
  return folder;
}

test("a folder of logs is looked at, put in its place by a person's word, and taken in; what is wrong is named", async ({ page }, info) => {
  await openPage(page, "/intake");
  await page.getByLabel("Folder of logs").setInputFiles(folderOfLogs(info.outputDir));
  await expect(page.getByText("4 files have their place; 2 are left over.")).toBeVisible();
  await expect(page.getByText("notes.txt: line 1: no row of numbers was found")).toBeVisible();
  await expect(page.getByLabel("Frame time (ms) is")).toHaveValue("frame-time");
  await expect(page.getByLabel("Card temperature (°C) is")).toHaveValue("channel");
  await page.getByLabel("“Fen scene” (1 file) is the test").selectOption({ label: "Copperfen" });
  await expect(page.getByText("5 files have their place; 1 are left over.")).toBeVisible();
  await page.getByRole("button", { name: "Take in 5 files" }).click();
  await expect(page.getByRole("heading").or(page.getByText("Taken in: 5 of 5 runs")).last()).toBeVisible();
  await expect(page.getByText("4 files stored, 0 there before, 1 refused")).toBeVisible();
  await expect(page.getByText(/Tidewright_2160_run1\.csv, line 121, column “Frame time \(ms\)”: "oops" is not a number/)).toBeVisible();

  // The runs are in the grid of the review that asks for them, and the same folder changes nothing.
  await openPage(page, "/intake");
  await page.getByLabel("Folder of logs").setInputFiles(folderOfLogs(info.outputDir));
  await page.getByRole("button", { name: "Take in 5 files" }).click();
  await expect(page.getByText("0 files stored, 4 there before, 1 refused")).toBeVisible();
  // What was taken in, what was refused and how it was read stand there for the next time.
  await openPage(page, "/intake");
  const lately = page.getByRole("region", { name: "Taken in lately" });
  await expect(lately.getByText(/Idris: 4 files stored, 1 refused/)).toBeVisible();
  await expect(page.getByRole("region", { name: "How logs are read" }).getByText("{setup}/{test}_{resolution}_run{run}.csv").first()).toBeVisible();
  await openPage(page, "/reviews/halyard-7-launch/run?res=3840x2160");
  await expect(page.getByRole("gridcell", { name: /Velm Sorrel 65, Copperfen 2160: \d+\.\d fps, 4 of 3 runs/ })).toBeVisible();
  await page.getByLabel("below each").selectOption("limit");
  await expect(page.getByRole("gridcell", { name: /Velm Sorrel 65, Copperfen 2160.*limit gpu, sure/ })).toContainText("GPU");
});

test("a threshold of the checks is the lab's own: it moves the doubts, and goes back", async ({ page }) => {
  await openPage(page, "/reviews/sorrel-70-launch/check");
  const heading = page.getByRole("heading", { name: /doubts? to settle|No doubt is open/ });
  const before = (await heading.textContent()) as string;
  await page.getByText("The rules of all 17 checks").click();
  const field = page.getByLabel("scatter: level, α");
  await field.fill("0.2");
  await field.press("Enter");
  await expect(heading).not.toHaveText(before);
  await field.fill("");
  await field.press("Enter");
  await expect(heading).toHaveText(before);
  await expect(field).toHaveValue("0.001");
});
