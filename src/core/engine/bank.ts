import { exp } from "../dsp/portableMath";
import { LANES, VoiceLanes } from "../motion/lanes";
import { SharedMotion } from "../motion/shared";
import type { VoiceFrame } from "../motion/run/voiceRun";
import { VoiceMotion } from "../motion/voices";
import type { Clock } from "./clock";
import { stretchGlides } from "./glides";
import type { SongProgram, SoundProgram } from "./program";
import type { BankSound } from "./bankSound";
import { EVERY_LANE, GROUPS, type NoteStart } from "./runtime";
import { SUBS, SUB_BLOCK } from "./stretch";
import { MovedMix } from "./movedMix";
import { Uses } from "./uses";

/** Rows of a stretch: its sub-blocks' ends and up to this many corners between them. */
export const MAX_ROWS = SUBS + 1 + 12;
/** Time in which an edit has glided in to 95 %: three time constants. */
const GLIDE_SEC = 0.01;
/** After this many times that, nothing of the old value is left (-120 dB). */
const GLIDE_OVER = 5;
/** A gain of -100 dB: a note that is let go ends there. */
const SILENT = 1e-5;

/** Told what the voices of a bank do: what curves and lists of notes are made of. */
export interface BankListener {
  begin(part: number, bank: Bank, lane: number): void;
  /** A row is worked out for `count` lanes of `list`: all that sound at the end of a sub-block, else those with a corner. */
  row(part: number, bank: Bank, frame: number, list: Int32Array, count: number, ends: boolean): void;
  release(part: number, bank: Bank, lane: number): void;
  end(part: number, bank: Bank, lane: number): void;
}

/** Few numbers, many times: a loop is faster than a call of `set`. */
function copy(from: Float64Array, to: Float64Array): void {
  for (let i = 0; i < to.length; i++) to[i] = from[i]!;
}

/**
 * The voices of a part. Motion is evaluated for all of them at the ends of sub-blocks, and for single ones at corners of
 * their envelopes and where they start, so that a peak between two ends is not missed; values run straight between. Rows
 * hold a column a use and a lane a voice; the modules' kernels read them where they lie.
 */
export class Bank {
  readonly lanes = new VoiceLanes();
  motion: VoiceMotion;
  shared: SharedMotion;
  uses: Uses;
  sound: SoundProgram;
  /** Rows in order of time, `uses` x LANES values each; without sound only the newest. */
  rows: Float64Array;
  private readonly maxRows: number;
  /** Frames of the rows from the stretch's start, and the lanes that have a corner there: four bits a group, all at ends. */
  private readonly rowFrames = new Int32Array(MAX_ROWS);
  private readonly rowLanes = new Int32Array(MAX_ROWS * GROUPS);
  private rowCount = 1;
  private readonly rowsOut = { at: 0, bytes: 0, count: 0, moves: new Uint8Array(0), frames: this.rowFrames, lanes: this.rowLanes }; // prettier-ignore
  /** 1 for each use that moves, and for all of them: while an edit glides in, what stands still moves, too. */
  private moves = new Uint8Array(0);
  private allMove = new Uint8Array(0);
  private gliding = false;
  private rowsAt = 0;
  /** Null where nothing moves the part in the mix. */
  movedMix: MovedMix | null = null;
  private rowSize: number;
  private readonly list = new Int32Array(LANES);
  private readonly lastRow = new Int32Array(LANES);
  /** The next frame at which a voice starts or turns a corner. */
  private readonly nextCorner = new Float64Array(LANES).fill(Infinity);
  /** Lanes whose voice ended in the last stretch. */
  private readonly ended = new Int32Array(LANES);
  private endedCount = 0;
  private readonly started = new Int32Array(LANES);
  private startedCount = 0;
  private sharedBefore: Float64Array;
  private sharedNow: Float64Array;
  private sharedSettled = false;
  private glide: Float64Array;
  private glideLeft = 0;
  private scratch = new Float64Array(0);
  private readonly glideKeep: number;
  private readonly now: VoiceFrame;
  constructor(
    sound: SoundProgram,
    private readonly index: number,
    private readonly clock: Clock,
    private readonly sampleRate: number,
    /** Null evaluates without sound. */
    readonly out: BankSound | null,
    private readonly listener: BankListener | null,
    /** Frames of a sub-block. */
    private readonly step: number,
  ) {
    this.sound = sound;
    this.maxRows = out ? MAX_ROWS : 1;
    this.motion = new VoiceMotion(sound.motion, this.lanes, sampleRate);
    this.shared = new SharedMotion(sound.motion, sampleRate, (slot, into, at) => {
      const v = this.lanes.newest;
      into[at] = v === -1 ? 0 : this.motion.slots[slot * LANES + v]!;
    });
    this.uses = this.newUses(sound);
    this.glideKeep = exp((-3 * SUB_BLOCK) / (GLIDE_SEC * sampleRate));
    this.sharedBefore = new Float64Array(0);
    this.sharedNow = new Float64Array(0);
    this.now = { frame: 0, tick: 0, ticksPerSec: 1, shared: this.sharedNow };
    this.glide = new Float64Array(0);
    this.rows = new Float64Array(0);
    this.rowSize = 0;
    this.arrange(sound, null);
  }

