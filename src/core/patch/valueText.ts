import { noteName, keyToHz, parseNote } from "../pitch/note";
import { clampToParameter, type Parameter, type Unit } from "./row";

const fixed = (value: number, digits: number): string => {
  const text = value.toFixed(digits);
  return Number(text) === 0 ? text.replace("-", "") : text.replace("-", "−");
};

/** A number with its unit as it is shown: "420 Hz", "1.20 kHz", "−6.0 dB", "+2.40 oct" when signed. */
export function formatAmount(value: number, unit: Unit, digits: number, signed = false): string {
  if (unit === "key") return noteName(value);
  const plus = signed && value > 0 ? "+" : "";
  if (unit === "Hz" && Math.abs(value) >= 1000) return `${plus}${fixed(value / 1000, 2)} kHz`;
  if (unit === "×") return `×${fixed(value, value >= 10 ? 1 : digits)}`;
  const glued = unit === "°" ? unit : unit && ` ${unit}`;
  return plus + fixed(value, unit === "Hz" && Math.abs(value) >= 100 ? 0 : digits) + glued;
}

export const formatValue = (p: Parameter, value: number): string =>
  p.offAtMin && value <= p.min ? "off" : formatAmount(value, p.unit, p.digits);

const NUMBER = /^([+\-−]?\d*[.,]?\d+)\s*(k)?\s*([a-z%°♯×]*)$/i;

/** What may stand behind a number, per unit. */
const SPELLINGS: Record<Unit, readonly string[]> = {
  Hz: ["hz"],
  dB: ["db"],
  "%": ["%", "percent"],
  st: ["st", "semitone", "semitones", "ct", "cent", "cents", "oct"],
  ct: ["ct", "cent", "cents", "c", "st"],
  "°": ["°", "deg", "degrees"],
  ms: ["ms", "s"],
  BPM: ["bpm"],
  oct: ["oct", "octave", "octaves", "st", "semitone", "semitones"],
  rad: ["rad", "radians", "°"],
  "×": ["×", "x", "st", "semitone", "semitones"],
  key: [],
  "": [],
};

/** How a value in a unit may be written, for whoever wrote something else. */
const EXAMPLES: Record<Unit, string> = {
  Hz: 'a frequency or a note: "440", "1.2k" or "A3"',
  dB: 'decibels: "-6" or "-6 dB"',
  "%": 'percent: "50" or "50 %"',
  st: 'semitones: "7", "-12 st" or "20 cents"',
  ct: 'cents: "20" or "20 cents"',
  "°": 'degrees: "180"',
  ms: 'a time: "250 ms" or "1.2 s"',
  BPM: 'beats per minute: "122.5"',
  oct: 'octaves or semitones: "2 oct" or "7 st"',
  rad: 'radians: "1.5" or "90°"',
  "×": 'a ratio or its interval: "2", "0.5" or "7 st"',
  key: 'a note: "A3", or its MIDI key: "57"',
  "": 'a whole number: "4"',
};

export const howToWrite = (unit: Unit): string => `Write ${EXAMPLES[unit]}.`;

/** Reads a number in a unit; null when the text is something else. Pitches may be given in each other's units. */
export function parseAmount(text: string, unit: Unit): number | null {
  const match = NUMBER.exec(unit === "×" ? text.trim().replace(/^[×x]\s*/i, "") : text.trim());
  if (!match) return null;
  const spelled = match[3]!.toLowerCase();
  if (spelled && !SPELLINGS[unit].includes(spelled)) return null;
  if (match[2] && unit !== "Hz") return null;
  const number = Number(match[1]!.replace("−", "-").replace(",", ".")) * (match[2] ? 1000 : 1);
  if (unit === "oct" && spelled.startsWith("s")) return number / 12;
  if (unit === "×" && spelled.startsWith("s")) return 2 ** (number / 12);
  if (unit === "rad" && spelled === "°") return (number * Math.PI) / 180;
  if (unit === "st" && spelled.startsWith("c")) return number / 100;
  if (unit === "st" && spelled === "oct") return number * 12;
  if (unit === "ct" && spelled === "st") return number * 100;
  return unit === "ms" && spelled === "s" ? number * 1000 : number;
}

/** Reads what a person typed for a parameter: "1.2k", "A3" (on frequencies), "-6dB", "off". Held in range; null when unreadable. */
export function parseValue(p: Parameter, text: string): number | null {
  if (p.offAtMin && text.trim().toLowerCase() === "off") return p.min;
  const key = p.unit === "Hz" || p.unit === "key" ? parseNote(text) : null;
  const value =
    key === null ? (parseShare(text, p) ?? parseAmount(text, p.unit)) : p.unit === "key" ? key : keyToHz(key);
  return value === null ? null : roundToDigits(p, clampToParameter(p, value));
}

/** Reads a share such as "93/127": of 100 percent, or of the most that a number without unit may be; of a ratio, itself ("3/2"). */
function parseShare(text: string, p: Parameter): number | null {
  const match = /^(\d{1,5})\s*\/\s*(\d{1,5})$/.exec(text.trim());
  if (!match || Number(match[2]) === 0 || (p.unit !== "%" && p.unit !== "" && p.unit !== "×")) return null;
  return (Number(match[1]) / Number(match[2])) * (p.unit === "×" ? 1 : p.unit === "%" ? 100 : p.max);
}

/** Whole numbers stay whole: a unison of 3.4 voices is 3. */
export function roundToDigits(p: Parameter, value: number): number {
  return p.whole || (p.digits === 0 && p.unit !== "Hz") ? Math.round(value) : value;
}

/** What a value is, for readers of a screen without pictures: frequencies with their note. */
export const spokenValue = (p: Parameter, value: number): string =>
  p.unit === "Hz"
    ? `${formatValue(p, value)}, about ${noteName(69 + 12 * Math.log2(value / 440))}`
    : formatValue(p, value);
