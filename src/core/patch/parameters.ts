/** One row per parameter: the schema, value rows, modulation targets and the engine all read this table. */

export type Unit = "Hz" | "dB" | "%" | "st" | "ct" | "°" | "ms" | "BPM" | "oct" | "";

export interface Parameter {
  /** Written into files: never renamed, never reused. */
  readonly id: string;
  readonly label: string;
  readonly unit: Unit;
  readonly min: number;
  readonly max: number;
  readonly default: number;
  readonly taper: "linear" | "log";
  /** What one arrow key moves: an amount for linear tapers, a ratio for log ones. */
  readonly step: number;
  /** What Shift with an arrow key moves, in the same sense. */
  readonly fine: number;
  readonly digits: number;
  /** Below this the value is called "off" and means silence (levels only). */
  readonly offAtMin?: boolean;
  /** Which modulation it takes: the unit of an amount and how far an amount may go either way. Null: not movable. */
  readonly move: { readonly unit: Unit; readonly reach: number } | null;
  /** How long an edit takes to glide in while sounding, so that it does not click. */
  readonly smoothingMs: number;
}

type Row = Pick<Parameter, "id" | "label" | "unit" | "min" | "max" | "default"> & Partial<Parameter>;
const row = <const T extends Row>(r: T): Parameter & { readonly id: T["id"] } => ({
  taper: "linear",
  step: 1,
  fine: 0.1,
  digits: 0,
  move: null,
  smoothingMs: 10,
  ...r,
});

/** The parameters of a voice, in the order in which the engine reads them. */
export const VOICE_PARAMETERS = [
  row({ id: "osc.octave", label: "Octave", unit: "oct", min: -4, max: 4, default: 0, fine: 1 }),
  row({ id: "osc.pitch", label: "Pitch", unit: "st", min: -24, max: 24, default: 0, digits: 2, fine: 0.01, move: { unit: "st", reach: 48 } }),
  row({ id: "osc.fine", label: "Fine", unit: "ct", min: -100, max: 100, default: 0, digits: 1 }),
  row({ id: "osc.pulseWidth", label: "Pulse width", unit: "%", min: 5, max: 95, default: 50, digits: 1 }),
  row({ id: "osc.unison", label: "Unison", unit: "", min: 1, max: 16, default: 1, fine: 1 }),
  row({ id: "osc.detune", label: "Detune", unit: "ct", min: 0, max: 100, default: 12, digits: 1 }),
  row({ id: "osc.width", label: "Width", unit: "%", min: 0, max: 100, default: 60, digits: 0, fine: 1, step: 5 }),
  row({ id: "osc.phase", label: "Start phase", unit: "°", min: 0, max: 360, default: 0, step: 15, fine: 1 }),
  row({ id: "filter.cutoff", label: "Cutoff", unit: "Hz", min: 20, max: 20_000, default: 1_200, taper: "log", step: 2 ** (1 / 12), fine: 2 ** (1 / 120), digits: 1, move: { unit: "oct", reach: 8 } }),
  row({ id: "filter.resonance", label: "Resonance", unit: "%", min: 0, max: 100, default: 10, digits: 1, move: { unit: "%", reach: 100 } }),
  row({ id: "filter.keyFollow", label: "Key follow", unit: "%", min: 0, max: 150, default: 0, step: 5, fine: 1 }),
  row({ id: "amp.level", label: "Level", unit: "dB", min: -60, max: 6, default: -12, digits: 1, step: 1, offAtMin: true, move: { unit: "dB", reach: 60 } }),
  row({ id: "amp.pan", label: "Pan", unit: "%", min: -100, max: 100, default: 0, step: 5, fine: 1, move: { unit: "%", reach: 200 } }),
] as const; // prettier-ignore

export type VoiceParameterId = (typeof VOICE_PARAMETERS)[number]["id"];

