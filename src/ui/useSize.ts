import { useCallback, useState } from "react";

export interface Size {
  readonly width: number;
  readonly height: number;
}

/** Inner size of an element in CSS pixels, kept up to date. */
export function useSize(): [Size, (element: HTMLElement | null) => (() => void) | undefined] {
  const [size, setSize] = useState<Size>({ width: 1, height: 1 });
  const ref = useCallback((element: HTMLElement | null) => {
    if (!element) return undefined;
    const measure = (): void =>
      setSize({ width: Math.max(1, element.clientWidth), height: Math.max(1, element.clientHeight) });
    const sizes = new ResizeObserver(measure);
    sizes.observe(element);
    measure();
    return () => sizes.disconnect();
  }, []);
  return [size, ref];
}
