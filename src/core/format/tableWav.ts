import { cycleOf, type Harmonics } from "../dsp/fourier";
import { MOST_HARMONICS } from "../dsp/frameTables";
import { writeWav } from "./wav";

/** Samples of a frame: what most readers of such files take where nothing is said. */
export const FRAME_SAMPLES = 2048;

/** A wave table as a WAV file: its frames one behind the other, 2048 samples each, mono, 32-bit float, peak at full scale. */
export function tableWav(frames: readonly Harmonics[]): Uint8Array<ArrayBuffer> {
  const samples = new Float32Array(frames.length * FRAME_SAMPLES);
  frames.forEach((f, i) =>
    samples.set(
      cycleOf(f, MOST_HARMONICS, FRAME_SAMPLES, () => 1),
      i * FRAME_SAMPLES,
    ),
  );
  const peak = samples.reduce((top, v) => Math.max(top, Math.abs(v)), 0);
  return writeWav([peak > 0 ? samples.map((v) => v / peak) : samples], { sampleRate: 44_100, bitDepth: 32 });
}
