import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: ".",
  outputDir: "./test-results",
  timeout: 900_000,
  // a machine that stands still for seconds fails what it never fails otherwise; what passes at the second time is named as flaky
  retries: process.env.CI ? 1 : 0,
  expect: { timeout: 60_000 },
  fullyParallel: false,
  workers: 2,
  reporter: [["list"]],
  use: {
    actionTimeout: 60_000,
    navigationTimeout: 120_000,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: process.env.ODDTICK_CHROMIUM ?? "/usr/bin/chromium",
      args: ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update", "--disable-sync", "--no-first-run"],
    },
  },
});
