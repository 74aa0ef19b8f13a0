import path from "node:path";
import { defineConfig } from "vitest/config";

// The sources, or what scripts/unit.mjs made of them: that is loaded by Node alone.
const bundled = process.env["CLOVIK_BUNDLED"] === "1";

export default defineConfig({
  resolve: { alias: { "@": path.resolve("src") } },
  test: {
    include: [bundled ? ".cache/unit/**/*.test.ts.mjs" : "src/**/*.test.ts"],
    testTimeout: 60_000,
    // Two cores are the least a machine has; and files may share what was loaded: no test leaves anything in a module.
    maxWorkers: 2,
    isolate: false,
    // Each of the two has a core: what the collector does beside it on other threads is taken from the other.
    execArgv: ["--single-threaded-gc", "--max-semi-space-size=64"],
    experimental: { viteModuleRunner: !bundled, nodeLoader: !bundled },
  },
});
