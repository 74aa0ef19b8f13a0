import { TuningError, parseMapping, parseScale } from "@/core/format/tuningFiles";
import { PLAIN_MAPPING, type KeyMapping, type Tuning } from "@/core/pitch/tuning";
import { MIDDLE_C_OCTAVES } from "@/core/pitch/note";
import { editSong } from "@/state/edits";
import { FileButton } from "@/ui/FileButton";
import { SelectRow } from "@/ui/Select";
import { useEditable, useProject, useStudio, useView } from "@/views/studio/studio";

/** Files of tunings are a few kilobytes. */
const LARGEST = 200_000;

const mappingOf = ({ firstKey, lastKey, middleKey, referenceKey, referenceHz, octaveDegree, mapping }: Tuning): KeyMapping => ({ firstKey, lastKey, middleKey, referenceKey, referenceHz, octaveDegree, mapping }); // prettier-ignore

/** Twelve equal steps: what a keyboard mapping alone is laid over. */
const EQUAL = { name: "Equal temperament", cents: Array.from({ length: 12 }, (_, i) => 100 * (i + 1)) };

/** How the song's keys are tuned and how middle C is named. */
export function TuningSection() {
  const { workspace, view, tell } = useStudio();
  const tuning = useProject((s) => s.project.song.tuning);
  const middleC = useView((v) => v.middleC);
  const editable = useEditable();
  const take = async (file: File): Promise<void> => {
    try {
      if (file.size > LARGEST) throw new TuningError("It is larger than 200 kB.");
      const text = await file.text();
      const isMapping = file.name.toLowerCase().endsWith(".kbm");
      const next: Tuning = isMapping
        ? { ...(tuning ?? EQUAL), ...parseMapping(text) }
        : { ...(tuning ? mappingOf(tuning) : PLAIN_MAPPING), ...parseScale(text) };
      workspace.store.edit(isMapping ? "Load a keyboard mapping" : `Tune to ${next.name}`, editSong({ tuning: next }));
    } catch (error) {
      const reason = error instanceof Error ? error.message : String(error);
      tell({ kind: "error", text: `"${file.name}" could not be read as a Scala scale (.scl) or mapping (.kbm). ${reason} Nothing was changed.` }); // prettier-ignore
    }
  };
  return (
    <section>
      <h3 className="heading mb-1">Tuning</h3>
      <p className="mb-1 truncate text-[11px] text-ink2" title={tuning?.name}>
        {tuning ? `${tuning.name}, ${tuning.cents.length} steps${tuning.mapping.length > 0 ? ", keys mapped" : ""}` : "Twelve equal steps an octave, A4 at 440 Hz"}
      </p>
      <div className="flex flex-wrap gap-1">
        <FileButton
          text="Load .scl or .kbm…"
          label="Scala tuning"
          accept=".scl,.kbm"
          disabled={!editable}
          onFile={(f) => void take(f)}
        />
        {tuning && (
          <button
            type="button"
            className="chip"
            disabled={!editable}
            onClick={() => workspace.store.edit("Tune equally", editSong({ tuning: null }))}
          >
            Equal
          </button>
        )}
      </div>
      <SelectRow
        label="Middle C is"
        name="Name of middle C"
        value={String(middleC)}
        options={MIDDLE_C_OCTAVES.map((o) => ({ value: String(o), text: `C${o}` }))}
        onChange={(o) => view.setState({ middleC: MIDDLE_C_OCTAVES.find((m) => String(m) === o)! })}
      />
    </section>
  ); // prettier-ignore
}
