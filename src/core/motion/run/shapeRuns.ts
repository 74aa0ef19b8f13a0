import { curveAt } from "../../curve/curve";
import { exp, exp2 } from "../../dsp/portableMath";
import { stir, unit, UNSTIRRED } from "../../pattern/chance";
import { Drawn, draw } from "../drawn";
import { LANES } from "../lanes";
import { evenOp, type ShapeOp } from "../program";
import { fadedIn, heldCycles, isOver } from "../shape";
import { Places, findPlace, valueThere } from "../sequence";
import { SETTLE } from "../smoothing";
import { read, type Memory, type VoiceFrame, type VoiceRoom, type VoiceRun } from "./voiceRun";

/** Names a note for seeded draws: the same one of every pass. */
const noteAddress = (tick: number, key: number): number => Math.imul(Math.round(tick), 128) + key;

/** Whether a shape is a drawn curve that nothing moves, and that nothing but its start sets apart from note to note. */
const isPlain = ({ moved, shape }: ShapeOp): boolean =>
  moved === null &&
  shape.sequence === null &&
  shape.draws === null &&
  shape.held === null &&
  shape.scatter === 0 &&
  shape.fadeIn === 0;

/** A drawn curve that nothing moves. Notes of a chord start together: what one of them has, the others have. Memory: smoothed value. */
class PlainRun implements VoiceRun {
  constructor(
    private readonly op: ShapeOp,
    private readonly memory: Memory,
    private readonly room: VoiceRoom,
  ) {}

  evaluate(list: Int32Array, count: number, now: VoiceFrame): void {
    const { slots, sampleRate } = this.room;
    const { fresh, lastFrame, onFrame, onTick } = this.room.lanes;
    const { curve, synced, period, smoothingSec, restart, phase: offset } = this.op.shape;
    const { a } = this.memory;
    const out = this.op.out * LANES;
    const once = restart === "once";
    const per = 1 / sampleRate;
    const settling = smoothingSec > 0 ? (-SETTLE * per) / smoothingSec : 0;
    const starts = synced ? onTick : onFrame;
    const scale = (synced ? 1 : per) / period;
    const here = synced ? now.tick : now.frame;
    let lastStart = NaN;
    let lastElapsed = NaN;
    let value = 0;
    let keep = 0;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const start = starts[v]!;
      if (start !== lastStart) {
        lastStart = start;
        const phase = (here - start) * scale + offset;
        value = curveAt(curve, once ? phase : phase - Math.floor(phase));
      }
      let next = value;
      if (fresh[v] === 0 && settling !== 0) {
        const elapsed = now.frame - lastFrame[v]!;
        if (elapsed !== lastElapsed) {
          lastElapsed = elapsed;
          keep = exp(settling * elapsed);
        }
        next = value + (a[v]! - value) * keep;
      }
      a[v] = next;
      slots[out + v] = next;
    }
  }
}

/** What a stage hands on to the next one, beside the row. */
class Between {
  /** Cycles at which each note was let go; Infinity while it is held. */
  readonly off = new Float64Array(LANES).fill(Infinity);
  /** Where in a sequence each note is. */
  readonly places = new Places(LANES);
}

/** What the stages of a shape have in common: its row goes from cycles to values. Memory: smoothed value, cycles, rate, cycles when it was let go. */
abstract class Stage implements VoiceRun {
  constructor(
    protected readonly op: ShapeOp,
    protected readonly memory: Memory,
    protected readonly room: VoiceRoom,
    protected readonly between: Between,
  ) {}

  abstract evaluate(list: Int32Array, count: number, now: VoiceFrame): void;
}

