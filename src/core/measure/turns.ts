/**
 * Places (indices) at which a line of values that goes round peaks or jumps up, in order: what is felt as its rhythm. A peak stands out by
 * `least` from the lowest values on either side of it; a plateau counts where it begins. NaN is silence.
 */
export function turnsOf(values: ArrayLike<number>, least: number): number[] {
  const found: number[] = [];
  let lowest = Infinity;
  let peak = -Infinity;
  let at = -1;
  for (let i = 0; i < values.length; i++) {
    const v = values[i]!;
    if (Number.isNaN(v)) continue;
    if (at === -1) {
      if (v - lowest >= least) {
        peak = v;
        at = i;
      } else lowest = Math.min(lowest, v);
    } else if (v > peak) {
      peak = v;
      at = i;
    } else if (peak - v >= least) {
      found.push(at);
      lowest = v;
      at = -1;
    }
  }
  // Round the end, what still rises goes on at the start.
  for (let i = 0; at !== -1 && i < at; i++) {
    const v = values[i]!;
    if (v > peak) break;
    if (peak - v < least) continue;
    found.push(at);
    break;
  }
  return found;
}
