import { useCallback, useLayoutEffect, useRef, useState } from "react";

/** The same function in every drawing, which calls the latest one: what gets it need not be drawn anew for it. */
export function useSteady<A extends readonly unknown[], R>(latest: (...args: A) => R): (...args: A) => R {
  const held = useRef(latest);
  useLayoutEffect(() => {
    held.current = latest;
  });
  return useCallback((...args) => held.current(...args), []);
}

const sameEntries = (a: object, b: object): boolean => {
  const [ours, theirs] = [Object.entries(a), Object.entries(b)];
  return ours.length === theirs.length && ours.every(([key, value], i) => key === theirs[i]![0] && value === theirs[i]![1]);
}; // prettier-ignore

/** What was drawn last, while another one is the `same`: what gets it need not be drawn anew for it. */
export function useSame<T>(found: T, same: (drawn: T, found: T) => boolean): T {
  const [drawn, setDrawn] = useState(found);
  if (drawn === found || same(drawn, found)) return drawn;
  setDrawn(found);
  return found;
}

/** Whether two lists say the same in each of their entries. */
export const sameList = (a: readonly object[], b: readonly object[]): boolean =>
  a.length === b.length && a.every((entry, i) => sameEntries(entry, b[i]!));
