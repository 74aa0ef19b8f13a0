import type { Clock } from "./clock";

/** What is struck at places of the song. */
export interface Struck {
  /** Begins the stroke of that number with the next frame that is mixed. */
  strike(index: number): void;
  /** Adds what rings over [from, to) of both sides. */
  mix(left: Float64Array, right: Float64Array, from: number, to: number): void;
}

/**
 * Strikes at the ticks of a pass, in order, that fall within the stretch of `length` frames from `frame` on (none goes beyond
 * the end of the loop), and adds what
 * rings meanwhile, while the song plays. None is struck from `limit[0]` on, in ticks since the engine's start: an array, for
 * numbers that are handed over may become objects on the heap. Allocates nothing.
 */
export function strikeWithin(
  struck: Struck,
  ticks: Float64Array,
  clock: Clock,
  limit: Float64Array,
  frame: number,
  length: number,
  left: Float64Array,
  right: Float64Array,
): void {
  // From a tick before: its frame may be rounded into this stretch.
  const tick = clock.passTickAt(frame) - 1;
  let low = 0;
  let high = ticks.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (ticks[middle]! < tick) low = middle + 1;
    else high = middle;
  }
  let done = 0;
  for (let i = low; i < ticks.length; i++) {
    const at = clock.frameOf(clock.passStart + ticks[i]!) - frame;
    if (at >= length || clock.passStart + ticks[i]! >= limit[0]!) break;
    if (at < 0) continue;
    struck.mix(left, right, done, at);
    struck.strike(i);
    done = at;
  }
  struck.mix(left, right, done, length);
}
