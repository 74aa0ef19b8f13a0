// Tries the properties of random projects for long: before a release. npm run soak [-- --times 40]
import { bin, ensurePackages, run } from "./run.mjs";

ensurePackages();
const at = process.argv.indexOf("--times");
const times = at === -1 ? 40 : Number(process.argv[at + 1]);
const files = ["src/core/engine/engine.test.ts", "src/core/patch/patch.test.ts"];
const options = ["--testTimeout=1800000", "-t", "properties|read back as it was"];
process.exit(run(bin("vitest"), ["run", ...files, ...options], { CLOVIK_RUNS: String(times) }));
