import { chordKeys, type ChordSymbol } from "../pitch/chord";
import { barTicks } from "../time/meter";
import {
  newEnvelope,
  newFollower,
  newKit,
  newGate,
  newMacro,
  newPart,
  newProject,
  newRandom,
  newRoute,
  newShape,
  newSteps,
} from "./defaults";
import { addressOf } from "./address";
import { AUTOMATION, type Automation } from "./kinds/automation";
import { adjusted, newModule } from "./kinds/kind";
import type { KitStep } from "./kinds/kit";
import type { Macro } from "./kinds/macro";
import type { Random } from "./kinds/random";
import type { SequenceStep, StepForm, Steps } from "./kinds/steps";
import type { Envelope } from "./kinds/envelope";
import type { Gate } from "./kinds/gate";
import type { Module } from "./kinds";
import type { Shape } from "./kinds/shape";
import { newLane, type LaneId, type StepLane } from "./lanes";
import type { Note, Part, Project } from "./project";

/** "Night Crossing", from the made-up Lantern Ferry festival of Port Veldra: four bars of D minor at 122 BPM. */

const CHORDS: readonly { root: number; symbol: ChordSymbol }[] = [
  { root: 50, symbol: "m" },
  { root: 46, symbol: "M" },
  { root: 53, symbol: "M" },
  { root: 48, symbol: "M" },
];

const METER = { beats: 4, unit: 4 } as const;

const notes = (): Note[] =>
  CHORDS.flatMap((chord, bar) =>
    chordKeys(chord.root, chord.symbol).map((key, i) => ({
      id: `n${bar + 1}-${i + 1}`,
      startTick: bar * barTicks(METER),
      lengthTicks: barTicks(METER),
      key,
      velocity: 100 - 6 * i,
    })),
  );

function envelope(id: string, name: string, ms: [number, number, number], sustain: number, curve: number): Envelope {
  const made = newEnvelope(id, name);
  return {
    ...made,
    values: { ...made.values, sustain, decayCurve: curve, releaseCurve: curve },
    times: {
      ...made.times,
      attack: { unit: "ms", ms: ms[0] },
      decay: { unit: "ms", ms: ms[1] },
      release: { unit: "ms", ms: ms[2] },
    },
  };
}

/** Once round the loop with the song. */
const drift = (): Shape =>
  adjusted(newShape("drift", "Drift"), {
    values: { sides: 90 },
    choices: { restart: "song" },
    times: { rate: { unit: "bars", bars: 4 } },
  });

function swell(): Shape {
  const made = newShape("swell", "Swell");
  return {
    ...made,
    values: { ...made.values, smoothing: 4 },
    times: { ...made.times, rate: { unit: "note", num: 1, den: 2 } },
    data: {
      ...made.data,
      points: [
        { x: 0, y: 0, tension: 55 },
        { x: 0.25, y: 0.72, tension: -40 },
        { x: 0.375, y: 0.42, tension: 0 },
        { x: 0.5, y: 0.95, tension: 60 },
        { x: 0.75, y: 0.3, tension: -55 },
        { x: 1, y: 0, tension: 0 },
      ],
    },
  };
}

/** Dips the level between the strokes of a rhythm of 3 + 3 + 2. */
function oars(): Gate {
  const made = newGate("oars", "Oars");
  return {
    ...made,
    values: { ...made.values, attack: 4, hold: 80, tail: 60 },
    data: { steps: [1, 2, 0, 1, 2, 0, 1, 0, 1, 2, 0, 1, 2, 0, 1, 0] },
  };
}

function sounding(m: Module): Module {
  switch (m.kind) {
    case "oscillator":
      return { ...m, values: { ...m.values, octave: 1, unison: 5, detune: 14, width: 70 } };
    case "filter":
      return { ...m, values: { ...m.values, cutoff: 420, resonance: 34, keyFollow: 40 } };
    case "amp":
      return { ...m, values: { ...m.values, level: -9 } };
    case "envelope":
      return envelope(m.id, m.name, [1.5, 420, 160], 45, 60);
    default:
      return m;
  }
}

const lane = (id: LaneId, values: readonly number[]): StepLane => ({ ...newLane(id, values.length), values });

