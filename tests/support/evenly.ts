import fc from "fast-check";

/**
 * Numbers spread evenly over a range, its ends and nothing often among them. `fc.double` spreads its own over the powers of
 * two: nearly all of them are next to nothing, and what a value does is hardly ever heard.
 */
export function evenly(min: number, max: number): fc.Arbitrary<number> {
  const marks = min < 0 && max > 0 ? [min, 0, max] : [min, max];
  const within = fc.nat(2 ** 24).map((n) => min + ((max - min) * n) / 2 ** 24);
  return fc.oneof({ weight: 7, arbitrary: within }, { weight: 1, arbitrary: fc.constantFrom(...marks) });
}

/** Numbers above nothing of which as many lie in each octave. */
export const evenlyByOctaves = (min: number, max: number): fc.Arbitrary<number> =>
  evenly(0, 1).map((t) => Math.min(max, Math.max(min, min * (max / min) ** t)));
