// Scripts of other threads (worklet, workers). `import url from "./processor.ts?bundled"` gives the address of one that is
// bundled with everything it imports into one file, with constants inlined and modules joined: the engine runs several
// times faster so than in separate modules. `?sharing` gives that of a worker which takes the modules that the page has, too,
// from the page's files: they are loaded once. In development both are bundled, and every input is watched, so that an edit in
// src/core reaches the thread on the next page load.
import path from "node:path";
import { build } from "esbuild";
import { root } from "./run.mjs";

const BUNDLED = "?bundled";
const SHARING = "?sharing";
const markOf = (id) => [BUNDLED, SHARING].find((mark) => id.endsWith(mark));

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

/** The workers that share modules with the page. */
const sharing = new Set();

/** The modules that such a worker needs. */
function modulesOf(file, graph) {
  const found = new Set();
  const left = [file];
  while (left.length > 0) {
    const id = left.pop();
    if (found.has(id)) continue;
    found.add(id);
    left.push(...(graph.getModuleInfo(id)?.importedIds ?? []));
  }
  return found;
}

/**
 * How the page's modules are put together: what many of its parts need comes in one file rather than in thirty small ones, and
 * what workers need in one of their own, so that they load nothing else of the page.
 */
export function grouping() {
  let shared = null;
  const isShared = (id, graph) => {
    shared ??= new Set([...sharing].flatMap((file) => [...modulesOf(file, graph)]));
    return shared.has(id);
  };
  return {
    groups: [
      { debugName: "shared", name: (id, graph) => (isShared(id, graph) ? "shared" : null), priority: 2 },
      { name: "base", priority: 1, minShareCount: 8 },
    ],
  };
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
      const mark = markOf(source);
      if (!mark) return null;
      const found = await this.resolve(source.slice(0, -mark.length), importer, { skipSelf: true });
      return found && `\0${found.id}${mark}`;
    },
    async load(id) {
      const mark = id.startsWith("\0") && markOf(id);
      if (!mark) return null;
      const file = id.slice(1, -mark.length);
      const address = (ref) => `export default import.meta.ROLLUP_FILE_URL_${ref};`;
      if (building && mark === SHARING) {
        sharing.add(file);
        return address(this.emitFile({ type: "chunk", id: file, name: path.basename(file, ".ts") }));
      }
      const { code, inputs } = await bundle(file, building);
      for (const input of inputs) this.addWatchFile(path.resolve(root, input));
      if (building) {
        const name = path.basename(file).replace(/\.ts$/, ".js");
        return address(this.emitFile({ type: "asset", name, source: code }));
      }
      return `export default URL.createObjectURL(new Blob([${JSON.stringify(code)}], { type: "text/javascript" }));`;
    },
  };
}
