import type { Reads } from "../motion/reads";
import { OSCILLATOR, OSCILLATOR_DATA, type Bend, type Oscillator } from "../patch/kinds/oscillator";
import { tableName, type TableSpec } from "../dsp/tableSpec";
import { RECORDING, type RecordingModule } from "../patch/kinds/recording";
import { SUB, type Sub } from "../patch/kinds/sub";
import type { Patch } from "../patch/project";
import { hzToKey } from "../pitch/note";
import { WITHOUT_BLEND, type AudioModule, type BentProgram } from "./program";

type OscillatorProgram = Extract<AudioModule, { kind: "oscillator" }>;

/** Gains that make the plain waves equally loud, the saw as it is: see loudness.test.ts. */
const WAVE_GAIN = { sine: 0.9716, triangle: 1.0965, saw: 1, pulse: 0.599 } as const;
/** What brings the frames of the plain table, which have a saw's power and fall where the plain saw rises, to -1 to 1. */
const FRAME_FULL = { sine: Math.sqrt(1.5), triangle: 1, saw: -1, pulse: 1 } as const;
/** Where the plain table holds a wave; a pulse is made of its saws. */
const FRAME_PLACE = { sine: 0, triangle: 100 / 3, saw: 200 / 3, pulse: 200 / 3 } as const;
/** A sine that has a saw's power reaches this. */
const SINE_OF_FRAME = Math.sqrt(2 / 3);

const BEND_NUMBERS: Record<Bend, number> = { none: 0, sync: 1, squeeze: 2, pulse: 3, mirror: 4, fold: 5, quantise: 6 };
const STACK_NUMBERS = { none: 0, octaves: 1, fifths: 2, minor: 3, major: 4 } as const;
const SPREAD_NUMBERS = { even: 0, middle: 1, ends: 2 } as const;
const INNER_NUMBERS = { sine: 0, triangle: 1, saw: 2, square: 3 } as const;

const PLAIN_WAVES: ReadonlySet<string> = new Set(["sine", "triangle", "saw", "pulse"]);
const isPlain = (wave: Oscillator["choices"]["wave"]): wave is keyof typeof WAVE_GAIN => PLAIN_WAVES.has(wave);

/** The source that turns or rings an oscillator, where it is one and runs before it. */
const listensTo = (id: string | null, before: ReadonlySet<string>): string | null =>
  id !== null && before.has(id) ? id : null;

/** How a wave is bent and turned; null where nothing does. `before` holds the sources that run before it. */
function bentProgram(m: Oscillator, reads: Reads, before: ReadonlySet<string>): BentProgram | null {
  const { rows } = OSCILLATOR;
  const { choices } = m;
  const of = (on: boolean, row: (typeof rows)["bend1"]): number | null => (on ? reads.optional(m, row) : null);
  const amount1 = of(choices.bend1 !== "none", rows.bend1);
  const amount2 = of(choices.bend2 !== "none", rows.bend2);
  const pmFrom = listensTo(m.data.pmFrom, before);
  const ringFrom = listensTo(m.data.ringFrom, before);
  const pm = of(pmFrom !== null, rows.pm);
  const ring = of(ringFrom !== null, rows.ring);
  const inner = reads.optional(m, rows.inner);
  const feedback = reads.optional(m, rows.feedback);
  if ([amount1, amount2, pm, ring, inner, feedback].every((use) => use === null)) return null;
  const fixed = choices.innerPitch === "hz";
  return {
    full: isPlain(choices.wave) ? FRAME_FULL[choices.wave] : 1,
    bend1: BEND_NUMBERS[amount1 === null ? "none" : choices.bend1],
    bend2: BEND_NUMBERS[amount2 === null ? "none" : choices.bend2],
    amount1,
    amount2,
    innerWave: inner === null ? -1 : INNER_NUMBERS[choices.inner],
    innerFixed: fixed,
    inner,
    ratio: inner === null ? null : reads.hz(m, fixed ? rows.innerHz : rows.ratio),
    pmFrom: pm === null ? null : pmFrom,
    pm,
    ringFrom: ring === null ? null : ringFrom,
    ring,
    feedback,
  };
}

function tableOf(m: Oscillator, way: OscillatorProgram["way"]): TableSpec {
  const { wave } = m.choices;
  if (isPlain(wave)) {
    if (way === "plain") return { kind: "wave", wave: wave === "pulse" ? "saw" : wave };
    return { kind: "own", id: "plain" };
  }
  if (wave === "table") return { kind: "own", id: m.data.table };
  if (wave === "drawn") return { kind: "drawn", frames: m.data.drawn };
  if (wave === "harmonics") return { kind: "harmonics", weights: m.data.weights };
  const { recording, length, even } = m.data.cycles;
  // Cycles of nothing yet sound as a drawn wave does at first.
  if (wave === "cycles")
    return recording === null
      ? { kind: "drawn", frames: OSCILLATOR_DATA.drawn }
      : { kind: "cycles", hash: recording, length, even };
  return { kind: "corners", corners: m.data.corners };
}

