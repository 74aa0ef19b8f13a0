import { dbToGain, exp } from "./portableMath";

/** Nothing leaves the engine above this: a tenth of a decibel under full scale. */
export const CEILING = dbToGain(-0.1);
const RELEASE_SEC = 0.08;

/**
 * A safety limiter without delay: the gain falls at once to what a peak needs, and recovers within about 80 ms.
 * It guards ears and converters; a mix that reaches it is marked as clipped and can be trimmed.
 */
export class SafetyLimiter {
  private gain = 1;
  private readonly recovery: number;
  /** Highest level of the input since `takePeaks`, per side. */
  private peakL = 0;
  private peakR = 0;

  constructor(sampleRate: number) {
    this.recovery = 1 - exp(-1 / (RELEASE_SEC * sampleRate));
  }

  /** Limits [from, to) of the mix into `outL` and `outR` at `at`. A sample that is not a number becomes silence. */
  process(
    left: Float64Array,
    right: Float64Array,
    count: number,
    outL: Float32Array,
    outR: Float32Array,
    at: number,
  ): void {
    let gain = this.gain;
    let pl = this.peakL;
    let pr = this.peakR;
    const recovery = this.recovery;
    for (let i = 0; i < count; i++) {
      const l = left[i]!;
      const r = right[i]!;
      const al = Math.abs(l);
      const ar = Math.abs(r);
      if (al > pl) pl = al;
      if (ar > pr) pr = ar;
      gain += (1 - gain) * recovery;
      const top = al > ar ? al : ar;
      if (top * gain > CEILING) gain = CEILING / top;
      // NaN fails every comparison; it must not reach a loudspeaker.
      outL[at + i] = al * gain <= CEILING * 1.000001 ? l * gain : 0;
      outR[at + i] = ar * gain <= CEILING * 1.000001 ? r * gain : 0;
    }
    this.gain = gain > 0 ? gain : 1;
    this.peakL = pl;
    this.peakR = pr;
  }

  /** Peaks before limiting since the last call, written to `out[at]` and `out[at + 1]`. */
  takePeaks(out: Float32Array, at: number): void {
    out[at] = this.peakL;
    out[at + 1] = this.peakR;
    this.peakL = 0;
    this.peakR = 0;
  }
}
