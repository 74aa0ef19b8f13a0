/** How often values fall where: shares of equal bins, the lowest values first. */
export interface Spread {
  /** Of all values, each as long as it stands. */
  readonly overTime: Float64Array;
  /** Of the first value of each run. */
  readonly atStarts: Float64Array;
}

/** Counts runs of values that were put on a scale of 0 to 1; values off its ends count at the end. */
export function spreadOf(runs: readonly ArrayLike<number>[], place: (value: number) => number, bins: number): Spread {
  const overTime = new Float64Array(bins);
  const atStarts = new Float64Array(bins);
  const binOf = (v: number): number => Math.min(bins - 1, Math.max(0, Math.floor(place(v) * bins)));
  let count = 0;
  let starts = 0;
  for (const run of runs) {
    if (run.length === 0) continue;
    atStarts[binOf(run[0]!)]!++;
    starts++;
    for (let i = 0; i < run.length; i++) overTime[binOf(run[i]!)]!++;
    count += run.length;
  }
  return {
    overTime: overTime.map((n) => (count > 0 ? n / count : 0)),
    atStarts: atStarts.map((n) => (starts > 0 ? n / starts : 0)),
  };
}
