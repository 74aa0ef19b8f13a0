import { rmSync } from "node:fs";
import path from "node:path";
import { buildPage } from "./buildPage.mjs";
import { buildRenderWorker } from "./buildRenderWorker.mjs";
import { bin, root, run } from "./run.mjs";

// Types of routes from an earlier development run can break a build after a route is removed.
rmSync(path.join(root, ".next", "dev"), { recursive: true, force: true });
if (run(process.execPath, [path.join(root, "scripts", "buildKernels.mjs")]) !== 0) process.exit(1);
const code = run(bin("next"), ["build"]);
if (code === 0) {
  await buildRenderWorker();
  await buildPage();
}
process.exit(code);
