import type { CurvePoint } from "../curve/curve";
import { VOICE_PARAMETERS, parameter, type VoiceParameterId } from "./parameters";
import {
  AMP_ENVELOPE,
  FORMAT,
  VERSION,
  type Arpeggio,
  type Envelope,
  type Part,
  type Patch,
  type Project,
  type Shape,
} from "./project";

/** Starting points for new things. Ids come from the caller: the core draws nothing by chance. */

const defaultValues = (): Record<VoiceParameterId, number> =>
  Object.fromEntries(VOICE_PARAMETERS.map((p) => [p.id, p.default])) as Record<VoiceParameterId, number>;

export const newEnvelope = (id: string, name: string): Envelope => ({
  kind: "envelope",
  id,
  name,
  attack: { unit: "ms", ms: 2 },
  decay: { unit: "ms", ms: 200 },
  sustain: parameter("envelope.sustain").default,
  release: { unit: "ms", ms: 120 },
  attackCurve: parameter("envelope.attackCurve").default,
  decayCurve: parameter("envelope.decayCurve").default,
  releaseCurve: parameter("envelope.releaseCurve").default,
});

const RISE_AND_FALL: readonly CurvePoint[] = [
  { x: 0, y: 0, tension: 30 },
  { x: 0.5, y: 1, tension: 30 },
  { x: 1, y: 0, tension: 0 },
];

/** A new shape restarts with the bar, so that it cannot slide off it. */
export const newShape = (id: string, name: string): Shape => ({
  kind: "shape",
  id,
  name,
  points: RISE_AND_FALL,
  rate: { unit: "note", num: 1, den: 4 },
  restart: "bar",
  phase: parameter("shape.phase").default,
  smoothing: parameter("shape.smoothing").default,
});

const newPatch = (): Patch => ({
  values: defaultValues(),
  choices: { "osc.wave": "saw", "osc.start": "fixed", "filter.type": "lp24" },
  modulators: [newEnvelope(AMP_ENVELOPE, "Amp")],
  routes: [{ id: "velocity-level", source: "velocity", target: "amp.level", amount: -18, on: true, reversed: true }],
});

export const newArpeggio = (): Arpeggio => ({
  on: false,
  order: "up",
  octaves: parameter("arp.octaves").default,
  rate: { num: 1, den: 16 },
  gate: parameter("arp.gate").default,
  swingFrom: "song",
  swing: parameter("arp.swing").default,
  length: parameter("arp.length").default,
});

export const newPart = (id: string, name: string): Part => ({
  id,
  name,
  notes: [],
  arpeggio: newArpeggio(),
  patch: newPatch(),
});

/** An empty project: 120 BPM, 4/4, four bars, one part without notes. */
export const newProject = (id: string, name: string, seed: number): Project => ({
  format: FORMAT,
  version: VERSION,
  id,
  name,
  song: {
    tempoBpm: parameter("song.tempo").default,
    meter: { beats: 4, unit: 4 },
    loopBars: parameter("song.loopBars").default,
    swing: { percent: parameter("song.swing").default, grid: 16 },
    key: { tonic: 9, scale: "minor" },
  },
  parts: [newPart("part-1", "Part 1")],
  outputTrim: parameter("output.trim").default,
  seed,
});
