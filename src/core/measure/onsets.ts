import rfft from "fourier-transform";

/** Where something begins in a recording. */
export interface Onset {
  readonly sec: number;
  /** How much begins there, against the strongest of the recording: 0 to 1. */
  readonly strength: number;
}

/** Frames of a spectrum; one is taken every HOP_SEC. */
const WINDOW = 1024;
const HOP_SEC = 0.005;
/** Spectra that are compared lie so many hops apart. */
const LAG = 2;
/** A rise counts from this far below the loudest line of the recording, so that its noise floor does not. */
const FLOOR_DB = -60;
/** An onset stands out from what rises around it, over so long. */
const AROUND_SEC = 0.15;
/** Two onsets are at least so far apart. */
const APART_SEC = 0.045;
/** The rise is sought so far around the spectrum that told of it, in steps of a millisecond, between spans of so long. */
const SEEK_SEC = 0.02;
const SPAN_SEC = 0.004;

const hann = Float64Array.from({ length: WINDOW }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / WINDOW));

/** Edges of bands of half an octave, in lines of the spectrum: each holds one at least, so that a kick counts as a hat does. */
function bandEdges(sampleRate: number): number[] {
  const edges: number[] = [1];
  for (let hz = 60; hz < Math.min(16_000, sampleRate / 2); hz *= Math.SQRT2) {
    const line = Math.round((hz * WINDOW) / sampleRate);
    if (line > edges.at(-1)!) edges.push(line);
  }
  return edges;
}

/**
 * How much the spectrum rises from frame to frame: the spectral flux of its bands, on a scale of decibels (Dixon, "Onset Detection
 * Revisited", 2006, from memory). Yields the share that is done; returns one number a hop.
 */
function* flux(x: Float32Array, sampleRate: number): Generator<number, Float64Array> {
  const hop = Math.round(HOP_SEC * sampleRate);
  // A spectrum that reached past the end would take it for a beginning.
  const count = Math.max(1, Math.floor((x.length - WINDOW / 2) / hop) + 1);
  const edges = bandEdges(sampleRate);
  const bands = edges.length - 1;
  const frame = new Float64Array(WINDOW);
  const spectrumAt = (n: number): Float64Array => {
    const from = n * hop - WINDOW / 2;
    for (let i = 0; i < WINDOW; i++) frame[i] = (x[from + i] ?? 0) * hann[i]!;
    return rfft(frame);
  };
  const power = new Float64Array(count * bands);
  let loudest = 0;
  for (let n = 0; n < count; n++) {
    const spectrum = spectrumAt(n);
    for (let b = 0; b < bands; b++) {
      let sum = 0;
      for (let k = edges[b]!; k < edges[b + 1]!; k++) sum += spectrum[k]! * spectrum[k]!;
      power[n * bands + b] = sum;
      if (sum > loudest) loudest = sum;
    }
    if (n % 256 === 0) yield (0.9 * n) / count;
  }
  const out = new Float64Array(count);
  if (loudest === 0) return out;
  const floor = loudest * 10 ** (FLOOR_DB / 10);
  for (let n = 0; n < count; n++)
    for (let b = 0; b < bands; b++) {
      const now = Math.log10(1 + power[n * bands + b]! / floor);
      const before = n < LAG ? 0 : Math.log10(1 + power[(n - LAG) * bands + b]! / floor);
      out[n] = out[n]! + Math.max(0, now - before);
    }
  return out;
}

/** The moment near `sec` at which the sound rises most against what came just before. */
function risesAt(x: Float32Array, sampleRate: number, sec: number, quiet: number): number {
  const span = Math.round(SPAN_SEC * sampleRate);
  /** The mean square of a span that begins at a sample; beyond its ends the recording is silent. */
  const energy = (from: number): number => {
    let sum = 0;
    for (let i = from; i < from + span; i++) sum += (x[i] ?? 0) ** 2;
    return sum / span;
  };
  let best = sec;
  let most = -Infinity;
  for (let by = -SEEK_SEC; by <= SEEK_SEC; by += 0.001) {
    const at = Math.round((sec + by) * sampleRate);
    const rise = (energy(at) + quiet) / (energy(at - span) + quiet);
    if (rise > most) {
      most = rise;
      best = Math.max(0, at / sampleRate);
    }
  }
  return best;
}