function rigging(): Part {
  const part = newPart("rigging", "Rigging");
  return {
    ...part,
    notes: notes(),
    arpeggio: {
      ...part.arpeggio,
      on: true,
      order: "upDown",
      octaves: 2,
      rate: { num: 1, den: 16 },
      gate: 62,
      length: 16,
      lanes: {
        // Twelve against the sixteen of the gate: together they repeat after three bars.
        velocity: lane("velocity", [100, 62, 78, 92, 58, 74, 100, 66, 84, 60, 92, 70]),
        gate: {
          ...lane("gate", [62, 40, 40, 62, 62, 34, 62, 40, 62, 40, 40, 62, 62, 34, 90, 46]),
          ranges: Array.from({ length: 16 }, (_, i) => (i % 4 === 1 ? 14 : 0)),
        },
      },
    },
    patch: {
      ...part.patch,
      modules: [...part.patch.modules.map(sounding), envelope("pluck", "Pluck", [1, 210, 210], 0, 65), swell(), oars()],
      routes: [
        newRoute("swell-cutoff", "swell", "filter.cutoff", 2.4),
        newRoute("pluck-cutoff", "pluck", "filter.cutoff", 1.8),
        newRoute("swell-resonance", "swell", "filter.resonance", 14),
        // The louder the swell, the longer the strokes ring into each other.
        newRoute("swell-tail", "swell", "oars.tail", 1.5),
        { ...newRoute("oars-level", "oars", "amp.level", -40), amplitude: true, reversed: true },
        ...part.patch.routes,
      ],
    },
  };
}

/** The roots under the chords, in threes and twos of sixteenths; the last stroke leads on. */
const WAKE_STROKES = [[0, 2, 0], [3, 2, 0], [6, 2, 12], [8, 2, 0], [11, 2, 0], [14, 2, 7]] as const; // prettier-ignore
const WAKE_ROOTS = [38, 34, 41, 36] as const;

/** Eighths that each run in their own way: the fourth swells into the next bar half. */
function chop(): Steps {
  const made = newSteps("chop", "Chop");
  const step = (value: number, form: StepForm): SequenceStep => ({ value, second: 0, form, glide: 0, chance: 100, hold: false });
  return {
    ...made,
    times: { rate: { unit: "note", num: 1, den: 8 } },
    data: {
      ...made.data,
      steps: [step(0.2, "flat"), step(0.8, "drop"), step(0.5, "fall"), step(1, "swell"), step(0.2, "flat"), step(0.9, "drop"), { ...step(0, "flat"), hold: true }, { ...step(1, "hill"), chance: 60 }],
    },
  };
} // prettier-ignore

const growl = (): Macro => {
  const made = newMacro("growl", "Growl");
  return { ...made, values: { ...made.values, value: 40, low: 30, curve: -20 } };
};

const growlRises = (): Automation =>
  newModule(AUTOMATION, "growl-rises", "Growl rises", {
    target: "growl.value",
    points: [
      { x: 0, y: 0.2, tension: -40 },
      { x: 0.75, y: 0.8, tension: 0 },
      { x: 0.9375, y: 1, tension: 0 },
      { x: 1, y: 0.2, tension: 0 },
    ],
  });

/** Sets each note of the choir somewhere else. */
const spray = (): Random => {
  const made = newRandom("spray", "Spray");
  return { ...made, choices: { ...made.choices, draws: "note", likely: "middle" } };
};

/** A bass that is turned within itself, through the driven four-pole: one note at a time, gliding where they touch. */
function wake(): Part {
  const part = newPart("wake", "Wake");
  const sixteenth = barTicks(METER) / 16;
  return {
    ...part,
    notes: WAKE_ROOTS.flatMap((root, bar) =>
      WAKE_STROKES.map(([step, steps, up], i): Note => ({
        id: `w${bar + 1}-${i + 1}`,
        startTick: bar * barTicks(METER) + step * sixteenth,
        lengthTicks: steps * sixteenth,
        key: root + up,
        velocity: i % 2 === 0 ? 104 : 84,
      })),
    ),
    patch: {
      ...part.patch,
      modules: [
        ...part.patch.modules.map((m): Module => {
          switch (m.kind) {
            case "oscillator":
              return { ...m, name: "Keel", values: { ...m.values, inner: 0.6, ratio: 2, level: -3 }, choices: { ...m.choices, wave: "sine" } };
            case "filter":
              return { ...m, values: { ...m.values, cutoff: 180, resonance: 38, drive: 9, keyFollow: 50 }, choices: { type: "ladder" } };
            case "amp":
              return { ...m, values: { ...m.values, level: -7 } };
            case "playing":
              return { ...m, choices: { ...m.choices, voices: "one", overlap: "restart" } };
            case "envelope":
              return envelope(m.id, m.name, [3, 260, 60], 70, 40);
            default:
              return m;
          }
        }),
        envelope("thump", "Thump", [1, 150, 120], 0, 55),
        chop(),
        growl(),
        growlRises(),
      ],
      routes: [
        // How much the bass growls is the macro's, which rises through the bars.
        { ...newRoute("thump-turn", "thump", "osc.inner", 3.6), scaledBy: "growl" },
        newRoute("thump-cutoff", "thump", "filter.cutoff", 2.1),
        { ...newRoute("chop-cutoff", "chop", "filter.cutoff", 1.2), scaledBy: "growl" },
        ...part.patch.routes,
      ],
    },
  };
} // prettier-ignore

