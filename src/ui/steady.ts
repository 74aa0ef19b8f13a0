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

/** The list that was drawn last, while another one says the same in each of its entries. */
export function useSameList<T extends object>(list: readonly T[]): readonly T[] {
  const [drawn, setDrawn] = useState(list);
  if (drawn === list || (drawn.length === list.length && drawn.every((d, i) => sameEntries(d, list[i]!)))) return drawn;
  setDrawn(list);
  return list;
}
