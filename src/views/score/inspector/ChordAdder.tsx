import { useLayoutEffect, useRef, useState } from "react";
import { addNotes } from "@/core/pattern/noteEdit";
import { CHORD_KINDS, chordOf, chordText, keysOfChord, parseChord, type Chord } from "@/core/pitch/chord";
import { isMinor, usesFlats } from "@/core/pitch/note";
import { PROGRESSIONS, progressionsIn } from "@/core/pitch/progressions";
import { nearestVoicing } from "@/core/pitch/voicing";
import type { Note } from "@/core/patch/project";
import { barTicks } from "@/core/time/meter";
import { editNotes } from "@/state/edits";
import { newId } from "@/state/ids";
import { Select } from "@/ui/Select";
import { Toggle } from "@/ui/Toggle";
import { useEditable, usePart, useProject, useStudio } from "@/views/studio/studio";

/** Lengths of a chord, in bars, of which those that fit are offered. */
const CHORD_BARS = [0.25, 0.5, 1, 2, 4, 8, 16, 32];
const barsText = (bars: number): string => (bars < 1 ? `1/${1 / bars} bar` : bars === 1 ? "1 bar" : `${bars} bars`);

/** Adds a chord by name or degree: at the next free bar line unless told otherwise, near the last chord. */
export function ChordAdder() {
  const { workspace, view } = useStudio();
  const part = usePart();
  const { key, meter, loopBars } = useProject((s) => s.project.song);
  const editable = useEditable();
  const [typed, setTyped] = useState<string | null>(null);
  const [start, setStart] = useState("");
  const [length, setLength] = useState("");
  const [nearest, setNearest] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const [addedChords, setAddedChords] = useState(0);
  const field = useRef<HTMLInputElement>(null);
  // The next one is typed over it. A frame later would be too late for those who type on.
  useLayoutEffect(() => {
    if (addedChords > 0) field.current?.select();
  }, [addedChords]);
  const flats = usesFlats(key);
  const bar = barTicks(meter);
  const lastEnd = Math.max(0, ...part.notes.map((n) => n.startTick + n.lengthTicks));
  const free = Math.ceil(lastEnd / bar);
  const bars = Array.from({ length: loopBars }, (_, i) => i);
  const at = bars.find((b) => String(b) === start) ?? (free < loopBars ? free : null);
  const room = at === null ? [] : CHORD_BARS.filter((b) => b <= loopBars - at);
  const long = room.find((b) => String(b) === length) ?? 1;
  const text = typed ?? chordText(lastChord(part.notes) ?? { root: key.tonic, symbol: isMinor(key.scale) ? "m" : "M" }, flats); // prettier-ignore
  /** The notes of a chord at a bar, near those before it. */
  const chordNotes = (chord: Chord, atBar: number, before: readonly Note[]): Note[] => {
    const inRoot = keysOfChord(chord, rootNear(before, chord.root));
    const lie = nearest ? nearestVoicing(inRoot, keysOfLast(before)) : inRoot;
    return lie.map((k) => ({ id: newId(), startTick: atBar * bar, lengthTicks: Math.round(long * bar), key: k, velocity: 100 })); // prettier-ignore
  };
  const added = (label: string, notes: readonly Note[]): boolean => {
    if (
      !workspace.store.edit(
        label,
        editNotes(part.id, (old) => addNotes(old, notes)),
      )
    )
      return false;
    view.setState({ selectedNotes: new Set(notes.map((n) => n.id)) });
    return true;
  };
  const addProgression = (name: string): void => {
    const degrees = PROGRESSIONS.find((p) => p.name === name)?.degrees;
    if (!degrees || at === null) return;
    const notes: Note[] = [];
    for (let b = at, i = 0; b < loopBars; b += long, i++)
      notes.push(...chordNotes(parseChord(degrees[i % degrees.length]!, key)!, b, [...part.notes, ...notes]));
    added(`Add ${name}`, notes);
  };
  const add = (): void => {
    const chord = parseChord(text, key);
    setProblem(chord ? null : 'Write a chord by its name or degree: "Dm7", "F#", "F/A", "iv", "V7".');
    if (!chord || at === null) return field.current?.select();
    if (!added(`Add ${chordText(chord, flats)}`, chordNotes(chord, at, part.notes))) return;
    setTyped(null);
    setStart("");
    setAddedChords(addedChords + 1);
  };
  return (
    <section>
      <h3 className="heading mb-1.5">Add a chord</h3>
      <form
        className="grid grid-cols-[1fr_auto_auto_auto] gap-1"
        onSubmit={(e) => {
          e.preventDefault();
          add();
        }}
      >
        <input
          ref={field}
          className="field w-full min-w-0"
          aria-label="Chord"
          aria-invalid={problem !== null}
          list="chords"
          value={text}
          onFocus={(e) => e.currentTarget.select()}
          onChange={(e) => {
            setTyped(e.currentTarget.value);
            setProblem(null);
          }}
        />
        <datalist id="chords">
          {CHORD_KINDS.map((c) => {
            const chord = { root: key.tonic, symbol: c.symbol };
            return <option key={c.symbol} value={chordText(chord, flats)} label={c.name} />;
          })}
        </datalist>
        <Select
          label="Start of the chord"
          value={String(at ?? "")}
          options={[...(at === null ? [{ value: "", text: "at" }] : []), ...bars.map((b) => ({ value: String(b), text: `at ${b + 1}.1` }))]} // prettier-ignore
          onChange={setStart}
        />
        <Select
          label="Length of the chord"
          value={String(long)}
          options={(room.length > 0 ? room : [1]).map((b) => ({ value: String(b), text: barsText(b) }))}
          onChange={setLength}
        />
        <button type="submit" className="chip" disabled={!editable || at === null}>
          Add
        </button>
      </form>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        <Toggle
          text="nearest"
          title="Each chord is laid so that it moves as little as can be from the one before"
          on={nearest}
          onChange={setNearest}
        />
        <Select
          label="Progression"
          disabled={!editable || at === null}
          className="chip"
          value=""
          options={[
            { value: "", text: "Progression…" },
            ...progressionsIn(key.scale).map((p) => ({
              value: p.name,
              text: `${p.degrees.join(" ")}  ${p.name}`,
            })),
          ]}
          onChange={addProgression}
        />
      </div>
      <p className={`mt-1 text-[11px] ${problem ? "" : "text-ink2"}`} role={problem ? "alert" : undefined}>
        {problem ??
          (at === null
            ? "The loop is full. Make it longer, choose a start, or delete notes."
            : "By name or degree. It takes the next free bar, near the last chord.")}
      </p>
    </section>
  );
}

/** The chord that begins last; null when the notes make none. */
function lastChord(notes: readonly Note[]): Chord | null {
  const keys = keysOfLast(notes);
  return keys.length > 1 ? chordOf(keys) : null;
}

/** The keys of the notes that begin last. */
function keysOfLast(notes: readonly Note[]): number[] {
  const startTick = Math.max(0, ...notes.map((n) => n.startTick));
  return notes.filter((n) => n.startTick === startTick).map((n) => n.key);
}

/** The key of a root nearest to the lowest note of the last chord, or to C3. */
function rootNear(notes: readonly Note[], root: number): number {
  const lowest = keysOfLast(notes);
  const near = lowest.length > 0 ? Math.min(...lowest) : 48;
  return Math.min(115, Math.max(0, root + 12 * Math.round((near - root) / 12)));
}
