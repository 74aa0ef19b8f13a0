import { rms } from "./studio";

/** Loudness of a stretch in blocks of 10 ms. */
export function blocks({ left, sampleRate }: Heard): number[] {
  const n = Math.round(sampleRate / 100);
  return Array.from({ length: Math.floor(left.length / n) }, (_, i) => rms(left.subarray(i * n, (i + 1) * n)));
}

/** How often a line rises through its mean, with a margin so that its ripple does not count. */
export function rises(line: readonly number[]): number {
  const [low, high] = [Math.min(...line), Math.max(...line)];
  const [down, up] = [low + 0.3 * (high - low), low + 0.7 * (high - low)];
  let count = 0;
  let isUp = line[0]! > up;
  for (const v of line) {
    if (!isUp && v > up) count++;
    isUp = isUp ? v > down : v > up;
  }
  return count;
}

/** How bright a tone of `hz` is, every 10 ms over two of its cycles: a difference leaves what lies high. */
export const bright = (x: Float32Array, sampleRate: number, hz: number): number[] => {
  const n = Math.round((2 * sampleRate) / hz);
  const hop = Math.round(sampleRate / 100);
  const high = x.map((v, k) => (k === 0 ? 0 : v - x[k - 1]!));
  return Array.from({ length: Math.floor((x.length - n) / hop) }, (_, i) => rms(high.subarray(i * hop, i * hop + n)));
};

export interface Heard {
  readonly left: Float32Array;
  readonly sampleRate: number;
}

/** A stretch of what was heard, in seconds. */
export const part = ({ left, sampleRate }: Heard, from: number, sec: number): Float32Array =>
  left.subarray(Math.round(from * sampleRate), Math.round((from + sec) * sampleRate));

export const toDb = (ratio: number): number => 20 * Math.log10(ratio);
