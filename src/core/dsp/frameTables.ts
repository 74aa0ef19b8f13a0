import { cycleOf, keptBetween, type Harmonics } from "./fourier";

/**
 * Wave tables of several frames between which a position moves. They are read at twice the sample rate or more, so an octave
 * of harmonics more than can be heard does no harm: a level an octave suffices, each with half of the harmonics of the one
 * before.
 */
export interface FrameTable {
  readonly frames: number;
  /** Frame by frame, each with all its levels, each level closed by a guard that repeats its first sample. */
  readonly samples: Float32Array<ArrayBuffer>;
  /** Values of a frame. */
  readonly frameLength: number;
  /** Correlation of each frame with the next one; or, of four corners, of each with each. */
  readonly alike: Float32Array<ArrayBuffer>;
  /** Per level: offset of its first sample in the frame, and log2 of its size. */
  readonly levels: readonly (readonly [offset: number, bits: number])[];
}

/** Harmonics of the fullest level: up to 20 kHz at 40 Hz. */
export const MOST_HARMONICS = 512;
export const FRAME_LEVELS = 10;
export const MAX_FRAMES = 256;

/** Samples of a level: a straight line between them leaves images that fall with (harmonics / samples)^2. */
const bitsOf = (level: number): number => Math.max(10, 13 - level);

/** Root of the mean square of a cycle with these harmonics. */
const rms = ({ cos, sin }: Harmonics): number =>
  Math.sqrt(cos.reduce((sum, c, i) => sum + c * c + sin[i]! ** 2, 0) / 2);

/** That of a saw from -1 to 1: frames are made as loud as that. */
const LEVEL = 1 / Math.sqrt(3);

/** How alike two cycles are, -1 to 1; silent ones are like nothing. */
function correlation(a: Harmonics, b: Harmonics): number {
  const power = 2 * rms(a) * rms(b);
  if (power < 1e-18) return a === b ? 1 : 0;
  return a.cos.reduce((sum, c, i) => sum + c * b.cos[i]! + a.sin[i]! * b.sin[i]!, 0) / power;
}

/** Samples of frames, each at its own gain. */
function build(frames: readonly Harmonics[], gains: readonly number[], alike: Float32Array<ArrayBuffer>): FrameTable {
  if (frames.length < 1 || frames.length > MAX_FRAMES)
    throw new RangeError(`a wave table has 1 to ${MAX_FRAMES} frames, not ${frames.length}`);
  const levels: [number, number][] = [];
  let frameLength = 0;
  for (let level = 0; level < FRAME_LEVELS; level++) {
    levels.push([frameLength, bitsOf(level)]);
    frameLength += 2 ** bitsOf(level) + 1;
  }
  const samples = new Float32Array(frames.length * frameLength);
  frames.forEach((frame, i) =>
    levels.forEach(([offset, bits], l) => {
      const size = 2 ** bits;
      const cycle = cycleOf(frame, MOST_HARMONICS >> l, size, (h) => gains[i]! / keptBetween(h, size));
      const at = i * frameLength + offset;
      samples.set(cycle, at);
      samples[at + size] = cycle[0]!;
    }),
  );
  return { frames: frames.length, samples, frameLength, alike, levels };
}

/** The gain that makes a cycle of a level as loud as a saw; one that is silent stays so at any. */
const levelled = (level: number): number => LEVEL / Math.max(level, 1e-9);

/**
 * Builds a table of 1 to 256 frames; with `even` each is made as loud as a saw, and stays so between two, else all by one
 * factor. A silent frame stays silent. Throws RangeError for another number of frames.
 */
export function frameTable(frames: readonly Harmonics[], even = true): FrameTable {
  const loudest = levelled(Math.max(0, ...frames.map(rms)));
  const gains = frames.map((f) => (even ? levelled(rms(f)) : loudest));
  const alike = Float32Array.from(frames, (f, i) =>
    even && i + 1 < frames.length ? correlation(f, frames[i + 1]!) : 1,
  );
  return build(frames, gains, alike);
}

/**
 * Builds a table of four waves at the corners of a square: low left, low right, high left, high right, each at a level of
 * 0 to 1 of a saw's loudness. Between them waves that are unlike keep their power, and equal ones their level.
 */
export function cornerTable(corners: readonly Harmonics[], levels: readonly number[]): FrameTable {
  if (corners.length !== 4) throw new RangeError(`a square has four corners, not ${corners.length}`);
  const alike = Float32Array.from({ length: 16 }, (_, i) => correlation(corners[i >> 2]!, corners[i & 3]!));
  return build(
    corners,
    corners.map((c, i) => levelled(rms(c)) * levels[i]!),
    alike,
  );
}
