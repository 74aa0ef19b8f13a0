import { COUNTED, LANES } from "../motion/lanes";
import { Bank, type BankListener } from "./bank";
import type { Clock } from "./clock";
import type { BankSound } from "./bankSound";
import { HeldKeys } from "./heldKeys";
import { PartGain } from "./partGain";
import { EVENT, EVENT_ROW, type PartProgram, type SongProgram } from "./program";

/** Notes that a part plays at once, and the voices they may take together; more are taken from those that sound. */
const NOTES = 16;
const VOICES = 32;
/** Addresses the chance of notes that are played by hand, which have no place in the pattern. */
const BY_HAND = -1;

/** A note that is to sound. */
class NoteOn {
  key = 0;
  velocity = 0;
  freeA = 0;
  freeB = 0;
  onsets = 0;
  frame = 0;
  onTick = 0;
  offTick = 0;
  /** Its onset within the pass, or BY_HAND. */
  address = 0;
  /** The pitch that it glides from, the glide's first frame, and how many it takes. */
  slideFrom = 0;
  slideFrame = 0;
  slideFrames = 0;
  slideByRule = false;
}

/** One part: its voices, and where it is in its events. */
export class PartEngine {
  readonly bank: Bank;
  program: PartProgram;
  private serial = 0;
  private next = 0;
  private pending: PartProgram | null = null;
  private readonly gain: PartGain;
  /** Set when the part is to be gone: it fades out and starts no notes. */
  leaving = false;
  private readonly before = new Uint8Array(LANES);
  private soundedBefore = false;
  /** Whether it was added to the mix in this stretch, and in the one before. */
  private mixed = false;
  private mixedBefore = false;
  private readonly note = new NoteOn();
  /** What the modules are told of it. */
  private readonly start = { seed: 0, address: 0, key: 0, copy: 0 };
  /** Keys that are held by hand, where one note sounds at a time. */
  private readonly hand = new HeldKeys();

  constructor(
    program: PartProgram,
    index: number,
    private readonly clock: Clock,
    private readonly sampleRate: number,
    sound: BankSound | null,
    listener: BankListener | null,
    step: number,
  ) {
    this.program = program;
    this.gain = new PartGain(sampleRate);
    this.bank = new Bank(program.sound, index, clock, sampleRate, sound, listener, step);
  }

  get sounding(): boolean {
    return this.bank.lanes.count > 0;
  }

  /** Takes over a program at `frame`: at once when silent, gliding or through a short dip when sounding. */
  load(program: PartProgram, frame: number): void {
    if (program === this.program && this.pending === null) return;
    if (this.sounding && program.sound.structure !== this.bank.sound.structure) {
      this.pending = program;
      this.gain.close();
      return;
    }
    // A dip that is under way for a program that is not wanted any more turns round.
    this.pending = null;
    this.gain.open();
    this.install(program, frame);
  }

  private install(program: PartProgram, frame: number): void {
    const { sound, events } = this.program;
    this.program = program;
    if (program.sound !== sound) this.bank.install(program.sound);
    if (program.events === events) return;
    this.seek(frame);
    const { lanes } = this.bank;
    for (let v = 0; v < LANES; v++)
      if (lanes.active[v] === 1 && lanes.offTick[v] !== Infinity && lanes.offFrame[v] === Infinity)
        this.follow(v, frame);
  }

  /** A sounding note follows its edited event; one whose event is gone is let go, so that it cannot hang. */
  private follow(v: number, frame: number): void {
    const { events } = this.program;
    const { lanes } = this.bank;
    const tick = lanes.eventTick[v]!;
    for (let r = this.firstRow(tick); r < events.length && events[r] === tick; r += EVENT_ROW) {
      if (events[r + EVENT.key] !== lanes.key[v]) continue;
      lanes.offTick[v] = lanes.onTick[v]! - tick + events[r + EVENT.offTick]!;
      return;
    }
    this.bank.release(v, frame);
  }

