import { useMemo, useState } from "react";
import { watchOnce } from "@/audio/watchOnce";
import { compileProject } from "@/core/engine/compile";
import type { MidiCurve, MidiCurveForm } from "@/core/format/midiCurve";
import { withoutOverlaps, writeMidiSong } from "@/core/format/midiOut";
import { loopTicks, partEvents, patternOf } from "@/core/pattern/events";
import { NOTE_VALUES, noteValueName, noteValueTicks } from "@/core/time/noteValue";
import { Choices } from "@/ui/Choices";
import { Select } from "@/ui/Select";
import { fileStem, saveFile } from "@/ui/saveFile";
import { usePart, useProject, useStudio } from "@/views/studio/studio";
import { curveOf, curveSources, type WantedCurve } from "./curves";

/** Names of MIDI 1.0 for controllers that are often used; the others go by their number. */
const CONTROLLERS: Readonly<Record<number, string>> = {
  1: "modulation wheel",
  2: "breath",
  7: "volume",
  10: "pan",
  11: "expression",
  71: "resonance",
  74: "brightness",
};

/** Densities at which curves are read, the finest last. */
const DENSITIES = NOTE_VALUES.filter((v) => v.num === 1 && v.den >= 8);
const ERRORS = [0, 0.005, 0.01, 0.02, 0.05];
const MOST_COLUMNS = 16_384;

type Kind = MidiCurveForm["kind"];
const KIND_TEXT: Record<Kind, string> = { "7 bit": "7 bit", "14 bit": "14 bit", bend: "pitch bend" };
const formOf = (kind: Kind, controller: number): MidiCurveForm =>
  kind === "bend" ? { kind } : { kind, controller: kind === "14 bit" ? controller % 32 : controller };

