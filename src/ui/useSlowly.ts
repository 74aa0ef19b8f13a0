import { useEffect, useRef, useState } from "react";

/** Where there is much to draw, a value comes at most this often; the last one always does. */
const PAUSE_MS = 120;

/** A value as it is; where it is `heavy` to draw, some times a second, so that what follows the hand comes first. */
export function useSlowly<T>(value: T, heavy: boolean): T {
  const [shown, setShown] = useState(value);
  const last = useRef(0);
  useEffect(() => {
    if (!heavy || shown === value) return;
    const now = performance.now();
    const timer = setTimeout(
      () => {
        last.current = performance.now();
        setShown(() => value);
      },
      Math.max(0, last.current + PAUSE_MS - now),
    );
    return () => clearTimeout(timer);
  }, [value, heavy, shown]);
  return heavy ? shown : value;
}