  /** Lets the peaks of its sources be measured, or not. */
  meter(on: boolean): void {
    if (this.out) this.out.metered = on;
  }

  /** As `BankSound.takePeaks`. */
  takePeaks(into: Float64Array, at: number, keep: number): void {
    this.out?.takePeaks(into, at, keep);
  }

  /** Takes over a program. What sounds glides to it; memory stays with modules that stay. */
  install(sound: SoundProgram): void {
    const before = this.sound;
    const columns = new Map<string, number>(before.motion.uses.map((u, i) => [u.address, i]));
    const old = this.rows.slice(this.lastRowOffset, this.lastRowOffset + this.rowSize);
    this.sound = sound;
    this.motion.install(sound.motion);
    this.shared.install(sound.motion);
    this.uses = this.newUses(sound);
    this.arrange(sound, (address, lane) => {
      const column = columns.get(address);
      return column === undefined ? null : old[column * LANES + lane]!;
    });
    this.edited();
  }

  private newUses(sound: SoundProgram): Uses {
    return new Uses(sound.motion, this.lanes, this.sampleRate, (ref) => this.motion.isFixed(ref));
  }

  private get lastRowOffset(): number {
    return (this.rowCount - 1) * this.rowSize;
  }

  /** Lays out rows, runtimes and buses for a program; `kept` gives the values that sounded last. */
  private arrange(sound: SoundProgram, kept: ((address: string, lane: number) => number | null) | null): void {
    const heap = this.out?.heap;
    const columns = sound.motion.uses.length;
    const size = columns * LANES;
    if (size !== this.rowSize) {
      if (heap && this.rowSize > 0) heap.give(this.rowsAt, this.maxRows * this.rowSize * 8);
      this.rowSize = size;
      this.rowsAt = heap?.take(this.maxRows * size * 8) ?? 0;
      this.rows = heap?.float64(this.rowsAt, this.maxRows * size) ?? new Float64Array(this.maxRows * size);
      this.glide = new Float64Array(size);
      this.scratch = new Float64Array(size);
    }
    this.rowCount = 1;
    sound.motion.uses.forEach((use, i) => {
      for (let v = 0; v < LANES; v++) this.rows[i * LANES + v] = kept?.(use.address, v) ?? 0;
    });
    this.fillStill(kept ? 1 : 0);
    this.moves = new Uint8Array(columns);
    for (const i of this.uses.moving) this.moves[i] = 1;
    this.allMove = new Uint8Array(columns).fill(1);
    this.sharedBefore = new Float64Array(sound.motion.sharedSlots);
    this.sharedNow = new Float64Array(sound.motion.sharedSlots);
    this.now.shared = this.sharedNow;
    this.movedMix = heap && sound.mix ? new MovedMix(sound.mix, this.uses) : null;
    this.out?.install(sound);
  }

  /** Gives its memory back. */
  dispose(): void {
    this.out?.heap.give(this.rowsAt, this.maxRows * this.rowSize * 8);
    this.out?.dispose();
  }

