/** Swing as it is set for a song: where the off-step of each pair falls, 50 (straight) to 75 %, on pairs of `gridTicks`. */
export interface Swing {
  readonly percent: number;
  readonly gridTicks: number;
}

/**
 * The tick at which a straight position sounds. Each pair of grid steps is stretched so that its second step starts
 * at `percent` of the pair (66.7 % is the triplet, common practice) and everything between keeps its proportion:
 * pairs start where they did, and order never changes.
 */
export function swingTick(tick: number, swing: Swing): number {
  const pair = 2 * swing.gridTicks;
  const pairStart = Math.floor(tick / pair) * pair;
  const within = tick - pairStart;
  const off = (pair * swing.percent) / 100;
  const swung =
    within < swing.gridTicks
      ? (within / swing.gridTicks) * off
      : off + ((within - swing.gridTicks) / swing.gridTicks) * (pair - off);
  return Math.round(pairStart + swung);
}
