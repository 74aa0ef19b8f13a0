import { noteName, parseNote } from "@/core/pitch/note";
import { formatPosition, parsePosition, type Meter } from "@/core/time/meter";
import { NOTE_VALUES, noteValueName, noteValueTicks, parseNoteValue } from "@/core/time/noteValue";
import type { Song } from "@/core/patch/project";
import type { HandledValue, StepSize } from "@/ui/useValueHands";

type Take = (value: number, gesture?: string) => void;

const STEPS: Record<StepSize, number> = { step: 1, fine: 1, page: 4 };

/** A whole number for the hands, on a scale of its own and with a text of its own. */
function wholeValue(
  value: number,
  { min, max, unit, fine }: { min: number; max: number; unit: number; fine: number },
  text: string,
  set: Take,
  read: (typed: string) => number | null,
  how: string,
): HandledValue {
  const held = (v: number): number => Math.min(max, Math.max(min, Math.round(v)));
  return {
    norm: Math.min(1, Math.max(0, (value - min) / Math.max(1, max - min))),
    text,
    origin: 0,
    now: value,
    min,
    max,
    spoken: text,
    setNorm: (norm, gesture, finely) => set(held(Math.round((min + norm * (max - min)) / (finely ? fine : unit)) * (finely ? fine : unit)), gesture), // prettier-ignore
    step: (direction, size, gesture) => set(held(value + direction * STEPS[size] * (size === "fine" ? fine : unit)), gesture), // prettier-ignore
    type: (typed) => {
      const number = read(typed);
      if (number === null || number < min || number > max) return how;
      set(Math.round(number));
      return null;
    },
    reset: () => undefined,
  };
}

/** Where a note starts. */
export const positionValue = (tick: number, meter: Meter, snap: number, end: number, set: Take): HandledValue =>
  wholeValue(
    tick,
    { min: 0, max: end - 1, unit: snap, fine: Math.max(1, Math.round(snap / 8)) },
    formatPosition(tick, meter),
    set,
    (typed) => parsePosition(typed, meter),
    'Write a place of the loop: "2", "1.3" or "1.3.2".',
  );

/** How long a note lasts: as a note value where it is one, else in ticks of 960 a quarter. */
export function lengthValue(ticks: number, song: Song, snap: number, set: Take): HandledValue {
  const named = NOTE_VALUES.find((v) => noteValueTicks(v) === ticks);
  const most = (song.loopBars * song.meter.beats * 3840) / song.meter.unit;
  return wholeValue(
    ticks,
    { min: 1, max: Math.max(most, ticks), unit: snap, fine: Math.max(1, Math.round(snap / 8)) },
    named ? noteValueName(named) : `${ticks} ticks`,
    set,
    (typed) => {
      const value = parseNoteValue(typed);
      if (value) return noteValueTicks(value);
      const bare = /^(\d{1,7})\s*(?:ticks?)?$/.exec(typed.trim());
      return bare ? Number(bare[1]) : null;
    },
    'Write a note value or ticks: "1/8", "1/4D" or "480".',
  );
}

/** A key, by its note. */
export const keyValue = (key: number, flats: boolean, set: Take): HandledValue =>
  wholeValue(
    key,
    { min: 0, max: 127, unit: 1, fine: 1 },
    noteName(key, flats),
    set,
    (typed) => {
      const note = parseNote(typed);
      if (note !== null) return note;
      return /^\d{1,3}$/.test(typed.trim()) ? Number(typed) : null;
    },
    'Write a note or a MIDI key: "C4", "F♯3" or "60".',
  );
