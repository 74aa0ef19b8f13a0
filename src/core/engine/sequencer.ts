import type { BankListener } from "./bank";
import type { BankSound } from "./bankSound";
import { Clock } from "./clock";
import { PartEngine } from "./partEngine";
import type { Program } from "./program";
import { SUBS, SUB_BLOCK } from "./stretch";

/** A stretch of the loop, in ticks. */
export interface Region {
  readonly from: number;
  readonly to: number;
}

/**
 * Plays a program's notes and motion, without sound: for as-heard curves, and for the engine, which adds the sound. Frames are
 * counted from its start. It goes on by stretches of a few sub-blocks that begin anew with each pass of the loop, so that
 * every pass is worked out alike.
 */
export class Sequencer {
  readonly clock = new Clock();
  /** The first frame of the next stretch. */
  frame = 0;
  parts: PartEngine[] = [];
  private leaving: PartEngine[] = [];
  protected program: Program | null = null;
  /** The stretch of the loop that is repeated, in ticks; null repeats the whole. */
  private region: Region | null = null;
  /** The frame at which the song begins after it was counted in; Infinity while nothing is counted. */
  protected startFrame = Infinity;
  private startTick = 0;
  /** Ticks since the start from which no more events start. */
  private limitTick = Infinity;

  constructor(
    readonly sampleRate: number,
    private readonly listener: BankListener | null = null,
    /** Frames of a sub-block: who only looks may look less closely. */
    private readonly step = SUB_BLOCK,
  ) {}

  /** What a new part sounds by. */
  protected newSound(): BankSound | null {
    return null;
  }

  /** Takes over a program; what sounds goes on and glides to it. Parts keep their voices by their id. */
  load(program: Program): void {
    const { clock, frame } = this;
    const before = this.program;
    const { song } = program;
    this.program = program;
    clock.setRate(song.ticksPerSec / this.sampleRate, frame);
    const since = clock.tickAt(frame) - clock.passStart;
    if (since >= song.loopTicks) clock.passStart += Math.floor(since / song.loopTicks) * song.loopTicks;
    const retimed =
      before !== null && (before.song.ticksPerSec !== song.ticksPerSec || before.song.loopTicks !== song.loopTicks);
    const kept = new Set<PartEngine>();
    const playing = this.parts;
    this.parts = program.parts.map((p, i) => {
      const known = playing.find((e) => e.program.id === p.id);
      if (!known) {
        const made = new PartEngine(p, i, clock, this.sampleRate, this.newSound(), this.listener, this.step);
        made.seek(frame);
        return made;
      }
      kept.add(known);
      known.load(p, frame);
      // Another length of the loop brings other events, which are sought when they are taken over.
      if (retimed) known.bank.relocated();
      return known;
    });
    for (const part of playing) {
      if (kept.has(part)) continue;
      // A part that is not in the program any more fades out.
      part.leave();
      this.leaving.push(part);
    }
    for (const part of this.parts) part.tune(song.tuning);
  }

  /**
   * Plays from a position within the loop, at the next frame or after so many beats are counted in with clicks. Notes that
   * are held at the position sound at once.
   */
  play(loopTick: number, countBeats = 0): void {
    const { program } = this;
    if (!program) return;
    this.startTick = Math.max(0, loopTick % program.song.loopTicks);
    if (countBeats <= 0) return this.begin();
    this.stop();
    const beatSec = program.song.beatTicks / program.song.ticksPerSec;
    this.startFrame = this.frame + Math.round(countBeats * beatSec * this.sampleRate);
  }

  protected begin(): void {
    const { clock, frame } = this;
    this.startFrame = Infinity;
    if (clock.playing) for (const part of this.parts) part.releaseAll(frame);
    clock.locate(this.startTick, frame, !this.sounding);
    clock.playing = true;
    for (const part of this.parts) part.enter(frame);
  }

  /** Repeats a stretch of the loop, in ticks, from the next time its end is reached; null repeats the whole. */
  repeat(region: Region | null): void {
    this.region = region && region.to > region.from ? region : null;
  }

