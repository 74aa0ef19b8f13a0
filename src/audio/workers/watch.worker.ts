import * as Comlink from "comlink";
import { withChanges, type Change } from "@/core/engine/changes";
import type { Program } from "@/core/engine/program";
import { watchLoop, type Watch, type Watched } from "@/core/engine/watch";

/** The program that the page is at; it sends what changes. */
let watchedProgram: Program | null = null;

const api = {
  /** Brings the program up to date and watches one pass of it. */
  watch(changes: readonly Change[], sampleRate: number, watched: readonly Watched[], columns: number): Watch {
    watchedProgram = withChanges(watchedProgram, changes);
    const watch = watchLoop(watchedProgram, sampleRate, watched, columns);
    return Comlink.transfer(watch, [watch.values.buffer]);
  },
};

export type WatchWorkerApi = typeof api;

Comlink.expose(api);
