import { changesBetween } from "@/core/engine/changes";
import type { Program } from "@/core/engine/program";
import type { Watch, Watched } from "@/core/engine/watch";
import { unpackWatch } from "@/core/engine/watchPack";
import { RemoteWorker } from "./remoteWorker";
import type { WatchWorkerApi } from "./workers/watch.worker";
import workerUrl from "./workers/watch.worker.ts?sharing";

/** What takes longer than this is felt; the next curves then wait, and so long at the most. */
const LONG_MS = 30;
const MOST_WAIT_MS = 400;

const wait = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

/** Settles when what was handed to the page has been drawn, or soon where nothing is drawn because nobody looks. */
const drawn = (): Promise<void> =>
  Promise.race([wait(MOST_WAIT_MS), new Promise<void>((resolve) => requestAnimationFrame(() => setTimeout(resolve)))]);

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
        const asked = performance.now();
        const watch = await this.worker.call((remote) => remote.watch(changes, sampleRate, watched, columns));
        const began = performance.now();
        this.onWatch(unpackWatch(watch), program);
        // Curves that take long to work out or to draw come less often, so that the hand that edits is not held up by them.
        await drawn();
        const took = performance.now() - began;
        const rest = Math.max(2 * took, began - asked);
        if (rest > 2 * LONG_MS) await wait(Math.min(MOST_WAIT_MS, rest));
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
