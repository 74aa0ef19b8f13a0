import { rmSync } from "node:fs";
import path from "node:path";
import { bin, root, run } from "./run.mjs";

// Types of routes from an earlier development run can break a build after a route is removed.
rmSync(path.join(root, ".next", "dev"), { recursive: true, force: true });
process.exit(run(bin("next"), ["build"]));
