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

/**
 * Runs in the page before anything of it: notes when a first element of some kinds has been drawn, in milliseconds from the
 * moment the address was asked for. Asking from outside would add the time between two looks.
 */
const NOTE_DRAWN = `(() => {
  const drawn = (window.drawnAt = {});
  const kinds = { cell: '[role="gridcell"][data-state]', run: "[data-drawn]" };
  new MutationObserver(() => {
    for (const [kind, selector] of Object.entries(kinds)) {
      if (drawn[kind] !== undefined || !document.querySelector(selector)) continue;
      drawn[kind] = null;
      requestAnimationFrame(() => setTimeout(() => (drawn[kind] = performance.now())));
    }
  }).observe(document, { subtree: true, childList: true, attributes: true, attributeFilter: ["data-drawn"] });
})()`;

/** Milliseconds from asking for an address until something of it has been drawn. */
async function openFor(page: Page, address: string, kind: "cell" | "run"): Promise<number> {
  await page.goto(address, { waitUntil: "commit" });
  const at = await page.waitForFunction((name) => (window as unknown as { drawnAt: Record<string, number | null> }).drawnAt[name] ?? 0, kind, {
    timeout: 60_000,
  });
  return (await at.jsonValue()) as number;
}

/** Goes on to the next run by its key: milliseconds until that run has been drawn. The page is one of the run before it. */
async function nextRun(longRun: string): Promise<number> {
  const started = performance.now();
  window.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowRight", bubbles: true }));
  while (!document.querySelector(`[data-drawn~="${longRun}"]`)) {
    if (performance.now() - started > 20_000) throw new Error("the next run was not drawn within 20 s");
    await new Promise((resolve) => requestAnimationFrame(resolve));
  }
  await new Promise((resolve) => requestAnimationFrame(resolve));
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
  await page.addInitScript(NOTE_DRAWN);
  const grid: number[] = [];
  const run: number[] = [];
  const next: number[] = [];
  const zoom: number[] = [];
  const runBefore = longRun.replace(/-99$/, "-3");
  for (let pass = 0; pass <= PASSES; pass += 1) {
    const opened = await openFor(page, `${address}/reviews/large/run?res=all`, "cell");
    await openFor(page, `${address}/reviews/large/run/${runBefore}`, "run");
    const followed = await page.evaluate(nextRun, longRun);
    const drawn = await openFor(page, `${address}/reviews/large/run/${longRun}`, "run");
    for (let step = 0; step < 4; step += 1) {
      const took = await page.evaluate(zoomOnce, step % 2 === 0 ? -120 : 120);
      if (pass > 0) zoom.push(took);
    }
    // The first pass warms the server up.
    if (pass > 0) {
      grid.push(opened);
      next.push(followed);
      run.push(drawn);
    }
  }
  await page.close();
  return [
    { name: "opening the grid of the review", value: median(grid), unit: "ms", reference: 1000, note: "12 × 114 cells, to stay under 1,000" },
    {
      name: "a run of 70,000 frames to its first drawn frame",
      value: median(next),
      unit: "ms",
      reference: 500,
      note: "from the run before it, to stay under 500",
    },
    { name: "  the same from its address", value: median(run), unit: "ms", reference: 500, note: "a page anew, to stay under 500" },
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
