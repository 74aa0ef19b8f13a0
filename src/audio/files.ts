import * as Comlink from "comlink";
import type { Program } from "@/core/engine/program";
import type { RenderOptions } from "@/core/engine/render";
import type { MidiOpened } from "@/core/format/midi";
import type { BitDepth } from "@/core/format/wav";
import type { Recording } from "@/core/format/wavRead";
import { RemoteWorker } from "./remoteWorker";
import type { FileWorkerApi, Heard, RenderedFile } from "./workers/file.worker";
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

export interface ListenJob {
  /** Null when it was cancelled. */
  readonly result: Promise<Heard | null>;
  cancel(): void;
}

const LISTEN_RATE = 44_100;
/** Longer recordings are no loops. */
const LONGEST_SEC = 300;

/** Listens to a recording of any format that the browser decodes, in a worker: what begins in it and how loud it is. */
export function listenTo(file: File, onProgress: (fraction: number) => void): ListenJob {
  const worker = new RemoteWorker<FileWorkerApi>(workerUrl);
  const order = { cancelled: false };
  const isCancelled = (): boolean => order.cancelled;
  const run = async (): Promise<Heard | null> => {
    try {
      const context = new OfflineAudioContext(1, 1, LISTEN_RATE);
      const decoded = await context.decodeAudioData(await file.arrayBuffer()).catch(() => {
        throw new Error("the browser does not know its format, or it is damaged");
      });
      if (isCancelled()) return null;
      if (decoded.duration > LONGEST_SEC) throw new Error("it is longer than five minutes");
      const side = new Float32Array(decoded.length);
      for (let c = 0; c < decoded.numberOfChannels; c++)
        decoded.getChannelData(c).forEach((v, i) => (side[i] = side[i]! + v / decoded.numberOfChannels));
      return await worker.call<Heard>((remote) =>
        remote.listen(Comlink.transfer(side, [side.buffer]), decoded.sampleRate, Comlink.proxy(onProgress)),
      );
    } catch (error) {
      if (isCancelled()) return null;
      throw error;
    } finally {
      worker.dispose(new Error("done"));
    }
  };
  const result = run();
  return {
    result,
    cancel: () => {
      order.cancelled = true;
      worker.dispose(new Error("cancelled"));
    },
  };
}

/** A recording that is to be a source: its sound, and the file that it is kept as. */
export interface TakenRecording {
  readonly recording: Recording;
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly hash: string;
}

/** Longest recording that plays as a source, in seconds. */
const LONGEST_SOURCE_SEC = 60;
/** No minute of sound has more bytes. */
const LARGEST_SOURCE = 100_000_000;

/**
 * Reads a sound file of any format that the browser decodes, in a worker: its first two channels, WAV files as they are and
 * others at 48 kHz. Rejects with words for people.
 */
export async function takeRecording(file: File): Promise<TakenRecording> {
  if (file.size > LARGEST_SOURCE) throw new Error(`it is larger than ${LARGEST_SOURCE / 1e6} MB`);
  const worker = new RemoteWorker<FileWorkerApi>(workerUrl);
  try {
    const bytes = new Uint8Array(await file.arrayBuffer());
    const read = (await worker.call<Recording | null>((remote) => remote.readWav(bytes))) ?? (await decoded(bytes));
    const recording = { ...read, channels: read.channels.slice(0, 2) };
    const seconds = (recording.channels[0]?.length ?? 0) / recording.sampleRate;
    if (seconds > LONGEST_SOURCE_SEC)
      throw new Error(`it lasts ${seconds.toFixed(1)} s, and a source plays ${LONGEST_SOURCE_SEC} s at the most`);
    const kept = await worker.call<{ bytes: Uint8Array<ArrayBuffer>; hash: string }>((remote) =>
      remote.keep(recording),
    );
    return { recording, ...kept };
  } finally {
    worker.dispose(new Error("done"));
  }
}

/** Lets the browser decode what is no WAV file. */
async function decoded(bytes: Uint8Array<ArrayBuffer>): Promise<Recording> {
  const context = new OfflineAudioContext(1, 1, 48_000);
  const sound = await context.decodeAudioData(bytes.buffer).catch(() => {
    throw new Error("the browser does not know its format, or it is damaged");
  });
  const channels = Array.from({ length: sound.numberOfChannels }, (_, c) => new Float32Array(sound.getChannelData(c)));
  return { sampleRate: sound.sampleRate, channels };
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
