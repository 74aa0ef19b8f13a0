import * as Comlink from "comlink";
import type { Program } from "@/core/engine/program";
import { renderProgram, type RenderOptions, type RenderSummary } from "@/core/engine/render";
import { readMidi, type MidiOpened } from "@/core/format/midi";
import { WavWriter, type BitDepth } from "@/core/format/wav";

export interface RenderedFile extends RenderSummary {
  readonly file: Blob;
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
  readMidi(bytes: Uint8Array): MidiOpened {
    return readMidi(bytes);
  },

  /** Null when it was cancelled. The file is put together from pieces that the browser may keep on disk. */
  async render(
    program: Program,
    options: Omit<RenderOptions, "listener">,
    bitDepth: BitDepth,
    onProgress: (fraction: number) => void,
  ): Promise<RenderedFile | null> {
    order.cancelled = false;
    const steps = renderProgram(program, options);
    const writer = new WavWriter(2, { sampleRate: options.sampleRate, bitDepth });
    const parts: { at: number; blob: Blob }[] = [];
    let since = Date.now();
    for (;;) {
      const step = steps.next();
      if (step.done) {
        const loop = options.tail === "wrap" ? { loopFrames: step.value.barFrames } : {};
        const { head, foot } = writer.around(step.value.frames, loop);
        parts.sort((a, b) => a.at - b.at);
        return { ...step.value, file: new Blob([head, ...parts.map((p) => p.blob), foot], { type: "audio/wav" }) };
      }
      const { at, left, right, progress } = step.value;
      if (left.length > 0) parts.push({ at, blob: new Blob([writer.frames([left, right], at)]) });
      if (Date.now() - since < SLICE_MS) continue;
      onProgress(progress);
      await breathe();
      if (isCancelled()) return null;
      since = Date.now();
    }
  },

  cancel(): void {
    order.cancelled = true;
  },
};

export type FileWorkerApi = typeof api;

Comlink.expose(api);
