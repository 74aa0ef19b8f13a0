import { newModule } from "@/core/patch/kinds/kind";
import { PLAYING, type Playing } from "@/core/patch/kinds/playing";
import { modulesOf } from "@/core/patch/kinds";
import { editPart } from "@/state/edits";
import { useEditable, usePart, useStudio } from "@/views/studio/studio";
import { ModuleChoice, ModuleRow, ModuleTime } from "./rows";

const VOICES_TEXT: Record<Playing["choices"]["voices"], string> = { chords: "chords", one: "one note" };
const OVERLAP_TEXT: Record<Playing["choices"]["overlap"], string> = { restart: "start again", tied: "tied" };
const PRIORITY_TEXT: Record<Playing["choices"]["priority"], string> = {
  last: "newest",
  high: "highest",
  low: "lowest",
};
const GLIDES_TEXT: Record<Playing["choices"]["glides"], string> = { always: "always", overlapping: "overlapping" };
const TIME_TEXT: Record<Playing["choices"]["glideTime"], string> = { glide: "each glide", octave: "an octave" };

/** How a part plays its notes: all of them, or one at a time with ties and glides. */
export function PlayingSection() {
  const { workspace } = useStudio();
  const part = usePart();
  const editable = useEditable();
  const playing = modulesOf(part.patch.modules, PLAYING)[0];
  return (
    <section>
      <h3 className="heading mb-1">Playing</h3>
      {playing ? (
        <PlayingRows playing={playing} />
      ) : (
        <button
          type="button"
          className="chip"
          disabled={!editable}
          onClick={() =>
            workspace.store.edit(
              "Add a rule of playing",
              editPart(part.id, (p) => {
                const taken = new Set(p.patch.modules.map((m) => m.id));
                const id = taken.has("playing") ? "playing-rule" : "playing";
                return { ...p, patch: { ...p.patch, modules: [...p.patch.modules, newModule(PLAYING, id, "Playing", {})] } };
              }),
            )
          }
        >
          Choose how notes are played
        </button>
      )}
    </section>
  ); // prettier-ignore
}

function PlayingRows({ playing }: { playing: Playing }) {
  const { choices, rows, times } = PLAYING;
  const one = playing.choices.voices === "one";
  return (
    <>
      <ModuleChoice module={playing} choice={choices.voices} text={(o) => VOICES_TEXT[o]} />
      <ModuleRow module={playing} row={rows.pitch} />
      <ModuleRow module={playing} row={rows.velocityCurve} />
      <ModuleRow module={playing} row={rows.copies} text={(v) => (v === 1 ? "1 voice" : `${v} voices`)} />
      {playing.values.copies > 1 && (
        <>
          <ModuleRow module={playing} row={rows.copiesDetune} />
          <ModuleRow module={playing} row={rows.copiesWidth} />
        </>
      )}
      {!one && (
        <ModuleRow
          module={playing}
          row={rows.ringing}
          text={(v) => (v === rows.ringing.max ? "all of them" : v === 1 ? "1 note" : `${v} notes`)}
        />
      )}
      {!one && (
        <ModuleChoice
          module={playing}
          choice={choices.makesWay}
          text={(o) => `the ${o}`}
          title={(o) => `Where more notes would sound than may, the ${o} is faded; those that were let go come first`}
        />
      )}
      <ModuleRow module={playing} row={rows.bendRange} />
      {one && (
        <>
          <ModuleChoice module={playing} choice={choices.priority} shown text={(o) => PRIORITY_TEXT[o]} />
          <ModuleChoice module={playing} choice={choices.overlap} text={(o) => OVERLAP_TEXT[o]} />
          <ModuleTime module={playing} time={times.glide} />
          <ModuleChoice module={playing} choice={choices.glides} text={(o) => GLIDES_TEXT[o]} />
          <ModuleChoice module={playing} choice={choices.glideTime} text={(o) => TIME_TEXT[o]} />
        </>
      )}
    </>
  );
}
