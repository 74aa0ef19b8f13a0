import * as Comlink from "comlink";
import { changesBetween } from "@/core/engine/changes";
import type { Program } from "@/core/engine/program";
import type { RenderOptions } from "@/core/engine/render";
import type { Watch, Watched } from "@/core/engine/watch";
import type { MidiOpened } from "@/core/format/midi";
import type { BitDepth } from "@/core/format/wav";
import type { EngineWorkerApi, RenderedFile } from "./workers/engine.worker";
import workerUrl from "./workers/engine.worker.ts?bundled";

/** The engine in a worker of its own. When the worker dies, everything that waits on it is rejected, and the next call starts a new one. */
class EngineWorker {
  private remote: Comlink.Remote<EngineWorkerApi> | null = null;
  private worker: Worker | null = null;
  private readonly waiting = new Set<(error: Error) => void>();

  private connect(): Comlink.Remote<EngineWorkerApi> {
    if (this.remote) return this.remote;
    const worker = new Worker(workerUrl, { type: "module" });
    const died = (): void => this.dispose(new Error("the background engine stopped unexpectedly"));
    worker.addEventListener("error", died);
    worker.addEventListener("messageerror", died);
    this.worker = worker;
    this.remote = Comlink.wrap<EngineWorkerApi>(worker);
    return this.remote;
  }

  call<T>(run: (remote: Comlink.Remote<EngineWorkerApi>) => Promise<T>): Promise<T> {
    return new Promise<T>((resolve, reject) => {
      this.waiting.add(reject);
      run(this.connect())
        .then(resolve, reject)
        .finally(() => this.waiting.delete(reject));
    });
  }

  cancel(): void {
    void this.remote?.cancel();
  }

  dispose(reason: Error): void {
    this.worker?.terminate();
    this.worker = null;
    this.remote = null;
    this.waiting.forEach((reject) => reject(reason));
    this.waiting.clear();
  }
}

/** What is to be watched of a program. */
export interface WatchRequest {
  readonly program: Program;
  readonly sampleRate: number;
  readonly watched: readonly Watched[];
  readonly columns: number;
}

/**
 * As-heard curves, newest program first: while one is being worked out, only the last request waits. The worker is sent
 * what changed since it was last asked.
 */
export class WatchService {
  private readonly worker = new EngineWorker();
  private busy = false;
  private next: WatchRequest | null = null;
  /** What the worker has. */
  private sent: Program | null = null;

  constructor(
    private readonly onWatch: (watch: Watch, program: Program) => void,
    private readonly onError: (error: Error) => void,
  ) {}

  request(request: WatchRequest): void {
    this.next = request;
    if (!this.busy) void this.run();
  }

  private async run(): Promise<void> {
    this.busy = true;
    while (this.next) {
      const { program, sampleRate, watched, columns } = this.next;
      this.next = null;
      const changes = changesBetween(this.sent, program);
      this.sent = program;
      try {
        const watch = await this.worker.call((remote) => remote.watch(changes, sampleRate, watched, columns));
        this.onWatch(watch, program);
      } catch (error) {
        // A new worker starts with nothing.
        this.sent = null;
        this.worker.dispose(error as Error);
        this.onError(error as Error);
      }
    }
    this.busy = false;
  }

  dispose(): void {
    this.worker.dispose(new Error("closed"));
  }
}

export interface MidiJob {
  /** Null when it was cancelled. */
  readonly result: Promise<MidiOpened | null>;
  cancel(): void;
}

/** Reads a MIDI file in a worker, so that a large one does not hold up the page. */
export function readMidiFile(bytes: Uint8Array<ArrayBuffer>): MidiJob {
  const worker = new EngineWorker();
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
  const worker = new EngineWorker();
  const result = worker
    .call((remote) => remote.render(program, options, bitDepth, Comlink.proxy(onProgress)))
    .finally(() => worker.dispose(new Error("done")));
  return { result, cancel: () => worker.cancel() };
}
