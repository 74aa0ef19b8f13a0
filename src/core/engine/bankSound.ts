import { LANES, type VoiceLanes } from "../motion/lanes";
import type { Heap } from "./heap";
import { MOST_SOURCES, isSource, type SoundProgram } from "./program";
import { BUS_BYTES, EVERY_LANE, GROUPS, type GroupStretch, type NoteStart, type Runtime } from "./runtime";
import { newRuntime } from "./runtimes";
import { STRETCH } from "./stretch";

/** A segment as the kernels read it: rows, frames, lanes with a corner at its end, the next row of all lanes and its frame. */
const SEGMENT_WORDS = 8;

/** The rows of a stretch, as they were evaluated. */
export interface EvaluatedRows {
  /** Address of the first row in the heap, and bytes of each. */
  readonly at: number;
  readonly bytes: number;
  readonly count: number;
  /** 1 for each use that differs from row to row. */
  readonly moves: Uint8Array;
  /** Frames of the rows from the stretch's start, and the lanes that have a corner there: four bits a group. */
  readonly frames: Int32Array;
  readonly lanes: Int32Array;
}

/** The sound of a bank's voices: the runtimes of its modules, their buses, and what they add up to. */
export class BankSound {
  /** Where the part's sound of the stretch is added up: 64 frames a side. */
  readonly left: Float32Array;
  readonly right: Float32Array;
  private readonly mix: number;
  private runtimes: Runtime[] = [];
  private ids: readonly string[] = [];
  /** The place of each module among the sources. */
  private places: readonly number[] = [];
  private readonly peaks = new Float32Array(MOST_SOURCES);
  private buses = 0;
  private busBytes = 0;
  private readonly segments: number;
  private readonly segmentWords: Int32Array;
  private readonly whole: number;
  private readonly wholeWords: Int32Array;
  private readonly starts: number;
  private readonly startWords: Int32Array;
  private readonly at: GroupStretch;

  constructor(
    /** The memory of the bank, too. */
    readonly heap: Heap,
    private readonly sampleRate: number,
    private readonly mostRows: number,
  ) {
    this.segments = heap.take(mostRows * SEGMENT_WORDS * 4);
    this.segmentWords = heap.int32(this.segments, mostRows * SEGMENT_WORDS);
    this.whole = heap.take(SEGMENT_WORDS * 4);
    this.wholeWords = heap.int32(this.whole, SEGMENT_WORDS);
    this.starts = heap.take(16);
    this.startWords = heap.int32(this.starts, 4);
    this.mix = heap.take(2 * STRETCH * 4);
    this.left = heap.float32(this.mix, STRETCH);
    this.right = heap.float32(this.mix + STRETCH * 4, STRETCH);
    this.at = {
      rows: 0,
      rowBytes: 0,
      useBytes: LANES * 8,
      segments: this.segments,
      segmentCount: 0,
      whole: this.whole,
      moves: new Uint8Array(0),
      starts: this.starts,
      fresh: false,
      left: this.mix,
      right: this.mix + STRETCH * 4,
      peaks: null,
      source: 0,
    };
  }

  /** Takes over a program's modules; those that stay keep their runtimes, and so their memory. */
  install(sound: SoundProgram): void {
    const { heap } = this;
    const old = new Map(this.runtimes.map((r, i) => [this.ids[i]!, r]));
    if (this.buses !== 0) heap.give(this.buses, this.busBytes);
    this.busBytes = sound.buses * BUS_BYTES;
    this.buses = heap.take(this.busBytes);
    this.ids = sound.modules.map((m) => m.id);
    let sources = 0;
    this.places = sound.modules.map((m) => (isSource(m) ? sources++ : 0));
    const taps = new Map<string, number>();
    this.runtimes = sound.modules.map((m) => {
      const known = old.get(m.id);
      const runtime = known?.kind === m.kind ? known : newRuntime(m, heap, this.sampleRate);
      if (known === runtime) old.delete(m.id);
      runtime.install(m, (id) => taps.get(id) ?? 0);
      if (runtime.tap !== undefined) taps.set(m.id, runtime.tap);
      return runtime;
    });
    for (const unused of old.values()) unused.dispose();
  }

