import { exp2 } from "../../dsp/portableMath";
import { FOLLOWED, followInto, followedRoom, followerAt } from "../follower";
import { STEP_TICKS } from "../program";
import { Stage, type SharedFrame } from "./sharedStage";

/** A follower whose times stand. */
export class FollowerRun extends Stage {
  override evaluate(): void {
    this.state.target = followerAt(this.op.shape.follower!, this.state.cycles);
  }
}

/** A follower whose times move: from one place of the pass to another. */
abstract class MovedFollowerRun extends Stage {
  protected readonly room = followedRoom();

  protected follow(from: number, to: number): void {
    const { room } = this;
    room[FOLLOWED.from] = from;
    room[FOLLOWED.to] = to;
    followInto(this.op.shape.follower!, room);
  }
}

/** From the table of one whose times the song alone moves: each value goes on with the rates that stand beside it. */
export class LookUpFollowerRun extends MovedFollowerRun {
  override evaluate({ at }: SharedFrame): void {
    const { room } = this;
    const table = this.op.table!;
    const step = Math.floor(at / STEP_TICKS);
    room[FOLLOWED.value] = table[3 * step]!;
    room[FOLLOWED.up] = table[3 * step + 1]!;
    room[FOLLOWED.down] = table[3 * step + 2]!;
    this.follow(step * STEP_TICKS, at);
    this.state.target = room[FOLLOWED.value]!;
  }
}

/** From where it was, at the rates that it had there, round the loop's end as well. */
export class AddUpFollowerRun extends MovedFollowerRun {
  override evaluate({ at, song }: SharedFrame): void {
    const { state, room, values } = this;
    const { shape, moved } = this.op;
    const f = shape.follower!;
    // A table goes on past the pass; what is followed does not.
    const here = Math.min(at, song.loopTicks);
    if (!state.settled) state.summed = followerAt(f, here / song.loopTicks);
    else {
      room[FOLLOWED.value] = state.summed;
      room[FOLLOWED.up] = state.rate;
      room[FOLLOWED.down] = state.fall;
      if (here < state.since) {
        this.follow(state.since, song.loopTicks);
        state.since = 0;
      }
      this.follow(state.since, here);
      state.summed = room[FOLLOWED.value]!;
    }
    const up = moved!.attack === null ? f.up : f.up * exp2(-values[~moved!.attack]!);
    const down = moved!.release === null ? f.down : f.down * exp2(-values[~moved!.release]!);
    state.rate = up < f.fastest ? up : f.fastest;
    state.fall = down < f.fastest ? down : f.fastest;
    state.since = here;
    state.target = state.summed;
  }
}
