import { modulesOf } from "@/core/patch/kinds";
import { ENVELOPE } from "@/core/patch/kinds/envelope";
import { SHAPE } from "@/core/patch/kinds/shape";
import { NOTE_VALUES, noteValueName, type NoteValue } from "@/core/time/noteValue";
import { SelectRow } from "@/ui/Select";
import { usePart } from "@/views/studio/studio";
import { shapesLevel } from "../stripList";
import { BECOMES_TEXT, type Becomes } from "./rhythmEdits";

const STEPS = NOTE_VALUES.filter((v) => v.num / v.den <= 1 / 4 && v.num / v.den >= 1 / 64);

/** What a rhythm is to become: with the length of a step where it is laid on steps, and the shape that is triggered. */
export function BecomesRows({
  offered,
  becomes,
  step,
  shapeId,
  onChange,
}: {
  offered: readonly Becomes[];
  becomes: Becomes;
  step: NoteValue;
  shapeId: string | null;
  onChange: (next: { becomes: Becomes; step: NoteValue; shapeId: string | null }) => void;
}) {
  const { patch } = usePart();
  // The envelope of the level is each note's own.
  const triggered = [
    ...modulesOf(patch.modules, SHAPE),
    ...modulesOf(patch.modules, ENVELOPE).filter((m) => !shapesLevel(patch, m.id)),
  ];
  return (
    <>
      <SelectRow
        label="Becomes"
        name="What it becomes"
        value={becomes}
        options={offered.map((b) => ({ value: b, text: BECOMES_TEXT[b] }))}
        onChange={(b) => onChange({ becomes: b, step, shapeId })}
      />
      {(becomes === "gate" || becomes === "steps") && (
        <SelectRow
          label="Steps of"
          name="Length of a step"
          value={noteValueName(step)}
          options={STEPS.map((v) => ({ value: noteValueName(v), text: noteValueName(v) }))}
          onChange={(name) => onChange({ becomes, step: STEPS.find((v) => noteValueName(v) === name)!, shapeId })}
        />
      )}
      {becomes === "triggers" && (
        <SelectRow
          label="Triggers"
          name="What is triggered"
          value={shapeId ?? ""}
          options={[{ value: "", text: "a new shape" }, ...triggered.map((m) => ({ value: m.id, text: m.name }))]}
          onChange={(id) => onChange({ becomes, step, shapeId: id || null })}
        />
      )}
    </>
  );
}
