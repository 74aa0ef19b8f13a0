// Long trials before a release: random projects, damaged files, a browser that is killed, playing with edits, two tabs,
// sounds and motion built by hand.
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
const unit = (files, which, timeoutMs, env = {}) =>
  run(
    process.execPath,
    ["scripts/unit.mjs", ...files.map((f) => `src/${f}.test.ts`), `--testTimeout=${timeoutMs}`, "-t", which],
    {
      CLOVIK_RUNS: times,
      ...env,
    },
  );
const properties = unit(
  [
    "core/engine/engine",
    "core/patch/files",
    "core/patch/changeCheck",
    "core/curve/transform",
    "core/measure/onsets",
    "core/pattern/arpeggio",
    "core/pattern/gate",
    "core/pattern/oneNote",
    "core/pattern/pattern",
    "state/edits",
    "state/state",
  ],
  "properties|read back as it was|agrees with the check|undo of any edits|[Ww]hatever|frozen to notes|lie in the loop|whose times are moved|joins its own start|clicks, at any place|what they do not touch|nothing else goes",
  3_600_000,
);
// Damaged files have bounds: this much memory for all of them, and for 5000 of a kind 100 s.
const damaged = unit(["core/format/mutation"], "damaged files", 2000 * Number(times), {
  NODE_OPTIONS: "--max-old-space-size=300",
});
const trials = ["soak", "jobs", "byHandSounds", "byHandMotion", "byHandSequences"].map(
  (name) => `tests/e2e/${name}.spec.ts`,
);
const journeys = run(bin("playwright"), ["test", ...trials, "--reporter=list"], {
  CLOVIK_SOAK: "1",
  CLOVIK_SOAK_SECONDS: option("seconds", "600"),
  CLOVIK_PORT: String(await freePort()),
});
process.exit(properties || damaged || journeys);
