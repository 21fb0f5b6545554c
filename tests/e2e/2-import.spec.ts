import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { expect, test } from "@playwright/test";
import { type Zippable, zipSync } from "fflate";
import { changed, smallPackage } from "../helpers/testLab";
import { openPage, sitDown } from "./lab";

test.describe.configure({ mode: "serial" });

let folder: string;
test.beforeAll(async () => {
  folder = await mkdtemp(path.join(tmpdir(), "parvex-browser-"));
});
test.afterAll(() => rm(folder, { recursive: true, force: true }));
test.beforeEach(async ({ context, baseURL }) => sitDown(context, baseURL as string));

const zipOf = async (name: string, files: Record<string, string>) => {
  const file = path.join(folder, name);
  const entries: Zippable = Object.fromEntries(Object.entries(files).map(([entry, text]) => [entry, new TextEncoder().encode(text)]));
  await writeFile(file, zipSync(entries));
  return file;
};

test("the recorded example is imported as a folder, and its ranking is read off the screen", async ({ page }) => {
  await openPage(page, "/");
  await page.getByTestId("folder-input").setInputFiles("examples/compression-levels");
  await expect(page.getByText(/compression-levels would add \d+ rows/)).toBeVisible();
  await page.getByRole("button", { name: "Import", exact: true }).click();
  await expect(page.getByText(/^Imported \d+ rows/)).toBeVisible();
  await page.getByRole("link", { name: "Compression levels" }).click();
  await page.getByRole("link", { name: /^Compare/ }).click();
  await expect(page.getByRole("heading", { name: "How fast against gzip level 6?" })).toBeVisible();
  const table = page.getByRole("table", { name: "Relative performance" });
  const indexOf = async (label: string) =>
    Number((await table.getByRole("button", { name: new RegExp(`^${label}, average`) }).getAttribute("aria-label"))?.match(/average ([\d.]+)/)?.[1]);
  const [one, three, nine] = [await indexOf("gzip level 1"), await indexOf("gzip level 3"), await indexOf("gzip level 9")];
  expect(one).toBeGreaterThan(three);
  expect(three).toBeGreaterThan(100);
  expect(nine).toBeLessThan(100);
  // Recorded runs carry what was measured beside the time.
  await table.locator('[data-setup="gzip-level-1"]').click();
  await expect(page.getByText("gzip level 1 against gzip level 6, test by test")).toBeVisible();
});

test("the same package again changes nothing", async ({ page }) => {
  await openPage(page, "/");
  await page.getByTestId("folder-input").setInputFiles("examples/compression-levels");
  await page.getByRole("button", { name: "Import", exact: true }).click();
  await expect(page.getByText("The lab had all of it already; nothing changed.")).toBeVisible();
});

test("a broken package is refused with file, line, column and reason, and the page stays usable", async ({ page }) => {
  await openPage(page, "/");
  await page.getByTestId("zip-input").setInputFiles(
    await zipOf(
      "broken.zip",
      changed("frames/card-a-quay-2.csv", (text) => text.replace(/\n[^\n]+\n/, "\n-4\n")),
    ),
  );
  const alert = page.getByRole("alert").filter({ hasText: "nothing was imported" });
  await expect(alert).toContainText("The package has 1 mistake");
  await expect(alert.getByRole("row").filter({ hasText: "frames/card-a-quay-2.csv" })).toContainText("2frame_time_msa frame time must be above 0 ms");
  await page.getByTestId("zip-input").setInputFiles(await zipOf("whole.zip", smallPackage()));
  await expect(page.getByText(/whole\.zip would add \d+ rows; 16 logs with 4800 frames were read without a mistake/)).toBeVisible();
  await page.getByRole("button", { name: "Import", exact: true }).click();
  await expect(page.getByText(/^Imported \d+ rows and 16 logs/)).toBeVisible();
  await expect(page.getByRole("link", { name: "Two cards" })).toBeVisible();
});

test("an id met again with other content asks which is to stand", async ({ page }) => {
  await openPage(page, "/");
  await page.getByTestId("zip-input").setInputFiles(
    await zipOf(
      "dearer.zip",
      changed("offers.csv", (text) => text.replace("4999.9", "5199")),
    ),
  );
  await expect(page.getByText("offers offer-a: price is 4999.90 in the lab, 5199.00 in the package")).toBeVisible();
  await expect(page.getByRole("button", { name: "Import (1 to choose)" })).toBeDisabled();
  await page.getByRole("radio").nth(1).check();
  await page.getByRole("button", { name: "Import", exact: true }).click();
  await expect(page.getByText(/1 rows? replaced/)).toBeVisible();
});

test("the lab leaves as a zip that can be taken in again", async ({ page }) => {
  await openPage(page, "/");
  const waiting = page.waitForEvent("download");
  await page.getByRole("link", { name: "Export", exact: true }).last().click();
  const file = path.join(folder, "export.zip");
  await (await waiting).saveAs(file);
  await page.getByTestId("zip-input").setInputFiles(file);
  await page.getByRole("button", { name: "Import", exact: true }).click();
  await expect(page.getByText("The lab had all of it already; nothing changed.")).toBeVisible();
});
