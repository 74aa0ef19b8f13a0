import path from "node:path";
import tailwind from "@tailwindcss/postcss";
import { defineConfig } from "vite";
import { root } from "./scripts/run.mjs";
import { grouping, threads } from "./scripts/threads.mjs";
import { GUARDS } from "./src/server/guards.mjs";

/** The page: what the browser is given. The server (Next.js, src/app) answers with it. */
export default defineConfig({
  root: path.join(root, "src", "page"),
  resolve: { alias: { "@": path.join(root, "src") } },
  css: { postcss: { plugins: [tailwind()] } },
  plugins: [threads()],
  server: { headers: Object.fromEntries(GUARDS.map(({ key, value }) => [key, value])) },
  build: {
    outDir: path.join(root, "public"),
    emptyOutDir: true,
    target: "es2022",
    manifest: "made.json",
    assetsInlineLimit: 0,
    // Every browser that has what the sound needs loads modules ahead by itself.
    modulePreload: { polyfill: false },
    reportCompressedSize: false,
    rolldownOptions: {
      output: { codeSplitting: grouping() },
      onLog(level, log, tell) {
        // Marks of packages for servers that render: this page is made in the browser alone.
        if (log.code !== "MODULE_LEVEL_DIRECTIVE") tell(level, log);
      },
    },
  },
});
