/**
 * Places (indices) at which a line of values that goes round peaks or jumps up, in order: what is felt as its rhythm. A peak stands out by
 * `least` from the lowest values on either side of it; a plateau counts where it begins. NaN is silence.
 */
export function turnsOf(values: ArrayLike<number>, least: number): number[] {
  const count = values.length;
  // From its lowest place on, round to it again, every rise and every fall is whole.
  let start = -1;
  for (let i = 0; i < count; i++)
    if (!Number.isNaN(values[i]!) && (start === -1 || values[i]! < values[start]!)) start = i;
  const found: number[] = [];
  let lowest = values[start]!;
  let peak = -Infinity;
  let at = -1;
  for (let k = 1; k <= count; k++) {
    const i = (start + k) % count;
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
  return found.sort((a, b) => a - b);
}