  /** Ticks of the loop at which the pass that plays comes to its end. */
  private endOfPass(program: Program): number {
    const { region, clock } = this;
    const { loopTicks } = program.song;
    if (!region || region.to > loopTicks) return loopTicks;
    // A song that plays behind the stretch goes on to its own end.
    return this.frame <= clock.frameOf(clock.passStart + region.to) ? region.to : loopTicks;
  }

  /** Stops: every key is let go, releases ring out. */
  stop(): void {
    this.startFrame = Infinity;
    this.clock.playing = false;
    for (const part of this.parts) part.releaseAll(this.frame);
  }

  /** No event starts at or after this many ticks from the start of the current pass; what sounds goes on to its end. */
  finishAfter(ticks: number): void {
    this.limitTick = this.clock.passStart + ticks;
  }

  noteOn(partId: string, key: number, velocity: number): void {
    this.partOf(partId)?.noteOn(key, velocity, this.frame);
  }

  noteOff(partId: string, key: number): void {
    this.partOf(partId)?.noteOff(key, this.frame);
  }

  /** Moves a part's pitch bend, -1 to 1, its mod wheel and its pressure, 0 to 1. */
  hands(partId: string, bend: number, wheel: number, pressure: number): void {
    this.partOf(partId)?.hands(bend, wheel, pressure);
  }

  private partOf(id: string): PartEngine | undefined {
    for (const part of this.parts) if (part.program.id === id) return part;
    return undefined;
  }

  get sounding(): boolean {
    for (const part of this.parts) if (part.sounding) return true;
    return false;
  }

  get voiceCount(): number {
    let count = 0;
    for (const part of this.parts) count += part.bank.lanes.count;
    return count;
  }

  /** Goes on by `frames`, or by what is left of their last stretch more. */
  run(frames: number): void {
    for (const end = this.frame + frames; this.frame < end;) this.stretch();
  }

  /** Plays the next stretch; returns its frames. */
  protected stretch(): number {
    const { program, clock, frame } = this;
    let length = this.step * SUBS;
    if (program) {
      if (frame >= this.startFrame) this.begin();
      this.newPass(program);
      if (clock.playing) {
        const passEnd = clock.frameOf(clock.passStart + this.endOfPass(program));
        length = Math.max(1, Math.min(length, passEnd - frame));
      } else if (this.startFrame !== Infinity) length = Math.min(length, this.startFrame - frame);
      const limit = Math.min(this.limitTick, clock.passStart + this.endOfPass(program));
      for (const part of this.parts) this.advance(part, program, length, limit);
      for (const part of this.leaving) this.advance(part, program, length, limit);
      this.played?.(program, length, limit);
      for (let i = this.leaving.length - 1; i >= 0; i--) if (this.leaving[i]!.gone) this.forget(i);
    }
    this.frame += length;
    return length;
  }

  private advance(part: PartEngine, program: Program, length: number, limit: number): void {
    const { frame } = this;
    part.beginStretch();
    if (this.clock.playing) part.startEvents(frame, frame + length, limit);
    part.advance(frame, length, program.song);
    this.mixPart(part, length);
  }

  /** What a part sounds like in the stretch that it has just played. */
  protected mixPart(part: PartEngine, length: number): void {
    part.settle(this.frame + length);
  }

  /** Hears of every stretch that all parts have played: its frames, and the tick at or after which nothing starts in it. */
  protected played?(program: Program, length: number, limit: number): void;

  /** A pass that has come to its end starts again. */
  private newPass(program: Program): void {
    const { clock } = this;
    if (!clock.playing) return;
    for (;;) {
      const end = this.endOfPass(program);
      if (clock.frameOf(clock.passStart + end) > this.frame) return;
      const from = this.region?.from ?? 0;
      clock.passStart += end - from;
      for (const part of this.parts) {
        if (end === program.song.loopTicks && from === 0) part.rewind();
        else {
          part.releaseAll(this.frame);
          part.enter(this.frame);
        }
      }
    }
  }

  private forget(index: number): void {
    this.leaving[index]!.bank.dispose();
    this.leaving.splice(index, 1);
  }
}
