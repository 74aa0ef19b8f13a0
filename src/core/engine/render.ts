import { TruePeakLimiter } from "../dsp/limiter";
import { gainToDb } from "../dsp/portableMath";
import type { Recordings } from "../dsp/tableSpec";
import { tableMaker } from "../dsp/tables";
import type { Bank, BankListener } from "./bank";
import { Engine } from "./engine";
import { Heap } from "./heap";
import { peakRoom } from "./peakRoom";
import { withoutKit, type Program } from "./program";
import { framesOfBars } from "./watch";

/** What becomes of the releases that sound after the last bar. */
export const TAILS = ["wrap", "append", "cut"] as const;
export type Tail = (typeof TAILS)[number];

export const SAMPLE_RATES = [44_100, 48_000, 88_200, 96_000] as const;

export interface RenderOptions {
  /** Hz, 8000 to 192000. */
  readonly sampleRate: number;
  /** 1 or more; the loop is passed as often as needed. */
  readonly bars: number;
  /** wrap: added to the start, so that the file loops; append: kept after the end; cut: left out. */
  readonly tail: Tail;
  readonly listener?: BankListener;
  /** The recordings that sources play; one that is not there is silent. */
  readonly recordings?: Recordings;
  /** Whether the backing is heard beside the parts; without saying, it is not. */
  readonly backing?: boolean;
}

/** A piece of a render. Pieces of a wrapped one come as they are ready: its start comes last, with the releases of its end. */
export interface Piece {
  /** Frame at which it belongs. */
  readonly at: number;
  readonly left: Float32Array<ArrayBuffer>;
  readonly right: Float32Array<ArrayBuffer>;
  /** 0 to 1. */
  readonly progress: number;
}

export interface RenderSummary {
  readonly frames: number;
  /** Frames of the bars alone, without a tail. */
  readonly barFrames: number;
  /** Before the limiter; -Infinity for silence. */
  readonly peakDb: number;
  /** Whether the limiter had to act. */
  readonly limited: boolean;
}

/** Releases longer than this are cut off. */
const LONGEST_TAIL_SEC = 60;
/** The start of a wrapped render is held back for as long as releases may add to it, and the limiter may remember them. */
const HEAD_SEC = LONGEST_TAIL_SEC + 2;
const CHUNK = 8192;

/** Sound through the limiter with its delay taken out: what goes in comes out at the same frame. */
class Limited {
  readonly limiter: TruePeakLimiter;
  private readonly l = new Float64Array(CHUNK);
  private readonly r = new Float64Array(CHUNK);
  /** Frames still to be dropped: they came before the first that went in. */
  private early: number;

  constructor(sampleRate: number, heap: Heap) {
    this.limiter = new TruePeakLimiter(sampleRate, peakRoom(heap));
    this.early = this.limiter.delay;
  }

  /** Limits a chunk (at most `CHUNK` frames); what comes out is as long, or shorter at the start. */
  push(left: Float32Array, right: Float32Array): { left: Float32Array<ArrayBuffer>; right: Float32Array<ArrayBuffer> } {
    const count = left.length;
    const outL = new Float32Array(count);
    const outR = new Float32Array(count);
    this.l.set(left);
    this.r.set(right);
    this.limiter.process(this.l, this.r, count, outL, outR);
    if (this.early === 0) return { left: outL, right: outR };
    const drop = Math.min(count, this.early);
    this.early -= drop;
    return { left: outL.slice(drop), right: outR.slice(drop) };
  }
}

/** The heap of a render that has ended, for the next one of this thread. */
let spareHeap: Heap | null = null;

/**
 * Renders bars of a program piece by piece, so that its length needs no memory; the caller can show the progress or stop
 * between pieces. The same program gives the same samples wherever it runs.
 */
export function* renderProgram(program: Program, options: RenderOptions): Generator<Piece, RenderSummary> {
  const heap = new Heap(spareHeap);
  // Another render may begin before this one ends: it gets its own.
  spareHeap = null;
  const rendered = yield* renderIn(heap, program, options);
  spareHeap = heap;
  return rendered;
}

