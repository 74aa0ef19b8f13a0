import type { Recording } from "../format/wavRead";
import { windowedSinc } from "./windowedSinc";

/**
 * A recording as the kernel of src/core/dsp/simd/recording.ts reads it: itself, and copies of half the rate each, so that
 * what is played faster than it was recorded does not fold back.
 */
export interface RecordingTable {
  readonly channels: 1 | 2;
  readonly sampleRate: number;
  /** Level by level, each with its sides one behind the other, each side between `PAD` zeros. */
  readonly samples: Float32Array<ArrayBuffer>;
  /** Per level: offset of the first sample of its left and right side, and its frames. */
  readonly levels: readonly (readonly [left: number, right: number, frames: number])[];
  /** The windowed sinc between two samples: see `sincTaps`. */
  readonly taps: Float32Array<ArrayBuffer>;
}

/** Samples that a value between two of them is made of. */
const TAPS = 16;
/** Places between two samples at which the sinc is known; between those it is read on a straight line. */
const PHASES = 256;
/** Zeros before and behind a side: the sinc reaches over the ends. */
const PAD = 32;
const RECORDING_LEVELS = 6;

/** Side lobes under -80 dB. */
const BETA = 8;

/** Weights of the 16 samples around each of 256 places and the next one's difference from them: rows of 32. */
function sincTaps(): Float32Array<ArrayBuffer> {
  const weights = (phase: number): number[] => {
    const all = Array.from({ length: TAPS }, (_, t) =>
      windowedSinc(t - (TAPS / 2 - 1) - phase / PHASES, 0.5, TAPS / 2, BETA),
    );
    // At every place they add up to one, so that a level stays what it is.
    const sum = all.reduce((s, v) => s + v, 0);
    return all.map((v) => v / sum);
  };
  const taps = new Float32Array(PHASES * 2 * TAPS);
  let next = weights(0);
  for (let p = 0; p < PHASES; p++) {
    const here = next;
    next = weights(p + 1);
    taps.set(here, p * 2 * TAPS);
    taps.set(
      next.map((v, t) => v - here[t]!),
      p * 2 * TAPS + TAPS,
    );
  }
  return taps;
}

let taps: Float32Array<ArrayBuffer> | null = null;

/** Taps on each side of a filter that halves the rate; of a half-band every second one is nothing. */
const HALVING = 24;
const halving = Float64Array.from({ length: HALVING }, (_, k) => windowedSinc(2 * k + 1, 0.25, 2 * HALVING, BETA));

/** Every second sample of what is left below half of the new rate. */
function halved(side: Float32Array): Float32Array {
  const reach = 2 * HALVING;
  // Of the kind that the weights are: a loop over arrays of several kinds takes twice as long.
  const padded = new Float64Array(side.length + 2 * reach);
  padded.set(side, reach);
  const out = new Float32Array(Math.ceil(side.length / 2));
  for (let i = 0; i < out.length; i++) {
    const at = 2 * i + reach;
    let sum = padded[at]! * 0.5;
    for (let k = 0; k < HALVING; k++) sum += halving[k]! * (padded[at - 2 * k - 1]! + padded[at + 2 * k + 1]!);
    out[i] = sum;
  }
  return out;
}

/** Makes the table of a recording: its first two channels. Some seconds of sound take some milliseconds, so not on the audio thread. */
export function recordingTable({ sampleRate, channels }: Recording): RecordingTable {
  taps ??= sincTaps();
  const sides = channels.length > 1 ? [channels[0]!, channels[1]!] : [channels[0]!];
  const levels: [number, number, number][] = [];
  const pieces: { at: number; side: Float32Array }[] = [];
  let length = 0;
  let now: Float32Array[] = sides;
  for (let level = 0; level < RECORDING_LEVELS; level++) {
    if (level > 0) now = now.map(halved);
    const places = now.map((side) => {
      const at = length + PAD;
      pieces.push({ at, side });
      length = at + side.length + PAD;
      return at;
    });
    levels.push([places[0]!, places.at(-1)!, now[0]!.length]);
  }
  const samples = new Float32Array(length);
  for (const { at, side } of pieces) samples.set(side, at);
  return { channels: sides.length === 2 ? 2 : 1, sampleRate, samples, levels, taps };
}
