// For those who change it: the page from Vite, which brings edits to it, and the server's answers from Next.js beside it.
import { spawn } from "node:child_process";
import { bin, ensurePackages, env, freePort, root } from "./run.mjs";

ensurePackages();
const { createServer } = await import("vite");
const { buildRenderWorker } = await import("./buildRenderWorker.mjs");
await buildRenderWorker();
const port = await freePort(4000);
const behind = await freePort();
const server = spawn(bin("next"), ["dev", "-H", "127.0.0.1", "-p", String(behind)], {
  cwd: root,
  env,
  stdio: "inherit",
});
const target = `http://127.0.0.1:${behind}`;
const page = await createServer({
  configFile: `${root}/vite.config.mjs`,
  server: { host: "127.0.0.1", port, strictPort: true, proxy: { "/api": target, "/schema": target } },
});
await page.listen();
page.printUrls();
const stop = () => {
  server.kill("SIGTERM");
  void page.close();
};
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, stop);
server.on("exit", (code) => void page.close().then(() => process.exit(code ?? 0)));
