/** The steps between round figures: 1, 2 or 5 times a power of ten. */
function roundStep(range: number, most: number): number {
  const rough = range / most;
  const decade = 10 ** Math.floor(Math.log10(rough));
  return decade * [1, 2, 5, 10].find((m) => m * decade >= rough * (1 - 1e-9))!;
}

const multiples = (low: number, high: number, step: number): number[] => {
  const first = Math.ceil(low / step - 1e-9);
  const count = Math.floor(high / step + 1e-9) - first + 1;
  return Array.from({ length: count }, (_, i) => Number(((first + i) * step).toPrecision(12)));
};

/**
 * Round figures of a range, both ends included, lowest first: at least two wherever `high` is above `low`. On a log scale
 * (`low` above 0) they are 1, 2 and 5 of each decade, unless fewer than two of those lie in the range.
 */
export function roundMarks(low: number, high: number, log: boolean): number[] {
  if (!(high > low)) return [];
  if (log) {
    const marks: number[] = [];
    for (let d = 10 ** Math.floor(Math.log10(low)); d <= high; d *= 10)
      for (const m of [1, 2, 5]) if (m * d >= low && m * d <= high) marks.push(Number((m * d).toPrecision(12)));
    if (marks.length >= 2) return marks;
  }
  for (let most = 4; ; most *= 2) {
    const marks = multiples(low, high, roundStep(high - low, most));
    if (marks.length >= 2) return marks;
  }
}
