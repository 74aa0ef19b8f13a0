import { chordKeys, type ChordSymbol } from "../pitch/chord";
import { barTicks } from "../time/meter";
import { newEnvelope, newPart, newProject } from "./defaults";
import { AMP_ENVELOPE, type Envelope, type Note, type Part, type Project, type Shape } from "./project";

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

const amp: Envelope = {
  ...newEnvelope(AMP_ENVELOPE, "Amp"),
  attack: { unit: "ms", ms: 1.5 },
  decay: { unit: "ms", ms: 420 },
  sustain: 45,
  release: { unit: "ms", ms: 160 },
  decayCurve: 60,
  releaseCurve: 60,
};

const pluck: Envelope = {
  ...newEnvelope("pluck", "Pluck"),
  attack: { unit: "ms", ms: 1 },
  decay: { unit: "ms", ms: 210 },
  sustain: 0,
  release: { unit: "ms", ms: 210 },
  decayCurve: 65,
  releaseCurve: 65,
};

const swell: Shape = {
  kind: "shape",
  id: "swell",
  name: "Swell",
  points: [
    { x: 0, y: 0, tension: 55 },
    { x: 0.25, y: 0.72, tension: -40 },
    { x: 0.375, y: 0.42, tension: 0 },
    { x: 0.5, y: 0.95, tension: 60 },
    { x: 0.75, y: 0.3, tension: -55 },
    { x: 1, y: 0, tension: 0 },
  ],
  rate: { unit: "note", num: 1, den: 2 },
  restart: "bar",
  phase: 0,
  smoothing: 4,
};

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
    },
    patch: {
      ...part.patch,
      values: {
        ...part.patch.values,
        "osc.octave": 1,
        "osc.unison": 5,
        "osc.detune": 14,
        "osc.width": 70,
        "filter.cutoff": 420,
        "filter.resonance": 34,
        "filter.keyFollow": 40,
        "amp.level": -11,
      },
      modulators: [amp, pluck, swell],
      routes: [
        { id: "swell-cutoff", source: "swell", target: "filter.cutoff", amount: 2.4, on: true, reversed: false },
        { id: "pluck-cutoff", source: "pluck", target: "filter.cutoff", amount: 1.8, on: true, reversed: false },
        { id: "swell-resonance", source: "swell", target: "filter.resonance", amount: 14, on: true, reversed: false },
        { id: "velocity-level", source: "velocity", target: "amp.level", amount: -18, on: true, reversed: true },
      ],
    },
  };
}

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
    parts: [rigging()],
  };
};
