import { useCallback, useEffect, useRef } from "react";

interface Palette {
  readonly paper: string;
  readonly sheet: string;
  readonly ink: string;
  readonly ink2: string;
  readonly line: string;
  readonly line2: string;
  readonly notes: string;
  readonly rhythm: string;
  readonly shape: string;
  readonly envelope: string;
  readonly heard: string;
}

const NAMES = [
  "paper",
  "sheet",
  "ink",
  "ink2",
  "line",
  "line2",
  "notes",
  "rhythm",
  "shape",
  "envelope",
  "heard",
] as const;

export interface Surface {
  readonly g: CanvasRenderingContext2D;
  /** CSS pixels. */
  readonly width: number;
  readonly height: number;
  readonly palette: Palette;
}

/** The colours and the font as they were settled last: asking for them lays the page out. They change with the theme alone. */
let settled: { readonly palette: Palette; readonly font: string } | null = null;

function settle(canvas: HTMLCanvasElement): NonNullable<typeof settled> {
  if (settled) return settled;
  const style = getComputedStyle(canvas);
  const palette = Object.fromEntries(
    NAMES.map((n) => [n, style.getPropertyValue(`--${n}`).trim()]),
  ) as unknown as Palette;
  settled = { palette, font: `500 11px ${style.fontFamily}` };
  return settled;
}

interface Size {
  readonly width: number;
  readonly height: number;
}

function surfaceOf(canvas: HTMLCanvasElement, { width, height }: Size): Surface | null {
  const g = canvas.getContext("2d");
  if (!g || width === 0 || height === 0) return null;
  const ratio = window.devicePixelRatio || 1;
  const w = Math.round(width * ratio);
  const h = Math.round(height * ratio);
  if (canvas.width !== w || canvas.height !== h) {
    canvas.width = w;
    canvas.height = h;
  }
  g.setTransform(ratio, 0, 0, ratio, 0, 0);
  g.clearRect(0, 0, width, height);
  const { palette, font } = settle(canvas);
  g.font = font;
  return { g, width, height, palette };
}

/** A canvas that is painted anew when `paint` changes, when its size does, and when the theme does. */
export function useCanvas(paint: (surface: Surface) => void): (canvas: HTMLCanvasElement | null) => void {
  const canvas = useRef<HTMLCanvasElement | null>(null);
  const latest = useRef(paint);
  // Asked of the canvas at every painting, its size would have the page laid out again and again.
  const size = useRef<Size>({ width: 0, height: 0 });
  const draw = useCallback(() => {
    const surface = canvas.current && surfaceOf(canvas.current, size.current);
    if (surface) latest.current(surface);
  }, []);
  useEffect(() => {
    latest.current = paint;
    draw();
  }, [paint, draw]);
  useEffect(() => {
    const theme = window.matchMedia("(prefers-color-scheme: dark)");
    const turn = (): void => {
      settled = null;
      draw();
    };
    const attribute = new MutationObserver(turn);
    attribute.observe(document.documentElement, { attributes: true, attributeFilter: ["data-theme"] });
    theme.addEventListener("change", turn);
    void document.fonts.ready.then(turn);
    return () => {
      attribute.disconnect();
      theme.removeEventListener("change", turn);
    };
  }, [draw]);
  return useCallback(
    (element: HTMLCanvasElement | null) => {
      canvas.current = element;
      if (!element) return;
      // It is told before the page is first drawn. Asked of each canvas in turn, its size would have the page laid out as often.
      const sizes = new ResizeObserver(([entry]) => {
        const { width, height } = entry!.contentRect;
        size.current = { width: Math.round(width), height: Math.round(height) };
        draw();
      });
      sizes.observe(element);
      return () => {
        canvas.current = null;
        sizes.disconnect();
      };
    },
    [draw],
  );
}
