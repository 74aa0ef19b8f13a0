import type { MixProgram } from "./program";
import { SUB_BLOCK } from "./stretch";

/** Seconds in which a part is faded out and in around a change that has no in-between (wave, filter type, unison). */
const DIP_SEC = 0.005;
/** What is left, a frame later, of the difference that an edit makes to a gain in the mix. */
const MIX_KEEP_PER_FRAME = 0.9945;
const SETTLED = 1e-6;

/** How loud a part is added to the mix: where it stands among the others, and the dips around changes. */
export class PartGain {
  /** 0 to 1: closed while what plays is changed. */
  private gate = 1;
  /** What the gate moves by in a frame: down before a change, up after it. */
  private gateStep = 0;
  private readonly dipStep: number;
  /** Gains of the two sides as they stand. A field that begins as a fraction is written where it lies; one that begins as nothing becomes a new object each time. */
  private left = NaN;
  private right = NaN;

  constructor(sampleRate: number) {
    this.dipStep = 1 / (DIP_SEC * sampleRate);
  }

  close(): void {
    this.gateStep = -this.dipStep;
  }

  /** Opens again, from wherever a dip has come to. */
  open(): void {
    if (this.gate < 1) this.gateStep = this.dipStep;
  }

  get isClosed(): boolean {
    return this.gate <= 0;
  }

  /** Whether it stands open, and no dip is under way. */
  get isStill(): boolean {
    return this.gateStep === 0;
  }

  /** Stands open at once, where nothing sounds that could step. */
  settle(): void {
    this.gate = 1;
    this.gateStep = 0;
  }

  /** Stands among the others as told, at once; `moved` are the gains of `MovedMix`, null where nothing moves it. */
  place(mix: MixProgram, moved: Float64Array | null): void {
    this.left = moved === null ? mix.left : mix.left * moved[0]!;
    this.right = moved === null ? mix.right : mix.right * moved[1]!;
  }

  /** Adds a stretch of a part to the mix, and leaves its own sound as it was turned. */
  add(left: Float32Array, right: Float32Array, length: number, mix: MixProgram, moved: Float64Array | null, mixL: Float64Array, mixR: Float64Array): void {
    this.turn(left, right, length, mix, moved);
    let { gate } = this;
    const step = this.gateStep;
    if (gate === 1 && step === 0) {
      for (let i = 0; i < length; i++) {
        mixL[i] = mixL[i]! + left[i]!;
        mixR[i] = mixR[i]! + right[i]!;
      }
      return;
    }
    for (let i = 0; i < length; i++) {
      gate = Math.min(1, Math.max(0, gate + step));
      // A straight ramp has corners that tick; this one is smooth at both ends.
      const gain = gate * gate * (3 - 2 * gate);
      mixL[i] = mixL[i]! + left[i]! * gain;
      mixR[i] = mixR[i]! + right[i]! * gain;
    }
    this.gate = gate;
    if (gate === 1) this.gateStep = 0;
  } // prettier-ignore

  /** Turns both sides to where they stand; what an edit leaves between that and what sounded before fades. */
  private turn(left: Float32Array, right: Float32Array, length: number, mix: MixProgram, moved: Float64Array | null): void {
    let offL = this.left - (moved === null ? mix.left : mix.left * moved[0]!);
    let offR = this.right - (moved === null ? mix.right : mix.right * moved[1]!);
    if (Math.abs(offL) < SETTLED) offL = 0;
    if (Math.abs(offR) < SETTLED) offR = 0;
    let l = mix.left;
    let r = mix.right;
    if (moved !== null || l !== 1 || r !== 1 || offL !== 0 || offR !== 0) {
      for (let from = 0, row = 0; from < length; from += SUB_BLOCK, row += 2) {
        const to = Math.min(length, from + SUB_BLOCK);
        const stepL = moved === null ? 0 : (mix.left * (moved[row + 2]! - moved[row]!)) / (to - from);
        const stepR = moved === null ? 0 : (mix.right * (moved[row + 3]! - moved[row + 1]!)) / (to - from);
        const startL = moved === null ? mix.left : mix.left * moved[row]!;
        const startR = moved === null ? mix.right : mix.right * moved[row + 1]!;
        for (let i = from; i < to; i++) {
          offL *= MIX_KEEP_PER_FRAME;
          offR *= MIX_KEEP_PER_FRAME;
          l = startL + stepL * (i - from + 1) + offL;
          r = startR + stepR * (i - from + 1) + offR;
          left[i] = left[i]! * l;
          right[i] = right[i]! * r;
        }
      }
    }
    this.left = l;
    this.right = r;
  } // prettier-ignore
}