/**
 * Finds where things begin in one side of a recording: peaks of the spectral flux that stand out from what is around them,
 * each moved to where the sound itself rises. Yields the share that is done, 0 to 1. Weak ones are told as such; whoever
 * asks leaves them out. In order of time, none for silence.
 */
export function* findOnsets(x: Float32Array, sampleRate: number): Generator<number, Onset[]> {
  const f = yield* flux(x, sampleRate);
  const hopSec = Math.round(HOP_SEC * sampleRate) / sampleRate;
  const around = Math.round(AROUND_SEC / hopSec);
  const apart = Math.round(APART_SEC / hopSec);
  let power = 0;
  for (const v of x) power = Math.max(power, v * v);
  const quiet = power * 1e-6;
  const found: { sec: number; out: number }[] = [];
  let last = -Infinity;
  for (let n = 0; n < f.length; n++) {
    if (n % 64 === 0) yield 0.9 + (0.1 * n) / f.length;
    const near = f.subarray(Math.max(0, n - around), n + around + 1);
    const sorted = near.slice().sort();
    const median = sorted[sorted.length >> 1]!;
    const peak = f.subarray(Math.max(0, n - apart), n + apart + 1).every((v) => v <= f[n]!);
    if (!peak || f[n]! <= 0 || n - last < apart) continue;
    last = n;
    // A spectrum stands for its middle; the rise lies up to half a window before it.
    found.push({
      sec: risesAt(x, sampleRate, Math.max(0, n * hopSec - (LAG * hopSec) / 2), quiet),
      out: f[n]! - median,
    });
  }
  const strongest = found.reduce((most, o) => Math.max(most, o.out), 0);
  return found.filter((o) => o.out > 0).map(({ sec, out }) => ({ sec, strength: out / strongest }));
}

/** A tempo that a list of onsets goes by. */
export interface TempoGuess {
  readonly tempoBpm: number;
  /** Whole beats that the recording then lasts, where it is cut to a loop; null where it is not. */
  readonly beats: number | null;
}

const TEMPI = { low: 70, high: 180 };

/** A recording is taken for a loop if its length makes whole bars of four beats at a tempo so near to the one found. */
const LOOP_NEAR = 0.015;

/**
 * The tempo at which most of the strength of the onsets falls on beats and their parts; where the recording would then last
 * whole bars of four beats, exactly that of the loop. Null for fewer than four onsets.
 */
export function guessTempo(onsets: readonly Onset[], lengthSec: number): TempoGuess | null {
  if (onsets.length < 4) return null;
  const first = onsets[0]!.sec;
  const fit = (bpm: number): number => {
    let sum = 0;
    for (const o of onsets) {
      const at = ((o.sec - first) * bpm) / 60;
      // Half of it for sixteenths, a quarter each for eighths and beats.
      sum += o.strength * (0.25 * Math.cos(2 * Math.PI * at) + 0.25 * Math.cos(4 * Math.PI * at) + 0.5 * Math.cos(8 * Math.PI * at)); // prettier-ignore
    }
    // A slow tempo fits as well as its double: the one nearer to the middle of the range is taken.
    return sum * (1 - 0.25 * Math.abs(Math.log2(bpm / 120)));
  };
  let best = TEMPI.low;
  for (let bpm = TEMPI.low; bpm <= TEMPI.high; bpm += 0.05) if (fit(bpm) > fit(best)) best = bpm;
  const beats = 4 * Math.round((lengthSec * best) / 240);
  const ofLoop = (60 * beats) / lengthSec;
  if (Math.abs(ofLoop / best - 1) < LOOP_NEAR) return { tempoBpm: Math.round(ofLoop * 100) / 100, beats };
  return { tempoBpm: Math.round(best * 20) / 20, beats: null };
}

/** How loud a recording is over its length: the root of the mean square of each of `count` equal pieces. */
export function levels(x: Float32Array, count: number): Float64Array {
  return Float64Array.from({ length: count }, (_, i) => {
    const from = Math.floor((i * x.length) / count);
    const to = Math.max(from + 1, Math.floor(((i + 1) * x.length) / count));
    let sum = 0;
    for (let k = from; k < Math.min(to, x.length); k++) sum += x[k]! * x[k]!;
    return Math.sqrt(sum / (to - from));
  });
}