function* renderIn(heap: Heap, program: Program, options: RenderOptions): Generator<Piece, RenderSummary> {
  const { sampleRate, bars, tail } = options;
  const engine = new Engine(sampleRate, heap, {
    limited: false,
    tables: tableMaker(options.recordings ?? new Map()),
    ...(options.listener ? { listener: options.listener } : {}),
  });
  const barFrames = framesOfBars(program, bars, sampleRate);
  engine.load(options.backing ? program : withoutKit(program));
  engine.play(0);
  engine.finishAfter(bars * program.song.barTicks);
  const chunkL = new Float32Array(CHUNK);
  const chunkR = new Float32Array(CHUNK);
  const next: Next = (frames) => {
    engine.process(chunkL, chunkR, frames);
    return { left: chunkL.subarray(0, frames), right: chunkR.subarray(0, frames) };
  };
  if (tail === "wrap") return yield* wrapped(engine, next, barFrames, new Limited(sampleRate, heap), sampleRate);
  const limited = new Limited(sampleRate, heap);
  const longest = barFrames + (tail === "cut" ? 0 : LONGEST_TAIL_SEC * sampleRate);
  let done = 0;
  let at = 0;
  while (done < barFrames || (tail === "append" && done < longest && engine.sounding)) {
    const count = Math.min(CHUNK, (done < barFrames && tail === "cut" ? barFrames : longest) - done);
    const chunk = next(count);
    done += count;
    const piece = limited.push(chunk.left, chunk.right);
    yield { at, ...piece, progress: Math.min(1, done / (barFrames + CHUNK)) };
    at += piece.left.length;
  }
  const rest = limited.push(new Float32Array(limited.limiter.delay), new Float32Array(limited.limiter.delay));
  yield { at, ...rest, progress: 1 };
  return summary(limited.limiter, at + rest.left.length, barFrames);
}

function summary(limiter: TruePeakLimiter, frames: number, barFrames: number): RenderSummary {
  const peaks = new Float32Array(2);
  limiter.takePeaks(peaks, 0);
  return { frames, barFrames, peakDb: gainToDb(Math.max(peaks[0]!, peaks[1]!)), limited: limiter.acted };
}

/** The next frames, at most `CHUNK`; they stand until the next call. */
type Next = (frames: number) => { left: Float32Array<ArrayBuffer>; right: Float32Array<ArrayBuffer> };

/** The start is kept until the last release has been added to it; the rest is handed out as it is rendered. */
function* wrapped(
  engine: Engine,
  next: Next,
  barFrames: number,
  limited: Limited,
  sampleRate: number,
): Generator<Piece, RenderSummary> {
  const headFrames = Math.min(barFrames, HEAD_SEC * sampleRate);
  const head = { left: new Float32Array(headFrames), right: new Float32Array(headFrames) };
  let done = 0;
  const chunkTo = (end: number): ReturnType<Next> => {
    const chunk = next(Math.min(CHUNK, end - done));
    done += chunk.left.length;
    return chunk;
  };
  while (done < headFrames) {
    const at = done;
    const chunk = chunkTo(headFrames);
    head.left.set(chunk.left, at);
    head.right.set(chunk.right, at);
    yield { at: 0, left: NOTHING, right: NOTHING, progress: done / (barFrames + CHUNK) };
  }
  const whole = headFrames === barFrames;
  const bodyFrames = barFrames - headFrames;
  // What goes through the limiter, in this order: as much as it may remember of what comes before, then the file's rest
  // and its start. A file that is all start is limited twice round, so that its start knows what happened at its end.
  const lead = whole ? headFrames : Math.min(headFrames, sampleRate);
  const { delay } = limited.limiter;
  const places: readonly Place[] = [
    { from: lead, to: lead + bodyFrames, file: headFrames },
    { from: lead + bodyFrames, to: lead + barFrames, file: 0 },
  ];
  let passed = 0;
  const push = (left: Float32Array, right: Float32Array, progress: number): Piece[] => {
    const out = limited.push(left, right);
    const pieces = places.flatMap((p) => cut(out, passed, p, progress));
    passed += out.left.length;
    return pieces;
  };
  const pushHead = function* (from: number, to: number): Generator<Piece> {
    for (let at = from; at < to; at += CHUNK) {
      const count = Math.min(CHUNK, to - at);
      yield* push(around(head.left, at, count), around(head.right, at, count), 0.99);
    }
  };
  if (!whole) yield* pushHead(headFrames - lead, headFrames);
  let after: ReturnType<Next> | null = null;
  while (done < barFrames) {
    const chunk = chunkTo(barFrames);
    after ??= { left: chunk.left.slice(0, delay), right: chunk.right.slice(0, delay) };
    yield* push(chunk.left, chunk.right, done / (barFrames + CHUNK));
  }
  const longest = barFrames + LONGEST_TAIL_SEC * sampleRate;
  while (done < longest && engine.sounding) {
    const start = done - barFrames;
    const chunk = chunkTo(longest);
    for (let i = 0; i < chunk.left.length; i++) {
      // A tail longer than the loop goes round it as often as it takes.
      const to = (start + i) % barFrames;
      if (to >= headFrames) break;
      head.left[to] = head.left[to]! + chunk.left[i]!;
      head.right[to] = head.right[to]! + chunk.right[i]!;
    }
    yield { at: 0, left: NOTHING, right: NOTHING, progress: 0.99 };
  }
  if (whole) yield* pushHead(0, headFrames);
  yield* pushHead(0, headFrames);
  // What comes after the start, for as long as the limiter looks ahead.
  if (after) yield* push(after.left, after.right, 1);
  else yield* pushHead(0, delay);
  return summary(limited.limiter, barFrames, barFrames);
}

