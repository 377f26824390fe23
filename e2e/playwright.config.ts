import { defineConfig } from "@playwright/test";
import { DEMO, DEMOS } from "./tests/servers";

export default defineConfig({
  testDir: "tests",
  workers: DEMOS.length,
  // A machine that is busy with something else is slow, not wrong.
  timeout: 150_000,
  expect: { timeout: 20_000 },
  // What fails twice is wrong; what fails once is told as flaky at the end, to be looked into.
  retries: 1,
  reporter: [["list"]],
  use: {
    baseURL: DEMO,
    viewport: { width: 1280, height: 800 },
    // The tests begin in Lamp, the theme of a dark system.
    colorScheme: "dark",
    trace: "off",
    launchOptions: {
      executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
      args: [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
      ],
    },
  },
});
