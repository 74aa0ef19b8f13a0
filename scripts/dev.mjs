import { bin, ensurePackages, run } from "./run.mjs";

ensurePackages();
process.exit(run(bin("next"), ["dev", "-H", "127.0.0.1", ...process.argv.slice(2)]));