/** What parts play and how their values move, as a MIDI file. */
export function MidiOut() {
  const { tell } = useStudio();
  const project = useProject((s) => s.project);
  const part = usePart();
  const { song, seed } = project;
  const [all, setAll] = useState(false);
  const [format, setFormat] = useState<0 | 1>(1);
  const [curves, setCurves] = useState<readonly WantedCurve[]>([]);
  const [density, setDensity] = useState("1/64");
  const [error, setError] = useState(0.01);
  const [busy, setBusy] = useState(false);
  const [done, setDone] = useState<string | null>(null);
  const parts = useMemo(() => (all ? project.parts : [part]), [all, project.parts, part]);
  const played = parts.map((p) => ({ part: p, events: partEvents(patternOf(p, project.parts), song, seed) }));
  const events = played.flatMap((p) => p.events);
  const shortened = useMemo(() => parts.reduce((sum, p) => sum + withoutOverlaps(partEvents(patternOf(p, project.parts), song, seed)).shortened, 0), [parts, project.parts, song, seed]); // prettier-ignore
  const sources = curveSources(part, song);
  const sourceKey = (s: WantedCurve["source"]): string => (s.kind === "heard" ? s.address : s.id);
  // Curves of a module that is gone meanwhile are not sent.
  const wanted = curves.filter((c) => sources.some((s) => sourceKey(s.source) === sourceKey(c.source)));
  const change = (at: number, next: WantedCurve): void => setCurves(wanted.with(at, next));

  const madeCurves = async (): Promise<MidiCurve[]> => {
    if (wanted.length === 0) return [];
    const program = compileProject(project, part.id);
    const step = noteValueTicks(DENSITIES.find((v) => noteValueName(v) === density)!);
    const watched = { addresses: wanted.flatMap((c) => (c.source.kind === "heard" ? [c.source.address] : [])), sources: wanted.flatMap((c) => (c.source.kind === "modulator" ? [c.source.id] : [])) }; // prettier-ignore
    const columns = Math.min(MOST_COLUMNS, Math.max(1024, Math.ceil(loopTicks(song) / step) * 2));
    const watch = await watchOnce(program, [watched], columns);
    return wanted.map((c) => curveOf(c, part, 0, watch, program, step, error, song));
  };
  const save = async (): Promise<void> => {
    setBusy(true);
    try {
      const made = await madeCurves();
      const file = writeMidiSong({
        name: all ? project.name : part.name,
        tracks: played.map((p) => ({ name: p.part.name, notes: p.events, curves: p.part.id === part.id ? made : [] })),
        tempoBpm: song.tempoBpm,
        meter: song.meter,
        endTick: loopTicks(song),
        format,
      });
      const name = `${fileStem(project.name)} ${all ? "all parts" : fileStem(part.name)}.mid`;
      saveFile(name, file, "audio/midi");
      setDone(`${name}: ${events.length} notes${made.length > 0 ? `, ${made.length} ${made.length === 1 ? "curve" : "curves"}` : ""}, ${file.length} bytes.`);
    } catch (problem) {
      tell({ kind: "error", text: `The MIDI file could not be made: ${(problem as Error).message}. Try again, or with fewer curves.` });
    } finally {
      setBusy(false);
    }
  }; // prettier-ignore

  return (
    <section aria-label="MIDI">
      <h2 className="heading">What is played, as MIDI</h2>
      <p className="mt-2 text-ink2">
        {events.length === 0
          ? "Nothing is played yet: add notes first."
          : `${events.length} notes of ${all ? "all parts" : part.name}, as they sound after arpeggio, chance and swing, over ${song.loopBars} bars, with tempo, meter and names, 960 ticks a quarter.`}
      </p>
      {shortened > 0 && (
        <p className="mt-1 text-ink2">
          {shortened} {shortened === 1 ? "note overlaps" : "notes overlap"} the next one of the same key; in the file
          each ends where that one starts, as MIDI has one note a key.
        </p>
      )}
      {project.parts.length > 1 && (
        <Choices
          label="Parts"
          value={all ? "all" : "one"}
          options={[
            { value: "one", text: part.name },
            { value: "all", text: "all" },
          ]}
          onChange={(v) => setAll(v === "all")}
        />
      )}
      <Choices
        label="Format"
        value={String(format)}
        options={[
          { value: "1", text: "1, a track a part" },
          { value: "0", text: "0, one track" },
        ]}
        onChange={(v) => setFormat(v === "0" ? 0 : 1)}
      />
      <h3 className="mt-2 text-[12px] font-semibold">Curves of {part.name}</h3>
      {wanted.map((c, i) => {
        const { form } = c;
        const controller = form.kind === "bend" ? 74 : form.controller;
        return (
          <div key={i} className="mt-1 flex flex-wrap items-center gap-1">
            <Select
              label={`Curve ${i + 1}`}
              value={sourceKey(c.source)}
              options={sources.map((s) => ({ value: sourceKey(s.source), text: s.name }))}
              onChange={(key) => change(i, { ...c, source: sources.find((s) => sourceKey(s.source) === key)!.source })}
            />
            <Select
              label={`Curve ${i + 1} as`}
              value={form.kind}
              options={(Object.keys(KIND_TEXT) as Kind[]).map((k) => ({ value: k, text: KIND_TEXT[k] }))}
              onChange={(kind) => change(i, { ...c, form: formOf(kind, controller) })}
            />
            {form.kind !== "bend" && (
              <Select
                label={`Controller of curve ${i + 1}`}
                value={String(controller)}
                options={Array.from({ length: form.kind === "14 bit" ? 32 : 120 }, (_, n) => ({ value: String(n), text: CONTROLLERS[n] ? `${n}, ${CONTROLLERS[n]}` : `${n}` }))}
                onChange={(n) => change(i, { ...c, form: formOf(form.kind, Number(n)) })}
              />
            )}
            <button type="button" className="chip" aria-label={`Leave out curve ${i + 1}`} onClick={() => setCurves(wanted.filter((_, k) => k !== i))}>
              ×
            </button>
          </div>
        );
      })}
      <div className="mt-1 flex flex-wrap items-center gap-1">
        <button
          type="button"
          className="chip"
          disabled={sources.length === 0}
          onClick={() => setCurves([...wanted, { source: sources[0]!.source, form: { kind: "7 bit", controller: 74 } }])}
        >
          Add a curve
        </button>
        {wanted.length > 0 && (
          <>
            <Select label="Read every" value={density} options={DENSITIES.map((v) => ({ value: noteValueName(v), text: `read every ${noteValueName(v)}` }))} onChange={setDensity} />
            <Select label="Error of the curves" value={String(error)} options={ERRORS.map((e) => ({ value: String(e), text: e === 0 ? "as exact as can be" : `within ${e * 100} %` }))} onChange={(e) => setError(Number(e))} />
          </>
        )}
      </div>
      <button type="button" className="chip mt-2" disabled={events.length === 0 || busy} onClick={() => void save()}>
        Export MIDI
      </button>
      <p className="mt-1 min-h-[16px] break-words" role="status">
        {busy ? "Reading the curves" : done}
      </p>
    </section>
  ); // prettier-ignore
}