  /** Offset of the first row whose onset is at or after `tick`. */
  private firstRow(tick: number): number {
    const { events } = this.program;
    let low = 0;
    let high = events.length / EVENT_ROW;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (events[middle * EVENT_ROW]! < tick) low = middle + 1;
      else high = middle;
    }
    return low * EVENT_ROW;
  }

  /** Finds the first event of the pass at or after `frame`. */
  seek(frame: number): void {
    const { events } = this.program;
    this.next = this.firstRow(this.clock.tickAt(frame) - this.clock.passStart - 1);
    while (this.next < events.length && this.clock.frameOf(this.clock.passStart + events[this.next]!) < frame)
      this.next += EVENT_ROW;
  }

  /** The song comes to stand at `frame` from somewhere else: notes that are held there start, the others follow in time. */
  enter(frame: number): void {
    this.seek(frame);
    this.bank.relocated();
    const { events } = this.program;
    const { clock } = this;
    const now = clock.tickAt(frame);
    for (let r = 0; r < this.next; r += EVENT_ROW) {
      const off = clock.passStart + events[r + EVENT.offTick]!;
      if (clock.frameOf(off) <= frame) continue;
      this.read(r, frame, now);
      this.begin();
    }
  }

  /** Starts again at the first event: a new pass begins. */
  rewind(): void {
    this.next = 0;
  }

  /** Remembers which voices sound before any starts in a stretch. */
  beginStretch(): void {
    this.before.set(this.bank.lanes.active);
    this.soundedBefore = this.sounding;
    this.mixedBefore = this.mixed;
    this.mixed = false;
  }

  /** Starts every event of the pass that falls within [frame, frameEnd) and before the tick `limit`. */
  startEvents(frame: number, frameEnd: number, limit: number): void {
    if (this.leaving) return;
    const { events } = this.program;
    const { passStart } = this.clock;
    while (this.next < events.length) {
      const r = this.next;
      const tick = passStart + events[r]!;
      if (tick >= limit) return;
      const at = this.clock.frameOf(tick);
      if (at >= frameEnd) return;
      // An event that an edit left behind, or that found no voice, starts with the stretch.
      this.read(r, Math.max(at, frame), tick);
      if (!(events[r + EVENT.tied] === 1 && this.resume()) && !this.begin()) return;
      this.next += EVENT_ROW;
    }
  }

  /** Takes a note from a row of events. */
  private read(r: number, frame: number, onTick: number): void {
    const { note, clock } = this;
    const { events } = this.program;
    note.key = events[r + EVENT.key]!;
    note.velocity = events[r + EVENT.velocity]!;
    note.freeA = events[r + EVENT.freeA]!;
    note.freeB = events[r + EVENT.freeB]!;
    note.onsets = events[r + EVENT.onsets]!;
    note.frame = frame;
    note.onTick = onTick;
    note.offTick = clock.passStart + events[r + EVENT.offTick]!;
    note.address = events[r + EVENT.onTick]!;
    note.slideFrom = this.bank.lanes.tuning[events[r + EVENT.slideFrom]!]!;
    note.slideFrame = clock.frameOf(clock.passStart + note.address);
    note.slideFrames = this.framesOf(events[r + EVENT.slideTicks]!, events[r + EVENT.slideMs]!);
    note.slideByRule = events[r + EVENT.slideByRule] === 1;
  }

  private framesOf(ticks: number, ms: number): number {
    return ticks / this.clock.ticksPerFrame + (ms * this.sampleRate) / 1000;
  }

  /** Tunes its keys: what sounds glides there. */
  tune(table: Float64Array | null): void {
    const { lanes } = this.bank;
    const before = lanes.tuning;
    lanes.tune(table);
    if (lanes.tuning !== before) this.bank.edited();
  }

  /** Starts the note's voices; false when every lane is taken, by voices that are being faded. */
  private begin(): boolean {
    const { lanes } = this.bank;
    const { note, start } = this;
    const { copies, oneNote } = this.program.sound;
    // A key that the tuning leaves out is not played.
    if (Number.isNaN(lanes.tuning[note.key])) return true;
    if (LANES - lanes.count < copies) return false;
    if (oneNote) for (let v = 0; v < LANES; v++) if (lanes.active[v] === 1) this.bank.steal(v, note.frame);
    this.makeRoom(copies, note.frame);
    this.serial++;
    start.seed = this.program.seed;
    start.address = note.address;
    start.key = note.key;
    for (let copy = 0, v = 0; copy < copies; v++) {
      if (lanes.active[v] === 1) continue;
      lanes.setKey(v, note.key);
      lanes.velocity[v] = note.velocity;
      lanes.freeA[v] = note.freeA;
      lanes.freeB[v] = note.freeB;
      lanes.onsets[v] = note.onsets;
      lanes.slide(v, note.slideFrom, note.slideFrame, note.slideFrames, note.slideByRule);
      lanes.copy[v] = copies === 1 ? 0 : (2 * copy) / (copies - 1) - 1;
      lanes.serial[v] = this.serial;
      lanes.onFrame[v] = note.frame;
      lanes.onTick[v] = note.onTick;
      lanes.offTick[v] = note.offTick;
      lanes.eventTick[v] = note.address;
      start.copy = copy;
      this.bank.begin(v, start);
      copy++;
    }
    return true;
  }

  /** Lets the voices that are held go on to the note: they glide there and start nothing again. False when none is held. */
  private resume(): boolean {
    const { lanes } = this.bank;
    const { note } = this;
    if (Number.isNaN(lanes.tuning[note.key])) return true;
    let held = -1;
    // One note is held at a time: all of its voices are of one serial.
    for (let v = 0; v < LANES; v++) if (this.isHeld(v)) held = v;
    if (held === -1) return false;
    const serial = lanes.serial[held]!;
    for (let v = 0; v < LANES; v++) {
      if (lanes.active[v] === 0 || lanes.serial[v] !== serial) continue;
      // A glide that was not over is left where it is.
      const from = lanes.pitchAt(v, note.frame);
      lanes.setKey(v, note.key);
      lanes.slide(v, from, note.slideFrame, note.slideFrames, note.slideByRule);
      lanes.freeA[v] = note.freeA;
      lanes.freeB[v] = note.freeB;
      lanes.onsets[v] = note.onsets;
      lanes.onTick[v] = note.onTick;
      lanes.offTick[v] = note.offTick;
      lanes.eventTick[v] = note.address;
    }
    return true;
  }

  private isHeld(v: number): boolean {
    const { lanes } = this.bank;
    return lanes.active[v] === 1 && lanes.offFrame[v] === Infinity && lanes.stolenFrame[v] === Infinity;
  }

  /** Fades notes until another one of `copies` voices may sound: released ones first, then the oldest or the quietest. */
  private makeRoom(copies: number, frame: number): void {
    const { lanes } = this.bank;
    for (;;) {
      let voices = 0;
      let notes = 0;
      let ringing = 0;
      let lastSerial = -1;
      let victim = -1;
      for (let v = 0; v < LANES; v++) {
        if (lanes.active[v] === 0 || lanes.stolenFrame[v] !== Infinity) continue;
        voices++;
        if (lanes.serial[v] !== lastSerial) {
          notes++;
          if (lanes.offFrame[v]! <= frame) ringing++;
        }
        lastSerial = lanes.serial[v]!;
        if (victim === -1 || this.goesBefore(v, victim)) victim = v;
      }
      const enough = notes < NOTES && voices + copies <= VOICES && ringing <= this.program.sound.ringing;
      if (enough || victim === -1) return;
      const serial = lanes.serial[victim]!;
      for (let v = 0; v < LANES; v++)
        if (lanes.active[v] === 1 && lanes.serial[v] === serial) this.bank.steal(v, frame);
    }
  }

  private goesBefore(a: number, b: number): boolean {
    const { offFrame, serial } = this.bank.lanes;
    const aReleased = offFrame[a] !== Infinity;
    const bReleased = offFrame[b] !== Infinity;
    if (aReleased !== bReleased) return aReleased;
    const apart = this.program.sound.quietest ? this.levelOf(a) - this.levelOf(b) : 0;
    return apart === 0 ? serial[a]! < serial[b]! : apart < 0;
  }

  /** How loud a voice was at the end of the last stretch; one that has only started is as loud as can be. */
  private levelOf(v: number): number {
    const { bank } = this;
    return bank.lanes.fresh[v] === 1 ? Infinity : bank.value(bank.sound.gain, v);
  }

  /** Pitch bend, -1 to 1, mod wheel and pressure, 0 to 1: what sounds glides there. */
  hands(bend: number, wheel: number, pressure: number): void {
    const { lanes } = this.bank;
    const semitones = bend * this.program.sound.bendRange;
    const same = lanes.bend === semitones && lanes.stick === bend && lanes.wheel === wheel;
    if (same && lanes.pressure === pressure) return;
    lanes.bend = semitones;
    lanes.stick = bend;
    lanes.wheel = wheel;
    lanes.pressure = pressure;
    this.bank.edited();
  }

  /** A note played by hand; held until `noteOff`. */
  noteOn(key: number, velocity: number, frame: number): void {
    if (this.program.sound.oneNote) {
      this.hand.press(key, velocity);
      this.playHand(frame);
      return;
    }
    this.fromHand(key, velocity, frame);
    this.begin();
  }

  private fromHand(key: number, velocity: number, frame: number): void {
    const { note } = this;
    note.key = key;
    note.velocity = velocity;
    note.freeA = 0;
    note.freeB = 0;
    note.onsets = (note.onsets + 1) % COUNTED;
    note.frame = frame;
    note.onTick = this.clock.tickAt(frame);
    note.offTick = Infinity;
    note.address = BY_HAND;
    note.slideFrames = 0;
    note.slideByRule = false;
  }

  /** Sounds the key that is chosen of those that are held by hand, or lets it go. */
  private playHand(frame: number): void {
    const { hand, note } = this;
    const rule = this.program.sound.oneNote!;
    const key = hand.choose(rule.priority);
    if (key === hand.sounding) return;
    const overlaps = hand.sounding !== -1;
    if (overlaps && key === -1) this.releaseHand(frame);
    const from = hand.last;
    hand.sound(key);
    if (key === -1) return;
    this.fromHand(key, hand.velocityOf(key), frame);
    if (from !== -1 && (rule.always || overlaps)) {
      note.slideFrom = this.bank.lanes.tuning[from]!;
      note.slideFrame = frame;
      const share = rule.perOctave ? Math.abs(key - from) / 12 : 1;
      note.slideFrames = share * this.framesOf(rule.glideTicks, rule.glideMs);
      note.slideByRule = true;
    }
    if (!(rule.tied && overlaps && this.resume())) this.begin();
  }

  private releaseHand(frame: number): void {
    const { lanes } = this.bank;
    for (let v = 0; v < LANES; v++)
      if (lanes.active[v] === 1 && lanes.offTick[v] === Infinity) this.bank.release(v, frame);
  }

  noteOff(key: number, frame: number): void {
    const { lanes } = this.bank;
    if (this.program.sound.oneNote) {
      this.hand.release(key);
      this.playHand(frame);
      return;
    }
    for (let v = 0; v < LANES; v++)
      if (lanes.active[v] === 1 && lanes.key[v] === key && lanes.offTick[v] === Infinity) this.bank.release(v, frame);
  }

  releaseAll(frame: number): void {
    this.hand.clear();
    for (let v = 0; v < LANES; v++) if (this.bank.lanes.active[v] === 1) this.bank.release(v, frame);
  }

  /** Fades the part out; `gone` tells when it is over. */
  leave(): void {
    this.leaving = true;
    this.pending = null;
    this.gain.close();
  }

  get gone(): boolean {
    return this.leaving && (this.gain.isClosed || !this.sounding);
  }

  /** Evaluates the stretch. */
  advance(frame: number, length: number, song: SongProgram): void {
    const { lanes } = this.bank;
    for (let v = 0; v < lanes.top; v++) {
      if (lanes.active[v] === 0 || lanes.offFrame[v] !== Infinity || lanes.offTick[v] === Infinity) continue;
      const off = this.clock.frameOf(lanes.offTick[v]!);
      if (off < frame + length) this.bank.release(v, Math.max(off, frame));
    }
    this.bank.advance(frame, length, song);
  }

  /** Adds the sound of the stretch that was evaluated to the mix. */
  mix(frame: number, length: number, mixL: Float64Array, mixR: Float64Array): void {
    const { out } = this.bank;
    const { gain } = this;
    if (!out) return;
    this.bank.render(frame, this.before);
    const { mix } = this.program;
    const moved = this.bank.movedMix === null ? null : this.bank.movedMix.gains;
    // Nothing sounded that could step.
    if (!this.mixedBefore) gain.place(mix, moved);
    this.mixed = true;
    gain.add(out.left, out.right, length, mix, moved, mixL, mixR);
    if (!gain.isClosed || gain.isStill || this.leaving) return;
    if (this.pending) this.install(this.pending, frame + length);
    this.pending = null;
    gain.open();
  }

  /** Without sound there is nothing to dip. */
  settle(frame: number): void {
    if (this.pending) this.install(this.pending, frame);
    this.pending = null;
    this.gain.settle();
  }

  /** Whether nothing sounded in the stretch: a voice that ended in it did. */
  get idle(): boolean {
    return !this.soundedBefore && !this.sounding && this.gain.isStill;
  }
}
