// The server renders in threads of their own: their script, with everything that it needs, goes beside the build.
import path from "node:path";
import { build } from "esbuild";
import { root } from "./run.mjs";

export const buildRenderWorker = () =>
  build({
    entryPoints: [path.join(root, "src", "server", "render.worker.ts")],
    bundle: true,
    platform: "node",
    format: "esm",
    target: "node20",
    outfile: path.join(root, ".next", "renderWorker.mjs"),
    logLevel: "warning",
  });
