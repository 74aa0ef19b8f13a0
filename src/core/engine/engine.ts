import { tableName, type SoundTable, type TableSpec } from "../dsp/tableSpec";
import { TruePeakLimiter, delayOf } from "../dsp/limiter";
import { MAX_ROWS, type BankListener } from "./bank";
import { BankSound } from "./bankSound";
import { Click, Marks } from "./click";
import type { Heap } from "./heap";
import { Kit } from "./kit";
import type { PartEngine } from "./partEngine";
import { peakRoom } from "./peakRoom";
import { tablesOf, type Program } from "./program";
import { Sequencer } from "./sequencer";
import { STRETCH } from "./stretch";

export interface EngineOptions {
  readonly listener?: BankListener;
  /** False hands the mix out before the limiter; the caller limits it. */
  readonly limited?: boolean;
  /** Gives tables that were not handed over by `setTable`; null where there is none to have, and what reads it is silent. Not for the audio thread: making one takes long. */
  readonly tables?: (spec: TableSpec) => SoundTable | null;
}

/** Share of what is left that a trim moves by in a second's thousandth. */
const TRIM_KEEP_PER_FRAME = 0.9945;

/**
 * The sound engine: what the sequencer plays, heard. Blocks of any length are filled from its stretches, and their length does
 * not change a sample. `process` allocates nothing and throws nothing.
 */
export class Engine extends Sequencer {
  private readonly mixL = new Float64Array(STRETCH);
  private readonly mixR = new Float64Array(STRETCH);
  private readonly outL = new Float32Array(STRETCH);
  private readonly outR = new Float32Array(STRETCH);
  /** Frames of the last stretch, and how many of them were handed out. */
  private ready = 0;
  private taken = 0;
  private readonly limiter: TruePeakLimiter;
  private readonly limited: boolean;
  private trim = 1;
  readonly click: Click;
  readonly marks: Marks;
  private readonly kit: Kit;
  /** The tick from which nothing is struck in a stretch. */
  private readonly limit = new Float64Array(1);

  constructor(
    sampleRate: number,
    /** The memory it sounds from. */
    private readonly heap: Heap,
    private readonly options: EngineOptions = {},
  ) {
    super(sampleRate, options.listener ?? null);
    this.limited = options.limited ?? true;
    this.limiter = new TruePeakLimiter(sampleRate, peakRoom(heap));
    this.click = new Click(sampleRate);
    this.marks = new Marks(sampleRate);
    this.kit = new Kit(sampleRate);
  }

  protected override newSound(): BankSound {
    return new BankSound(this.heap, this.sampleRate, MAX_ROWS);
  }

  /** Frame of the next sample that is handed out: the last stretch may be up to 63 ahead. */
  get outFrame(): number {
    return this.frame - (this.ready - this.taken);
  }

  /** Hands over a table that programs read; what reads one that does not fit into the heap is silent. */
  setTable(name: string, table: SoundTable): void {
    try {
      this.heap.setTable(name, table);
    } catch (error) {
      if (!(error instanceof RangeError)) throw error;
    }
  }

  /** Gives back the memory of tables that no program reads any more. */
  dropTables(names: readonly string[]): void {
    for (const name of names) this.heap.dropTable(name);
  }

  override load(program: Program): void {
    if (this.options.tables)
      for (const spec of tablesOf(program)) {
        const name = tableName(spec);
        const table = this.heap.tableAt(name) === 0 ? this.options.tables(spec) : null;
        if (table) this.setTable(name, table);
      }
    if (this.program === null) this.trim = program.song.trim;
    super.load(program);
    this.kit.load(program.song.kit);
  }

  override stop(): void {
    super.stop();
    this.kit.stop();
  }

  override get sounding(): boolean {
    return super.sounding || this.kit.sounding;
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
    this.limiter.takePeaks(out, 0);
  }

  /** Fills `frames` of both sides from the start of the arrays. */
  process(left: Float32Array, right: Float32Array, frames: number): void {
    for (let at = 0; at < frames;) {
      if (this.taken === this.ready) this.render();
      const count = Math.min(frames - at, this.ready - this.taken);
      for (let i = 0; i < count; i++) {
        left[at + i] = this.outL[this.taken + i]!;
        right[at + i] = this.outR[this.taken + i]!;
      }
      this.taken += count;
      at += count;
    }
  }

  /** Renders the next stretch. */
  private render(): void {
    this.mixL.fill(0);
    this.mixR.fill(0);
    const length = this.stretch();
    if (this.limited) this.limiter.process(this.mixL, this.mixR, length, this.outL, this.outR);
    else {
      for (let i = 0; i < length; i++) {
        this.outL[i] = this.mixL[i]!;
        this.outR[i] = this.mixR[i]!;
      }
    }
    this.ready = length;
    this.taken = 0;
  }

  protected override mixPart(part: PartEngine, length: number): void {
    if (!part.idle) part.mix(this.frame, length, this.mixL, this.mixR);
  }

  protected override played(program: Program, length: number, limit: number): void {
    const { clock, frame } = this;
    this.limit[0] = limit;
    if (clock.playing) this.kit.song(clock, this.limit, frame, length, this.mixL, this.mixR);
    else this.kit.ring(length, this.mixL, this.mixR);
    this.applyTrim(program.song.trim, length);
    if (clock.playing) {
      this.click.song(clock, program.song, frame, length, this.mixL, this.mixR);
      this.marks.song(clock, frame, length, this.mixL, this.mixR);
    } else if (this.startFrame !== Infinity)
      this.click.count(program.song, this.startFrame, frame, length, this.mixL, this.mixR);
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
