import { createStore, type StoreApi } from "zustand/vanilla";
import type { Project } from "@/core/patch/project";
import { emptyHistory, record, redo, undo, type History } from "./history";

type SaveState =
  | { readonly kind: "saved"; readonly at: number }
  | { readonly kind: "waiting" }
  | { readonly kind: "saving" }
  | { readonly kind: "failed"; readonly reason: string };

export interface ProjectState {
  readonly project: Project;
  readonly history: History<Project>;
  /** Why this tab may not edit; null when it may. */
  readonly readOnly: "other-tab" | "taken-over" | null;
  readonly save: SaveState;
  /** Counts documents that were opened, so that views can forget what belonged to the last one. */
  readonly opened: number;
}

/** A pure edit; returning the same project means that nothing changed. */
export type Edit = (project: Project) => Project;

export interface ProjectStore extends StoreApi<ProjectState> {
  /** Applies a named edit. Edits with the same gesture id are one step of undo. False when nothing changed or the project is read-only. */
  edit(label: string, change: Edit, gesture?: string): boolean;
  undo(): string | null;
  redo(): string | null;
  open(project: Project, readOnly: ProjectState["readOnly"]): void;
}

export function createProjectStore(project: Project): ProjectStore {
  const store = createStore<ProjectState>(() => ({
    project,
    history: emptyHistory(),
    readOnly: null,
    save: { kind: "saved", at: 0 },
    opened: 0,
  }));
  return {
    ...store,
    edit(label, change, gesture) {
      const state = store.getState();
      if (state.readOnly) return false;
      const after = change(state.project);
      if (after === state.project) return false;
      const history = record(state.history, { label, gesture: gesture ?? null, before: state.project, after });
      store.setState({ project: after, history, save: { kind: "waiting" } });
      return true;
    },
    undo() {
      const state = store.getState();
      const step = state.readOnly ? null : undo(state.history);
      if (!step) return null;
      store.setState({ project: step.entry.before, history: step.history, save: { kind: "waiting" } });
      return step.entry.label;
    },
    redo() {
      const state = store.getState();
      const step = state.readOnly ? null : redo(state.history);
      if (!step) return null;
      store.setState({ project: step.entry.after, history: step.history, save: { kind: "waiting" } });
      return step.entry.label;
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
