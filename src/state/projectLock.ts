/**
 * One tab at a time edits a project. The editing tab holds a Web Lock named after it; a tab that takes over asks it,
 * over a channel, to save and let go, and takes the lock by force when it does not answer.
 */

const ANSWER_MS = 2000;
const lockName = (projectId: string): string => `clovik-project-${projectId}`;

export interface LockEvents {
  /** Save what is unsaved: another tab is taking over. */
  readonly onHandOver: () => Promise<void>;
  /** The lock is gone. */
  readonly onLost: () => void;
}

export class ProjectLock {
  private readonly channel = new BroadcastChannel("clovik-projects");
  private projectId: string | null = null;
  private letGo: (() => void) | null = null;

  constructor(private readonly events: LockEvents) {
    this.channel.onmessage = (event: MessageEvent<{ type: string; id: string }>) => {
      if (event.data.type === "release" && event.data.id === this.projectId) void this.handOver();
    };
  }

  private async handOver(): Promise<void> {
    await this.events.onHandOver();
    this.release();
    this.events.onLost();
  }

  /** Takes the lock of a project and gives up the one held before. False when another tab holds it. */
  async acquire(projectId: string): Promise<boolean> {
    this.release();
    return this.request(projectId, { ifAvailable: true });
  }

  /** Takes a project over from the tab that holds it. */
  async takeOver(projectId: string): Promise<void> {
    this.release();
    const asked = new AbortController();
    const timer = setTimeout(() => asked.abort(), ANSWER_MS);
    this.channel.postMessage({ type: "release", id: projectId });
    const granted = await this.request(projectId, { signal: asked.signal });
    clearTimeout(timer);
    if (!granted) await this.request(projectId, { steal: true });
  }

  private request(projectId: string, options: LockOptions): Promise<boolean> {
    return new Promise<boolean>((resolve) => {
      let held = false;
      navigator.locks
        .request(lockName(projectId), options, (lock) => {
          if (!lock) return resolve(false);
          held = true;
          this.projectId = projectId;
          resolve(true);
          return new Promise<void>((done) => {
            this.letGo = done;
          });
        })
        .catch(() => {
          // Either the wait was given up, or another tab took the lock by force.
          if (!held) return resolve(false);
          this.projectId = null;
          this.letGo = null;
          this.events.onLost();
        });
    });
  }

  release(): void {
    this.letGo?.();
    this.letGo = null;
    this.projectId = null;
  }
}
