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
