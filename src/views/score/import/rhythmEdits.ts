import type { CurvePoint } from "@/core/curve/curve";
import { simplifyTo } from "@/core/curve/simplify";
import { newGate, newShape } from "@/core/patch/defaults";
import { modulesOf } from "@/core/patch/kinds";
import { ENVELOPE } from "@/core/patch/kinds/envelope";
import { SHAPE } from "@/core/patch/kinds/shape";
import type { Note, Part, Project } from "@/core/patch/project";
import { lanesOfSteps, stepsOfHits, triggersOf, type Hit } from "@/core/pattern/fromRhythm";
import { barTicks } from "@/core/time/meter";
import { noteValueTicks, type NoteValue } from "@/core/time/noteValue";
import { editArpeggio, editModule, editNotes, pasteModulator } from "@/state/edits";
import { newId } from "@/state/ids";
import type { Edit } from "@/state/projectStore";
import type { StripId } from "@/views/studio/viewStore";
import { NOTES_STRIP } from "@/views/studio/viewStore";
import { gateRoute } from "../modulatorActions";
import { adjusted } from "@/core/patch/kinds/kind";

/** What a rhythm may become. */
export type Becomes = "notes" | "gate" | "steps" | "triggers" | "shape";

export const BECOMES_TEXT: Readonly<Record<Becomes, string>> = {
  notes: "notes",
  gate: "a gate",
  steps: "steps of the arpeggio",
  triggers: "triggers of a shape or an envelope",
  shape: "a shape of its level",
};

/** A rhythm that was read from a file, and how it is to be laid. */
export interface Rhythm {
  readonly name: string;
  readonly hits: readonly Hit[];
  readonly notes: readonly Omit<Note, "id">[];
  readonly lengthTicks: number;
  readonly step: NoteValue;
  /** Levels of equal pieces of its length, the loudest 1; null for what has none. */
  readonly levels: ArrayLike<number> | null;
  /** The shape or envelope that takes its triggers; null makes a shape. */
  readonly shapeId: string | null;
}

/** Points that a level becomes at the most. */
const MOST_POINTS = 24;
const LONGEST_BARS = 32;

/** The edit that makes of a rhythm what it is to become, and what shows it. */
export function rhythmEdit(becomes: Becomes, rhythm: Rhythm, part: Part, project: Project): { edit: Edit; strip: StripId } {
  const { name, hits, step } = rhythm;
  const stepTicks = noteValueTicks(step);
  switch (becomes) {
    case "notes":
      return { edit: editNotes(part.id, () => rhythm.notes.map((n) => ({ ...n, id: newId() }))), strip: NOTES_STRIP };
    case "gate": {
      const made = newGate(newId(), name);
      const { steps } = stepsOfHits(hits, stepTicks, rhythm.lengthTicks);
      const gate = { ...made, data: { steps }, times: { step: { unit: "note", ...step } as const }, choices: { restart: "song" as const } };
      return { edit: pasteModulator(part.id, gate, gateRoute(part, gate.id), newId), strip: { kind: "module", id: gate.id } };
    }
    case "steps": {
      const lanes = lanesOfSteps(stepsOfHits(hits, stepTicks, rhythm.lengthTicks));
      const { arpeggio } = part;
      return { edit: editArpeggio(part.id, { on: true, rate: step, lanes: { ...arpeggio.lanes, ...lanes } }), strip: { kind: "arpeggio" } };
    }
    case "triggers": {
      const triggers = triggersOf(hits.map((h) => h.tick));
      const id = rhythm.shapeId;
      if (id !== null && modulesOf(part.patch.modules, ENVELOPE).some((m) => m.id === id))
        return { edit: editModule(part.id, ENVELOPE, id, (m) => adjusted(m, { choices: { restart: "triggers" }, data: { triggers } })), strip: { kind: "module", id } };
      if (id !== null && modulesOf(part.patch.modules, SHAPE).some((m) => m.id === id))
        return { edit: editModule(part.id, SHAPE, id, (m) => adjusted(m, { choices: { restart: "triggers" }, data: { triggers } })), strip: { kind: "module", id } };
      const made = newShape(newId(), name);
      const fall: CurvePoint[] = [{ x: 0, y: 1, tension: 50 }, { x: 1, y: 0, tension: 0 }];
      const shape = adjusted(made, { choices: { restart: "triggers" }, data: { points: fall, triggers } });
      return { edit: pasteModulator(part.id, shape, [], newId), strip: { kind: "module", id: shape.id } };
    }
    case "shape": {
      const made = newShape(newId(), name);
      const bars = Math.min(LONGEST_BARS, Math.max(1, Math.round(rhythm.lengthTicks / barTicks(project.song.meter))));
      const shape = adjusted(made, { choices: { restart: "song" }, times: { rate: { unit: "bars", bars } }, data: { points: levelPoints(rhythm.levels ?? [0, 0]) } });
      return { edit: pasteModulator(part.id, shape, [], newId), strip: { kind: "module", id: shape.id } };
    }
    default:
      return becomes satisfies never;
  }
} // prettier-ignore

/** A level as a curve of few points. */
function levelPoints(levels: ArrayLike<number>): CurvePoint[] {
  const last = levels.length - 1;
  const points = Array.from(levels, (y, i) => ({ x: i / last, y: Math.min(1, Math.max(0, y)), tension: 0 }));
  return simplifyTo(points, MOST_POINTS);
}
