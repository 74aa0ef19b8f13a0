import { bin, ensurePackages, run } from "./run.mjs";

ensurePackages();
const { buildRenderWorker } = await import("./buildRenderWorker.mjs");
await buildRenderWorker();
process.exit(run(bin("next"), ["dev", "-H", "127.0.0.1", ...process.argv.slice(2)]));
