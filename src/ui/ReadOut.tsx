import { useRef, type ReactNode } from "react";
import { setStyle, setText } from "./frames";

/**
 * What the pointer is on, in a corner of an editor. It is written straight into the page: a pointer that only moves draws
 * nothing anew. `show` hides it for no text.
 */
export function useReadOut(): { readonly show: (text: string) => void; readonly element: ReactNode } {
  const box = useRef<HTMLDivElement>(null);
  const show = (text: string): void => {
    if (!box.current) return;
    setStyle(box.current, "visibility", text ? "visible" : "hidden");
    if (text) setText(box.current, text);
  };
  const element = (
    <div
      ref={box}
      className="pointer-events-none invisible absolute top-1 right-1 bg-ink px-2 py-[2px] text-[11px] whitespace-pre text-sheet"
      data-testid="read-out"
    />
  );
  return { show, element };
}