/** Where a stretch of what passes the limiter belongs in the file. */
interface Place {
  readonly from: number;
  readonly to: number;
  readonly file: number;
}

/** The piece of `out`, which starts `passed` frames into the limiter's sound, that belongs to a place. */
function cut(
  out: { left: Float32Array<ArrayBuffer>; right: Float32Array<ArrayBuffer> },
  passed: number,
  place: Place,
  progress: number,
): Piece[] {
  const from = Math.max(passed, place.from);
  const to = Math.min(passed + out.left.length, place.to);
  if (from >= to) return [];
  const [start, end] = [from - passed, to - passed];
  return [
    {
      at: place.file + from - place.from,
      left: out.left.slice(start, end),
      right: out.right.slice(start, end),
      progress,
    },
  ];
}

const NOTHING = new Float32Array(0);

const around = (x: Float32Array, from: number, count: number): Float32Array => {
  const out = new Float32Array(count);
  for (let i = 0; i < count; i++) out[i] = x[(from + i) % x.length]!;
  return out;
};

export interface Rendered extends RenderSummary {
  readonly left: Float32Array<ArrayBuffer>;
  readonly right: Float32Array<ArrayBuffer>;
}

/** Runs a render to its end and puts its pieces together: for short ones. */
export function renderNow(program: Program, options: RenderOptions): Rendered {
  const pieces: Piece[] = [];
  const steps = renderProgram(program, options);
  for (;;) {
    const step = steps.next();
    if (!step.done) {
      pieces.push(step.value);
      continue;
    }
    const left = new Float32Array(step.value.frames);
    const right = new Float32Array(step.value.frames);
    for (const p of pieces) {
      left.set(p.left, p.at);
      right.set(p.right, p.at);
    }
    return { ...step.value, left, right };
  }
}

/** A note as it was played. Ticks are counted from the start of the render. */
export interface PlayedNote {
  readonly part: string;
  readonly key: number;
  readonly velocity: number;
  readonly onTick: number;
  readonly onSample: number;
  offTick: number;
  offSample: number;
}

/** Collects every note that a render plays; copies of a voice are one note. */
export class NoteLog implements BankListener {
  readonly notes: PlayedNote[] = [];
  /** By part and lane. */
  private readonly open: (PlayedNote | undefined)[][];

  constructor(private readonly partIds: readonly string[]) {
    this.open = partIds.map(() => []);
  }

  begin(part: number, bank: Bank, lane: number): void {
    const { lanes } = bank;
    if (this.isCopy(bank, lane)) return;
    const note: PlayedNote = {
      part: this.partIds[part]!,
      key: lanes.key[lane]!,
      velocity: lanes.velocity[lane]!,
      onTick: Math.round(lanes.onTick[lane]!),
      onSample: lanes.onFrame[lane]!,
      offTick: Math.round(lanes.offTick[lane]!),
      offSample: Infinity,
    };
    this.notes.push(note);
    this.open[part]![lane] = note;
  }

  private isCopy(bank: Bank, lane: number): boolean {
    return bank.sound.copies > 1 && bank.lanes.copy[lane]! > -1;
  }

  release(part: number, bank: Bank, lane: number): void {
    const note = this.open[part]![lane];
    if (note && !this.isCopy(bank, lane)) note.offSample = bank.lanes.offFrame[lane]!;
  }

  row(): void {
    // Only onsets and ends are of interest here.
  }

  end(): void {
    // Only onsets and ends are of interest here.
  }
}

/** Sends one listener's calls to several. */
export const listeners = (...all: readonly BankListener[]): BankListener => ({
  begin: (part, bank, lane) => all.forEach((l) => l.begin(part, bank, lane)),
  row: (part, bank, frame, list, count, ends) => all.forEach((l) => l.row(part, bank, frame, list, count, ends)),
  release: (part, bank, lane) => all.forEach((l) => l.release(part, bank, lane)),
  end: (part, bank, lane) => all.forEach((l) => l.end(part, bank, lane)),
});
