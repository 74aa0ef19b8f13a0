import { stepRests } from "./bandLimitedStep";
import { cycleOf, keptBetween } from "./fourier";

/**
 * Band-limited waves: one table per third of an octave, each with the harmonics that stay below half the sample rate
 * at the top of its third. Tables with more harmonics have more samples, so that reading between two of them by a
 * straight line stays quiet at every pitch; what the line takes from a harmonic is given to it beforehand.
 */
export interface WaveTable {
  /** All levels, one behind the other, each closed by a guard that repeats its first sample. */
  readonly samples: Float32Array<ArrayBuffer>;
  /** Per level, 0 to 30: offset of its first sample, and log2 of its size. */
  readonly levels: readonly (readonly [offset: number, bits: number])[];
  /** For a wave that is straight but for one jump, of which low notes are made: see `stepRests`. */
  readonly rests: Float32Array<ArrayBuffer> | null;
}

/** Level 30 holds one harmonic, level 0 a thousand. */
export const TOP_LEVEL = 30;

export const harmonicsOf = (level: number): number => Math.floor(2 ** ((TOP_LEVEL - level) / 3) + 1e-9);

/**
 * Samples of a level. Between samples a straight line leaves images of harmonic h at about (h / size)^2 of it, so their
 * sum grows with harmonics^3 / size^4: these sizes keep it under -75 dB for the lowest notes and -100 dB around 1 kHz.
 */
const bitsOf = (level: number): number => {
  const harmonics = harmonicsOf(level);
  return harmonics > 400 ? 14 : harmonics > 200 ? 13 : 12;
};

export const WAVES = ["sine", "triangle", "saw"] as const;
export type WaveName = (typeof WAVES)[number];

/** Amplitude of each harmonic's sine: a triangle's 8/pi^2 /h^2 on odd ones, alternating; a rising saw's -2/pi /h. */
const SERIES: Record<WaveName, (h: number) => number> = {
  sine: (h) => (h === 1 ? 1 : 0),
  triangle: (h) => (h % 2 === 0 ? 0 : ((h % 4 === 1 ? 1 : -1) * 8) / (Math.PI * Math.PI * h * h)),
  saw: (h) => -2 / (Math.PI * h),
};

function build(wave: WaveName): WaveTable {
  const amplitude = SERIES[wave];
  const levels: [number, number][] = [];
  let length = 0;
  for (let level = 0; level <= TOP_LEVEL; level++) {
    levels.push([length, bitsOf(level)]);
    length += 2 ** bitsOf(level) + 1;
  }
  const sin = Float64Array.from({ length: harmonicsOf(0) }, (_, i) => amplitude(i + 1));
  const series = { cos: new Float64Array(sin.length), sin };
  const samples = new Float32Array(length);
  levels.forEach(([offset, bits], level) => {
    const size = 2 ** bits;
    const cycle = cycleOf(series, harmonicsOf(level), size, (h) => 1 / keptBetween(h, size));
    samples.set(cycle, offset);
    samples[offset + size] = cycle[0]!;
  });
  return { samples, levels, rests: wave === "saw" ? stepRests() : null };
}

const made = new Map<WaveName, WaveTable>();

/** The table of a wave, made once a thread: some tens of milliseconds, so never on the audio thread. */
export function waveTable(wave: WaveName): WaveTable {
  let table = made.get(wave);
  if (!table) {
    table = build(wave);
    made.set(wave, table);
  }
  return table;
}
