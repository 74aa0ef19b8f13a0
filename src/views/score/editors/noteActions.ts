import { addNotes, moveNotes, removeNotes } from "@/core/pattern/noteEdit";
import { loopTicks } from "@/core/pattern/events";
import * as tools from "@/core/pattern/noteTools";
import type { Note, Part, Song } from "@/core/patch/project";
import { barTicks, beatTicks } from "@/core/time/meter";
import { noteValueName, noteValueTicks } from "@/core/time/noteValue";
import { clipOf, copy } from "@/state/clipboard";
import { editNotes } from "@/state/edits";
import { newId } from "@/state/ids";
import { LOCKED, type MenuEntry } from "@/ui/menu";
import type { Studio } from "@/views/studio/studio";

/** Everything that can be done with the notes that are chosen, for keys, menus and buttons alike. */
export function noteActions(studio: Studio, part: Part, song: Song, editable: boolean): Record<string, MenuEntry> {
  const { workspace, view } = studio;
  const { selectedNotes: selected, noteSnap, moveBy, quantiseStrength } = view.getState();
  // Where Play starts is asked when it is needed: a button may have been drawn before it was moved.
  const startTick = (): number => view.getState().startTick;
  const chosen = part.notes.filter((n) => selected.has(n.id));
  const locked = editable ? null : LOCKED;
  const none = locked ?? (chosen.length === 0 ? "No note is chosen" : null);
  const snap = Math.max(1, noteValueTicks(noteSnap));
  const by = noteValueName(moveBy ?? noteSnap);
  const far = noteValueTicks(moveBy ?? noteSnap);
  const end = loopTicks(song);
  const choose = (list: readonly Note[]): void => view.setState({ selectedNotes: new Set(list.map((n) => n.id)) });
  const edit = (label: string, change: (notes: readonly Note[]) => readonly Note[]): boolean =>
    workspace.store.edit(
      label,
      editNotes(part.id, (notes) => change(notes)),
    );
  /** An edit of what is chosen, by its name. */
  const tool = (
    text: string,
    label: string,
    change: (notes: readonly Note[]) => readonly Note[],
    keys?: string,
  ): MenuEntry => ({ text, why: none, run: () => void edit(label, change), ...(keys ? { keys } : {}) });
  const remove = (label: string): void => {
    edit(label, (notes) => removeNotes(notes, selected));
    choose([]);
  };
  const add = (label: string, made: readonly Note[]): void => {
    if (edit(label, (notes) => addNotes(notes, made))) choose(made);
  };
  const clip = clipOf("notes");
  const unit = barTicks(song.meter);
  const span = tools.spanOf(chosen, snap);
  const first = chosen.reduce((least, n) => Math.min(least, n.startTick), Infinity);
  return {
    all: { text: "Choose all", keys: "Ctrl A", run: () => choose(part.notes) },
    copy: { text: "Copy", keys: "Ctrl C", why: chosen.length === 0 ? "No note is chosen" : null, run: () => copy({ kind: "notes", notes: chosen }) },
    cut: {
      text: "Cut",
      keys: "Ctrl X",
      why: none,
      run: () => {
        copy({ kind: "notes", notes: chosen });
        remove("Cut notes");
      },
    },
    paste: {
      text: "Paste where Play starts",
      keys: "Ctrl V",
      why: locked ?? (clip ? null : "No notes were copied"),
      run: () => clip && add("Paste notes", tools.placed(clip.notes, startTick(), end, newId)),
    },
    duplicate: {
      text: "Duplicate behind",
      keys: "Ctrl D",
      why: none ?? (first + span >= end ? "The loop ends there" : null),
      run: () => add("Duplicate notes", tools.placed(chosen, first + span, end, newId)),
    },
    bar: {
      text: "Repeat the bar",
      why: none,
      run: () => {
        const bar = Math.floor(first / unit);
        const inBar = part.notes.filter((n) => Math.floor(n.startTick / unit) === bar);
        const offset = Math.min(...inBar.map((n) => n.startTick)) - bar * unit;
        add("Repeat the bar", tools.placed(inBar, (bar + 1) * unit + offset, end, newId));
      },
    },
    fill: tool("Repeat to fill the loop", "Repeat notes", (n) => tools.repeatToFill(n, selected, span < beatTicks(song.meter) ? snap : beatTicks(song.meter), end, newId)),
    remove: { text: "Delete", keys: "Delete", why: none, run: () => remove(chosen.length > 1 ? "Delete notes" : "Delete a note") },
    split: tool("Split", "Split notes", (n) => tools.split(n, selected, startTick(), newId), "S"),
    join: tool("Join", "Join notes", (n) => tools.join(n, selected), "J"),
    legato: tool("Legato", "Make legato", (n) => tools.legato(n, selected, end), "L"),
    quantise: tool(quantiseStrength === 100 ? "Quantise" : `Quantise by ${quantiseStrength} %`, "Quantise notes", (n) => tools.quantise(n, selected, snap, quantiseStrength / 100), "Q"),
    earlier: tool(`${by} earlier`, "Move notes earlier", (n) => moveNotes(n, selected, -far, 0, end)),
    later: tool(`${by} later`, "Move notes later", (n) => moveNotes(n, selected, far, 0, end)),
    triad: tool("Stack a triad", "Stack triads in the key", (n) => tools.stackInKey(n, selected, 3, song.key, newId)),
    seventh: tool("Stack a seventh", "Stack sevenths in the key", (n) => tools.stackInKey(n, selected, 4, song.key, newId)),
    humanise: tool("Humanise", "Humanise notes", (n) => tools.humanise(n, selected, workspace.store.getState().project.seed, 20, 8)),
    reverse: tool("Backwards", "Turn notes backwards", (n) => tools.reverse(n, selected), "R"),
    double: tool("Half speed", "Stretch notes to half speed", (n) => tools.stretchTime(n, selected, 2)),
    halve: tool("Double speed", "Squeeze notes to double speed", (n) => tools.stretchTime(n, selected, 0.5)),
    up: tool("Octave up", "Move notes by an octave", (n) => moveNotes(n, selected, 0, 12, end), "PageUp"),
    down: tool("Octave down", "Move notes by an octave", (n) => moveNotes(n, selected, 0, -12, end), "PageDown"),
    stepUp: tool("A step of the key up", "Move notes in the key", (n) => tools.transposeInKey(n, selected, 1, song.key)),
    stepDown: tool("A step of the key down", "Move notes in the key", (n) => tools.transposeInKey(n, selected, -1, song.key)),
    intoKey: tool("Into the key", "Bring notes into the key", (n) => tools.toKey(n, selected, song.key)),
  } satisfies Record<string, MenuEntry>; // prettier-ignore
}
