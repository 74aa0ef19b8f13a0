import { createStore, type StoreApi } from "zustand/vanilla";
import { demoProject } from "@/core/patch/demo";
import { newProject } from "@/core/patch/defaults";
import { withBinaries } from "@/core/patch/binaries";
import type { Project } from "@/core/patch/project";
import { ProjectDatabase } from "./database";
import type { ProjectRecord, ProjectSummary } from "./records";
import { holdsSame } from "./history";
import { openStored } from "./openStored";
import { projectFiles } from "./projectFiles";
import { newId, newSeed } from "./ids";
import { ProjectLock, type Asked } from "./projectLock";
import { createProjectStore, type ProjectStore } from "./projectStore";
import { tabProject } from "./remember";
import { RecordingShelf } from "./recordings";
import { Saver } from "./saver";
import { keepSafely } from "./storageRoom";

export type Note = { readonly kind: "info" | "error"; readonly text: string };

const NAME_LENGTH = 80;
const because = (error: unknown): string => (error instanceof Error ? error.message : String(error));

/** A stored project that cannot be read, and what can be done about it. */
export interface Damaged {
  readonly id: string;
  /** Where and why the stored document was refused. */
  readonly problem: string;
  /** When its last good state was kept; null when there is none. */
  readonly goodAt: number | null;
}

/** What the person at the screen is asked. */
export interface Question {
  readonly name: string;
  readonly since: number;
  readonly answer: (leave: boolean) => void;
}

export type ImportResult = { readonly reason: string } | { readonly opened: boolean };

/**
 * The open project and where it is kept: opens, saves and lists projects, and holds the lock that lets one tab edit.
 * Without a database, editing goes on and the project can still be saved as a file.
 */
export class Workspace {
  readonly store: ProjectStore;
  readonly saver: Saver;
  /** Set while unsaved work is about to be left. */
  readonly question: StoreApi<{ readonly asked: Question | null }> = createStore(() => ({ asked: null }));
  readonly damaged: StoreApi<{ readonly list: readonly Damaged[] }> = createStore(() => ({ list: [] }));
  readonly recordings = new RecordingShelf(() => this.db);
  private db: ProjectDatabase | null = null;
  private keptBinaries: Project["binaries"] = [];
  private revision = 0;
  private askedToPersist = false;
  private readonly lock: ProjectLock;

  constructor(private readonly tell: (note: Note) => void) {
    this.store = createProjectStore(
      demoProject(newId()),
      (label, problem) => tell({ kind: "error", text: `"${label}" was not done: ${problem.reason}.` }),
      (project) => withBinaries(project, this.recordings.binaryOf),
    );
    this.store.subscribe((state, before) => {
      if (state.project.binaries !== before.project.binaries)
        void this.recordings.load(state.project).catch(() => undefined);
    });
    this.saver = new Saver(
      this.store,
      () => (this.db ? (project) => this.write(project) : null),
      (reason) =>
        tell({
          kind: "error",
          text: `"${this.store.getState().project.name}" is not saved: ${reason}. Save it as a file to be safe.`,
        }),
    );
    this.lock = new ProjectLock({
      onAsked: (asked) => this.asked(asked),
      onLost: (why) => {
        this.store.setState({ readOnly: why });
        if (why === "taken-over") this.lock.waitFor(this.store.getState().project.id, 5000);
      },
      onFree: () => void this.regain(),
    });
  }

  private get openId(): string {
    return this.store.getState().project.id;
  }

  /** Opens the project that this tab or this browser had open last, or the demo in a browser that has none. */
  async start(): Promise<void> {
    try {
      this.db = await ProjectDatabase.open();
      // At the start nothing of a removed project can be brought back any more.
      await this.db.tidy();
      const last = [tabProject.get(), await this.db.lastOpened()].filter((id) => id !== null);
      for (const id of last) if (await this.open(id)) return;
      for (const { id } of await this.db.list()) if (!last.includes(id) && (await this.open(id))) return;
      await this.adopt(demoProject(newId()));
    } catch (error) {
      const reason = because(error);
      this.store.setState({ save: { kind: "failed", since: Date.now(), reason, conflict: false } });
      this.tell({
        kind: "error",
        text: `This browser keeps no projects (${reason}). Everything else works: save your work as a project file.`,
      });
    }
  }

  /** Tries the database again, after it could not be opened or a save failed. */
  async tryAgain(): Promise<void> {
    try {
      this.db ??= await ProjectDatabase.open();
      // A document without a place of its own gets one.
      if (!this.saver.isDirty() && !(await this.db.record(this.openId))) this.saver.unsaved();
    } catch {
      // The state already says why.
    }
    await this.saver.flush();
  }

