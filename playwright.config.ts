import { defineConfig } from "@playwright/test";
import { launchOptions } from "./scripts/browser.mjs";

/** What takes long is tried before a release: npm run soak. */
const LONG = process.env["CLOVIK_SOAK"] === "1";
const port = Number(process.env["CLOVIK_PORT"] ?? 4399);

export default defineConfig({
  testDir: "tests/e2e",
  // Two cores are the least a machine has; each file stays in one of two browsers.
  workers: 2,
  retries: 0,
  timeout: 120_000,
  expect: { timeout: 10_000 },
  reporter: [["list"], ["json"]],
  // What measures how fast the server answers, or which blocks of sound came late, has the machine to itself.
  projects: [
    { name: "together", grepInvert: LONG ? /@alone/ : /@alone|@long/ },
    { name: "alone", grep: /@alone/, ...(LONG ? {} : { grepInvert: /@long/ }), workers: 1, dependencies: ["together"] },
  ],
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    // What a page holds is else counted when the browser next collects garbage, which may take half a minute.
    launchOptions: {
      ...launchOptions,
      args: [...launchOptions.args, "--enable-blink-features=ForceEagerMeasureMemory"],
    },
  },
  webServer: {
    command: `node scripts/serve.mjs ${port}`,
    url: `http://127.0.0.1:${port}`,
    env: { NEXT_TELEMETRY_DISABLED: "1" },
    reuseExistingServer: false,
    gracefulShutdown: { signal: "SIGTERM", timeout: 5000 },
  },
});
