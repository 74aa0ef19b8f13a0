import { changesBetween } from "@/core/engine/changes";
import type { Program } from "@/core/engine/program";
import type { Watch, Watched } from "@/core/engine/watch";
import { RemoteWorker } from "./remoteWorker";
import type { WatchWorkerApi } from "./workers/watch.worker";
import workerUrl from "./workers/watch.worker.ts?bundled";

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
  private readonly worker = new RemoteWorker<WatchWorkerApi>(workerUrl);
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
