import { useEffect, useRef, type ReactNode } from "react";
import { setStyle, setText } from "./frames";

/**
 * What the pointer is on, in a corner of an editor. It is written straight into the page: a pointer that only moves draws
 * nothing anew; what an edit changes under one that rests is told anew. `point` takes where the pointer is, null for
 * nowhere; it is hidden where `tell` has nothing to say of that place.
 */
export function useReadOut<P>(tell: (place: P) => string): {
  readonly point: (place: P | null) => void;
  readonly element: ReactNode;
} {
  const box = useRef<HTMLDivElement>(null);
  const under = useRef<P | null>(null);
  const show = (): void => {
    if (!box.current) return;
    const text = under.current === null ? "" : tell(under.current);
    setStyle(box.current, "visibility", text ? "visible" : "hidden");
    if (text) setText(box.current, text);
  };
  const point = (place: P | null): void => {
    under.current = place;
    show();
  };
  useEffect(() => {
    if (under.current !== null) show();
  });
  const element = (
    <div
      ref={box}
      className="pointer-events-none invisible absolute top-1 right-1 bg-ink px-2 py-[2px] text-[11px] whitespace-pre text-sheet"
      data-testid="read-out"
    />
  );
  return { point, element };
}
