import { automationOf } from "@/core/patch/automation";
import { addressOf } from "@/core/patch/address";
import { DRUMS } from "@/core/patch/kinds/kit";
import { addressOfRow, kindOf } from "@/core/patch/kinds";
import { AT_JUMPS, type Shape } from "@/core/patch/kinds/shape";
import type { Steps } from "@/core/patch/kinds/steps";
import { isSharedShape } from "@/core/motion/shape";
import { SelectRow } from "@/ui/Select";
import { later } from "@/ui/later";
import { usePart, useProject, useStudio } from "@/views/studio/studio";
import { editRestarts, type Restarting } from "../restarting";
import { ModuleChoice } from "./rows";

/** When modulators start again: what a list of it says, and what each way needs to be set. */
export const RESTART_TITLES = {
  song: "Runs with the song's position",
  bar: "Starts again with every bar",
  chord: "Starts again with each chord or note as it is written: what an arpeggio makes of it counts once",
  rest: "Starts again with the first note after a rest",
  note: "Starts again with every note",
  once: "Starts with every note, goes through once and stays at its end",
  triggers: "Goes through once at each trigger: take them from notes, or from a file",
  hand: "Starts again where you say so while it plays (G); that is kept, and heard in every pass",
} as const;

/** What a modulator does where its rate jumps: asked where that is automated. */
export function AtJumps({ module }: { module: Shape | Steps }) {
  const part = usePart();
  const { times } = kindOf(module);
  if (!isSharedShape(module.choices.restart) || !automationOf(part.patch, addressOfRow(module, times["rate"]!)))
    return null;
  return (
    <ModuleChoice module={module} choice={AT_JUMPS} text={(j) => (j === "goesOn" ? "goes on" : "starts again")} shown />
  );
}

/** Whose notes restart a modulator that restarts with notes. */
export function RestartNotes({ module }: { module: Restarting }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const alone = useProject((s) => s.project.parts.length < 2 && !s.project.backing);
  const { restart } = module.choices;
  if ((restart !== "chord" && restart !== "rest") || alone) return null;
  const set = (notesOf: string | null): void =>
    void store.edit(`Set whose notes restart ${module.name}`, editRestarts(part.id, module, { notesOf }));
  return <NotesOf name={`Whose notes restart ${module.name}`} value={module.data.notesOf} onChange={set} />;
}

/** A choice of a part whose notes are heard, or of a drum of the backing: null is the part itself. */
export function NotesOf({
  name,
  value,
  onChange,
}: {
  name: string;
  value: string | null;
  onChange: (part: string | null) => void;
}) {
  const part = usePart();
  const parts = useProject((s) => s.project.parts);
  const backing = useProject((s) => s.project.backing);
  const others = [
    ...parts.filter((p) => p.id !== part.id).map((p) => ({ value: p.id, text: p.name })),
    ...(backing ? DRUMS.map((d) => ({ value: addressOf(backing.id, d), text: `${d} of the backing` })) : []),
  ];
  return (
    <SelectRow
      label="Notes of"
      name={name}
      value={others.some((o) => o.value === value) ? value! : ""}
      options={[{ value: "", text: "this part" }, ...others]}
      onChange={(id) => onChange(id === "" ? null : id)}
    />
  );
}

/** How often something restarts with the bar. */
export const barsText = (bars: number): string => (bars === 1 ? "bar" : `${bars} bars`);

/** Loaded where they are shown: few modulators are triggered, or restarted by hand. */
export const Triggers = later(() => import("./Triggers").then((m) => m.Triggers));
export const ByHand = later(() => import("./Triggers").then((m) => m.ByHand));
