import { tableName, type SoundTable, type TableSpec } from "../dsp/tables";
import { TruePeakLimiter, delayOf } from "../dsp/limiter";
import type { BankListener } from "./bank";
import { Click, Marks } from "./click";
import { Clock } from "./clock";
import type { Heap } from "./heap";
import { Kit } from "./kit";
import { peakRoom } from "./peakRoom";
import { PartEngine } from "./partEngine";
import { tablesOf, type Program } from "./program";
import { STRETCH, SUBS, SUB_BLOCK } from "./stretch";

export interface EngineOptions {
  readonly listener?: BankListener;
  /** False hands the mix out before the limiter; the caller limits it. */
  readonly limited?: boolean;
  /** Frames of a sub-block, 16 unless said otherwise; an engine without sound may look less closely. */
  readonly step?: number;
  /** Gives tables that were not handed over by `setTable`; null where there is none to have, and what reads it is silent. Not for the audio thread: making one takes long. */
  readonly tables?: (spec: TableSpec) => SoundTable | null;
}

/** A stretch of the loop, in ticks. */
export interface Region {
  readonly from: number;
  readonly to: number;
}

/** Share of what is left that a trim moves by in a second's thousandth. */
const TRIM_KEEP_PER_FRAME = 0.9945;

/**
 * The sound engine. Frames are counted from its start. It renders stretches of up to 64 frames that begin anew with each
 * pass of the loop, so that every pass is worked out alike; blocks of any length are filled from them, and their length
 * does not change a sample. `process` allocates nothing and throws nothing.
 */
export class Engine {
  readonly clock = new Clock();
  /** The next frame to be rendered; up to 63 ahead of what was handed out. */
  frame = 0;
  parts: PartEngine[] = [];
  private leaving: PartEngine[] = [];
  private program: Program | null = null;
  private readonly mixL = new Float64Array(STRETCH);
  private readonly mixR = new Float64Array(STRETCH);
  private readonly outL = new Float32Array(STRETCH);
  private readonly outR = new Float32Array(STRETCH);
  /** Frames of the last stretch, and how many of them were handed out. */
  private ready = 0;
  private taken = 0;
  private readonly limiter: TruePeakLimiter | null;
  private readonly audible: boolean;
  private readonly limited: boolean;
  private readonly step: number;
  private trim = 1;
  readonly click: Click;
  readonly marks: Marks;
  private readonly kit: Kit;
  /** The tick from which nothing is struck in a stretch. */
  private readonly limit = new Float64Array(1);
  /** The stretch of the loop that is repeated, in ticks; null repeats the whole. */
  private region: Region | null = null;
  /** The frame at which the song begins after it was counted in; Infinity while nothing is counted. */
  private startFrame = Infinity;
  private startTick = 0;
  /** Ticks since the engine's start from which no more events start. */
  private limitTick = Infinity;

  constructor(
    readonly sampleRate: number,
    /** The memory it sounds from; without one, notes and motion alone are worked out: for as-heard curves. */
    private readonly heap: Heap | null,
    private readonly options: EngineOptions = {},
  ) {
    this.audible = heap !== null;
    this.limited = options.limited ?? true;
    this.step = options.step ?? SUB_BLOCK;
    this.limiter = heap && new TruePeakLimiter(sampleRate, peakRoom(heap));
    this.click = new Click(sampleRate);
    this.marks = new Marks(sampleRate);
    this.kit = new Kit(sampleRate);
  }

  /** Frame of the next sample that is handed out. */
  get outFrame(): number {
    return this.frame - (this.ready - this.taken);
  }

  /** Hands over a table that programs read; what reads one that does not fit into the heap is silent. */
  setTable(name: string, table: SoundTable): void {
    try {
      this.heap?.setTable(name, table);
    } catch (error) {
      if (!(error instanceof RangeError)) throw error;
    }
  }

  /** Gives back the memory of tables that no program reads any more. */
  dropTables(names: readonly string[]): void {
    for (const name of names) this.heap?.dropTable(name);
  }

