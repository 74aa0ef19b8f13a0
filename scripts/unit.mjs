// Unit tests from a bundle: they start without a transform of each file, and the engine in them runs faster than
// from modules that vitest links. `npx vitest` watches the sources themselves.
// npm run unit [-- src/core/engine ...] [-t "part of a name"]
import { readdirSync, rmSync } from "node:fs";
import path from "node:path";
import { build } from "esbuild";
import { bin, root, run } from "./run.mjs";

const outdir = path.join(root, ".cache", "unit");
rmSync(outdir, { recursive: true, force: true });
await build({
  entryPoints: readdirSync(path.join(root, "src"), { recursive: true })
    .filter((file) => file.endsWith(".test.ts"))
    .map((file) => path.join("src", file)),
  absWorkingDir: root,
  outbase: ".",
  outdir,
  // A part of a test's path finds it, as it does among the sources.
  outExtension: { ".js": ".ts.mjs" },
  chunkNames: "shared/[hash]",
  bundle: true,
  splitting: true,
  format: "esm",
  platform: "node",
  target: "node20",
  packages: "external",
  // Inlines constants.
  minifySyntax: true,
  sourcemap: true,
  logLevel: "warning",
});
process.exit(run(bin("vitest"), ["run", ...process.argv.slice(2)], { CLOVIK_BUNDLED: "1" }));
