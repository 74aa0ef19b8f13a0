import * as Comlink from "comlink";
import { heardLoop, type Heard } from "@/core/engine/heard";
import type { Program } from "@/core/engine/program";
import { renderProgram, type RenderOptions } from "@/core/engine/render";
import { writeWav, type BitDepth } from "@/core/format/wav";

export interface RenderedFile {
  readonly file: Uint8Array<ArrayBuffer>;
  readonly frames: number;
  readonly peakDb: number;
  readonly limited: boolean;
}

/** A render gives way to messages (a cancel among them) this often. */
const SLICE_MS = 60;

const breathe = (): Promise<void> =>
  new Promise((resolve) => {
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = () => resolve();
    port2.postMessage(null);
  });

/** Set by `cancel`, which arrives while a render breathes. */
const order = { cancelled: false };
const isCancelled = (): boolean => order.cancelled;

const api = {
  heard(program: Program, sampleRate: number): Heard {
    const heard = heardLoop(program, sampleRate);
    const buffers = [
      ...heard.notes.map((n) => n.rows.buffer),
      ...heard.shared.flat().flatMap((s) => (s ? [s.buffer] : [])),
    ];
    return Comlink.transfer(heard, buffers);
  },

  /** Null when it was cancelled. */
  async render(
    program: Program,
    options: Omit<RenderOptions, "recorder">,
    bitDepth: BitDepth,
    onProgress: (fraction: number) => void,
  ): Promise<RenderedFile | null> {
    order.cancelled = false;
    const steps = renderProgram(program, options);
    let since = Date.now();
    for (;;) {
      const step = steps.next();
      if (step.done) {
        const { left, right, barFrames, peakDb, limited } = step.value;
        const loopFrames = options.tail === "wrap" ? { loopFrames: barFrames } : {};
        const file = writeWav([left, right], { sampleRate: options.sampleRate, bitDepth, ...loopFrames });
        return Comlink.transfer({ file, frames: left.length, peakDb, limited }, [file.buffer]);
      }
      if (Date.now() - since < SLICE_MS) continue;
      onProgress(step.value);
      await breathe();
      if (isCancelled()) return null;
      since = Date.now();
    }
  },

  cancel(): void {
    order.cancelled = true;
  },
};

export type EngineWorkerApi = typeof api;

Comlink.expose(api);
