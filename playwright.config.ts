import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: "tests/e2e",
  outputDir: ".parvex/playwright",
  timeout: 180_000,
  expect: { timeout: 40_000 },
  // The tests share one lab and follow each other as its work does; what only looks at it comes last, two at a time.
  workers: 2,
  projects: [
    { name: "work", testIgnore: /(7-compare|9-access)/, workers: 1, fullyParallel: false },
    { name: "reading", testMatch: /(7-compare|9-access)/, dependencies: ["work"], fullyParallel: true },
  ],
  reporter: [["list"], ["json", { outputFile: ".parvex/test/browser.json" }]],
  use: {
    baseURL: process.env.PARVEX_TEST_ADDRESS ?? "http://127.0.0.1:3000",
    viewport: { width: 1280, height: 800 },
    // Colours are judged as they come to rest, not in the middle of a transition.
    contextOptions: { reducedMotion: "reduce" },
    trace: "off",
    launchOptions: {
      executablePath: "/usr/bin/chromium",
      args: [
        "--no-sandbox",
        "--disable-dev-shm-usage",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
      ],
    },
  },
});
