import { COUNTED, LANES } from "../lanes";
import { type MacroOp, type NoteOp, type SumOp, type TermOp } from "../program";
import { macroValue, termValue } from "../terms";
import { read, readInput, type Memory, type VoiceFrame, type VoiceRoom, type VoiceRun } from "./voiceRun";

/** What is added to an address: a base, shared slots, and what the voices have of their own. */
export class SumRun implements VoiceRun {
  /** Where the rows of each voice's own begin, and how much of each. */
  private readonly rows: Int32Array;
  private readonly gains: Float64Array;
  private readonly sharedSlots: Int32Array;
  private readonly sharedGains: Float64Array;

  constructor(
    private readonly op: SumOp,
    private readonly room: VoiceRoom,
  ) {
    const terms = op.slots.map((slot, i) => ({ slot, gain: op.gains[i]! }));
    const [shared, own] = [terms.filter((t) => t.slot < 0), terms.filter((t) => t.slot >= 0)];
    this.rows = Int32Array.from(own, (t) => t.slot * LANES);
    this.gains = Float64Array.from(own, (t) => t.gain);
    this.sharedSlots = Int32Array.from(shared, (t) => ~t.slot);
    this.sharedGains = Float64Array.from(shared, (t) => t.gain);
  }

  evaluate(list: Int32Array, count: number, { shared }: VoiceFrame): void {
    const { rows, gains, sharedSlots, sharedGains } = this;
    const { slots } = this.room;
    const { min, max } = this.op;
    const out = this.op.out * LANES;
    let base = this.op.base;
    for (let s = 0; s < sharedSlots.length; s++) base += sharedGains[s]! * shared[sharedSlots[s]!]!;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      let x = base;
      for (let s = 0; s < rows.length; s++) x += gains[s]! * slots[rows[s]! + v]!;
      slots[out + v] = x < min ? min : x > max ? max : x;
    }
  }
}

/** What a route brings. Memory: the source's value at the note's start. */
export class TermRun implements VoiceRun {
  constructor(
    private readonly op: TermOp,
    private readonly memory: Memory,
    private readonly room: VoiceRoom,
  ) {}

  evaluate(list: Int32Array, count: number, { shared }: VoiceFrame): void {
    const { op } = this;
    const { lanes, slots } = this.room;
    const { a } = this.memory;
    const out = op.out * LANES;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      if (!op.atStart || lanes.fresh[v] === 1) a[v] = read(op.source, v, slots, shared);
      const scale = op.scaledBy === null ? 1 : read(op.scaledBy, v, slots, shared);
      slots[out + v] = termValue(op, a[v]!, readInput(op.amount, v, slots, shared), scale);
    }
  }
}

export class MacroRun implements VoiceRun {
  constructor(
    private readonly op: MacroOp,
    private readonly room: VoiceRoom,
  ) {}

  evaluate(list: Int32Array, count: number, { shared }: VoiceFrame): void {
    const { op } = this;
    const { slots } = this.room;
    const out = op.out * LANES;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      slots[out + v] = macroValue(op, readInput(op.value, v, slots, shared));
    }
  }
}

/** What the notes, or the hands, say themselves. */
export class NoteRun implements VoiceRun {
  constructor(
    private readonly op: NoteOp,
    private readonly room: VoiceRoom,
  ) {}

  evaluate(list: Int32Array, count: number, { frame }: VoiceFrame): void {
    const { lanes, slots } = this.room;
    const { id, response } = this.op;
    const out = this.op.out * LANES;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      switch (id) {
        case "velocity":
          slots[out + v] = response![lanes.velocity[v]! | 0]!;
          break;
        case "copy":
          slots[out + v] = lanes.copy[v]!;
          break;
        case "key":
          slots[out + v] = Math.max(-1, Math.min(1, (lanes.pitchAt(v, frame) - 60) / 60));
          break;
        case "held":
          slots[out + v] = frame < lanes.offFrame[v]! ? 1 : 0;
          break;
        case "count":
          slots[out + v] = lanes.onsets[v]! / (COUNTED - 1);
          break;
        case "wheel":
          slots[out + v] = lanes.wheel;
          break;
        case "bend":
          slots[out + v] = lanes.stick;
          break;
        case "pressure":
          slots[out + v] = lanes.pressure;
          break;
        case "freeA":
          slots[out + v] = lanes.freeA[v]! / 100;
          break;
        case "freeB":
          slots[out + v] = lanes.freeB[v]! / 100;
          break;
        default:
          id satisfies never;
      }
    }
  }
}
