import type { Project } from "@/core/patch/project";
import { SaveConflict } from "./database";
import type { ProjectStore } from "./projectStore";

/**
 * Edits are saved when the hand has rested this long, and this long after the first unsaved one at the latest: with the
 * writing, none is older than a second when a browser is killed.
 */
const REST_MS = 200;
const LATEST_MS = 300;
/** Pauses before a failed save is tried again: doubled from the first to the last. */
const RETRY_MS = { first: 1000, last: 60_000 };

const because = (error: unknown): string => (error instanceof Error ? error.message : String(error));

/** Keeps the open project saved: waits for the hand to rest, tries again what failed, and knows what is unsaved since when. */
export class Saver {
  private stored: Project | null;
  /** Saved as a file as it stands. */
  private inFile: Project | null = null;
  /** When the first edit was made that is not stored; 0 for none. */
  private since = 0;
  /** When the first edit was made that no save has taken up, the one that is being written included; 0 for none. */
  private untaken = 0;
  /** Whether a save waits for the one before it. */
  private due = false;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private pause = RETRY_MS.first;
  private working: Promise<void> = Promise.resolve();

  constructor(
    private readonly store: ProjectStore,
    /** Writes a project; null where there is nothing to write to. */
    private readonly write: () => ((project: Project) => Promise<void>) | null,
    private readonly onFailure: (reason: string) => void,
  ) {
    this.stored = store.getState().project;
    store.subscribe((state, before) => {
      if (state.project !== before.project && state.opened === before.opened && !state.readOnly) this.edited();
    });
  }

  /** Whether something would be lost if the page were gone now. */
  isDirty(): boolean {
    const { project, readOnly } = this.store.getState();
    return !readOnly && project !== this.stored;
  }

  /** Whether something would be lost that is not in a file either. */
  isAtRisk(): boolean {
    return this.isDirty() && this.store.getState().project !== this.inFile;
  }

  /** What the store holds now is what is stored: it was just opened. */
  settled(): void {
    this.stop();
    this.stored = this.store.getState().project;
    this.since = 0;
    this.untaken = 0;
    this.pause = RETRY_MS.first;
  }

  /** What the store holds now is not stored at all yet. */
  unsaved(): void {
    this.settled();
    this.stored = null;
    this.since = Date.now();
    this.store.setState({ save: { kind: "waiting", since: this.since } });
  }

  savedAsFile(): void {
    this.inFile = this.store.getState().project;
  }

  private stop(): void {
    if (this.timer !== null) clearTimeout(this.timer);
    this.timer = null;
  }

  private later(ms: number): void {
    this.stop();
    this.timer = setTimeout(() => void this.flush(), ms);
  }

  private edited(): void {
    const now = Date.now();
    if (this.since === 0) this.since = now;
    if (this.untaken === 0) this.untaken = now;
    const { save } = this.store.getState();
    // A failure stays in sight until a save succeeds; it is tried again in its own time.
    if (save.kind === "failed") {
      if (this.since === now) this.store.setState({ save: { ...save, since: now } });
      return;
    }
    if (save.kind !== "waiting") this.store.setState({ save: { kind: "waiting", since: this.since } });
    if (this.due) return;
    const left = this.untaken + LATEST_MS - now;
    // A hand that gives the page no rest keeps timers waiting: what is due is saved at once.
    if (left <= 0) {
      this.due = true;
      void this.flush();
    } else this.later(Math.min(REST_MS, left));
  }

  /** Saves what is unsaved now; false when it could not be saved. */
  async flush(): Promise<boolean> {
    this.working = this.working.then(() => this.saveNow());
    await this.working;
    return !this.isDirty();
  }

  private async saveNow(): Promise<void> {
    this.stop();
    this.due = false;
    const { project, save } = this.store.getState();
    if (!this.isDirty()) {
      // Undone to what is stored.
      if (save.kind === "waiting") this.store.setState({ save: { kind: "saved", at: Date.now() } });
      this.since = 0;
      this.untaken = 0;
      return;
    }
    const write = this.write();
    const known = save.kind === "failed";
    try {
      if (!write) throw new Error("this browser keeps no projects");
      // While a failed save is tried again, what is seen is that it failed.
      if (!known) this.store.setState({ save: { kind: "saving", since: this.since } });
      this.untaken = 0;
      await write(project);
      this.stored = project;
      this.pause = RETRY_MS.first;
      const more = this.isDirty();
      this.since = this.untaken;
      this.store.setState({ save: more ? { kind: "waiting", since: this.since } : { kind: "saved", at: Date.now() } });
      if (more && this.timer === null) this.later(REST_MS);
    } catch (error) {
      const conflict = error instanceof SaveConflict;
      const reason = because(error);
      this.store.setState({ save: { kind: "failed", since: this.since, reason, conflict } });
      if (!known) this.onFailure(reason);
      // Another tab's work is not overwritten however often it is tried.
      if (conflict || !write) return;
      this.later(this.pause);
      this.pause = Math.min(RETRY_MS.last, 2 * this.pause);
    }
  }
}