  /** What nothing moves is written once, to every lane of the rows from `first` on. */
  private fillStill(first: number): void {
    for (const i of this.uses.still) {
      const value = this.uses.stillValue(i);
      for (let r = first; r < this.maxRows; r++)
        this.rows.fill(value, r * this.rowSize + i * LANES, r * this.rowSize + (i + 1) * LANES);
    }
  }

  /** An edit, or a move of the song, gives other values from here on: they glide in from those that sound now. */
  edited(): void {
    const { lanes } = this;
    this.stale = true;
    for (let v = 0; v < LANES; v++)
      if (lanes.active[v] === 1 && lanes.fresh[v] === 0)
        this.motion.nextCorner(v, lanes.lastFrame[v]!, this.nextCorner);
    this.glideLeft = Math.round(GLIDE_OVER * GLIDE_SEC * this.sampleRate);
  }

  /** The song stands somewhere else: what sounds glides there. */
  relocated(): void {
    this.sharedSettled = false;
    this.edited();
  }

  /** Starts a voice in a lane that is free. */
  begin(lane: number, note: NoteStart): void {
    this.lanes.start(lane);
    this.nextCorner[lane] = this.lanes.onFrame[lane]!;
    this.lanes.offFrame[lane] = Infinity;
    this.lanes.stolenFrame[lane] = Infinity;
    for (let i = lane; i < this.rowSize; i += LANES) this.glide[i] = 0;
    this.out?.begin(lane, note);
    this.listener?.begin(this.index, this, lane);
  }

  /** Lets the key of a lane go at a frame. */
  release(lane: number, frame: number): void {
    if (this.lanes.offFrame[lane] !== Infinity) return;
    this.lanes.offFrame[lane] = Math.max(frame, this.lanes.onFrame[lane]!);
    if (this.lanes.fresh[lane] === 0) this.motion.nextCorner(lane, this.lanes.lastFrame[lane]!, this.nextCorner);
    this.listener?.release(this.index, this, lane);
  }

  steal(lane: number, frame: number): void {
    if (this.lanes.stolenFrame[lane] === Infinity)
      this.lanes.stolenFrame[lane] = Math.max(frame, this.lanes.onFrame[lane]!);
  }

  /** A use's value in a lane at the last row. */
  value(use: number, lane: number): number {
    return this.rows[this.lastRowOffset + use * LANES + lane]!;
  }

  /** Whether a use has one value for as long as a note sounds. */
  stands(use: number): boolean {
    return this.uses.still.includes(use) || this.uses.fixed.includes(use);
  }

  /** A slot's value: of a lane, or the shared one. */
  slotValue(ref: number, lane: number): number {
    return ref < 0 ? this.sharedNow[~ref]! : this.motion.slots[ref * LANES + lane]!;
  }

  /** Evaluates the stretch of `length` frames that starts at `frame`. */
  advance(frame: number, length: number, song: SongProgram): void {
    const { rowFrames, rowLanes } = this;
    this.top = this.lanes.top;
    const last = this.lastRowOffset;
    if (last > 0) this.carry(last);
    this.silenceEnded();
    this.rowCount = 1;
    this.startedCount = 0;
    // Without sound there is one row, of which no module reads.
    if (this.out) {
      rowFrames[0] = 0;
      rowLanes.fill(EVERY_LANE, 0, GROUPS);
      this.lastRow.fill(0);
    }
    if (!this.sharedSettled) {
      this.shared.relocate(this.clock.loopTickAt(frame, song.loopTicks), song, this.step);
      this.sharedSettled = true;
      copy(this.shared.values, this.sharedNow);
    } else if (this.stale) {
      this.shared.evaluate(this.clock.loopTickAt(frame, song.loopTicks), song, 0);
      copy(this.shared.values, this.sharedNow);
    }
    if (this.stale) this.refresh(frame, song);
    this.stale = false;
    this.gliding = this.wasGliding || this.glideLeft > 0;
    this.earliest = this.earliestCorner();
    this.listed = -1;
    if (this.movedMix !== null) this.movedMix.write(0, this.sharedNow);
    for (let from = 0; from < length; from += this.step) {
      const to = Math.min(length, from + this.step);
      this.subBlock(frame, from, to, song);
      this.glideLeft = Math.max(0, this.glideLeft - (to - from));
      if (this.glideLeft === 0 && this.wasGliding) {
        this.settleGlide(frame + to);
      }
      this.wasGliding = this.glideLeft > 0;
    }
    this.endVoices(frame + length);
  }
  private wasGliding = false;
  /** No voice starts or turns a corner before this frame; how many are listed as sounding, -1 where that is to be done. */
  private earliest = 0;
  private listed = -1;
  /** Lanes from here on are silent. */
  private top = 0;
  /** Set when values are others than those that sounded last: they are worked out before the next sub-block. */
  private stale = false;