/** Cycles since the start of each note, where the rate stands. */
class PlaceRun extends Stage {
  override evaluate(list: Int32Array, count: number, now: VoiceFrame): void {
    const { op } = this;
    const { off } = this.between;
    const { lanes, slots, sampleRate } = this.room;
    const { synced, period, phase } = op.shape;
    const turned = op.moved === null ? null : op.moved.phase;
    const out = op.out * LANES;
    const per = 1 / sampleRate;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const since = synced ? now.tick - lanes.onTick[v]! : (now.frame - lanes.onFrame[v]!) * per;
      const turn = turned === null ? phase : read(turned, v, slots, now.shared) / 360;
      const cycles = since / period + turn;
      slots[out + v] = cycles;
      const ago = (now.frame - lanes.offFrame[v]!) * per * (synced ? now.ticksPerSec : 1);
      off[v] = ago > 0 ? cycles - ago / period : Infinity;
    }
  }
}

/** Cycles since the start of each note as they have been added up, where the rate moves. */
class AddUpRun extends Stage {
  override evaluate(list: Int32Array, count: number, now: VoiceFrame): void {
    const { op } = this;
    const { off } = this.between;
    const { lanes, slots, sampleRate } = this.room;
    const { b, c, d } = this.memory;
    const { synced, period, phase } = op.shape;
    const { rate: rateRef, phase: turned } = op.moved!;
    const out = op.out * LANES;
    const per = 1 / sampleRate;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const fresh = lanes.fresh[v] === 1;
      const turn = turned === null ? phase : read(turned, v, slots, now.shared) / 360;
      if (fresh) d[v] = Infinity;
      else if (d[v] === Infinity && lanes.lastFrame[v]! >= lanes.offFrame[v]!) d[v] = b[v]!;
      const rate = (exp2(read(rateRef!, v, slots, now.shared)) * (synced ? now.ticksPerSec : 1)) / period;
      const elapsed = (now.frame - lanes.lastFrame[v]!) * per;
      b[v] = fresh ? 0 : b[v]! + ((c[v]! + rate) / 2) * elapsed;
      c[v] = rate;
      slots[out + v] = b[v] + turn;
      off[v] = d[v]! + turn;
    }
  }
}

/** Each note starts somewhere of its own. */
class ScatterRun extends Stage {
  override evaluate(list: Int32Array, count: number): void {
    const { off } = this.between;
    const { lanes, slots } = this.room;
    const { scatter, seed } = this.op.shape;
    const out = this.op.out * LANES;
    const seeded = stir(UNSTIRRED, seed);
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const drawn = scatter * unit(stir(seeded, noteAddress(lanes.eventTick[v]!, lanes.key[v]!)));
      slots[out + v] = slots[out + v]! + drawn;
      off[v] = off[v]! + drawn;
    }
  }
}

/** A stretch is repeated, or stood still in, while the note is held. */
class StretchRun extends Stage {
  override evaluate(list: Int32Array, count: number): void {
    const { off } = this.between;
    const { slots } = this.room;
    const held = this.op.shape.held!;
    const out = this.op.out * LANES;
    for (let k = 0; k < count; k++) {
      const at = out + list[k]!;
      slots[at] = heldCycles(held, slots[at]!, off[list[k]!]!);
    }
  }
}

/** From cycles to the value of a drawn curve: one that goes through once stands where it ends. */
class CurveRun extends Stage {
  override evaluate(list: Int32Array, count: number): void {
    const { slots } = this.room;
    const { curve, restart } = this.op.shape;
    const out = this.op.out * LANES;
    const once = restart === "once";
    let last = NaN;
    let value = 0;
    for (let k = 0; k < count; k++) {
      const at = out + list[k]!;
      const cycles = slots[at]!;
      if (cycles !== last) {
        last = cycles;
        value = curveAt(curve, once ? cycles : cycles - Math.floor(cycles));
      }
      slots[at] = value;
    }
  }
}

/** From cycles to the place in a sequence. */
class PlaceInSequenceRun extends Stage {
  override evaluate(list: Int32Array, count: number): void {
    const { lanes, slots } = this.room;
    const { places } = this.between;
    const { shape } = this.op;
    const sequence = shape.sequence!;
    const out = this.op.out * LANES;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const cycles = slots[out + v]!;
      const address = noteAddress(lanes.eventTick[v]!, lanes.key[v]!);
      findPlace(sequence, places, v, Math.max(0, cycles), address, isOver(shape, cycles));
    }
  }
}

