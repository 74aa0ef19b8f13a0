import { nextHeap } from "./nextHeap";

/**
 * Kernels on their own, against scalar references in float64 that are written from the formulas. Lanes are voices, rows are
 * [use][lane], a segment is row, row, first frame, frame after the last.
 */
export const RATE = 48_000;
export const LANES = 64;
const USES = 6;
export const ROW = USES * LANES;

/** One at a time: each takes the memory of the one before. */
export class Bench {
  readonly heap = nextHeap();
  readonly rowsAt = this.heap.take(8 * ROW * 8);
  readonly rows = this.heap.float64(this.rowsAt, 8 * ROW);
  readonly bus = this.heap.take(2048);
  readonly segmentsAt = this.heap.take(256);
  readonly startsAt = this.heap.take(16);
  readonly scratch = this.heap.take(2048);

  set(row: number, use: number, values: readonly number[]): void {
    values.forEach((v, lane) => (this.rows[row * ROW + use * LANES + lane] = v));
  }
  /** Segments at whose ends all lanes have a corner, unless `corners` says otherwise. */
  segments(list: readonly (readonly [number, number, number, number])[], corners: readonly number[] = []): void {
    const words = list.flatMap((s, i) => {
      let end = i;
      while ((corners[end] ?? 15) !== 15) end++;
      return [...s, corners[i] ?? 15, list[end]![1], list[end]![3], 0];
    });
    this.heap.int32(this.segmentsAt, words.length).set(words);
  }
  lane(side: 0 | 1, lane: number): number[] {
    const view = this.heap.float32(this.bus, 512);
    const frames = new Array<number>(64).fill(0);
    for (let i = 0; i < 64; i++) frames[i] = view[side * 256 + i * 4 + lane]!;
    return frames;
  }
  fill(value: (side: number, lane: number, frame: number) => number): void {
    const view = this.heap.float32(this.bus, 512);
    for (let s = 0; s < 2; s++)
      for (let l = 0; l < 4; l++) for (let i = 0; i < 64; i++) view[s * 256 + i * 4 + l] = value(s, l, i);
  }
}

/** Error in dB of full scale. */
export const errorDb = (a: readonly number[], b: readonly number[]): number =>
  20 * Math.log10(a.reduce((worst, v, i) => Math.max(worst, Math.abs(v - b[i]!)), 1e-12));

/** Error in dB of full scale, as power: what is heard of it. */
export const noiseDb = (a: readonly number[], b: readonly number[]): number =>
  10 * Math.log10(a.reduce((sum, v, i) => sum + (v - b[i]!) ** 2, 1e-24) / a.length);
