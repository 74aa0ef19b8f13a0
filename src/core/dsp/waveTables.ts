import { kernelArray } from "./kernels";
import { TABLE_BITS } from "./oscillator";
import { sinCycles } from "./portableMath";

/**
 * Band-limited waves: one table per third of an octave, each with the harmonics that stay below half the sample rate
 * at the top of its third. Linear interpolation between samples; one guard sample closes each table.
 */
export interface WaveTable {
  readonly samples: Float64Array;
  /** Samples from one level to the next; 0 when all levels are the same. */
  readonly stride: number;
}

const TABLE_SIZE = 1 << TABLE_BITS;
const STRIDE = TABLE_SIZE + 1;
/** Thirds of an octave below half the sample rate: level 30 holds one harmonic, level 0 all that a table can. */
const TOP_LEVEL = 30;

/** The table level for an oscillator whose increment is 2^`log2Increment` cycles a sample. */
export function waveLevel(log2Increment: number): number {
  const level = Math.ceil(TOP_LEVEL + 3 * (log2Increment + 1));
  return level < 0 ? 0 : level > TOP_LEVEL ? TOP_LEVEL : level;
}

const harmonicsOf = (level: number): number =>
  Math.min(TABLE_SIZE / 2 - 1, Math.floor(2 ** ((TOP_LEVEL - level) / 3) + 1e-9));

/** Sums `amplitude(h)` sines; each level adds its harmonics to those of the level above. */
function build(amplitude: (harmonic: number) => number): WaveTable {
  const sine = new Float64Array(TABLE_SIZE);
  for (let i = 0; i < TABLE_SIZE; i++) sine[i] = sinCycles(i / TABLE_SIZE);
  const samples = kernelArray(STRIDE * (TOP_LEVEL + 1));
  const sum = new Float64Array(TABLE_SIZE);
  let done = 0;
  for (let level = TOP_LEVEL; level >= 0; level--) {
    for (const top = harmonicsOf(level); done < top;) {
      const h = ++done;
      const a = amplitude(h);
      if (a !== 0) for (let i = 0; i < TABLE_SIZE; i++) sum[i]! += a * sine[(i * h) & (TABLE_SIZE - 1)]!;
    }
    samples.set(sum, level * STRIDE);
    samples[level * STRIDE + TABLE_SIZE] = sum[0]!;
  }
  return { samples, stride: STRIDE };
}

function buildSine(): WaveTable {
  const samples = kernelArray(STRIDE);
  for (let i = 0; i <= TABLE_SIZE; i++) samples[i] = sinCycles(i / TABLE_SIZE);
  return { samples, stride: 0 };
}

const made = new Map<number, WaveTable>();

export const WAVE_SINE = 0;
export const WAVE_TRIANGLE = 1;
export const WAVE_SAW = 2;
export const WAVE_PULSE = 3;

/**
 * The table of a wave, made once a thread: Fourier series of a sine, of a triangle (8/pi^2 sin(h)/h^2 on odd
 * harmonics, alternating) and of a rising saw (-2/pi sin(h)/h). A pulse is the difference of two saws and has no table.
 */
export function waveTable(wave: number): WaveTable {
  const kind = wave === WAVE_PULSE ? WAVE_SAW : wave;
  let table = made.get(kind);
  if (!table) {
    table =
      kind === WAVE_SINE
        ? buildSine()
        : kind === WAVE_TRIANGLE
          ? build((h) => (h % 2 === 0 ? 0 : ((h % 4 === 1 ? 1 : -1) * 8) / (Math.PI * Math.PI * h * h)))
          : build((h) => -2 / (Math.PI * h));
    made.set(kind, table);
  }
  return table;
}
