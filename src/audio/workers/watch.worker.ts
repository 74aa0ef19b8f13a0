import * as Comlink from "comlink";
import { withChanges, type Change } from "@/core/engine/changes";
import type { Program } from "@/core/engine/program";
import { watchLoop, type Watched } from "@/core/engine/watch";
import { packWatch, type PackedWatch } from "@/core/engine/watchPack";

/** The program that the page is at; it sends what changes. */
let watchedProgram: Program | null = null;

const api = {
  /** Brings the program up to date and watches one pass of it. */
  watch(changes: readonly Change[], sampleRate: number, watched: readonly Watched[], columns: number): PackedWatch {
    watchedProgram = withChanges(watchedProgram, changes);
    const watch = packWatch(watchLoop(watchedProgram, sampleRate, watched, columns));
    return Comlink.transfer(watch, [watch.values.buffer, watch.packed.buffer]);
  },
};

export type WatchWorkerApi = typeof api;

Comlink.expose(api);