  /** Filters of voices that ended ring on while their neighbours are worked out: no row may let that through. */
  private silenceEnded(): void {
    for (let i = 0; i < this.endedCount; i++) {
      const at = this.sound.gain * LANES + this.ended[i]!;
      for (let r = 0; r < this.maxRows; r++) this.rows[r * this.rowSize + at] = 0;
    }
    this.endedCount = 0;
  }

  /** The last row of a stretch is the first of the next. */
  private carry(last: number): void {
    const { rows, rowSize, top } = this;
    const { moving } = this.uses;
    if (this.wasGliding) {
      for (let column = 0; column < rowSize; column += LANES)
        for (let v = 0; v < top; v++) rows[column + v] = rows[last + column + v]!;
      return;
    }
    // What stands still stands in every row.
    for (let u = 0; u < moving.length; u++) {
      const column = moving[u]! * LANES;
      for (let v = 0; v < top; v++) rows[column + v] = rows[last + column + v]!;
    }
  }

  private subBlock(frame: number, from: number, to: number, song: SongProgram): void {
    const { now, list } = this;
    copy(this.sharedNow, this.sharedBefore);
    this.shared.evaluate(this.clock.loopTickAt(frame + to, song.loopTicks), song, to - from);
    now.ticksPerSec = song.ticksPerSec;
    if (this.earliest < frame + to) this.cornerRows(frame, from, to);
    const count = this.listed === -1 ? this.listSounding() : this.listed;
    copy(this.shared.values, this.sharedNow);
    if (this.movedMix !== null) this.movedMix.write(Math.ceil(to / SUB_BLOCK), this.sharedNow);
    if (this.out) {
      this.rowFrames[this.rowCount] = to;
      this.rowLanes.fill(EVERY_LANE, this.rowCount * GROUPS, (this.rowCount + 1) * GROUPS);
      this.rowCount++;
    }
    if (count > 0) this.evaluateRow(this.rowCount - 1, frame + to, count);
    this.listener?.row(this.index, this, frame + to, list, count, true);
  }

  /** The rows before a sub-block's end at which voices start or turn a corner. */
  private cornerRows(frame: number, from: number, to: number): void {
    const { list, nextCorner, top } = this;
    for (let at = frame + from; ;) {
      // The next such frame, and the voices of which it is one.
      let next = frame + to;
      for (let v = 0; v < top; v++) if (nextCorner[v]! < next && nextCorner[v]! >= at) next = nextCorner[v]!;
      if (next === frame + to) break;
      let count = 0;
      for (let v = 0; v < top; v++) if (nextCorner[v] === next) list[count++] = v;
      this.cornerRow(frame, next, from, to, count);
      at = next + 1;
    }
    this.earliest = this.earliestCorner();
    this.listed = -1;
  }

  private earliestCorner(): number {
    const { nextCorner, top } = this;
    let earliest = Infinity;
    for (let v = 0; v < top; v++) if (nextCorner[v]! < earliest) earliest = nextCorner[v]!;
    return earliest;
  }

