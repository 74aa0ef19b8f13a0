import { createStore, type StoreApi } from "zustand/vanilla";
import { problemOfEdit, type Problem } from "@/core/patch/changeCheck";
import type { Project } from "@/core/patch/project";
import { emptyHistory, holdsSame, record, redo, undo, type History } from "./history";

/** `since` is when the first edit was made that is not stored. */
type SaveState =
  | { readonly kind: "saved"; readonly at: number }
  | { readonly kind: "waiting"; readonly since: number }
  | { readonly kind: "saving"; readonly since: number }
  /** A conflict is another tab's work that would be overwritten. */
  | { readonly kind: "failed"; readonly since: number; readonly reason: string; readonly conflict: boolean };

export interface ProjectState {
  readonly project: Project;
  readonly history: History<Project>;
  /** Why this tab may not edit; null when it may. */
  readonly readOnly: "other-tab" | "taken-over" | "deleted" | null;
  readonly save: SaveState;
  /** Counts documents that were opened, so that views can forget what belonged to the last one. */
  readonly opened: number;
}

/** A pure edit; returning the same project means that nothing changed. */
export type Edit = (project: Project) => Project;

export interface ProjectStore extends StoreApi<ProjectState> {
  /**
   * Applies a named edit. Edits with the same gesture id are one step of undo. False when nothing changed, when the
   * project is read-only, or when the document would break its rules, which is told.
   */
  edit(label: string, change: Edit, gesture?: string): boolean;
  undo(): string | null;
  redo(): string | null;
  /** Undoes or redoes until `steps` edits are done. */
  stepTo(steps: number): void;
  open(project: Project, readOnly: ProjectState["readOnly"]): void;
}

export function createProjectStore(
  project: Project,
  onRefused: (label: string, problem: Problem) => void = () => undefined,
  /** Adds to what an edit left what follows from it. */
  complete: (project: Project) => Project = (p) => p,
): ProjectStore {
  const store = createStore<ProjectState>(() => ({
    project,
    history: emptyHistory(),
    readOnly: null,
    save: { kind: "saved", at: 0 },
    opened: 0,
  }));
  const step = (take: typeof undo<Project>, end: "before" | "after"): string | null => {
    const state = store.getState();
    const taken = state.readOnly ? null : take(state.history);
    if (!taken) return null;
    store.setState({ project: taken.entry[end], history: taken.history });
    return taken.entry.label;
  };
  return {
    ...store,
    edit(label, change, gesture) {
      const state = store.getState();
      if (state.readOnly) return false;
      const after = complete(change(state.project));
      if (holdsSame(after, state.project)) return false;
      const problem = problemOfEdit(state.project, after);
      if (problem) {
        onRefused(label, problem);
        return false;
      }
      const history = record(state.history, { label, gesture: gesture ?? null, before: state.project, after });
      store.setState({ project: after, history });
      return true;
    },
    undo: () => step(undo, "before"),
    redo: () => step(redo, "after"),
    stepTo(steps) {
      while (store.getState().history.done.length > steps && step(undo, "before") !== null);
      while (store.getState().history.done.length < steps && step(redo, "after") !== null);
    },
    open(opened, readOnly) {
      store.setState((s) => ({
        project: opened,
        history: emptyHistory(),
        readOnly,
        save: { kind: "saved", at: 0 },
        opened: s.opened + 1,
      }));
    },
  };
}
