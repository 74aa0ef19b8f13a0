import { isDeepStrictEqual } from "node:util";
import { expect } from "vitest";

/** As `toEqual`, and stricter, for what is large: that takes many times as long over it, and is asked here only to tell what differs. */
export function expectSame(found: unknown, expected: unknown): void {
  if (isDeepStrictEqual(found, expected)) return;
  // Objects of another kind that hold the same are the same, as for `toEqual`.
  if (isDeepStrictEqual(structuredClone(found), structuredClone(expected))) return;
  expect(found).toEqual(expected);
  throw new Error("what differs is what `toEqual` overlooks: keys without a value");
}

/** The most by which two lists differ in one place; NaN where they are not as long or hold what is no number. */
export function farthest(found: ArrayLike<number>, expected: ArrayLike<number>): number {
  let most = found.length === expected.length ? 0 : NaN;
  for (let i = 0; i < found.length; i++) most = Math.max(most, Math.abs(found[i]! - expected[i]!));
  return most;
}
