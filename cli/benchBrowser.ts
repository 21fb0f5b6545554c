import { type Browser, chromium, type Page } from "@playwright/test";

/** A figure measured in headless Chromium over the production build. */
export interface BrowserFigure {
  name: string;
  value: number;
  unit: string;
  reference: number;
  note: string;
}

const ARGS = ["--no-sandbox", "--disable-dev-shm-usage", "--disable-quic", "--no-first-run", "--disable-background-networking"];
const PASSES = 5;
const median = (values: number[]) => [...values].sort((a, b) => a - b)[values.length >> 1] as number;

/** Milliseconds from asking for an address until something of it is drawn. */
async function openFor(page: Page, address: string, selector: string): Promise<number> {
  const started = performance.now();
  await page.goto(address, { waitUntil: "commit" });
  await page.locator(selector).first().waitFor({ state: "visible", timeout: 60_000 });
  await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))));
  return performance.now() - started;
}

/** Opens the grid of the large review and its longest run several times, and zooms into the run. */
async function measure(browser: Browser, address: string, longRun: string): Promise<BrowserFigure[]> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const grid: number[] = [];
  const run: number[] = [];
  const zoom: number[] = [];
  for (let pass = 0; pass <= PASSES; pass += 1) {
    const opened = await openFor(page, `${address}/reviews/large/run?res=all`, '[role="gridcell"][data-state]');
    const drawn = await openFor(page, `${address}/reviews/large/run/${longRun}`, "[data-drawn]");
    const box = await page.locator("[data-window]").boundingBox();
    if (!box) throw new Error("the run has no chart");
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    for (let step = 0; step < 4; step += 1) {
      // Timed on the page itself: from the wheel's event until the next frame after the chart has followed.
      const took = page.evaluate(
        () =>
          new Promise<number>((resolve) => {
            const holder = document.querySelector("[data-window]") as HTMLElement;
            const before = holder.dataset.window;
            window.addEventListener(
              "wheel",
              () => {
                const started = performance.now();
                const look = () =>
                  holder.dataset.window === before ? requestAnimationFrame(look) : requestAnimationFrame(() => resolve(performance.now() - started));
                look();
              },
              { once: true, capture: true },
            );
          }),
      );
      await page.mouse.wheel(0, -120);
      if (pass > 0) zoom.push(await took);
      else await took;
    }
    // The first pass warms the server up.
    if (pass > 0) {
      grid.push(opened);
      run.push(drawn);
    }
  }
  await page.close();
  return [
    { name: "opening the grid of the review", value: median(grid), unit: "ms", reference: 1000, note: "12 × 114 cells, to stay under 1,000" },
    { name: "a run of 70,000 frames to its first drawn frame", value: median(run), unit: "ms", reference: 500, note: "from the address, to stay under 500" },
    { name: "  one zoom of it", value: median(zoom), unit: "ms", reference: 100, note: "to stay under 100" },
  ];
}

/** Measures what a browser makes of the review that was imported last. The long run is there already. */
export async function measureBrowser(address: string, longRun: string): Promise<BrowserFigure[]> {
  const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ARGS });
  try {
    return await measure(browser, address, longRun);
  } finally {
    await browser.close();
  }
}
