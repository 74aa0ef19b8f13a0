import { SUBS } from "./stretch";
import type { MixUses } from "./program";
import type { Uses } from "./uses";

/** Any lane: what moves a part in the mix is shared by all of its notes. */
const LANE = Int32Array.of(0);
const NO_SLOTS = new Float64Array(0);

/** Gains of a part's two sides where something moves its level or its place in the mix. */
export class MovedMix {
  /** Left and right at the start of the stretch and at the end of each of its sub-blocks; straight between them. */
  readonly gains = new Float64Array(2 * (SUBS + 1));
  private readonly read = new Float64Array(1);

  constructor(
    private readonly at: MixUses,
    private readonly uses: Uses,
  ) {}

  /** Works out a row of gains from what all notes share. */
  write(row: number, shared: Float64Array): void {
    const { at, uses, read, gains } = this;
    uses.write(at.level, LANE, LANE.length, 0, NO_SLOTS, shared, read, 0);
    gains[2 * row] = read[0]!;
    gains[2 * row + 1] = read[0]!;
    uses.write(at.pan, LANE, LANE.length, 0, NO_SLOTS, shared, read, 0);
    // A balance: a part has two sides already, so the one that it is turned from becomes less.
    const pan = read[0]! / 100;
    if (pan > 0) gains[2 * row]! *= 1 - pan;
    else gains[2 * row + 1]! *= 1 + pan;
  }
}
