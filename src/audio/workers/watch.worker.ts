import * as Comlink from "comlink";
import { withChanges, type Change } from "@/core/engine/changes";
import type { Program } from "@/core/engine/program";
import { watchLoop, type Watch, type Watched } from "@/core/engine/watch";
import { packWatch, type PackedWatch } from "@/core/engine/watchPack";

/** The program that the page is at; it sends what changes. */
let watchedProgram: Program | null = null;

/**
 * Scripts become quick as they run: the first curves of a page take four times as long as later ones. So what was asked
 * for first is worked out so many times more while nothing else is to be done, and what hands change is then drawn soon.
 */
const WARM_RUNS = 16;
/** Each in a task of its own, after a pause in which the page may ask for something. */
const WARM_PAUSE_MS = 100;
/** What takes longer than this has become quick by itself, and would keep an edit waiting. */
const WARM_MOST_MS = 100;
let warmLeft = WARM_RUNS;
let warming: ReturnType<typeof setTimeout> | undefined;

function warmSoon(watch: () => Watch): void {
  clearTimeout(warming);
  if (warmLeft === 0) return;
  warming = setTimeout(() => {
    warmLeft--;
    const began = performance.now();
    watch();
    if (performance.now() - began > WARM_MOST_MS && warmLeft < WARM_RUNS - 1) warmLeft = 0;
    warmSoon(watch);
  }, WARM_PAUSE_MS);
}

const api = {
  /** Brings the program up to date and watches one pass of it. */
  watch(changes: readonly Change[], sampleRate: number, watched: readonly Watched[], columns: number): PackedWatch {
    const program = withChanges(watchedProgram, changes);
    watchedProgram = program;
    const once = (): Watch => watchLoop(program, sampleRate, watched, columns);
    const watch = packWatch(once());
    warmSoon(once);
    return Comlink.transfer(watch, [watch.values.buffer, watch.packed.buffer]);
  },
};

export type WatchWorkerApi = typeof api;

Comlink.expose(api);
