// Unit tests from a bundle: they start without a transform of each file, and the engine in them runs faster than
// from modules that vitest links. `npx vitest` watches the sources themselves.
// npm run unit [-- src/core/engine ...] [-t "part of a name"]
import { mkdirSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { build } from "esbuild";
import { bin, root, run } from "./run.mjs";

const outdir = path.join(root, ".cache", "unit");
rmSync(outdir, { recursive: true, force: true });
const filesIn = (dir) =>
  readdirSync(path.join(root, dir), { recursive: true })
    .filter((file) => file.endsWith(".ts") && !file.endsWith(".d.ts"))
    .map((file) => path.join(dir, file));
const isTest = (file) => file.endsWith(".test.ts");
// What most tests use is one chunk if each of them takes all of it: a hundred small ones take longer to find than to run.
const isCommon = (file) => !isTest(file) && (!file.includes("/simd/") || file.endsWith("kernels.generated.ts"));
const common = path.join(outdir, "common.js");
mkdirSync(outdir, { recursive: true });
writeFileSync(
  common,
  [...filesIn("src/core"), ...filesIn("tests/support")]
    .filter(isCommon)
    .map((file) => `import ${JSON.stringify(path.join(root, file))};\n`)
    .join(""),
);
await build({
  entryPoints: filesIn("src").filter(isTest),
  absWorkingDir: root,
  outbase: ".",
  outdir,
  inject: [common],
  // A part of a test's path finds it, as it does among the sources.
  outExtension: { ".js": ".ts.mjs" },
  chunkNames: "shared/[hash]",
  bundle: true,
  splitting: true,
  format: "esm",
  platform: "node",
  target: "node20",
  // What tests and their runner share; the rest is found sooner in the bundle.
  external: ["vitest"],
  banner: { js: 'import { createRequire } from "node:module"; const require = createRequire(import.meta.url);' },
  // Inlines constants.
  minifySyntax: true,
  sourcemap: true,
  logLevel: "warning",
});
process.exit(run(bin("vitest"), ["run", ...process.argv.slice(2)], { CLOVIK_BUNDLED: "1" }));
