import { SafetyLimiter } from "../dsp/limiter";
import { gainToDb } from "../dsp/portableMath";
import { Engine } from "./engine";
import type { Program } from "./program";
import type { Recorder } from "./recorder";
import { STRETCH, type Voice } from "./voice";

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
  readonly recorder?: Recorder;
}

export interface Rendered {
  readonly left: Float32Array<ArrayBuffer>;
  readonly right: Float32Array<ArrayBuffer>;
  /** Frames of the bars alone, without a tail. */
  readonly barFrames: number;
  /** Before the limiter; -Infinity for silence. */
  readonly peakDb: number;
  /** Whether the safety limiter had to act. */
  readonly limited: boolean;
}

/** Frames of whole bars at a program's tempo, to the nearest frame. */
export const framesOfBars = (program: Program, bars: number, sampleRate: number): number =>
  Math.round(((bars * program.barTicks) / program.ticksPerSec) * sampleRate);

/** Releases longer than this are cut off. */
const LONGEST_TAIL_SEC = 60;
/** Frames between two reports of progress: a multiple of a stretch. */
const CHUNK = 8192;

/**
 * Renders bars of a program, yielding its progress (0 to 1) about every 0.2 s of sound, so that the caller can show it
 * or stop. The same program gives the same samples wherever it runs.
 */
export function* renderProgram(program: Program, options: RenderOptions): Generator<number, Rendered> {
  const { sampleRate, bars, tail } = options;
  const engine = new Engine(sampleRate, {
    limited: false,
    ...(options.recorder ? { recorder: options.recorder } : {}),
  });
  const barFrames = framesOfBars(program, bars, sampleRate);
  const longest = barFrames + (tail === "cut" ? 0 : LONGEST_TAIL_SEC * sampleRate);
  engine.load(program);
  engine.play(0);
  engine.finishAfter(bars * program.barTicks);
  const chunks: { left: Float32Array; right: Float32Array }[] = [];
  let done = 0;
  while (done < longest && (done < barFrames || (tail !== "cut" && engine.sounding))) {
    const left = new Float32Array(CHUNK);
    const right = new Float32Array(CHUNK);
    engine.process(left, right, CHUNK);
    chunks.push({ left, right });
    done += CHUNK;
    yield Math.min(1, done / (barFrames + CHUNK));
  }
  const length = tail === "append" ? Math.max(barFrames, done) : barFrames;
  const left = join(chunks.map((c) => c.left), length, barFrames, tail); // prettier-ignore
  const right = join(chunks.map((c) => c.right), length, barFrames, tail); // prettier-ignore
  const peak = limit(left, right, sampleRate, tail === "wrap");
  return { left, right, barFrames, peakDb: gainToDb(peak.level), limited: peak.limited };
}

/** Runs a render to its end. */
export function renderNow(program: Program, options: RenderOptions): Rendered {
  const steps = renderProgram(program, options);
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}

function join(
  chunks: readonly Float32Array[],
  length: number,
  barFrames: number,
  tail: Tail,
): Float32Array<ArrayBuffer> {
  const out = new Float32Array(length);
  chunks.forEach((chunk, c) => {
    const start = c * CHUNK;
    for (let i = 0; i < CHUNK; i++) {
      const at = start + i;
      // A tail longer than the loop goes round it as often as it takes.
      const to = tail === "wrap" ? at % barFrames : at;
      if (to < length) out[to]! += chunk[i]!;
    }
  });
  return out;
}

/** Limits both sides in place. A loop is limited twice round, so that its start knows what the limiter did at its end. */
function limit(
  left: Float32Array,
  right: Float32Array,
  sampleRate: number,
  loops: boolean,
): { level: number; limited: boolean } {
  const limiter = new SafetyLimiter(sampleRate);
  const l = Float64Array.from(left);
  const r = Float64Array.from(right);
  const peaks = new Float32Array(2);
  if (loops) limiter.process(l, r, l.length, left, right, 0);
  limiter.process(l, r, l.length, left, right, 0);
  limiter.takePeaks(peaks, 0);
  let limited = false;
  for (let i = 0; i < l.length && !limited; i++)
    limited = left[i] !== Math.fround(l[i]!) || right[i] !== Math.fround(r[i]!);
  return { level: Math.max(peaks[0]!, peaks[1]!), limited };
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

/** Collects every note that a render plays. */
export class NoteLog implements Recorder {
  readonly notes: PlayedNote[] = [];
  private readonly open = new Map<Voice, PlayedNote>();

  constructor(private readonly partIds: readonly string[]) {}

  begin(part: number, voice: Voice): void {
    const note: PlayedNote = {
      part: this.partIds[part]!,
      key: voice.key,
      velocity: voice.velocity,
      onTick: Math.round(voice.onTick),
      onSample: voice.onFrame,
      offTick: Math.round(voice.offTick),
      offSample: Infinity,
    };
    this.notes.push(note);
    this.open.set(voice, note);
  }

  release(_part: number, voice: Voice): void {
    const note = this.open.get(voice);
    if (note) note.offSample = voice.offFrame;
  }

  values(): void {
    // Only onsets and ends are of interest here.
  }
}

/** Sends one recorder's calls to several. */
export const recorders = (...all: readonly Recorder[]): Recorder => ({
  begin: (part, voice) => all.forEach((r) => r.begin(part, voice)),
  values: (part, voice, frame) => all.forEach((r) => r.values(part, voice, frame)),
  release: (part, voice) => all.forEach((r) => r.release(part, voice)),
});

/** Rounds frames up to a whole number of stretches. */
export const wholeStretches = (frames: number): number => Math.ceil(frames / STRETCH) * STRETCH;
