import { Plus } from "lucide-react";
import { memo } from "react";
import { useEditable, useOfPart, useStudio } from "@/views/studio/studio";
import { withActions } from "@/views/studio/actions";
import { ADDABLE_SOUND, fullOf, type AddableSound } from "./soundRoom";

const SOUND_TITLES: Record<AddableSound, string> = {
  oscillator: "Adds an oscillator, which goes where the first one goes",
  noise: "Adds noise, which goes where the first source goes",
  recording: "Adds a recording, which goes where the first source goes",
  sub: "Adds a sine an octave down, which goes past the filters",
  filter: "Adds a filter before the amp",
};

const IN_LINE = "flex cursor-pointer items-center gap-1 text-[11px] whitespace-nowrap text-ink2 hover:text-ink disabled:cursor-default disabled:opacity-50"; // prettier-ignore

/** Buttons that add sources and filters to the part, as chips or in a line of text. */
export const AddSounds = memo(function AddSounds({ chips = false }: { chips?: boolean }) {
  return (Object.keys(ADDABLE_SOUND) as AddableSound[]).map((sound) => (
    <AddSound key={sound} sound={sound} chips={chips} />
  ));
});

function AddSound({ sound, chips }: { sound: AddableSound; chips: boolean }) {
  const studio = useStudio();
  const full = useOfPart((part) => fullOf(part.patch, sound));
  const editable = useEditable();
  return (
    <button
      type="button"
      className={chips ? "chip" : IN_LINE}
      disabled={!editable || full !== null}
      title={full ?? SOUND_TITLES[sound]}
      onClick={() => void withActions((a) => a.addSound(studio, studio.part, sound))}
    >
      {chips ? "+ " : <Plus size={12} />} {sound}
    </button>
  );
}