  /** Takes over a program; what sounds goes on and glides to it. Parts keep their voices by their id. */
  load(program: Program): void {
    const { clock, frame } = this;
    const before = this.program;
    const { song } = program;
    this.program = program;
    if (this.heap && this.options.tables)
      for (const spec of tablesOf(program)) {
        const name = tableName(spec);
        const table = this.heap.tableAt(name) === 0 ? this.options.tables(spec) : null;
        if (table) this.setTable(name, table);
      }
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
        const made = new PartEngine(p, i, clock, this.sampleRate, this.heap, this.options.listener ?? null, this.step);
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
    this.kit.load(song.kit);
    if (before === null) this.trim = song.trim;
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

  private begin(): void {
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
    this.kit.stop();
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
    return this.kit.sounding;
  }

  get voiceCount(): number {
    let count = 0;
    for (const part of this.parts) count += part.bank.lanes.count;
    return count;
  }

  get loopTick(): number {
    return this.program ? this.clock.loopTickAt(this.outFrame, this.program.song.loopTicks) : 0;
  }

  /** Frames by which the limiter delays the sound. */
  get delay(): number {
    return this.limited ? delayOf(this.sampleRate) : 0;
  }

  /** Peaks before the limiter since the last call, to `out[0]` and `out[1]`. */
  takePeaks(out: Float32Array): void {
    this.limiter?.takePeaks(out, 0);
  }

  /** Fills `frames` of both sides from the start of the arrays; leaves them alone when inaudible. */
  process(left: Float32Array, right: Float32Array, frames: number): void {
    for (let at = 0; at < frames;) {
      if (this.taken === this.ready) this.stretch();
      const count = Math.min(frames - at, this.ready - this.taken);
      if (this.audible) {
        for (let i = 0; i < count; i++) {
          left[at + i] = this.outL[this.taken + i]!;
          right[at + i] = this.outR[this.taken + i]!;
        }
      }
      this.taken += count;
      at += count;
    }
  }

  /** Renders the next stretch. */
  private stretch(): void {
    const { program, clock, frame } = this;
    let length = this.step * SUBS;
    if (this.audible) {
      this.mixL.fill(0);
      this.mixR.fill(0);
    }
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
      if (this.audible) {
        this.limit[0] = limit;
        if (clock.playing) this.kit.song(clock, program.song, this.limit, frame, length, this.mixL, this.mixR);
        else this.kit.ring(length, this.mixL, this.mixR);
        this.applyTrim(program.song.trim, length);
        if (clock.playing) {
          this.click.song(clock, program.song, frame, length, this.mixL, this.mixR);
          this.marks.song(clock, program.song, frame, length, this.mixL, this.mixR);
        } else if (this.startFrame !== Infinity)
          this.click.count(program.song, this.startFrame, frame, length, this.mixL, this.mixR);
      }
      for (let i = this.leaving.length - 1; i >= 0; i--) if (this.leaving[i]!.gone) this.forget(i);
    }
    if (!this.audible) {
      // Nothing was mixed: the listener has what is wanted.
    } else if (this.limited && this.limiter) this.limiter.process(this.mixL, this.mixR, length, this.outL, this.outR);
    else {
      for (let i = 0; i < length; i++) {
        this.outL[i] = this.mixL[i]!;
        this.outR[i] = this.mixR[i]!;
      }
    }
    this.frame += length;
    this.ready = length;
    this.taken = 0;
  }

  private advance(part: PartEngine, program: Program, length: number, limit: number): void {
    const { frame } = this;
    part.beginStretch();
    if (this.clock.playing) part.startEvents(frame, frame + length, limit);
    part.advance(frame, length, program.song);
    if (this.audible) {
      if (!part.idle) part.mix(frame, length, this.mixL, this.mixR);
    } else part.settle(frame + length);
  }

  /** A pass that has come to its end starts again. */
  private newPass(program: Program): void {
    const { clock } = this;
    if (!clock.playing) return;
    for (;;) {
      const end = this.endOfPass(program);
      if (clock.frameOf(clock.passStart + end) > this.frame) return;
      // An event of the last half tick is rounded to the frame on which the next pass starts.
      const limit = Math.min(this.limitTick, clock.passStart + end);
      for (const part of this.parts) part.startEvents(this.frame, this.frame + 1, limit);
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

  private applyTrim(target: number, length: number): void {
    if (Math.abs(target - this.trim) < 1e-6) this.trim = target;
    if (this.trim === target && target === 1) return;
    let gain = this.trim;
    for (let i = 0; i < length; i++) {
      gain = target + (gain - target) * TRIM_KEEP_PER_FRAME;
      this.mixL[i] = this.mixL[i]! * gain;
      this.mixR[i] = this.mixR[i]! * gain;
    }
    this.trim = gain;
  }
}
