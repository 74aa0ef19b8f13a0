/**
 * Keys of the computer's keyboard as a piano, by where they lie and not by what is printed on them: each row of letters
 * white, the row above it black, two octaves and a bit from the left.
 */
const LOWER = ["KeyZ", "KeyS", "KeyX", "KeyD", "KeyC", "KeyV", "KeyG", "KeyB", "KeyH", "KeyN", "KeyJ", "KeyM"];
const UPPER = ["KeyQ", "Digit2", "KeyW", "Digit3", "KeyE", "KeyR", "Digit5", "KeyT", "Digit6", "KeyY", "Digit7", "KeyU", "KeyI", "Digit9", "KeyO", "Digit0", "KeyP"]; // prettier-ignore

/** Where the typed keys begin: C3, MIDI key 48. */
export const FIRST_TYPED = 48;

const TYPED = new Map<string, number>([
  ...LOWER.map((code, i) => [code, FIRST_TYPED + i] as const),
  ...UPPER.map((code, i) => [code, FIRST_TYPED + 12 + i] as const),
]);

/** The MIDI key of a place on the keyboard; null for one that plays nothing. */
export function typedKey(code: string, octave: number): number | null {
  const key = TYPED.get(code);
  if (key === undefined) return null;
  const moved = key + 12 * octave;
  return moved >= 0 && moved <= 127 ? moved : null;
}

/** What is printed on the place that plays a key, on a keyboard in the English order; null where none does. */
export function typedLetter(midiKey: number, octave: number): string | null {
  for (const [code, key] of TYPED) if (key + 12 * octave === midiKey) return code.replace(/^Key|^Digit/, "");
  return null;
}