  /** A row at a frame inside a sub-block, for the voices that turn a corner there. */
  private cornerRow(frame: number, next: number, from: number, to: number, count: number): void {
    const { sharedNow, sharedBefore } = this;
    const part = (next - frame - from) / (to - from);
    for (let s = 0; s < sharedNow.length; s++)
      sharedNow[s] = sharedBefore[s]! + (this.shared.values[s]! - sharedBefore[s]!) * part;
    let row = this.rowCount - 1;
    if (this.out && this.rowFrames[row] !== next - frame) {
      if (this.rowCount < MAX_ROWS - SUBS) {
        row = this.rowCount++;
        this.rowFrames[row] = next - frame;
        this.rowLanes.fill(0, row * GROUPS, (row + 1) * GROUPS);
        for (let k = 0; k < count; k++) this.rowLanes[row * GROUPS + (this.list[k]! >> 2)]! |= 1 << (this.list[k]! & 3);
      } else {
        // No row is left: a voice that starts takes the last one, another corner waits for the end of its sub-block.
        let kept = 0;
        for (let k = 0; k < count; k++) {
          const v = this.list[k]!;
          if (this.lanes.fresh[v] === 1) this.list[kept++] = v;
          else this.motion.nextCorner(v, next, this.nextCorner);
        }
        count = kept;
      }
    }
    this.evaluateRow(row, next, count);
    this.listener?.row(this.index, this, next, this.list, count, false);
  }

