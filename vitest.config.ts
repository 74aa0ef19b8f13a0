import path from "node:path";
import { defineConfig } from "vitest/config";

export default defineConfig({
  resolve: { alias: { "@": path.resolve("src") } },
  test: { include: ["src/**/*.test.ts", "tests/reference/**/*.test.ts"], testTimeout: 30_000 },
});
