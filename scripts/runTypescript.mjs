// Runs a TypeScript file: bundles it with its imports from src, then starts it with the remaining arguments.
import { mkdirSync } from "node:fs";
import path from "node:path";
import { pathToFileURL } from "node:url";
import { build } from "esbuild";

const [entry, ...args] = process.argv.slice(2);
const outfile = path.resolve(".cache", `${path.basename(entry, ".ts")}.mjs`);
mkdirSync(path.dirname(outfile), { recursive: true });
await build({
  entryPoints: [entry],
  outfile,
  bundle: true,
  platform: "node",
  format: "esm",
  target: "node20",
  packages: "external",
  // Inlines constants: as variables of the bundle they would slow the engine.
  minifySyntax: true,
  logLevel: "warning",
});
process.argv.splice(1, process.argv.length - 1, outfile, ...args);
await import(pathToFileURL(outfile).href);
