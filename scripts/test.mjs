// One command for every check, on a fresh machine too: installs what is missing, then lint, types, unit tests, build
// and end-to-end tests. The last line sums unit and end-to-end tests.
import { mkdirSync, readFileSync, rmSync } from "node:fs";
import path from "node:path";
import { bin, ensureBuild, ensurePackages, freePort, root, run, runBeside } from "./run.mjs";

// What Debian has is fetched while npm fetches what it has.
const programs = runBeside(process.execPath, [path.join(root, "scripts", "programs.mjs")]);
ensurePackages();

const results = path.join(root, ".cache", "results");
rmSync(results, { recursive: true, force: true });
mkdirSync(results, { recursive: true });
const unitFile = path.join(results, "unit.json");
const e2eFile = path.join(results, "e2e.json");

const read = (file) => {
  try {
    return JSON.parse(readFileSync(file, "utf8"));
  } catch {
    return null;
  }
};

let stepsFailed = 0;
const step = (name, code) => {
  console.log(`${code === 0 ? "ok" : "FAILED"}: ${name}`);
  if (code !== 0) stepsFailed++;
};

// The linter works on one core and takes long: the other one is not idle meanwhile. Browsers in which sound runs have both.
const lint = runBeside("npm", ["run", "--silent", "lint:code"]);
step("types", run("npm", ["run", "--silent", "types"]));
if ((await programs) !== 0) process.exit(1);
step(
  "unit tests",
  run(process.execPath, ["scripts/unit.mjs", "--reporter=default", "--reporter=json", `--outputFile.json=${unitFile}`]),
);
ensureBuild();
step("formatting", run("npm", ["run", "--silent", "lint:format"]));
step("lint", await lint);
step(
  "end-to-end tests",
  run(bin("playwright"), ["test"], { PLAYWRIGHT_JSON_OUTPUT_NAME: e2eFile, CLOVIK_PORT: String(await freePort()) }),
);

const unit = read(unitFile);
const e2e = read(e2eFile)?.stats;
const passed = (unit?.numPassedTests ?? 0) + (e2e?.expected ?? 0);
const failedTests = (unit?.numFailedTests ?? 0) + (e2e?.unexpected ?? 0) + (e2e?.flaky ?? 0);
// A step that fails without a failed test (lint, types, a crash) counts as one failure.
const failed = Math.max(failedTests, stepsFailed);
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 && passed > 0 ? 0 : 1);
