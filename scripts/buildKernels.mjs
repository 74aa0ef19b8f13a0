// Compiles the SIMD kernels (AssemblyScript) to WebAssembly and writes it in base64 as a module that every thread
// can import: a worklet can fetch nothing. Runs after every install and before every build.
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import asc from "assemblyscript/asc";
import { root } from "./run.mjs";

const source = "src/core/dsp/simd/kernels.ts";
const binary = ".cache/kernels.wasm";
const target = path.join(root, "src/core/dsp/simd/kernels.generated.ts");
/** 64 KiB pages of an engine's heap, 256 MB: what is not touched takes no memory. */
const PAGES = "4096";

mkdirSync(path.join(root, ".cache"), { recursive: true });
const { error, stderr } = await asc.main(
  [
    source,
    "-O3",
    "--noAssert",
    "--debug",
    "--runtime",
    "stub",
    "--enable",
    "simd",
    "--importMemory",
    "--initialMemory",
    PAGES,
    "--maximumMemory",
    PAGES,
    "--outFile",
    binary,
    "--baseDir",
    root,
  ],
  {},
);
if (error) {
  console.error(stderr.toString());
  process.exit(1);
}
const text = `// Made by scripts/buildKernels.mjs from ${source}. Do not edit.
export const KERNEL_PAGES = ${PAGES};
export const KERNELS = "${readFileSync(path.join(root, binary)).toString("base64")}";
`;
let before = "";
try {
  before = readFileSync(target, "utf8");
} catch {
  // The first time.
}
// An unchanged file keeps its date, so that it does not call for a new build.
if (before !== text) writeFileSync(target, text);
