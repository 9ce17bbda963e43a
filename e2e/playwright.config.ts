import { defineConfig } from "@playwright/test";

/** Debian's Chromium, quiet. */
export const browser = {
  executablePath: "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update", "--disable-sync"],
};

export default defineConfig({
  testDir: ".",
  globalSetup: "./prepare.ts",
  // What takes so long has hung: a machine three times as slow, and busy, needs a part of it.
  timeout: 600_000,
  expect: { timeout: 120_000 },
  retries: process.env.CI ? 1 : 0,
  workers: 2,
  fullyParallel: true,
  reporter: [["list"], ["json", { outputFile: "../bin/journeys.json" }]],
  use: {
    viewport: { width: 1280, height: 800 },
    contextOptions: { reducedMotion: "reduce" },
    serviceWorkers: "block",
    actionTimeout: 120_000,
    screenshot: "only-on-failure",
    launchOptions: browser,
  },
});
