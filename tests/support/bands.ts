import { spectrumOf } from "./spectrum";
/** What a render is held to: its level in each band and beat, and where sound sets in. */
export interface Bands {
  /** dB, a row a beat: whole, then bands of an octave and a half from 40 Hz up. Below -80 is written as -80. */
  readonly levels: readonly (readonly number[])[];
  /** Seconds at which the sound jumps up by 12 dB within 3 ms. */
  readonly onsets: readonly number[];
}

const EDGES = [40, 113, 320, 905, 2560, 7240, 20_480];
const FLOOR_DB = -80;
const round = (x: number, digits: number): number => Number(x.toFixed(digits));
const toDb = (power: number): number => Math.max(FLOOR_DB, 10 * Math.log10(power + 1e-30));

/** Power of both sides in each band over [from, to), by fft.js. */
function powers(sides: readonly Float32Array[], from: number, to: number, rate: number): number[] {
  let size = 1;
  while (size < to - from) size *= 2;
  const sums = new Array<number>(EDGES.length).fill(0);
  for (const side of sides) {
    const input = new Float64Array(size);
    input.set(side.subarray(from, Math.min(to, side.length)));
    const out = spectrumOf(input);
    let band = -1;
    for (let k = 1; k < size / 2; k++) {
      const hz = (k * rate) / size;
      const power = (2 * (out[2 * k]! ** 2 + out[2 * k + 1]! ** 2)) / size / (to - from);
      sums[0]! += power;
      while (band + 1 < EDGES.length && hz >= EDGES[band + 1]!) band++;
      if (band !== -1 && band + 1 < EDGES.length) sums[band + 1]! += power;
    }
  }
  return sums;
}

export function bandsOf(left: Float32Array, right: Float32Array, rate: number, beatFrames: number): Bands {
  const levels: number[][] = [];
  for (let beat = 0; Math.round((beat + 1) * beatFrames) <= left.length; beat++)
    levels.push(
      powers([left, right], Math.round(beat * beatFrames), Math.round((beat + 1) * beatFrames), rate).map((p) =>
        round(toDb(p), 2),
      ),
    );
  const step = Math.round(rate * 0.001);
  const envelope = Array.from({ length: Math.floor(left.length / step) }, (_, k) => {
    let sum = 0;
    for (let i = k * step; i < (k + 1) * step; i++) sum += left[i]! ** 2 + right[i]! ** 2;
    return toDb(sum / step);
  });
  const onsets: number[] = [];
  envelope.forEach((db, k) => {
    const before = Math.max(envelope[k - 1] ?? FLOOR_DB, envelope[k - 2] ?? FLOOR_DB, envelope[k - 3] ?? FLOOR_DB);
    const last = onsets.at(-1) ?? -1;
    if (db > -50 && db > before + 12 && k * 0.001 > last + 0.01) onsets.push(round(k * 0.001, 3));
  });
  return { levels, onsets };
}
