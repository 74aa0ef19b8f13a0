import { exp2, gainToDb } from "../dsp/portableMath";
import { isShared } from "../motion/shape";
import { TARGET_IDS } from "../patch/parameters";
import { Engine } from "./engine";
import type { Program } from "./program";
import type { Recorder } from "./recorder";
import { framesOfBars, wholeStretches } from "./render";
import { CUTOFF, GAIN, PAN, PITCH, RESONANCE, STRETCH, SUB_BLOCK, type Voice } from "./voice";

/** Quieter than this is drawn and reported as this. */
const HEARD_FLOOR_DB = -96;

/**
 * One note's values, evaluated by the engine itself: a row per boundary of 16 frames. A row holds the targets in the
 * order of `TARGET_IDS` (MIDI key, dB, Hz, %, %), then the part's envelopes and shapes (0 to 1).
 */
export interface HeardNote {
  readonly part: number;
  readonly key: number;
  readonly onFrame: number;
  /** Frame of the first row; the rows follow every 16 frames. */
  readonly firstFrame: number;
  readonly rows: Float32Array<ArrayBuffer>;
  readonly width: number;
}

export interface Heard {
  readonly sampleRate: number;
  /** Frames of one pass of the loop. */
  readonly frames: number;
  readonly notes: readonly HeardNote[];
  /** Per part and shape: the value that all notes share at every 16 frames, the first at frame 16, or null where each note has its own. */
  readonly shared: readonly (readonly (Float32Array<ArrayBuffer> | null)[])[];
}

/** Rows of a note's first buffer: about 0.7 s at 48 kHz. */
const FIRST_ROWS = 2048;

interface Open {
  note: HeardNote;
  rows: Float32Array<ArrayBuffer>;
  used: number;
}

/** Collects what every voice used, from an engine that plays or one that only evaluates. */
export class HeardLog implements Recorder {
  readonly notes: HeardNote[] = [];
  /** The note that each voice plays, by part and slot. */
  private readonly open: (Open | undefined)[][];
  /** Buffers of notes that have ended, for the next ones: fresh memory costs more than the values in it. */
  private readonly spare: Float32Array<ArrayBuffer>[] = [];

  constructor(private readonly program: Program) {
    this.open = program.parts.map(() => []);
  }

  begin(part: number, voice: Voice): void {
    this.close(part, voice.slot);
    const p = this.program.parts[part]!;
    const width = TARGET_IDS.length + p.envelopes.length + p.shapes.length;
    const firstFrame = (Math.floor(voice.onFrame / SUB_BLOCK) + 1) * SUB_BLOCK;
    const rows = this.spare.pop() ?? new Float32Array(FIRST_ROWS * width);
    this.open[part]![voice.slot] = {
      note: { part, key: voice.key, onFrame: voice.onFrame, firstFrame, rows, width },
      rows,
      used: 0,
    };
  }

  values(part: number, voice: Voice): void {
    const open = this.open[part]![voice.slot];
    if (!open) return;
    const { width } = open.note;
    if (open.used + width > open.rows.length) {
      const larger = new Float32Array(open.rows.length * 2);
      larger.set(open.rows);
      open.rows = larger;
    }
    const { rows, used } = open;
    const v = voice.values;
    rows[used + PITCH] = v[PITCH]!;
    rows[used + GAIN] = Math.max(HEARD_FLOOR_DB, gainToDb(v[GAIN]!));
    rows[used + CUTOFF] = exp2(v[CUTOFF]!);
    rows[used + RESONANCE] = v[RESONANCE]!;
    rows[used + PAN] = v[PAN]!;
    for (let i = TARGET_IDS.length; i < width; i++) rows[used + i] = voice.sources[i - TARGET_IDS.length]!;
    open.used = used + width;
    if (!voice.active) this.close(part, voice.slot);
  }

  release(): void {
    // A release shows in the values.
  }

  private close(part: number, slot: number): void {
    const open = this.open[part]![slot];
    if (!open) return;
    this.notes.push({ ...open.note, rows: open.rows.slice(0, open.used) });
    this.spare.push(open.rows);
    this.open[part]![slot] = undefined;
  }

  /** Ends what still sounds; notes are then in order of onset. */
  finish(): readonly HeardNote[] {
    this.open.forEach((slots, part) => slots.forEach((_, slot) => this.close(part, slot)));
    return this.notes.sort((a, b) => a.onFrame - b.onFrame || a.key - b.key);
  }
}

/** What one pass of the loop from silence does to every target and source: the engine's own evaluation, without sound. */
export function heardLoop(program: Program, sampleRate: number): Heard {
  const log = new HeardLog(program);
  const engine = new Engine(sampleRate, { audible: false, limited: false, recorder: log });
  const frames = framesOfBars(program, program.loopTicks / program.barTicks, sampleRate);
  const length = wholeStretches(frames);
  engine.load(program);
  engine.play(0);
  engine.finishAfter(program.loopTicks);
  const scratch = new Float32Array(STRETCH);
  const shared = program.parts.map((p) =>
    p.shapes.map((s) => (isShared(s) ? new Float32Array(length / SUB_BLOCK) : null)),
  );
  for (let frame = 0; frame < length; frame += STRETCH) {
    engine.process(scratch, scratch, STRETCH);
    shared.forEach((shapes, p) =>
      shapes.forEach((values, s) => {
        if (!values) return;
        for (let k = 0; k < STRETCH / SUB_BLOCK; k++)
          values[frame / SUB_BLOCK + k] = engine.parts[p]!.state.sharedEnd(s, k);
      }),
    );
  }
  return { sampleRate, frames, notes: log.finish(), shared };
}
