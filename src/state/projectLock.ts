/**
 * One tab at a time edits a project. The editing tab holds a Web Lock named after it; other tabs ask it over a channel
 * for what only it can do, and may wait until it has gone. A browser that lacks locks or channels lets every tab edit:
 * the database then refuses saves over another tab's.
 */

const ANSWER_MS = 2000;
/** A tab that waits for a lock lets a tab that takes it over go first. */
const STAND_BACK_MS = 2 * ANSWER_MS + 500;
const lockName = (projectId: string): string => `clovik-project-${projectId}`;

/** What a tab may ask of the one that edits a project. */
export type Asked =
  | { readonly type: "release"; readonly id: string }
  | { readonly type: "rename"; readonly id: string; readonly name: string }
  | { readonly type: "remove"; readonly id: string };

type Message = Asked | { readonly type: "done"; readonly id: string };

export interface LockEvents {
  /** Another tab asks: save, then do it. After "release" and "remove" the lock is let go. */
  readonly onAsked: (asked: Asked) => Promise<void>;
  /** The lock is gone: handed over, taken by force, or the project with it. */
  readonly onLost: (why: "taken-over" | "deleted") => void;
  /** The lock that this tab waited for is its own now. */
  readonly onFree: () => void;
}

const channelOrNone = (): BroadcastChannel | null =>
  typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel("clovik-projects");
/** Missing where a page is not served safely, whatever its type says. */
const locksOrNone = (): LockManager | null => (navigator as { locks?: LockManager }).locks ?? null;

export class ProjectLock {
  private readonly channel = channelOrNone();
  private readonly locks = locksOrNone();
  private projectId: string | null = null;
  private letGo: (() => void) | null = null;
  private waiting: { readonly id: string; readonly order: AbortController } | null = null;
  private readonly answers = new Set<(id: string) => void>();

  constructor(private readonly events: LockEvents) {
    if (!this.channel) return;
    this.channel.onmessage = (event: MessageEvent<Message>) => {
      const message = event.data;
      if (message.type === "done") this.answers.forEach((answer) => answer(message.id));
      else if (message.id === this.projectId) void this.answer(message);
      else if (message.id === this.waiting?.id) this.waitFor(message.id, STAND_BACK_MS);
    };
  }

  private async answer(asked: Asked): Promise<void> {
    await this.events.onAsked(asked);
    if (asked.type !== "rename") {
      this.release();
      this.events.onLost(asked.type === "remove" ? "deleted" : "taken-over");
    }
    this.channel?.postMessage({ type: "done", id: asked.id } satisfies Message);
  }

  /** Asks the tab that holds a project; false when none answers. */
  ask(asked: Asked): Promise<boolean> {
    return new Promise((resolve) => {
      const end = (done: boolean): void => {
        clearTimeout(timer);
        this.answers.delete(onAnswer);
        resolve(done);
      };
      const onAnswer = (id: string): void => {
        if (id === asked.id) end(true);
      };
      const timer = setTimeout(() => end(false), ANSWER_MS);
      this.answers.add(onAnswer);
      this.channel?.postMessage(asked satisfies Message);
    });
  }

  /** Takes the lock of a project and gives up the one held before. False when another tab holds it. */
  async acquire(projectId: string): Promise<boolean> {
    if (projectId === this.projectId) return true;
    this.release();
    return this.request(projectId, { ifAvailable: true });
  }

  /** Takes a project over from the tab that holds it; by force when that does not answer. */
  async takeOver(projectId: string): Promise<void> {
    this.release();
    if (await this.request(projectId, { ifAvailable: true })) return;
    await this.ask({ type: "release", id: projectId });
    if (!(await this.request(projectId, { ifAvailable: true }))) await this.request(projectId, { steal: true });
  }

  /** Waits until the tab that holds a project has gone; `onFree` tells. Any other request for a lock ends the wait. */
  waitFor(projectId: string, afterMs = 0): void {
    this.endWait();
    const order = new AbortController();
    this.waiting = { id: projectId, order };
    setTimeout(() => {
      if (order.signal.aborted) return;
      void this.request(projectId, { signal: order.signal }).then((granted) => {
        if (granted) this.events.onFree();
      });
    }, afterMs);
  }

  private endWait(): void {
    this.waiting?.order.abort();
    this.waiting = null;
  }

  /** Runs work on a project that is not open here, with its lock; false when another tab holds it. */
  async holding(projectId: string, work: () => Promise<void>): Promise<boolean> {
    if (!this.locks) {
      await work();
      return true;
    }
    return this.locks.request(lockName(projectId), { ifAvailable: true }, async (lock) => {
      if (lock) await work();
      return lock !== null;
    });
  }

  private request(projectId: string, options: LockOptions): Promise<boolean> {
    const { locks } = this;
    if (!locks) {
      this.projectId = projectId;
      return Promise.resolve(true);
    }
    return new Promise<boolean>((resolve) => {
      let held = false;
      locks
        .request(lockName(projectId), options, (lock) => {
          if (!lock) return resolve(false);
          held = true;
          this.waiting = null;
          this.projectId = projectId;
          resolve(true);
          return new Promise<void>((done) => {
            this.letGo = done;
          });
        })
        .catch(() => {
          // Either the wait was given up, or another tab took the lock by force.
          if (!held) return resolve(false);
          if (this.projectId !== projectId) return;
          this.projectId = null;
          this.letGo = null;
          this.events.onLost("taken-over");
        });
    });
  }

  release(): void {
    this.endWait();
    this.letGo?.();
    this.letGo = null;
    this.projectId = null;
  }
}