/** A choir that follows the arpeggio an octave up, its lows taken away, its vowels drifting through the bars. */
function mist(): Part {
  const part = newPart("mist", "Mist");
  return {
    ...part,
    follows: { part: "rigging", semitones: 12, later: { num: 3, den: 16 }, linked: false },
    patch: {
      ...part.patch,
      modules: [
        ...part.patch.modules.map((m): Module => {
          switch (m.kind) {
            case "oscillator":
              return { ...m, name: "Voices", values: { ...m.values, unison: 4, detune: 18, width: 100, position: 10 }, choices: { ...m.choices, wave: "table", spread: "middle" }, data: { ...m.data, table: "choir" } };
            case "filter":
              return { ...m, values: { ...m.values, cutoff: 600, resonance: 5 }, choices: { type: "hp24" } };
            case "amp":
              return { ...m, values: { ...m.values, level: -15 } };
            case "mix":
              return { ...m, values: { ...m.values, level: -6 } };
            case "envelope":
              return envelope(m.id, m.name, [30, 300, 400], 50, 40);
            default:
              return m;
          }
        }),
        drift(),
        spray(),
        // The bass comes first: the layer makes way for its notes, as far as they are loud.
        // And for the kick of the backing, for an eighth.
        adjusted(newFollower("undertow", "Undertow"), { data: { notesOf: addressOf(DRUMS_ID, "kick") }, choices: { level: "shaped" }, times: { release: { unit: "note", num: 1, den: 16 } } }),
        adjusted(newFollower("ebb", "Ebb"), { data: { notesOf: "wake" }, choices: { level: "shaped" }, times: { release: { unit: "note", num: 1, den: 8 } } }),
      ],
      routes: [
        newRoute("undertow-level", "undertow", "part.level", -9),
        newRoute("ebb-level", "ebb", "amp.level", -6),
        newRoute("drift-voices", "drift", "osc.position", 70),
        // The two sides of the choir open a quarter of the way apart.
        newRoute("drift-cutoff", "drift", "filter.cutoff", 0.9),
        { ...newRoute("spray-pan", "spray", "osc.pan", 70), around: true },
        ...part.patch.routes,
      ],
    },
  };
} // prettier-ignore

const DRUMS_ID = "drums";
const stroke = (kick: number, clap: number, hat: number): KitStep => ({ kick, clap, hat });
/** A kick on every beat, a clap on every other, hats off the beats. */
const BEAT = [0, 1, 2, 3].flatMap((beat) => [
  stroke(112, beat % 2 === 1 ? 100 : 0, 0),
  stroke(0, 0, 50),
  stroke(0, 0, 104),
  stroke(0, 0, 62),
]);

/** The demo project under an id of the caller's. */
export const demoProject = (id: string): Project => {
  const project = newProject(id, "Night Crossing", 20261);
  return {
    ...project,
    song: {
      ...project.song,
      tempoBpm: 122,
      meter: METER,
      swing: { percent: 54, grid: 16 },
      key: { tonic: 2, scale: "minor" },
    },
    backing: adjusted(newKit(DRUMS_ID, BEAT), {
      values: { level: -10, kickPitch: 49, clapLevel: -12, hatLevel: -18, hatDecay: 60 },
    }),
    parts: [rigging(), wake(), mist()],
  };
};
