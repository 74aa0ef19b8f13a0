import type { Note } from "../patch/project";
import { MAX_TICK } from "../time/noteValue";
import { straightTick, type Swing } from "../time/swing";

/** A note as it was played by hand: where the song was heard when the key was pressed, and how long it was held. */
export interface Played {
  readonly tick: number;
  readonly heldTicks: number;
  readonly key: number;
  readonly velocity: number;
}

export interface RecordRules {
  /** Grid that starts are brought to, and how far, 0 to 1; null leaves them. */
  readonly snapTicks: number | null;
  readonly strength: number;
  /** The stretch that is repeated while it is recorded. */
  readonly from: number;
  readonly to: number;
  readonly swing: Swing;
}

/**
 * A note to be written for what was played: without the song's swing, which plays it again, and brought to the grid. What
 * is pressed just before the end and belongs to the grid's next line starts the stretch; nothing lasts past its end.
 */
export function recordedNote({ tick, heldTicks, key, velocity }: Played, rules: RecordRules): Omit<Note, "id"> {
  const { snapTicks, strength, from, to, swing } = rules;
  const straight = straightTick(Math.round(tick), swing);
  const grid = snapTicks === null ? straight : Math.round(straight / snapTicks) * snapTicks;
  const moved = Math.round(straight + (grid - straight) * strength);
  const startTick = moved >= to || moved < from ? from : moved;
  return {
    startTick: Math.min(MAX_TICK, startTick),
    lengthTicks: Math.max(1, Math.min(to - startTick, Math.round(heldTicks))),
    key,
    velocity: Math.min(127, Math.max(1, Math.round(velocity))),
  };
}