  /** Lets the peaks of sources be measured, or not. */
  set metered(on: boolean) {
    this.at.peaks = on ? this.peaks : null;
  }

  /** Writes the peaks of sources since the last call, in the order of the program, behind `at`; those that sink fall by `keep`. */
  takePeaks(into: Float64Array, at: number, keep: number): void {
    for (let i = 0; i < MOST_SOURCES; i++) {
      into[at + i] = Math.max(this.peaks[i]!, into[at + i]! * keep);
      this.peaks[i] = 0;
    }
  }

  begin(lane: number, note: NoteStart): void {
    for (const runtime of this.runtimes) runtime.begin(lane, note);
  }

  /**
   * Renders the stretch that starts at `frame` into `left` and `right`. `before` marks the lanes that sounded when it
   * began, `started` names the `startedCount` ones that started in it; lanes from `top` on are silent.
   */
  render(
    frame: number,
    rows: EvaluatedRows,
    lanes: VoiceLanes,
    top: number,
    before: Uint8Array,
    started: Int32Array,
    startedCount: number,
  ): void {
    const { heap, at, startWords } = this;
    heap.kernels.clear(this.mix, 2 * STRETCH * 4);
    at.rowBytes = rows.bytes;
    at.moves = rows.moves;
    this.writeWhole(rows);
    for (let group = 0; group * 4 < top; group++) {
      let any = false;
      for (let i = 0; i < 4; i++) {
        const sounds = before[group * 4 + i] === 1;
        startWords[i] = sounds ? 0 : -1;
        any ||= sounds;
      }
      at.fresh = false;
      for (let s = 0; s < startedCount; s++) {
        const v = started[s]!;
        if (v >> 2 !== group) continue;
        startWords[v & 3] = lanes.onFrame[v]! - frame;
        at.fresh = true;
        any = true;
      }
      if (!any) continue;
      at.segmentCount = this.cutSegments(rows, group);
      at.rows = rows.at + group * 4 * 8;
      heap.kernels.clear(this.buses, this.busBytes);
      for (let i = 0; i < this.runtimes.length; i++) {
        at.source = this.places[i]!;
        this.runtimes[i]!.render(group, this.buses, at);
      }
    }
  }

  /** Writes all of the rows as one segment. */
  private writeWhole({ count, frames }: EvaluatedRows): void {
    const words = this.wholeWords;
    const last = count - 1;
    words[0] = 0;
    words[1] = last;
    words[2] = 0;
    words[3] = frames[last]!;
    words[4] = EVERY_LANE;
    words[5] = last;
    words[6] = frames[last]!;
  }

  /** Writes the stretches between a group's rows for the kernels; tells how many. */
  private cutSegments(rows: EvaluatedRows, group: number): number {
    const { segmentWords } = this;
    let words = 0;
    let from = 0;
    for (let r = 1; r < rows.count; r++) {
      const corners = rows.lanes[r * GROUPS + group]!;
      if (corners === 0) continue;
      let end = r;
      while (rows.lanes[end * GROUPS + group] !== EVERY_LANE) end++;
      segmentWords[words] = from;
      segmentWords[words + 1] = r;
      segmentWords[words + 2] = rows.frames[from]!;
      segmentWords[words + 3] = rows.frames[r]!;
      segmentWords[words + 4] = corners;
      segmentWords[words + 5] = end;
      segmentWords[words + 6] = rows.frames[end]!;
      words += SEGMENT_WORDS;
      from = r;
    }
    return words / SEGMENT_WORDS;
  }

  /** Gives its memory back. */
  dispose(): void {
    const { heap } = this;
    for (const runtime of this.runtimes) runtime.dispose();
    heap.give(this.buses, this.busBytes);
    heap.give(this.segments, this.mostRows * SEGMENT_WORDS * 4);
    heap.give(this.whole, SEGMENT_WORDS * 4);
    heap.give(this.starts, 16);
    heap.give(this.mix, 2 * STRETCH * 4);
  }
}
