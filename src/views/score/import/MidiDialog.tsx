import { useState } from "react";
import type { MidiImport } from "@/core/format/midi";
import { clampToParameter } from "@/core/patch/row";
import { SONG_ROWS } from "@/core/patch/rows";
import type { Note, Project } from "@/core/patch/project";
import { barTicks } from "@/core/time/meter";
import { Dialog, DialogButtons } from "@/ui/Dialog";
import { usePart, useProject, useStudio } from "@/views/studio/studio";
import { BecomesRows } from "./BecomesRows";
import { rhythmEdit, type Becomes } from "./rhythmEdits";

const OFFERED: readonly Becomes[] = ["notes", "gate", "steps", "triggers"];

/** What a MIDI file holds, and which of it to take over. */
export function MidiDialog({ fileName, file, onClose }: { fileName: string; file: MidiImport; onClose: () => void }) {
  const { workspace, view } = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const project = useProject((s) => s.project);
  const [choice, setChoice] = useState({
    becomes: "notes" as Becomes,
    step: { num: 1, den: 16 },
    shapeId: null as string | null,
  });
  const [takeTempo, setTakeTempo] = useState(file.tempoBpm !== null);
  const [takeMeter, setTakeMeter] = useState(file.meter !== null);
  const tempo =
    file.tempoBpm === null ? null : clampToParameter(SONG_ROWS.tempo, Math.round(file.tempoBpm * 100) / 100);
  const meter = takeMeter && file.meter ? file.meter : song.meter;
  const lastTick = Math.max(...file.notes.map((n) => n.offTick));
  const bars = Math.min(32, Math.max(1, Math.ceil(lastTick / barTicks(meter))));
  const cut = lastTick > 32 * barTicks(meter);
  const take = (): void => {
    const notes = file.notes.map((n): Omit<Note, "id"> => ({
      startTick: n.onTick,
      lengthTicks: n.offTick - n.onTick,
      key: n.key,
      velocity: n.velocity,
    }));
    const hits = file.notes.map((n) => ({ tick: n.onTick, offTick: n.offTick, velocity: n.velocity }));
    const name = (file.name ?? fileName.replace(/\.[^.]+$/, "")).slice(0, 80) || "Rhythm";
    const rhythm = {
      name,
      hits,
      notes,
      lengthTicks: bars * barTicks(meter),
      step: choice.step,
      levels: null,
      shapeId: choice.shapeId,
    };
    const { edit, strip } = rhythmEdit(choice.becomes, rhythm, part, project);
    const done = workspace.store.edit("Import MIDI", (p: Project) => {
      const taken = edit(p);
      return {
        ...taken,
        song: { ...taken.song, loopBars: bars, meter, tempoBpm: takeTempo && tempo !== null ? tempo : p.song.tempoBpm },
      };
    });
    if (done) view.setState({ strip, selectedNotes: new Set(), zoom: 1, scrollTick: 0 });
    onClose();
  };
  return (
    <Dialog title="Import MIDI" onClose={onClose}>
      <p className="break-words">
        <b>{fileName}</b>
        {file.name && ` (${file.name})`} holds {file.notes.length} notes over {bars} bars.
        {choice.becomes === "notes" && ` They replace the notes of ${part.name}; one undo brings those back.`}
      </p>
      <div className="mt-2">
        <BecomesRows offered={OFFERED} {...choice} onChange={setChoice} />
      </div>
      <div className="mt-3 flex flex-col gap-2">
        {tempo !== null && (
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={takeTempo} onChange={(e) => setTakeTempo(e.currentTarget.checked)} />
            Take its tempo, {tempo.toFixed(2)} BPM (the song has {song.tempoBpm.toFixed(2)})
          </label>
        )}
        {file.meter && (
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={takeMeter} onChange={(e) => setTakeMeter(e.currentTarget.checked)} />
            Take its meter, {file.meter.beats}/{file.meter.unit} (the song has {song.meter.beats}/{song.meter.unit})
          </label>
        )}
      </div>
      {file.changesLeftOut && (
        <p className="mt-2 text-ink2">
          Later changes of tempo or meter in the file are left out: a song has one of each.
        </p>
      )}
      {(file.notesLeftOut > 0 || cut) && (
        <p className="mt-2 text-ink2">
          {file.notesLeftOut > 0
            ? `${file.notesLeftOut} notes do not fit and are left out.`
            : "Notes past bar 32 stay silent."}
        </p>
      )}
      <DialogButtons>
        <button type="button" className="chip" onClick={onClose}>
          Cancel
        </button>
        <button type="button" className="chip" data-on="true" onClick={take}>
          Import
        </button>
      </DialogButtons>
    </Dialog>
  );
}
