import type { WaveName } from "@/core/dsp/waveTables";
import { RATE } from "./kernelBench";

/** I0 by its integral (Abramowitz and Stegun 9.6.16); of a whole round of a smooth function, 64 points give all digits. */
const bessel0 = (x: number): number =>
  Array.from({ length: 64 }, (_, k) => Math.exp(x * Math.cos((Math.PI * (k + 0.5)) / 64))).reduce((a, b) => a + b) / 64;

/** A sinc of 28 frames that passes up to 0.42 of the rate, in Kaiser's window of beta 7; in 64 points a frame. */
const LOW_PASS = Array.from({ length: 28 * 64 + 1 }, (_, i) => {
  const t = i / 64 - 14;
  const sinc = t === 0 ? 0.84 : Math.sin(Math.PI * 0.84 * t) / (Math.PI * t);
  return sinc * bessel0(7 * Math.sqrt(Math.max(0, 1 - (t / 14) ** 2)));
});
const LOW_PASS_SUM = LOW_PASS.reduce((a, b) => a + b);
/** What it leaves of a frequency, in cycles a frame: both of its halves are alike. */
const HALF_PASS = LOW_PASS.slice(0, 14 * 64);
const passed = (f: number): number =>
  HALF_PASS.reduce((sum, v, i) => sum + 2 * v * Math.cos(2 * Math.PI * f * (i / 64 - 14)), LOW_PASS[14 * 64]!) /
  LOW_PASS_SUM;
/** The same in steps of a thousandth of the rate, for what is asked often. */
const PASSED = Array.from({ length: 1001 }, (_, k) => passed(k / 1000));

/** One voice of a stack, sample by sample: Fourier series of the wave, phases and gains as the formulas say. */
export function stackReference(o: {
  wave: WaveName | "pulse";
  phases: readonly number[];
  from: number;
  ends: readonly [number, number, number, number][];
  keys: readonly number[];
  detune: readonly number[];
  width: readonly number[];
  hole: readonly number[];
  /** How voices are spread: place is turned by this. */
  law?: (place: number) => number;
  /** Level of all voices but those in the middle, 0 to 1. */
  outer?: number;
  /** Made of band-limited jumps: harmonics end as the low-pass does, not with a table. */
  jumps?: boolean;
}): { left: number[]; right: number[] } {
  const left = new Array<number>(64).fill(0);
  const right = new Array<number>(64).fill(0);
  const count = o.phases.length;
  const passedAt = (f: number): number => {
    const [k, part] = [Math.floor(f * 1000), (f * 1000) % 1];
    return PASSED[k]! + (PASSED[k + 1]! - PASSED[k]!) * part;
  };
  const saw = (p: number, harmonics: number, pitch: number): number => {
    let y = 0;
    const most = o.jumps ? Math.floor(0.6 / pitch) : harmonics;
    // sin(h x) = 2 cos(x) sin((h - 1) x) - sin((h - 2) x) (any handbook of mathematics).
    const twice = 2 * Math.cos(2 * Math.PI * p);
    let [before, now] = [0, Math.sin(2 * Math.PI * p)];
    for (let h = 1; h <= most; h++) {
      y -= (2 / (Math.PI * h)) * now * (o.jumps ? passedAt(h * pitch) : 1);
      [before, now] = [now, twice * now - before];
    }
    return y;
  };
  o.phases.forEach((start, u) => {
    const place = count === 1 ? 0 : (2 * u) / (count - 1) - 1;
    const spread = (o.law ?? ((x) => x))(place);
    const weights = o.phases.map((_, k) => (Math.abs(k - (count - 1) / 2) < 1 ? 1 : (o.outer ?? 1)));
    const power = weights.reduce((sum, w) => sum + w * w, 0);
    let phase = start;
    for (const [a, b, from, to] of o.ends) {
      const hz = (k: number): number => 440 * 2 ** ((o.keys[k]! - 69) / 12 + (spread * o.detune[k]!) / 1200);
      const top = Math.max(
        ...[a, b].map((k) => 440 * 2 ** ((o.keys[k]! - 69) / 12 + (count === 1 ? 0 : o.detune[k]! / 1200))),
      );
      // The table of the third of an octave that holds this pitch: harmonics up to half the rate at its top.
      const level = Math.max(0, Math.ceil(30 + 3 * (Math.log2(top / RATE) + 1)));
      const harmonics = Math.floor(2 ** ((30 - level) / 3) + 1e-9);
      const first = Math.max(from, o.from);
      for (let i = first; i < to; i++) {
        const t = (i - first) / (to - first);
        const mixed = (values: readonly number[]): number => values[a]! + (values[b]! - values[a]!) * t;
        const gain = (side: 1 | -1): number => {
          const of = (w: number): number =>
            weights[u]! * Math.sqrt((1 + (side * place * (Math.min(u, count - 1 - u) % 2 ? -1 : 1) * w) / 100) / power);
          return of(o.width[a]!) + (of(o.width[b]!) - of(o.width[a]!)) * t;
        };
        let y: number;
        const pitch = (hz(a) + (hz(b) - hz(a)) * t) / RATE;
        if (o.wave === "sine") y = Math.sin(2 * Math.PI * phase);
        else if (o.wave === "pulse")
          y = saw(phase - mixed(o.hole) / 100, harmonics, pitch) - saw(phase, harmonics, pitch);
        else y = saw(phase, harmonics, pitch);
        left[i]! += y * gain(-1);
        right[i]! += y * gain(1);
        phase += pitch;
      }
    }
  });
  return { left, right };
}
