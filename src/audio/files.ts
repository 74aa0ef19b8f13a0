import * as Comlink from "comlink";
import type { Program } from "@/core/engine/program";
import type { RenderOptions } from "@/core/engine/render";
import type { MidiOpened } from "@/core/format/midi";
import type { BitDepth } from "@/core/format/wav";
import { RemoteWorker } from "./remoteWorker";
import type { FileWorkerApi, RenderedFile } from "./workers/file.worker";
import workerUrl from "./workers/file.worker.ts?bundled";

export interface MidiJob {
  /** Null when it was cancelled. */
  readonly result: Promise<MidiOpened | null>;
  cancel(): void;
}

/** Reads a MIDI file in a worker, so that a large one does not hold up the page. */
export function readMidiFile(bytes: Uint8Array<ArrayBuffer>): MidiJob {
  const worker = new RemoteWorker<FileWorkerApi>(workerUrl);
  let cancelled = false;
  const read = async (): Promise<MidiOpened | null> => {
    try {
      return await worker.call<MidiOpened>(async (remote) => remote.readMidi(Comlink.transfer(bytes, [bytes.buffer])));
    } catch (error) {
      if (cancelled) return null;
      throw error;
    } finally {
      worker.dispose(new Error("done"));
    }
  };
  const result = read();
  return {
    result,
    cancel: () => {
      cancelled = true;
      worker.dispose(new Error("cancelled"));
    },
  };
}

export interface RenderJob {
  /** Null when it was cancelled. */
  readonly result: Promise<RenderedFile | null>;
  cancel(): void;
}

/** Renders a program to a WAV file in a worker. */
export function renderFile(
  program: Program,
  options: Omit<RenderOptions, "listener">,
  bitDepth: BitDepth,
  onProgress: (fraction: number) => void,
): RenderJob {
  const worker = new RemoteWorker<FileWorkerApi>(workerUrl);
  const result = worker
    .call((remote) => remote.render(program, options, bitDepth, Comlink.proxy(onProgress)))
    .finally(() => worker.dispose(new Error("done")));
  return { result, cancel: () => worker.tell((remote) => remote.cancel()) };
}
