import type { CurvePoint } from "../curve/curve";
import type { Address } from "./address";
import { addressOfRow } from "./kinds";
import { AMP } from "./kinds/amp";
import { ENVELOPE, type Envelope } from "./kinds/envelope";
import { FILTER } from "./kinds/filter";
import { FOLLOWER, type Follower } from "./kinds/follower";
import { GATE, type Gate } from "./kinds/gate";
import { adjusted, newModule } from "./kinds/kind";
import { KIT, type Kit, type KitStep } from "./kinds/kit";
import { OSCILLATOR, OSCILLATOR_DATA, type Oscillator } from "./kinds/oscillator";
import { PLAYING } from "./kinds/playing";
import { MACRO, type Macro } from "./kinds/macro";
import { newMix } from "./kinds/mix";
import { RANDOM, type Random } from "./kinds/random";
import { STEPS, type Steps } from "./kinds/steps";
import { SHAPE, type Shape } from "./kinds/shape";
import { PLAY, REST } from "./lanes";
import { FORMAT, VERSION, type Arpeggio, type Part, type Patch, type Project, type Route } from "./project";
import { ARPEGGIO_ROWS, SONG_ROWS } from "./rows";

/** Starting points for new things. Ids come from the caller: the core draws nothing by chance. */

export const newEnvelope = (id: string, name: string): Envelope =>
  newModule(ENVELOPE, id, name, { triggers: [], notesOf: null });

export const newOscillator = (id: string, name: string): Oscillator => newModule(OSCILLATOR, id, name, OSCILLATOR_DATA);

const RISE_AND_FALL: readonly CurvePoint[] = [
  { x: 0, y: 0, tension: 30 },
  { x: 0.5, y: 1, tension: 30 },
  { x: 1, y: 0, tension: 0 },
];

/** A new shape restarts with the bar, so that it cannot slide off it. */
export const newShape = (id: string, name: string): Shape =>
  newModule(SHAPE, id, name, { points: RISE_AND_FALL, triggers: [], notesOf: null });

/** Goes round like a sine, from the middle up first: within 2.2 % of its height. */
const ROUND: readonly CurvePoint[] = [
  { x: 0, y: 0.5, tension: 21 },
  { x: 0.25, y: 1, tension: -21 },
  { x: 0.5, y: 0.5, tension: 21 },
  { x: 0.75, y: 0, tension: -21 },
  { x: 1, y: 0.5, tension: 0 },
];

/** A vibrato of 6 Hz, which starts with each note. */
export const newVibrato = (id: string, name: string): Shape => {
  const made = newModule(SHAPE, id, name, { points: ROUND, triggers: [], notesOf: null });
  return adjusted(made, { choices: { restart: "note" }, times: { rate: { unit: "hz", hz: 6 } } });
};

/**
 * An oscillator that is not heard: eight octaves below the key that plays, 1.022 Hz at middle C (261.626 Hz / 2^8), and so
 * with every bend and glide.
 */
export const newSilent = (id: string, name: string): Shape =>
  adjusted(newModule(SHAPE, id, name, { points: ROUND, triggers: [], notesOf: null }), {
    values: { keyFollow: 100, smoothing: 0 },
    choices: { restart: "note" },
    times: { rate: { unit: "hz", hz: 1.022 } },
  });

/** An envelope that falls at once: what plucks a filter. */
export const newPluck = (id: string, name: string): Envelope => {
  const made = newEnvelope(id, name);
  const ms = (length: number) => ({ unit: "ms", ms: length }) as const;
  return {
    ...made,
    values: { ...made.values, sustain: 0 },
    times: { ...made.times, attack: ms(0), decay: ms(200), release: ms(200) },
  };
};

/** A new gate opens on every second of sixteen steps. */
export const newGate = (id: string, name: string): Gate =>
  newModule(GATE, id, name, { steps: Array.from({ length: 16 }, (_, i) => (i % 2 === 0 ? PLAY : REST)) });

