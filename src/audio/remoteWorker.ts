import * as Comlink from "comlink";

/** A worker of its own. When it dies, everything that waits on it is rejected, and the next call starts a new one. */
export class RemoteWorker<Api> {
  private remote: Comlink.Remote<Api> | null = null;
  private worker: Worker | null = null;
  private readonly waiting = new Set<(error: Error) => void>();

  constructor(private readonly url: string) {}

  private connect(): Comlink.Remote<Api> {
    if (this.remote) return this.remote;
    const worker = new Worker(this.url, { type: "module" });
    const died = (): void => this.dispose(new Error("the background engine stopped unexpectedly"));
    worker.addEventListener("error", died);
    worker.addEventListener("messageerror", died);
    this.worker = worker;
    this.remote = Comlink.wrap<Api>(worker);
    return this.remote;
  }

  call<T>(run: (remote: Comlink.Remote<Api>) => Promise<T>): Promise<T> {
    return new Promise<T>((resolve, reject) => {
      this.waiting.add(reject);
      run(this.connect())
        .then(resolve, reject)
        .finally(() => this.waiting.delete(reject));
    });
  }

  /** Tells a worker that runs something, without waiting; one that does not run is not started for it. */
  tell(run: (remote: Comlink.Remote<Api>) => unknown): void {
    if (this.remote) run(this.remote);
  }

  dispose(reason: Error): void {
    this.worker?.terminate();
    this.worker = null;
    this.remote = null;
    this.waiting.forEach((reject) => reject(reason));
    this.waiting.clear();
  }
}