  private async write(project: Project): Promise<void> {
    // Another tab that started meanwhile may have cleared away what no project named yet.
    if (project.binaries !== this.keptBinaries) await this.recordings.keepAgain(project.binaries.map((b) => b.hash));
    this.keptBinaries = project.binaries;
    this.revision = await this.db!.save(project, this.revision);
    if (this.askedToPersist || this.store.getState().history.done.length === 0) return;
    // There is work worth keeping: the browser should not clear it away when space runs out.
    this.askedToPersist = true;
    await keepSafely();
  }

  /** Another tab asks for what only the tab that edits can do. */
  private async asked(asked: Asked): Promise<void> {
    if (asked.type === "rename") this.renameOpen(asked.name);
    await this.saver.flush();
    if (asked.type === "remove") await this.db?.remove(asked.id);
  }

  /** The tab that edited this project has gone: it can be edited here, as that tab left it. */
  private async regain(): Promise<void> {
    if (this.store.getState().readOnly === null) return;
    if (await this.reopen()) this.tell({ kind: "info", text: "The other tab has gone: you can edit here now" });
  }

  /** Opens what is stored of the open project, with its lock held. */
  private async reopen(): Promise<boolean> {
    const { project } = this.store.getState();
    const found = await this.db?.load(project.id);
    if (!found?.opened.ok) {
      this.store.setState({ readOnly: "deleted" });
      return false;
    }
    this.revision = found.revision;
    if (holdsSame(found.opened.project, project)) this.store.setState({ readOnly: null });
    else this.store.open(found.opened.project, null);
    this.saver.settled();
    this.remember(project.id);
    return true;
  }

  private remember(id: string): void {
    tabProject.set(id);
    void this.db?.setLastOpened(id).catch(() => undefined);
  }

  list(): Promise<ProjectSummary[]> {
    return this.db ? this.db.list() : Promise.resolve([]);
  }

  /** Saves what is unsaved; where that fails, asks whether to leave it. False to stay. */
  private async leave(): Promise<boolean> {
    if ((await this.saver.flush()) || !this.saver.isAtRisk()) return true;
    const { project, save } = this.store.getState();
    return new Promise((resolve) => {
      this.question.setState({
        asked: {
          name: project.name,
          since: save.kind === "failed" ? save.since : Date.now(),
          answer: (leave) => {
            this.question.setState({ asked: null });
            resolve(leave);
          },
        },
      });
    });
  }

  /** A stored project that can be read. Null, with a message, when it is missing or damaged. */
  private async read(id: string): Promise<{ project: Project; revision: number } | null> {
    const found = await this.db?.load(id);
    if (!found) return null;
    const { opened, revision } = found;
    if (opened.ok) return { project: opened.project, revision };
    const problem = `${opened.path}: ${opened.reason}`;
    const good = await this.lastGood(id);
    const damaged: Damaged = { id, problem, goodAt: good?.savedAt ?? null };
    this.damaged.setState(({ list }) => ({ list: [...list.filter((d) => d.id !== id), damaged] }));
    this.tell({
      kind: "error",
      text: `A stored project is damaged and was left as it is: ${problem}. The shelf offers what can be done.`,
    });
    return null;
  }

  private async lastGood(id: string): Promise<{ project: Project; savedAt: number } | null> {
    for (const { document, savedAt } of (await this.db?.earlier(id)) ?? []) {
      const opened = await openStored(document);
      if (opened.ok) return { project: opened.project, savedAt };
    }
    return null;
  }

  /** Opens a stored project. False, with a message, when it is missing or damaged; what was open stays. */
  async open(id: string): Promise<boolean> {
    if (!(await this.leave())) return false;
    const found = await this.read(id);
    if (!found) return false;
    const editable = await this.lock.acquire(id);
    this.revision = found.revision;
    this.store.open(found.project, editable ? null : "other-tab");
    this.saver.settled();
    if (!editable) this.lock.waitFor(id);
    this.remember(id);
    return true;
  }

  /** Opens a project that is not stored yet, and stores it. False when the one that is open is not to be left. */
  async adopt(project: Project): Promise<boolean> {
    if (!(await this.leave())) return false;
    await this.begin(project);
    return true;
  }

  /** Opens and stores a new project, whatever was open. */
  private async begin(project: Project): Promise<void> {
    await this.lock.acquire(project.id);
    this.revision = 0;
    this.store.open(project, null);
    this.saver.unsaved();
    await this.saver.flush();
    this.remember(project.id);
  }

  /** Opens an empty project under a name that no other has: "Untitled", "Untitled 2". */
  async create(name: string): Promise<boolean> {
    const taken = new Set((await this.list().catch(() => [])).map((p) => p.name));
    let free = name;
    for (let n = 2; taken.has(free); n++) free = `${name} ${n}`;
    return this.adopt(newProject(newId(), free, newSeed()));
  }

