import { demoProject } from "@/core/patch/demo";
import { newProject } from "@/core/patch/defaults";
import { parseProjectFile, projectFileText } from "@/core/format/projectFile";
import type { Project } from "@/core/patch/project";
import { ProjectDatabase, SaveConflict, type ProjectRecord, type ProjectSummary } from "./database";
import { ProjectLock } from "./projectLock";
import { createProjectStore, type ProjectStore } from "./projectStore";

/** Edits are saved this long after the last one, and no later than twice that after the first. */
const SAVE_AFTER_MS = 350;

export type Note = { readonly kind: "info" | "error"; readonly text: string };

const newId = (): string => crypto.randomUUID();
const newSeed = (): number => crypto.getRandomValues(new Uint32Array(1))[0]!;
const because = (error: unknown): string => (error instanceof Error ? error.message : String(error));

/**
 * The open project and where it is kept: opens, saves and lists projects, and holds the lock that lets one tab edit.
 * Without a database, editing goes on and the project can still be saved as a file.
 */
export class Workspace {
  readonly store: ProjectStore;
  private db: ProjectDatabase | null = null;
  private revision = 0;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private saving: Promise<void> = Promise.resolve();
  private readonly lock: ProjectLock;

  constructor(private readonly tell: (note: Note) => void) {
    this.store = createProjectStore(demoProject(newId()));
    this.lock = new ProjectLock({
      onHandOver: () => this.flush(),
      onLost: () => this.store.setState({ readOnly: "taken-over" }),
    });
    this.store.subscribe((state, before) => {
      if (state.project !== before.project && state.save.kind === "waiting") this.saveSoon();
    });
  }

  /** Opens the project of last time, or the demo in a browser that has none. */
  async start(): Promise<void> {
    try {
      this.db = await ProjectDatabase.open();
      // At the start nothing of a removed project can be brought back any more.
      await this.db.dropUnusedBinaries();
      const last = await this.db.lastOpened();
      if (last && (await this.open(last))) return;
      for (const { id } of await this.db.list()) if (id !== last && (await this.open(id))) return;
      await this.adopt(demoProject(newId()));
    } catch (error) {
      this.failed(`This browser keeps no projects (${because(error)}). Save your work as a project file.`);
    }
  }

  private failed(reason: string): void {
    this.store.setState({ save: { kind: "failed", reason } });
    this.tell({ kind: "error", text: reason });
  }

  list(): Promise<ProjectSummary[]> {
    return this.db ? this.db.list() : Promise.resolve([]);
  }

  /** Opens a stored project. False, with a message, when it is missing or damaged; what was open stays. */
  async open(id: string): Promise<boolean> {
    if (!this.db) return false;
    await this.flush();
    const found = await this.db.load(id);
    if (!found) return false;
    if (!found.opened.ok) {
      this.tell({
        kind: "error",
        text: `A stored project is damaged and was left as it is: ${found.opened.path}: ${found.opened.reason}`,
      });
      return false;
    }
    const editable = await this.lock.acquire(id);
    this.revision = found.revision;
    this.store.open(found.opened.project, editable ? null : "other-tab");
    if (editable) await this.db.setLastOpened(id);
    return true;
  }

  /** Opens a project that is not stored yet, and stores it. */
  async adopt(project: Project): Promise<void> {
    await this.flush();
    await this.lock.acquire(project.id);
    this.revision = 0;
    this.store.open(project, null);
    this.store.setState({ save: { kind: "waiting" } });
    await this.flush();
    await this.db?.setLastOpened(project.id);
  }

  create(name: string): Promise<void> {
    return this.adopt(newProject(newId(), name, newSeed()));
  }

  openDemo(): Promise<void> {
    return this.adopt(demoProject(newId()));
  }

  /** Opens a copy of a stored project under a new name. */
  async duplicate(id: string): Promise<boolean> {
    await this.flush();
    const found = await this.db?.load(id);
    if (!found?.opened.ok) return false;
    await this.adopt({ ...found.opened.project, id: newId(), name: `${found.opened.project.name.slice(0, 74)} copy` });
    return true;
  }

  /** Renames the open project (a step of undo) or a stored one. */
  async rename(id: string, name: string): Promise<void> {
    const clean = name.trim().slice(0, 80);
    if (!clean) return;
    if (id === this.store.getState().project.id) {
      this.store.edit("Rename project", (p) => (p.name === clean ? p : { ...p, name: clean }));
      await this.flush();
      return;
    }
    const found = await this.db?.load(id);
    if (this.db && found?.opened.ok) await this.db.save({ ...found.opened.project, name: clean }, found.revision);
  }

  /** Removes a stored project and returns how to bring it back. Removing the open one opens another. */
  async remove(id: string): Promise<(() => Promise<void>) | null> {
    const { db } = this;
    if (!db) return null;
    await this.flush();
    const wasOpen = id === this.store.getState().project.id;
    const record: ProjectRecord | null = await db.remove(id);
    if (wasOpen) {
      const other = (await db.list())[0];
      if (!other || !(await this.open(other.id))) await this.create("Untitled");
    }
    if (!record) return null;
    return async () => {
      await db.putBack(record);
      if (wasOpen) await this.open(id);
    };
  }

  /** Opens a project file as a new project. The reason, when it is refused; what was open stays. */
  async importFile(text: string): Promise<string | null> {
    const opened = parseProjectFile(text);
    if (!opened.ok) return `${opened.path}: ${opened.reason}`;
    await this.db?.putBinaries(opened.content);
    const known = (await this.list()).some((p) => p.id === opened.project.id);
    await this.adopt(known ? { ...opened.project, id: newId() } : opened.project);
    return null;
  }

  /** The open project as the text of a file, with the recordings and wave tables that it uses. */
  async fileText(): Promise<string> {
    const { project } = this.store.getState();
    const hashes = project.binaries.map((b) => b.hash);
    return projectFileText(project, hashes.length > 0 && this.db ? await this.db.binaries(hashes) : new Map());
  }

  /** Takes the open project over from the tab that edits it, as that tab left it. */
  async takeOver(): Promise<void> {
    const { id } = this.store.getState().project;
    await this.lock.takeOver(id);
    const found = await this.db?.load(id);
    if (!found?.opened.ok) return;
    this.revision = found.revision;
    this.store.open(found.opened.project, null);
    await this.db?.setLastOpened(id);
  }

  private saveSoon(): void {
    this.timer ??= setTimeout(() => void this.flush(), SAVE_AFTER_MS);
  }

  /** Saves what is unsaved now. */
  flush(): Promise<void> {
    if (this.timer !== null) clearTimeout(this.timer);
    this.timer = null;
    this.saving = this.saving.then(() => this.saveNow());
    return this.saving;
  }

  private async saveNow(): Promise<void> {
    const { project, save, readOnly } = this.store.getState();
    if (save.kind !== "waiting" || readOnly) return;
    if (!this.db) {
      this.store.setState({ save: { kind: "failed", reason: "this browser keeps no projects" } });
      return;
    }
    this.store.setState({ save: { kind: "saving" } });
    try {
      this.revision = await this.db.save(project, this.revision);
      // An edit made meanwhile has set the state to waiting and its own timer.
      if (this.store.getState().save.kind === "saving")
        this.store.setState({ save: { kind: "saved", at: Date.now() } });
    } catch (error) {
      const reason =
        error instanceof SaveConflict ? because(error) : `the browser could not store it (${because(error)})`;
      this.failed(`"${project.name}" was not saved: ${reason}. Save it as a project file to be safe.`);
    }
  }
}
