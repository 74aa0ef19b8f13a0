import * as Comlink from "comlink";
import type { Program } from "@/core/engine/program";
import { renderProgram, type RenderOptions, type RenderSummary } from "@/core/engine/render";
import { findOnsets, levels, type Onset } from "@/core/measure/onsets";
import { readMidi, type MidiOpened } from "@/core/format/midi";
import { sha256 } from "@/core/format/sha256";
import { WavWriter, writeWav, type BitDepth } from "@/core/format/wav";
import { readWav, type Recording } from "@/core/format/wavRead";

export interface RenderedFile extends RenderSummary {
  readonly file: Blob;
}

/** A render gives way to messages (a cancel among them) this often. */
const SLICE_MS = 60;

/** What was heard in a recording. */
export interface Heard {
  readonly onsets: readonly Onset[];
  /** Root mean squares of equal pieces. */
  readonly levels: Float64Array;
  readonly lengthSec: number;
}

const LEVELS = 256;

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

  /** A WAV file's sound; null when it is none: the page may know its format. Rejects when it is one that cannot be read. */
  readWav(bytes: Uint8Array): Recording | null {
    const isWav =
      bytes.length > 12 && String.fromCharCode(...bytes.subarray(0, 4), ...bytes.subarray(8, 12)) === "RIFFWAVE";
    return isWav ? readWav(bytes) : null;
  },

  /** A recording as it is kept: the bytes of a WAV file of 24 bits, or of floats where it goes over full scale, and their hash. */
  keep({ channels, sampleRate }: Recording): { bytes: Uint8Array<ArrayBuffer>; hash: string } {
    const over = channels.some((c) => c.some((x) => Math.abs(x) > 1));
    const bytes = writeWav(channels, { sampleRate, bitDepth: over ? 32 : 24 });
    const kept = { bytes, hash: sha256(bytes) };
    return Comlink.transfer(kept, [bytes.buffer]);
  },

  /** What begins in a recording and how loud it is: one side of it, a quarter of a thousand pieces. */
  listen(side: Float32Array, sampleRate: number, onProgress: (fraction: number) => void): Heard {
    const steps = findOnsets(side, sampleRate);
    let told = 0;
    for (;;) {
      const step = steps.next();
      if (step.done) return { onsets: step.value, levels: levels(side, LEVELS), lengthSec: side.length / sampleRate };
      if (step.value - told < 0.02) continue;
      told = step.value;
      onProgress(told);
    }
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