  openDemo(): Promise<boolean> {
    return this.adopt(demoProject(newId()));
  }

  /** Opens a copy of a stored project under a new name. */
  async duplicate(id: string): Promise<boolean> {
    await this.saver.flush();
    const found = await this.read(id);
    return found !== null && this.adopt(copyOf(found.project));
  }

  /** Goes on with what is open here as a project of its own: what is stored is another tab's. */
  keepAsCopy(): Promise<void> {
    return this.begin(copyOf(this.store.getState().project));
  }

  /** Opens the last good state of a project that cannot be read, as a project of its own; the record stays. */
  async openLastGood(id: string): Promise<boolean> {
    const good = await this.lastGood(id);
    return good !== null && this.adopt(copyOf(good.project, "restored"));
  }

  /** What is stored under an id, as it is, for a file. */
  async recordText(id: string): Promise<string> {
    const record = await this.db?.record(id);
    return JSON.stringify(record?.document ?? null, null, 2);
  }

  private renameOpen(name: string): void {
    this.store.edit("Rename project", (p) => (p.name === name ? p : { ...p, name }));
  }

  /** Renames the open project (a step of undo) or a stored one; one that another tab edits is renamed there. */
  async rename(id: string, name: string): Promise<void> {
    const clean = name.trim().slice(0, NAME_LENGTH);
    if (!clean || !this.db) return;
    if (id === this.openId && this.store.getState().readOnly === null) {
      this.renameOpen(clean);
      await this.saver.flush();
      return;
    }
    const held = await this.lock.holding(id, async () => {
      const found = await this.read(id);
      if (found && this.db) await this.db.save({ ...found.project, name: clean }, found.revision);
    });
    if (!held && !(await this.lock.ask({ type: "rename", id, name: clean }))) this.tellBusy("renamed");
  }

  private tellBusy(what: string): void {
    this.tell({
      kind: "error",
      text: `It was not ${what}: another tab edits this project and does not answer. Close that tab and try again.`,
    });
  }

  /** Removes a stored project and returns how to bring it back. Removing the open one opens another. */
  async remove(id: string): Promise<(() => Promise<void>) | null> {
    const { db } = this;
    if (!db) return null;
    const wasOpen = id === this.openId;
    let record: ProjectRecord | null = null;
    if (wasOpen && this.store.getState().readOnly === null) {
      await this.saver.flush();
      record = await db.remove(id);
      this.saver.settled();
    } else {
      const held = await this.lock.holding(id, async () => {
        record = await db.remove(id);
      });
      if (!held) {
        record = (await db.record(id)) ?? null;
        if (!(await this.lock.ask({ type: "remove", id }))) {
          this.tellBusy("deleted");
          return null;
        }
      }
    }
    this.damaged.setState(({ list }) => ({ list: list.filter((d) => d.id !== id) }));
    if (wasOpen) {
      const other = (await db.list())[0];
      if (!other || !(await this.open(other.id))) await this.create("Untitled");
    }
    // There may be room now for what could not be saved.
    void this.saver.flush();
    return async () => {
      if (record) await db.putBack(record);
      if (wasOpen) await this.open(id);
    };
  }

  /** Brings back the open project, which another tab has deleted. */
  async bringBack(): Promise<void> {
    const { project } = this.store.getState();
    await this.lock.acquire(project.id);
    const found = await this.db?.record(project.id);
    this.revision = found?.revision ?? 0;
    this.store.setState({ readOnly: null });
    this.saver.unsaved();
    await this.saver.flush();
  }

  /** Opens a project file as a new project; the reason when it is refused. What was open stays unless it opened. */
  async importFile(text: string): Promise<ImportResult> {
    const { parseProjectFile } = await projectFiles();
    const file = parseProjectFile(text);
    if (!file.ok) return { reason: `${file.path}: ${file.reason}` };
    await this.recordings.keepContent(file.content);
    const known = (await this.list()).some((p) => p.id === file.project.id);
    return { opened: await this.adopt(known ? { ...file.project, id: newId() } : file.project) };
  }

  /** The open project as the text of a file, with the recordings and wave tables that it uses. */
  async fileText(): Promise<string> {
    const { projectFileText } = await projectFiles();
    const { project } = this.store.getState();
    return projectFileText(project, await this.recordings.content(project.binaries.map((b) => b.hash)));
  }

  /** Takes the open project over from the tab that edits it, as that tab left it. */
  async takeOver(): Promise<void> {
    // After a conflict there are edits here that what is stored lacks.
    if (!(await this.leave())) return;
    await this.lock.takeOver(this.openId);
    await this.reopen();
  }
}

const copyOf = (project: Project, word = "copy"): Project => ({
  ...project,
  id: newId(),
  name: `${project.name.slice(0, NAME_LENGTH - word.length - 1)} ${word}`,
});
