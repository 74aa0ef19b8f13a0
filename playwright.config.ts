import { defineConfig } from "@playwright/test";
import { launchOptions } from "./scripts/browser.mjs";

const port = Number(process.env["CLOVIK_PORT"] ?? 4399);

export default defineConfig({
  testDir: "tests/e2e",
  workers: 1,
  retries: 0,
  timeout: 60_000,
  expect: { timeout: 10_000 },
  reporter: [["list"], ["json"]],
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    launchOptions,
  },
  webServer: {
    command: `node scripts/serve.mjs ${port}`,
    url: `http://127.0.0.1:${port}`,
    env: { NEXT_TELEMETRY_DISABLED: "1" },
    reuseExistingServer: false,
    gracefulShutdown: { signal: "SIGTERM", timeout: 5000 },
  },
});
