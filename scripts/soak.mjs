// Long trials before a release: random projects, damaged files, a browser that is killed, playing with edits, two tabs.
// npm run soak [-- --times 40] [--seconds 600]
import { bin, ensureBuild, ensureChromium, ensurePackages, freePort, run } from "./run.mjs";

ensurePackages();
ensureChromium();
ensureBuild();
const option = (name, otherwise) => {
  const at = process.argv.indexOf(`--${name}`);
  return at === -1 ? otherwise : process.argv[at + 1];
};
const times = option("times", "50");
const files = ["engine/engine", "patch/patch", "patch/changeCheck", "format/mutation"].map(
  (f) => `src/core/${f}.test.ts`,
);
const which = "properties|read back as it was|damaged files|agrees with the check|undo of any edits";
const units = run(bin("vitest"), ["run", ...files, "src/state/state.test.ts", "--testTimeout=3600000", "-t", which], {
  CLOVIK_RUNS: times,
});
const journeys = run(bin("playwright"), ["test", "tests/e2e/soak.spec.ts", "--reporter=list"], {
  CLOVIK_SOAK: "1",
  CLOVIK_SOAK_SECONDS: option("seconds", "600"),
  CLOVIK_PORT: String(await freePort()),
});
process.exit(units || journeys);
