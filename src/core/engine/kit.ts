import { Clap, Hat, Kick, type Stroke } from "../dsp/drums";
import type { Clock } from "./clock";
import type { DrumProgram, KitProgram } from "./program";
import { strikeWithin, type Struck } from "./strokes";

const NO_TICKS = new Float64Array(0);

/** A drum: the stroke that was struck last, and the one before, which falls silent. */
class Drum<S extends Stroke> implements Struck {
  private program: DrumProgram | null = null;
  private turn: 0 | 1 = 0;

  constructor(readonly strokes: readonly [S, S]) {}

  load(program: DrumProgram | null): void {
    this.program = program;
    if (!program) for (const stroke of this.strokes) stroke.hush();
  }

  stop(): void {
    for (const stroke of this.strokes) stroke.stop();
  }

  get ticks(): Float64Array {
    return this.program?.ticks ?? NO_TICKS;
  }

  get sounding(): boolean {
    return this.strokes[0].sounding || this.strokes[1].sounding;
  }

  strike(index: number): void {
    const { program } = this;
    if (!program) return;
    this.strokes[this.turn].hush();
    this.turn = this.turn === 0 ? 1 : 0;
    this.strokes[this.turn].strike(program.gain * program.strengths[index]!, program.decaySec);
  }

  mix(left: Float64Array, right: Float64Array, from: number, to: number): void {
    for (const stroke of this.strokes) if (stroke.sounding) stroke.mix(left, right, from, to);
  }
}

/** The drums of the backing, mixed beside the parts. */
export class Kit {
  private readonly kick: Drum<Kick>;
  private readonly drums: readonly Drum<Stroke>[];
  private program: KitProgram | null = null;

  constructor(sampleRate: number) {
    this.kick = new Drum([new Kick(sampleRate), new Kick(sampleRate)]);
    const clap = new Drum<Stroke>([new Clap(sampleRate), new Clap(sampleRate)]);
    const hat = new Drum<Stroke>([new Hat(sampleRate), new Hat(sampleRate)]);
    this.drums = [this.kick, clap, hat];
  }

  /** Takes over what is struck from now on; strokes that ring go on, and fall silent when there is no kit any more. */
  load(program: KitProgram | null): void {
    if (program === this.program) return;
    this.program = program;
    const [kick, clap, hat] = this.drums as [Drum<Stroke>, Drum<Stroke>, Drum<Stroke>];
    kick.load(program?.kick ?? null);
    clap.load(program?.clap ?? null);
    hat.load(program?.hat ?? null);
    if (program) for (const stroke of this.kick.strokes) stroke.hz = program.kickHz;
  }

  /** Lets what rings fall silent. */
  stop(): void {
    for (const drum of this.drums) drum.stop();
  }

  get sounding(): boolean {
    for (const drum of this.drums) if (drum.sounding) return true;
    return false;
  }

  /** Adds the stretch of `length` frames from `frame` on, while the song plays; nothing is struck from the tick `limit[0]` on. */
  song(clock: Clock, limit: Float64Array, frame: number, length: number, left: Float64Array, right: Float64Array): void {
    for (const drum of this.drums) strikeWithin(drum, drum.ticks, clock, limit, frame, length, left, right);
  }

  /** Adds what still rings. */
  ring(length: number, left: Float64Array, right: Float64Array): void {
    for (const drum of this.drums) drum.mix(left, right, 0, length);
  }
} // prettier-ignore