/** The parameters of everything else that is set by a number. */
export const OTHER_PARAMETERS = [
  row({ id: "song.tempo", label: "Tempo", unit: "BPM", min: 20, max: 400, default: 120, digits: 2, fine: 0.01 }),
  row({ id: "song.loopBars", label: "Loop", unit: "", min: 1, max: 32, default: 4, fine: 1 }),
  row({ id: "song.swing", label: "Swing", unit: "%", min: 50, max: 75, default: 50, digits: 1 }),
  row({ id: "output.trim", label: "Level trim", unit: "dB", min: -24, max: 12, default: 0, digits: 1 }),
  row({ id: "arp.octaves", label: "Octaves", unit: "", min: 1, max: 4, default: 1, fine: 1 }),
  row({ id: "arp.gate", label: "Gate", unit: "%", min: 1, max: 200, default: 60, step: 5, fine: 1 }),
  row({ id: "arp.swing", label: "Own swing", unit: "%", min: 50, max: 75, default: 50, digits: 1 }),
  row({ id: "arp.length", label: "Length", unit: "", min: 1, max: 64, default: 16, fine: 1 }),
  row({ id: "shape.phase", label: "Starts at", unit: "°", min: 0, max: 360, default: 0, step: 15, fine: 1 }),
  row({ id: "shape.smoothing", label: "Smoothing", unit: "ms", min: 0, max: 200, default: 2, digits: 1 }),
  row({ id: "envelope.sustain", label: "Sustain", unit: "%", min: 0, max: 100, default: 60, digits: 1 }),
  row({ id: "envelope.attackCurve", label: "Attack curve", unit: "%", min: -100, max: 100, default: 0, step: 5, fine: 1 }),
  row({ id: "envelope.decayCurve", label: "Decay curve", unit: "%", min: -100, max: 100, default: 50, step: 5, fine: 1 }),
  row({ id: "envelope.releaseCurve", label: "Release curve", unit: "%", min: -100, max: 100, default: 50, step: 5, fine: 1 }),
  row({ id: "note.velocity", label: "Velocity", unit: "", min: 1, max: 127, default: 100, step: 5, fine: 1 }),
] as const; // prettier-ignore

export type ParameterId = VoiceParameterId | (typeof OTHER_PARAMETERS)[number]["id"];

const BY_ID = new Map<string, Parameter>([...VOICE_PARAMETERS, ...OTHER_PARAMETERS].map((p) => [p.id, p]));

/** The row of a parameter. Throws RangeError for an id outside the table. */
export function parameter(id: ParameterId): Parameter {
  const found = BY_ID.get(id);
  if (!found) throw new RangeError(`parameter ${id} is not in the table`);
  return found;
}

/** The movable parameters, in the order in which the engine keeps them. */
export const TARGET_IDS = ["osc.pitch", "amp.level", "filter.cutoff", "filter.resonance", "amp.pan"] as const;
export type TargetId = (typeof TARGET_IDS)[number];

/** A NaN becomes the default: one that got into a filter's memory would never leave. */
export function clampToParameter(p: Parameter, value: number): number {
  if (Number.isNaN(value)) return p.default;
  return Math.min(p.max, Math.max(p.min, value));
}

/** Place on the parameter's scale, 0 to 1. */
export const toNorm = (p: Parameter, value: number): number =>
  p.taper === "log" ? Math.log(value / p.min) / Math.log(p.max / p.min) : (value - p.min) / (p.max - p.min);

export const fromNorm = (p: Parameter, norm: number): number =>
  p.taper === "log" ? p.min * (p.max / p.min) ** norm : p.min + norm * (p.max - p.min);

/** The value with an amount of modulation added, in the amount's unit (octaves on frequencies), held in range. */
export const moved = (p: Parameter, value: number, amount: number): number =>
  clampToParameter(p, p.move?.unit === "oct" ? value * 2 ** amount : value + amount);

export const CHOICES = {
  "osc.wave": { label: "Wave", options: ["sine", "triangle", "saw", "pulse"] },
  "osc.start": { label: "Start", options: ["fixed", "random"] },
  "filter.type": { label: "Type", options: ["lp24", "lp12", "bp12", "hp12"] },
} as const;
export type ChoiceId = keyof typeof CHOICES;
export type ChoiceOf<T extends ChoiceId> = (typeof CHOICES)[T]["options"][number];
