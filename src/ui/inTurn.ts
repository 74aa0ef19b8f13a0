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
 * Tells the readers of a store one after the other, the first at once and the others in tasks of their own: where each
 * draws something large, frames and hands come between them. Who waits when the store changes again keeps its place, and finds the newest.
 */
export class InTurn<T> {
  /** Those that are told first, and the others. */
  private readonly first = new Set<() => void>();
  private readonly others = new Set<() => void>();
  private readonly waiting = new Set<() => void>();
  private asked = false;

  constructor(
    private readonly store: Pick<StoreApi<T>, "getState" | "subscribe">,
    private readonly soon: (run: () => void) => void = byMessage(),
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
        };
      },
    };
  }

  /** Tells the one whose turn it is, and has the next one told later. */
  private next(): void {
    const [read] = this.waiting;
    if (!read) return;
    this.waiting.delete(read);
    this.asked = this.waiting.size > 0;
    if (this.asked)
      this.soon(() => {
        this.asked = false;
        this.next();
      });
    read();
  }
}
