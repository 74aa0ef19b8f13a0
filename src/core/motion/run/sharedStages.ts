import { LANES, VoiceLanes } from "../lanes";
import { STEP_TICKS, type EnvelopeOp, type ShapeOp } from "../program";
import { restartTick } from "../shape";
import { FIRST_STAGE, SUSTAIN, envelopeRuns } from "./envelopeRuns";
import { Stage, type SharedFrame, type ShapeState } from "./sharedStage";
import { Memory, type VoiceFrame } from "./voiceRun";

/** The one lane that is used. */
const ONE = Int32Array.of(0);

/**
 * An envelope that all notes share and whose own values move: as each note's own, in one lane whose note starts with each
 * restart. Time is counted in seconds here. Where the song alone moves it, a table holds where it is.
 */
export class SharedStagesRun extends Stage {
  private readonly stages: EnvelopeOp;
  private readonly memory = new Memory();
  private readonly lanes = new VoiceLanes();
  private readonly slots = new Float64Array(LANES);
  private readonly runs;
  private readonly now: VoiceFrame = { frame: 0, tick: 0, ticksPerSec: 1, shared: this.values };
  private begun = false;

  constructor(op: ShapeOp, state: ShapeState, values: Float64Array) {
    super(op, state, values);
    this.stages = { ...op.stages!, out: 0 };
    this.lanes.offFrame[0] = Infinity;
    this.runs = envelopeRuns(this.stages, this.memory, { lanes: this.lanes, slots: this.slots, sampleRate: 1 });
  }

  override evaluate({ at, sec, song }: SharedFrame): void {
    const { state, memory, slots } = this;
    const restart = restartTick(this.op.shape, at, song);
    const since = (at - restart) / song.ticksPerSec;
    const { table } = this.op;
    if (restart === -Infinity) this.stand();
    else if (table !== null) {
      const step = Math.floor(at / STEP_TICKS);
      if (restart > step * STEP_TICKS) {
        this.restart();
        this.moveOn(since);
      } else {
        memory.a[0] = table[3 * step]!;
        memory.b[0] = table[3 * step + 1]!;
        memory.c[0] = table[3 * step + 2]!;
        this.moveOn((at - step * STEP_TICKS) / song.ticksPerSec);
      }
    } else if (!this.begun || !state.settled || since < state.since) {
      this.restart();
      this.moveOn(since);
    } else this.moveOn(sec);
    this.begun = true;
    state.since = since;
    state.summed = memory.a[0]!;
    state.rate = memory.b[0]!;
    state.fall = memory.c[0]!;
    state.target = slots[0]!;
  }

  /** As one that nothing starts: where it comes to in the end. */
  private stand(): void {
    this.memory.a[0] = SUSTAIN;
    this.moveOn(0);
  }

  /** What loops sets out from where it ends; a decay that loops alone is at full at once. */
  private restart(): void {
    const { memory, stages } = this;
    const { loop, sustain } = stages.envelope;
    memory.a[0] = FIRST_STAGE[loop];
    memory.b[0] = 0;
    const moved = stages.moved!.sustain;
    memory.c[0] = loop === "all" ? (moved === null ? sustain : this.values[~moved]! / 100) : 0;
  }

  private moveOn(sec: number): void {
    this.now.frame = sec;
    for (let i = 0; i < this.runs.length; i++) this.runs[i]!.evaluate(ONE, 1, this.now);
  }
}
