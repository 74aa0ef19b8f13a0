import type { StoreApi } from "zustand/vanilla";

/** Has something run in a task of its own, as soon as may be; a timer would wait. */
function byMessage(): (run: () => void) => void {
  let channel: MessageChannel | null = null;
  let next: (() => void) | null = null;
  return (run) => {
    if (!channel) {
      channel = new MessageChannel();
      channel.port1.onmessage = () => next?.();
    }
    next = run;
    channel.port2.postMessage(null);
  };
}

/** One that reads a store in its turn: until then it has what it had. */
export interface Reader<T> {
  readonly get: () => T;
  /** Calls back after each change until the returned function is called. */
  readonly subscribe: (listener: () => void) => () => void;
}

/** What a task may take for those that are told in it, by what the last ones took. */
const SLICE_MS = 6;
/** Clocks of browsers are coarse: nothing is taken to be quicker than this. */
const LEAST_MS = 0.1;

/**
 * Tells the readers of a store one after the other, the first at once and the others in tasks to come, as many in each as
 * are quickly told: where they draw something large, frames and hands come between them. Who waits when the store changes
 * again keeps its place, and finds the newest.
 */
export class InTurn<T> {
  /** Those that are told first, and the others. */
  private readonly first = new Set<() => void>();
  private readonly others = new Set<() => void>();
  private readonly waiting = new Set<() => void>();
  private asked = false;
  /** How long each took when it was told last; what is not known may take long, and is told alone. */
  private readonly tookMs = new Map<() => void, number>();

  constructor(
    private readonly store: Pick<StoreApi<T>, "getState" | "subscribe">,
    private readonly soon: (run: () => void) => void = byMessage(),
    private readonly now: () => number = () => performance.now(),
  ) {
    store.subscribe(() => {
      for (const read of this.first) this.waiting.add(read);
      for (const read of this.others) this.waiting.add(read);
      if (!this.asked) this.next();
    });
  }

  /** One of those that are told before others, where what it draws is looked at first. */
  reader(first = false): Reader<T> {
    const readers = first ? this.first : this.others;
    let value = this.store.getState();
    return {
      get: () => value,
      subscribe: (listener) => {
        const read = (): void => {
          value = this.store.getState();
          listener();
        };
        // What changed since it was made is not waited for.
        value = this.store.getState();
        readers.add(read);
        return () => {
          readers.delete(read);
          this.waiting.delete(read);
          this.tookMs.delete(read);
        };
      },
    };
  }

  /** Those whose turn it is: one, and more as long as all together are quickly told. */
  private ofTask(): { readonly told: readonly (() => void)[]; readonly guessMs: number } {
    const told: (() => void)[] = [];
    let guessMs = 0;
    for (const read of this.waiting) {
      const ms = this.tookMs.get(read) ?? Infinity;
      if (told.length > 0 && guessMs + ms > SLICE_MS) break;
      told.push(read);
      guessMs += ms;
    }
    return { told, guessMs };
  }

  /** Tells those whose turn it is, and has the next ones told later. */
  private next(): void {
    const { told, guessMs } = this.ofTask();
    if (told.length === 0) return;
    for (const read of told) this.waiting.delete(read);
    this.asked = this.waiting.size > 0;
    if (this.asked)
      this.soon(() => {
        this.asked = false;
        this.next();
      });
    const began = this.now();
    for (const read of told) read();
    // What they draw is drawn at the end of the task.
    queueMicrotask(() => {
      const ms = this.now() - began;
      for (const read of told) {
        if (!this.first.has(read) && !this.others.has(read)) continue;
        const share = told.length === 1 ? 1 : (this.tookMs.get(read) ?? 0) / guessMs;
        this.tookMs.set(read, Math.max(LEAST_MS, ms * share));
      }
    });
  }
}
