import { whyNoSub, withCleanSub } from "@/core/patch/cleanSub";
import { MAX_PARTS } from "@/core/patch/project";
import { newId } from "@/state/ids";
import { duplicatePart, editMix, movePart, removePart } from "@/state/partEdits";
import { LOCKED, type MenuEntry } from "@/ui/menu";
import type { Studio } from "@/views/studio/studio";
import { NOTES_STRIP, PART_STRIP } from "@/views/studio/viewStore";
import { FULL } from "./full";
import { openVoice, type ShowPart } from "./useShowPart";

/** What can be done with a part. */
export function partActions(studio: Studio, id: string, show: ShowPart, editable: boolean): MenuEntry[] {
  const { view, workspace } = studio;
  const { store } = workspace;
  const { project } = store.getState();
  const { parts } = project;
  const part = parts.find((p) => p.id === id);
  if (!part) return [];
  const locked = editable ? null : LOCKED;
  const full = parts.length >= MAX_PARTS ? FULL : null;
  const copy = (follows: boolean): void => {
    const copied = newId();
    if (store.edit(`${follows ? "Layer" : "Duplicate"} ${part.name}`, duplicatePart(id, copied, follows)))
      show(copied, PART_STRIP);
  };
  return [
    { text: "Its voice", run: () => openVoice(studio, id, show) },
    { text: "Its place in the mix", run: () => show(id, PART_STRIP, "/") },
    { text: "Its notes", run: () => show(id, NOTES_STRIP, "/") },
    { text: "Its arpeggio", run: () => show(id, { kind: "arpeggio" }, "/") },
    {
      text: "Rename",
      keys: "F2",
      why: locked,
      run: () => {
        show(id, PART_STRIP, "/");
        view.setState({ renaming: id });
      },
    },
    { text: "Duplicate", keys: "Ctrl D", why: locked ?? full, run: () => copy(false) },
    { text: "Layer: same pattern, own sound", why: locked ?? full, run: () => copy(true) },
    {
      text: "Clean sub: a sine under 150 Hz beside it",
      why: locked ?? whyNoSub(project, id),
      run: () => {
        const ids = { part: newId(), filter: newId() };
        if (store.edit(`Give ${part.name} a clean sub`, (p) => withCleanSub(p, id, ids))) show(ids.part, PART_STRIP);
      },
    },
    {
      text: "Move up",
      keys: "Alt ArrowUp",
      why: locked ?? (parts[0] === part ? "It is the first" : null),
      run: () => store.edit(`Move ${part.name} up`, movePart(id, -1)),
    },
    {
      text: "Move down",
      keys: "Alt ArrowDown",
      why: locked ?? (parts.at(-1) === part ? "It is the last" : null),
      run: () => store.edit(`Move ${part.name} down`, movePart(id, 1)),
    },
    {
      text: part.mix.mute ? "Let it be heard" : "Mute",
      why: locked,
      run: () =>
        store.edit(
          part.mix.mute ? `Let ${part.name} be heard` : `Mute ${part.name}`,
          editMix(id, { mute: !part.mix.mute }),
        ),
    },
    {
      text: part.mix.solo ? "End its solo" : "Solo",
      why: locked,
      run: () =>
        store.edit(
          part.mix.solo ? `End the solo of ${part.name}` : `Solo ${part.name}`,
          editMix(id, { solo: !part.mix.solo }),
        ),
    },
    {
      text: "Delete",
      keys: "Delete",
      why: locked ?? (parts.length === 1 ? "A project has one part at least" : null),
      run: () => {
        const at = parts.indexOf(part);
        const next = parts[at + 1] ?? parts[at - 1];
        if (store.edit(`Delete ${part.name}`, removePart(id)) && next && id === view.getState().partId)
          show(next.id, PART_STRIP);
      },
    },
  ];
}
