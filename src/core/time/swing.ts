/** Swing as it is set for a song: where the off-step of each pair falls, 50 (straight) to 75 %, on pairs of `gridTicks`. */
export interface Swing {
  readonly percent: number;
  readonly gridTicks: number;
  /** Pairs are counted from the start of each bar; a last half pair of an odd bar stays straight. */
  readonly barTicks: number;
}

/**
 * The tick at which a straight position sounds. Each pair of grid steps is stretched so that its second step starts
 * at `percent` of the pair (66.7 % is the triplet, common practice) and everything between keeps its proportion:
 * pairs start where they did, and order never changes.
 */
export function swingTick(tick: number, swing: Swing): number {
  const { gridTicks, barTicks, percent } = swing;
  const pair = 2 * gridTicks;
  const barStart = Math.floor(tick / barTicks) * barTicks;
  const pairStart = barStart + Math.floor((tick - barStart) / pair) * pair;
  if (pairStart + pair > barStart + barTicks) return Math.round(tick);
  const within = tick - pairStart;
  const off = (pair * percent) / 100;
  const swung =
    within < gridTicks ? (within / gridTicks) * off : off + ((within - gridTicks) / gridTicks) * (pair - off);
  return Math.round(pairStart + swung);
}

/**
 * The straight position from 0 on that sounds at a tick, or the first one behind it: swing leaves no two ticks in a row
 * without one, so none is nearer. The way back of `swingTick`.
 */
export function straightTick(tick: number, swing: Swing): number {
  let low = 0;
  let high = tick;
  // Swing only moves later, and never changes the order.
  while (low < high) {
    const middle = (low + high) >> 1;
    if (swingTick(middle, swing) < tick) low = middle + 1;
    else high = middle;
  }
  return low;
}
