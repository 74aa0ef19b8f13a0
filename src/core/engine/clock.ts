/**
 * Song position against frames. A position is counted in ticks since the engine was made and never wraps, so no
 * rounding builds up over the passes of a loop; a pass starts at `passStart`. A change of tempo sets a new anchor.
 */
export class Clock {
  playing = false;
  passStart = 0;
  ticksPerFrame = 0;
  private anchorTick = 0;
  private anchorFrame = 0;

  /** Changes the tempo from `frame` on. */
  setRate(ticksPerFrame: number, frame: number): void {
    if (ticksPerFrame === this.ticksPerFrame) return;
    this.anchorTick = this.tickAt(frame);
    this.anchorFrame = frame;
    this.ticksPerFrame = ticksPerFrame;
  }

  /**
   * Sets the song to `loopTick` at `frame`. In silence ticks are counted anew from here, so that the same song played
   * later is the same to the last bit; notes that still sound keep the old count.
   */
  locate(loopTick: number, frame: number, silent: boolean): void {
    if (silent) {
      this.anchorTick = 0;
      this.anchorFrame = frame;
    }
    this.passStart = this.tickAt(frame) - loopTick;
  }

  /** Ticks at a frame; not whole. */
  tickAt(frame: number): number {
    return this.anchorTick + (frame - this.anchorFrame) * this.ticksPerFrame;
  }

  /** The frame nearest to a tick. */
  frameOf(tick: number): number {
    return this.anchorFrame + Math.round((tick - this.anchorTick) / this.ticksPerFrame);
  }

  /** Ticks since the pass began, never below none: its first frame is the nearest one, and may lie before its first tick. */
  passTickAt(frame: number): number {
    return Math.max(0, this.tickAt(frame) - this.passStart);
  }

  /** Position within the loop at a frame. */
  loopTickAt(frame: number, loopTicks: number): number {
    const since = this.tickAt(frame) - this.passStart;
    return since - Math.floor(since / loopTicks) * loopTicks;
  }
}