  /** Works out a row for `count` lanes of `list`; what lies between their last row and this one runs straight. */
  private evaluateRow(row: number, frame: number, count: number): void {
    const { lanes, list, now, rows, uses, rowSize } = this;
    now.frame = frame;
    now.tick = this.clock.tickAt(frame);
    now.shared = this.sharedNow;
    const turns = this.earliest <= frame;
    let fresh = false;
    if (turns) for (let k = 0; k < count; k++) if (lanes.fresh[list[k]!] === 1) fresh = true;
    this.motion.evaluate(list, count, now, fresh);
    const at = row * rowSize;
    const { slots } = this.motion;
    const { glide } = this.sound;
    if (glide !== null) stretchGlides(lanes, glide, list, count, slots, this.sharedNow);
    const { moving, fixed } = uses;
    for (let u = 0; u < moving.length; u++)
      uses.write(moving[u]!, list, count, frame, slots, this.sharedNow, rows, at + moving[u]! * LANES);
    if (fresh || this.glideLeft > 0)
      for (let u = 0; u < fixed.length; u++)
        uses.write(fixed[u]!, list, count, frame, slots, this.sharedNow, rows, at + fixed[u]! * LANES);
    if (this.glideLeft > 0) this.applyGlide(row, count, frame);
    if (fresh) this.spreadFixed(at, count);
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      if (lanes.fresh[v] === 1) {
        lanes.fresh[v] = 0;
        this.started[this.startedCount++] = v;
      } else if (this.out && this.lastRow[v]! < row - 1) {
        this.fillBetween(v, this.lastRow[v]!, row);
      }
      this.lastRow[v] = row;
      lanes.lastFrame[v] = frame;
      if (turns && this.nextCorner[v]! <= frame) this.motion.nextCorner(v, frame, this.nextCorner);
    }
  }

  /** What a note that starts keeps for as long as it sounds is written to every row at once. */
  private spreadFixed(at: number, count: number): void {
    const { rows, rowSize, list, lanes } = this;
    for (const use of this.uses.fixed)
      for (let k = 0; k < count; k++) {
        const v = list[k]!;
        if (lanes.fresh[v] === 0) continue;
        for (let r = 0; r < this.maxRows; r++) rows[r * rowSize + use * LANES + v] = rows[at + use * LANES + v]!;
      }
  }

  /** Gathers the voices that sound and have been evaluated before. */
  private listSounding(): number {
    let count = 0;
    for (let v = 0; v < this.top; v++)
      if (this.lanes.active[v] === 1 && this.lanes.fresh[v] === 0) this.list[count++] = v;
    this.listed = count;
    return count;
  }

  /** Works out every value of sounding voices at the frame where they stand, and how far it is from what sounded there. */
  private refresh(frame: number, song: SongProgram): void {
    const count = this.listSounding();
    this.now.frame = frame;
    this.now.tick = this.clock.tickAt(frame);
    this.now.ticksPerSec = song.ticksPerSec;
    this.now.shared = this.sharedNow;
    this.motion.evaluate(this.list, count, this.now, true);
    const { uses, list, scratch, rows, glide } = this;
    const { slots } = this.motion;
    for (let use = 0; use < this.sound.motion.uses.length; use++) {
      const at = use * LANES;
      uses.write(use, list, count, frame, slots, this.sharedNow, scratch, at);
      for (let k = 0; k < count; k++) glide[at + list[k]!] = rows[at + list[k]!]! - scratch[at + list[k]!]!;
    }
  }

  /** After a glide, what stands still stands in every row again. */
  private settleGlide(frame: number): void {
    const { rows, rowSize, list } = this;
    this.fillStill(0);
    this.glide.fill(0);
    const count = this.listSounding();
    const last = this.lastRowOffset;
    for (const use of this.uses.fixed) {
      this.uses.write(use, list, count, frame, this.motion.slots, this.sharedNow, rows, last + use * LANES);
      for (let k = 0; k < count; k++) {
        const at = use * LANES + list[k]!;
        for (let r = 0; r < this.maxRows; r++) rows[r * rowSize + at] = rows[last + at]!;
      }
    }
  }

  private fillBetween(v: number, first: number, last: number): void {
    const { rows, rowSize, rowFrames } = this;
    const start = rowFrames[first]!;
    const span = rowFrames[last]! - start;
    const all = this.glideLeft > 0 ? this.sound.motion.uses.length : 0;
    const { moving } = this.uses;
    for (let u = 0; u < (all || moving.length); u++) {
      const column = (all ? u : moving[u]!) * LANES + v;
      const a = rows[first * rowSize + column]!;
      const b = rows[last * rowSize + column]!;
      for (let r = first + 1; r < last; r++)
        rows[r * rowSize + column] = a + ((b - a) * (rowFrames[r]! - start)) / span;
    }
  }

  private applyGlide(row: number, count: number, frame: number): void {
    const { rows, rowSize, glide, list, lanes } = this;
    const uses = this.sound.motion.uses.length;
    for (const i of this.uses.still) {
      const value = this.uses.stillValue(i);
      for (let k = 0; k < count; k++) rows[row * rowSize + i * LANES + list[k]!] = value;
    }
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      if (lanes.fresh[v] === 1) continue;
      const elapsed = frame - lanes.lastFrame[v]!;
      const keep = elapsed === SUB_BLOCK ? this.glideKeep : exp((-3 * elapsed) / (GLIDE_SEC * this.sampleRate));
      for (let i = 0; i < uses; i++) {
        const at = row * rowSize + i * LANES + v;
        const g = glide[i * LANES + v]! * keep;
        if (g === 0) continue;
        rows[at] = rows[at]! + g;
        glide[i * LANES + v] = g;
      }
    }
  }

  private endVoices(frame: number): void {
    const { lanes } = this;
    const use = this.sound.motion.uses[this.sound.gain]!;
    if (use.form !== "gain") return;
    for (let v = 0; v < this.top; v++) {
      if (lanes.active[v] === 0 || lanes.fresh[v] === 1) continue;
      const faded = frame >= lanes.stolenFrame[v]! + this.uses.fadeFrames;
      const released = lanes.offFrame[v]! < frame && this.slotValue(use.envelope, v) === 0;
      // An edit's glide may still be fading a note whose release was just made shorter.
      if ((!faded && !released) || this.value(this.sound.gain, v) >= SILENT) continue;
      lanes.end(v);
      this.nextCorner[v] = Infinity;
      this.ended[this.endedCount++] = v;
      this.listener?.end(this.index, this, v);
    }
  }

  /** Renders the stretch that was evaluated last; `before` marks the lanes that sounded when it began. */
  render(frame: number, before: Uint8Array): void {
    const { rowsOut, lanes, started, startedCount, top } = this;
    rowsOut.at = this.rowsAt;
    rowsOut.bytes = this.rowSize * 8;
    rowsOut.count = this.rowCount;
    rowsOut.moves = this.gliding ? this.allMove : this.moves;
    this.out?.render(frame, rowsOut, lanes, top, before, started, startedCount);
  }
}
