// Scripts of other threads (worklet, workers): `import url from "./processor.ts?bundled"` gives the address of one. Each is
// bundled with everything it imports into one file, with constants inlined and modules joined: the engine runs several
// times faster so than in separate modules. Every input is watched, so that an edit in src/core reaches the thread on the
// next page load in development.
import path from "node:path";
import { build } from "esbuild";
import { root } from "./run.mjs";

const MARK = "?bundled";

async function bundle(file, minify) {
  const result = await build({
    entryPoints: [file],
    bundle: true,
    write: false,
    format: "esm",
    target: "es2022",
    minify,
    // Inlines constants: as variables of the bundle they would slow the engine.
    minifySyntax: true,
    metafile: true,
    absWorkingDir: root,
  });
  return { code: result.outputFiles[0].text, inputs: Object.keys(result.metafile.inputs) };
}

/** Vite's plug-in for them. */
export function threads() {
  let building = false;
  return {
    name: "clovik-threads",
    enforce: "pre",
    configResolved(config) {
      building = config.command === "build";
    },
    async resolveId(source, importer) {
      if (!source.endsWith(MARK)) return null;
      const found = await this.resolve(source.slice(0, -MARK.length), importer, { skipSelf: true });
      return found && `\0${found.id}${MARK}`;
    },
    async load(id) {
      if (!id.startsWith("\0") || !id.endsWith(MARK)) return null;
      const file = id.slice(1, -MARK.length);
      const { code, inputs } = await bundle(file, building);
      for (const input of inputs) this.addWatchFile(path.resolve(root, input));
      if (building) {
        const name = path.basename(file).replace(/\.ts$/, ".js");
        return `export default import.meta.ROLLUP_FILE_URL_${this.emitFile({ type: "asset", name, source: code })};`;
      }
      return `export default URL.createObjectURL(new Blob([${JSON.stringify(code)}], { type: "text/javascript" }));`;
    },
  };
}
