import * as Comlink from "comlink";
import type { Heard } from "@/core/engine/heard";
import type { Program } from "@/core/engine/program";
import type { RenderOptions } from "@/core/engine/render";
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

/** As-heard curves, newest program first: while one is being worked out, only the last request waits. */
export class HeardService {
  private readonly worker = new EngineWorker();
  private busy = false;
  private next: { program: Program; sampleRate: number } | null = null;

  constructor(
    private readonly onHeard: (heard: Heard, program: Program) => void,
    private readonly onError: (error: Error) => void,
  ) {}

  request(program: Program, sampleRate: number): void {
    this.next = { program, sampleRate };
    if (!this.busy) void this.run();
  }

  private async run(): Promise<void> {
    this.busy = true;
    while (this.next) {
      const { program, sampleRate } = this.next;
      this.next = null;
      try {
        this.onHeard(await this.worker.call((remote) => remote.heard(program, sampleRate)), program);
      } catch (error) {
        this.onError(error as Error);
      }
    }
    this.busy = false;
  }

  dispose(): void {
    this.worker.dispose(new Error("closed"));
  }
}

export interface RenderJob {
  /** Null when it was cancelled. */
  readonly result: Promise<RenderedFile | null>;
  cancel(): void;
}

/** Renders a program to a WAV file in a worker. */
export function renderFile(
  program: Program,
  options: Omit<RenderOptions, "recorder">,
  bitDepth: BitDepth,
  onProgress: (fraction: number) => void,
): RenderJob {
  const worker = new EngineWorker();
  const result = worker
    .call((remote) => remote.render(program, options, bitDepth, Comlink.proxy(onProgress)))
    .finally(() => worker.dispose(new Error("done")));
  return { result, cancel: () => worker.cancel() };
}
