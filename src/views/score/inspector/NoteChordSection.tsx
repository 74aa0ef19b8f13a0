import { wholeRow } from "@/core/patch/row";
import { CHORD_KINDS } from "@/core/pitch/chord";
import { MAX_INVERSION, type NoteChord } from "@/core/pitch/noteChord";
import { editPart } from "@/state/edits";
import { SelectRow } from "@/ui/Select";
import { usePart, useStudio } from "@/views/studio/studio";
import { NumberRow } from "./rows";

const INVERSION = wholeRow({ label: "Inversion", unit: "", min: -MAX_INVERSION, max: MAX_INVERSION, default: 0 });

/** Chords of the key that a note may stand for, by how many notes they have. */
const IN_KEY = [
  { notes: 2, text: "third of the key" },
  { notes: 3, text: "triad of the key" },
  { notes: 4, text: "seventh of the key" },
  { notes: 5, text: "ninth of the key" },
] as const;

const ITSELF = "itself";
const nameOf = (chord: NoteChord | null): string =>
  chord === null ? ITSELF : chord.from === "key" ? `key ${chord.notes}` : `kind ${chord.symbol}`;

/** What every single note of the part stands for: itself, or a chord on it, before the arpeggio. */
export function NoteChordSection() {
  const { workspace } = useStudio();
  const part = usePart();
  const { noteChord } = part;
  const set = (label: string, chord: NoteChord | null, gesture?: string): void =>
    void workspace.store.edit(label, editPart(part.id, (p) => ({ ...p, noteChord: chord })), gesture);
  const inversion = noteChord?.inversion ?? 0;
  const options: { name: string; text: string; chord: NoteChord | null }[] = [
    { name: ITSELF, text: "itself", chord: null },
    ...IN_KEY.map(({ notes, text }) => ({ name: `key ${notes}`, text, chord: { from: "key", notes, inversion } as const })),
    ...CHORD_KINDS.map(({ symbol, name }) => ({ name: `kind ${symbol}`, text: `${name} chord`, chord: { from: "kind", symbol, inversion } as const })),
  ];
  const known = options.some((o) => o.name === nameOf(noteChord));
  return (
    <section>
      <h3 className="heading mb-1">Each note plays</h3>
      <SelectRow
        label="A note"
        name="What each note plays"
        value={nameOf(noteChord)}
        options={[
          ...options.map((o) => ({ value: o.name, text: o.text })),
          ...(known ? [] : [{ value: nameOf(noteChord), text: `${noteChord?.from === "key" ? noteChord.notes : 0} notes of the key` }]),
        ]}
        onChange={(name) => {
          const option = options.find((o) => o.name === name);
          if (option) set("Set what each note plays", option.chord);
        }}
      />
      {noteChord && (
        <NumberRow
          row={INVERSION}
          kind="notes"
          value={inversion}
          text={(v) => (v === 0 ? "root lowest" : `${Math.abs(v)} ${v > 0 ? "up" : "down"}`)}
          onChange={(v, l, g) => set(l, { ...noteChord, inversion: v }, g)}
        />
      )}
    </section>
  );
} // prettier-ignore