/** Eight steps of a sixteenth, up and down. */
export const newSteps = (id: string, name: string): Steps =>
  newModule(STEPS, id, name, {
    steps: [0, 4, 8, 12, 8, 4, 0, 4].map((v) => ({
      value: v / 12,
      second: 0,
      form: "flat",
      glide: 0,
      chance: 100,
      hold: false,
    })),
    triggers: [],
    notesOf: null,
  });

/** Even draws; what may be drawn leaves most of them off. */
export const newRandom = (id: string, name: string): Random =>
  newModule(RANDOM, id, name, {
    points: [
      { x: 0, y: 0, tension: 0 },
      { x: 0.7, y: 0, tension: 0 },
      { x: 1, y: 1, tension: 0 },
    ],
    kept: [],
  });

export const newFollower = (id: string, name: string): Follower => newModule(FOLLOWER, id, name, { notesOf: null });

export const newMacro = (id: string, name: string): Macro => newModule(MACRO, id, name, {});

/** A route from rest that follows its source. */
export const newRoute = (id: string, source: string, target: Address, amount: number): Route => ({
  id,
  source,
  target,
  amount,
  amplitude: false,
  around: false,
  reversed: false,
  curve: null,
  scaledBy: null,
  atStart: false,
  tap: 0,
  on: true,
});

/** One oscillator through one filter; the velocity is heard. */
export const newPatch = (): Patch => {
  const osc = newOscillator("osc", "Oscillator");
  const filter = newModule(FILTER, "filter", "Filter", {});
  const envelope = newEnvelope("amp-envelope", "Amp");
  const amp = newModule(AMP, "amp", "Amp", { envelope: envelope.id });
  return {
    modules: [osc, filter, amp, newMix(), newModule(PLAYING, "playing", "Playing", {}), envelope],
    cables: [
      { from: osc.id, to: filter.id },
      { from: filter.id, to: amp.id },
    ],
    routes: [{ ...newRoute("velocity-level", "velocity", addressOfRow(amp, AMP.rows.level), -18), reversed: true }],
  };
};

/** What arpeggios of older files lack: as they always played. */
export const ARPEGGIO_LATER = {
  repeatEnds: false,
  restart: "loop",
  latch: false,
  transposeIn: "semitones",
  lanes: {},
} as const satisfies Partial<Arpeggio>;

export const newArpeggio = (): Arpeggio => ({
  on: false,
  order: "up",
  octaves: ARPEGGIO_ROWS.octaves.default,
  rate: { num: 1, den: 16 },
  gate: ARPEGGIO_ROWS.gate.default,
  swingFrom: "song",
  swing: ARPEGGIO_ROWS.swing.default,
  length: ARPEGGIO_ROWS.length.default,
  ...ARPEGGIO_LATER,
});

/** What parts of older files lack. */
export const PART_LATER = {
  mix: { mute: false, solo: false },
  follows: null,
  noteChord: null,
} as const satisfies Partial<Part>;

export const newPart = (id: string, name: string): Part => ({
  id,
  name,
  notes: [],
  ...PART_LATER,
  arpeggio: newArpeggio(),
  patch: newPatch(),
});

/** What older files lack. */
export const PROJECT_LATER = { backing: null } as const satisfies Partial<Project>;

/** A backing that strikes what its steps say. */
export const newKit = (id: string, steps: readonly KitStep[]): Kit => newModule(KIT, id, "Backing", { steps });

/** An empty project: 120 BPM, 4/4, four bars, one part without notes. */
export const newProject = (id: string, name: string, seed: number): Project => ({
  format: FORMAT,
  version: VERSION,
  id,
  name,
  song: {
    tempoBpm: SONG_ROWS.tempo.default,
    meter: { beats: 4, unit: 4 },
    loopBars: SONG_ROWS.loopBars.default,
    swing: { percent: SONG_ROWS.swing.default, grid: 16 },
    key: { tonic: 9, scale: "minor" },
    tuning: null,
  },
  modules: [],
  ...PROJECT_LATER,
  parts: [newPart("part-1", "Part 1")],
  binaries: [],
  outputTrim: SONG_ROWS.trim.default,
  seed,
});
