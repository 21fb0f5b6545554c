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

/** Turns the wheel once over the run's chart: milliseconds from the event until the next frame after the chart has followed. */
async function zoomOnce(deltaY: number): Promise<number> {
  const holder = document.querySelector("[data-window]") as HTMLElement;
  const before = holder.dataset.window;
  const box = holder.getBoundingClientRect();
  const started = performance.now();
  const at = { clientX: box.x + box.width / 2, clientY: box.y + box.height / 2 };
  holder.dispatchEvent(new WheelEvent("wheel", { deltaY, ...at, bubbles: true, cancelable: true }));
  while (holder.dataset.window === before) {
    if (performance.now() - started > 5000) throw new Error("the chart did not follow the wheel within 5 s");
    await new Promise((resolve) => requestAnimationFrame(resolve));
  }
  await new Promise((resolve) => requestAnimationFrame(resolve));
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
    for (let step = 0; step < 4; step += 1) {
      const took = await page.evaluate(zoomOnce, step % 2 === 0 ? -120 : 120);
      if (pass > 0) zoom.push(took);
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
