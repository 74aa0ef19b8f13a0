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

/**
 * Tells the readers of a store one after the other, each in a task of its own: where each draws something large, frames
 * and hands come between them. Who waits when the store changes again keeps its place, and finds the newest.
 */
export class InTurn<T> {
  private readonly readers = new Set<() => void>();
  private readonly waiting = new Set<() => void>();
  private asked = false;

  constructor(
    private readonly store: Pick<StoreApi<T>, "getState" | "subscribe">,
    private readonly soon: (run: () => void) => void = byMessage(),
  ) {
    store.subscribe(() => {
      for (const read of this.readers) this.waiting.add(read);
      this.ask();
    });
  }

  reader(): Reader<T> {
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
        this.readers.add(read);
        return () => {
          this.readers.delete(read);
          this.waiting.delete(read);
        };
      },
    };
  }

  private ask(): void {
    if (this.asked || this.waiting.size === 0) return;
    this.asked = true;
    this.soon(() => {
      this.asked = false;
      const [first] = this.waiting;
      if (first) {
        this.waiting.delete(first);
        first();
      }
      this.ask();
    });
  }
}
