import type { MixProgram } from "./program";

/** Seconds in which a part is faded out and in around a change that has no in-between (wave, filter type, unison). */
const DIP_SEC = 0.005;
/** Share of what is left that a gain in the mix moves by from frame to frame. */
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

  constructor(mix: MixProgram, sampleRate: number) {
    this.left = mix.left;
    this.right = mix.right;
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
  settle(mix: MixProgram): void {
    this.gate = 1;
    this.gateStep = 0;
    this.place(mix);
  }

  /** Stands among the others as told, at once. */
  place(mix: MixProgram): void {
    this.left = mix.left;
    this.right = mix.right;
  }

  /** Adds a stretch of a part to the mix, and leaves its own sound as it was turned. */
  add(left: Float32Array, right: Float32Array, length: number, mix: MixProgram, mixL: Float64Array, mixR: Float64Array): void {
    this.turn(left, right, length, mix);
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
      gate += step;
      // A straight ramp has corners that tick; this one is smooth at both ends.
      const gain = gate >= 1 ? 1 : gate <= 0 ? 0 : gate * gate * (3 - 2 * gate);
      mixL[i] = mixL[i]! + left[i]! * gain;
      mixR[i] = mixR[i]! + right[i]! * gain;
    }
    this.gate = Math.max(0, Math.min(1, gate));
    if (this.gate >= 1) this.gateStep = 0;
  } // prettier-ignore

  /** Turns both sides to where they stand; an edit glides there. */
  private turn(left: Float32Array, right: Float32Array, length: number, mix: MixProgram): void {
    if (Math.abs(mix.left - this.left) < SETTLED) this.left = mix.left;
    if (Math.abs(mix.right - this.right) < SETTLED) this.right = mix.right;
    let l = this.left;
    let r = this.right;
    if (l === 1 && r === 1 && mix.left === 1 && mix.right === 1) return;
    for (let i = 0; i < length; i++) {
      l = mix.left + (l - mix.left) * MIX_KEEP_PER_FRAME;
      r = mix.right + (r - mix.right) * MIX_KEEP_PER_FRAME;
      left[i] = left[i]! * l;
      right[i] = right[i]! * r;
    }
    this.left = l;
    this.right = r;
  }
}