/** The value of a sequence there. */
class SequenceRun extends Stage {
  override evaluate(list: Int32Array, count: number, { shared }: VoiceFrame): void {
    const { op } = this;
    const { slots } = this.room;
    const { places } = this.between;
    const sequence = op.shape.sequence!;
    const out = op.out * LANES;
    const blended = op.moved === null ? null : op.moved.blend;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const blend = blended === null ? op.shape.blend : read(blended, v, slots, shared) / 100;
      slots[out + v] = valueThere(sequence, places, v, blend);
    }
  }
}

/** A draw of each note's own: the first of those that its address names. */
class DrawsRun extends Stage {
  private readonly drawn = new Drawn(LANES);

  override evaluate(list: Int32Array, count: number): void {
    const { drawn } = this;
    const { lanes, slots } = this.room;
    const out = this.op.out * LANES;
    const draws = this.op.shape.draws!;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      draw(draws, drawn, v, 0, noteAddress(lanes.eventTick[v]!, lanes.key[v]!));
      slots[out + v] = drawn.from[v]!;
    }
  }
}

/** Comes to its full width after the start of the note. */
class FadeRun extends Stage {
  override evaluate(list: Int32Array, count: number, now: VoiceFrame): void {
    const { lanes, slots, sampleRate } = this.room;
    const { shape, moved } = this.op;
    const stretched = moved === null ? null : moved.fadeIn;
    const out = this.op.out * LANES;
    const per = 1 / sampleRate;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const since = shape.synced ? now.tick - lanes.onTick[v]! : (now.frame - lanes.onFrame[v]!) * per;
      const within = stretched === null ? shape.fadeIn : shape.fadeIn * exp2(read(stretched, v, slots, now.shared));
      slots[out + v] = fadedIn(shape, slots[out + v]!, since, within);
    }
  }
}

/** Smooths it. */
class SettleRun extends Stage {
  override evaluate(list: Int32Array, count: number, now: VoiceFrame): void {
    const { lanes, slots, sampleRate } = this.room;
    const { a } = this.memory;
    const { moved, shape } = this.op;
    const smoothed = moved === null ? null : moved.smoothing;
    const out = this.op.out * LANES;
    const per = 1 / sampleRate;
    let lastX = 0;
    let lastKeep = 1;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const target = slots[out + v]!;
      const sec = smoothed === null ? shape.smoothingSec : read(smoothed, v, slots, now.shared) / 1000;
      let keep = 0;
      if (lanes.fresh[v] === 0 && sec > 0) {
        const x = (-SETTLE * ((now.frame - lanes.lastFrame[v]!) * per)) / sec;
        // Nearly always that of a whole sub-block.
        if (x !== lastX) {
          lastX = x;
          lastKeep = exp(x);
        }
        keep = lastKeep;
      }
      a[v] = target + (a[v]! - target) * keep;
      slots[out + v] = a[v];
    }
  }
}

/** The stages of a shape of each note's own. */
export function shapeRuns(compiled: ShapeOp, memory: Memory, room: VoiceRoom): VoiceRun[] {
  const op = evenOp(compiled);
  if (isPlain(op)) return [new PlainRun(op, memory, room)];
  const { shape, moved } = op;
  const between = new Between();
  const stages = [
    moved?.rate == null ? PlaceRun : AddUpRun,
    ...(shape.scatter > 0 ? [ScatterRun] : []),
    ...(shape.held ? [StretchRun] : []),
    ...(shape.sequence ? [PlaceInSequenceRun, SequenceRun] : [shape.draws ? DrawsRun : CurveRun]),
    ...(shape.fadeIn > 0 ? [FadeRun] : []),
    SettleRun,
  ];
  return stages.map((Run) => new Run(op, memory, room, between));
}
