import { Plus } from "lucide-react";
import { useEditable, usePart, useStudio } from "@/views/studio/studio";
import { ADDABLE_SOUND, addSound, fullOf, type AddableSound } from "./soundActions";

const SOUND_TITLES: Record<AddableSound, string> = {
  oscillator: "Adds an oscillator, which goes where the first one goes",
  noise: "Adds noise, which goes where the first source goes",
  recording: "Adds a recording, which goes where the first source goes",
  sub: "Adds a sine an octave down, which goes past the filters",
  filter: "Adds a filter before the amp",
};

const IN_LINE = "flex cursor-pointer items-center gap-1 text-[11px] whitespace-nowrap text-ink2 hover:text-ink disabled:cursor-default disabled:opacity-50"; // prettier-ignore

/** Buttons that add sources and filters to the part, as chips or in a line of text. */
export function AddSounds({ chips = false }: { chips?: boolean }) {
  const studio = useStudio();
  const part = usePart();
  const editable = useEditable();
  return ADDABLE_SOUND.map((sound) => {
    const full = fullOf(part.patch, sound);
    return (
      <button
        key={sound}
        type="button"
        className={chips ? "chip" : IN_LINE}
        disabled={!editable || full !== null}
        title={full ?? SOUND_TITLES[sound]}
        onClick={() => addSound(studio, part, sound)}
      >
        {chips ? "+ " : <Plus size={12} />} {sound}
      </button>
    );
  });
}