/** Sources that others listen to. */
export const tapped = (patch: Patch): ReadonlySet<string> =>
  new Set(
    patch.modules.flatMap((m) =>
      m.kind === "oscillator" && m.on ? [m.data.pmFrom, m.data.ringFrom].filter((id) => id !== null) : [],
    ),
  );

/** An oscillator as its runtime reads it. */
export function oscillatorProgram(
  m: Oscillator,
  bus: number,
  reads: Reads,
  heard: boolean,
  before: ReadonlySet<string>,
): OscillatorProgram {
  const { rows } = OSCILLATOR;
  const { wave } = m.choices;
  const bent = bentProgram(m, reads, before);
  const plain = isPlain(wave);
  const way = bent ? "bent" : plain ? "plain" : "frames";
  const table = tableOf(m, way);
  const gain = plain ? WAVE_GAIN[wave] : 1;
  return {
    kind: "oscillator",
    id: m.id,
    way,
    table,
    tableName: tableName(table),
    pulse: wave === "pulse",
    gain,
    unison: m.values.unison,
    stack: STACK_NUMBERS[m.choices.stack] | (SPREAD_NUMBERS[m.choices.spread] << 4) | ((100 - m.values.blend) << 8),
    phase: m.values.phase / 360,
    start: m.choices.start,
    pitch: reads.pitch(m, rows, m.choices.keys === "fixed" ? hzToKey(m.values.fixed) : null, 12 * m.values.octave),
    detune: reads.plain(m, rows.detune),
    width: reads.plain(m, rows.width),
    pulseWidth: reads.plain(m, rows.pulseWidth),
    position: plain
      ? reads.constant(m, rows.position, FRAME_PLACE[wave])
      : reads.plain(m, wave === "harmonics" ? rows.weighting : rows.position),
    upward: wave === "corners" ? reads.plain(m, rows.upward) : null,
    bent,
    tapScale: !heard ? null : plain ? 1 / WAVE_GAIN[wave] : 1 / SINE_OF_FRAME,
    level: reads.level(m, rows.level),
    pan: reads.plain(m, rows.pan),
    bus,
  };
}

/** A sub as its runtime reads it: a plain oscillator. */
export function subProgram(m: Sub, bus: number, reads: Reads, heard: boolean): OscillatorProgram {
  const { rows } = SUB;
  const nothing = reads.constant(m, rows.pan, 0);
  const table: TableSpec = { kind: "wave", wave: m.choices.wave };
  return {
    kind: "oscillator",
    id: m.id,
    way: "plain",
    table,
    tableName: tableName(table),
    pulse: false,
    gain: WAVE_GAIN[m.choices.wave],
    unison: 1,
    stack: STACK_NUMBERS.none,
    phase: m.values.phase / 360,
    start: "fixed",
    pitch: reads.pitch(m, rows, null, m.choices.below === "one" ? -12 : -24),
    detune: nothing,
    width: nothing,
    pulseWidth: nothing,
    position: nothing,
    upward: null,
    bent: null,
    tapScale: heard ? 1 / WAVE_GAIN[m.choices.wave] : null,
    level: reads.level(m, rows.level),
    pan: reads.plain(m, rows.pan),
    bus,
  };
}

/** A recording as its runtime reads it; null without one. */
export function recordingProgram(
  m: RecordingModule,
  bus: number,
  reads: Reads,
  heard: boolean,
): Extract<AudioModule, { kind: "recording" }> | null {
  const { rows } = RECORDING;
  if (m.data.recording === null) return null;
  const table: TableSpec = { kind: "recording", hash: m.data.recording };
  return {
    kind: "recording",
    id: m.id,
    table,
    tableName: tableName(table),
    looped: m.choices.plays === "looped",
    root: m.values.root,
    scatter: m.values.scatter / 100,
    pitch: reads.pitch(m, rows, m.choices.keys === "fixed" ? m.values.root : null, 0),
    from: reads.plain(m, rows.from),
    to: reads.plain(m, rows.to),
    back: reads.plain(m, rows.back),
    seam: reads.constant(m, rows.seam, m.values.seam),
    level: reads.level(m, rows.level),
    pan: reads.plain(m, rows.pan),
    tapScale: heard ? 1 : null,
    bus,
  };
}

/** What of an oscillator cannot glide from one program to another. */
export const oscillatorStructure = (m: OscillatorProgram): unknown[] => [
  m.way, m.tableName, m.pulse, m.unison, m.stack & WITHOUT_BLEND, m.upward === null, m.tapScale,
  ...(m.bent
    ? [m.bent.bend1, m.bent.bend2, m.bent.innerWave, m.bent.innerFixed, m.bent.pmFrom, m.bent.ringFrom, m.bent.feedback === null]
    : []),
]; // prettier-ignore
