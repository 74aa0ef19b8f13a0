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

function surfaceOf(canvas: HTMLCanvasElement): Surface | null {
  const g = canvas.getContext("2d");
  const { clientWidth: width, clientHeight: height } = canvas;
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
  const style = getComputedStyle(canvas);
  const palette = Object.fromEntries(
    NAMES.map((n) => [n, style.getPropertyValue(`--${n}`).trim()]),
  ) as unknown as Palette;
  g.font = `500 11px ${style.fontFamily}`;
  return { g, width, height, palette };
}

/** A canvas that is painted anew when `paint` changes, when its size does, and when the theme does. */
export function useCanvas(paint: (surface: Surface) => void): (canvas: HTMLCanvasElement | null) => void {
  const canvas = useRef<HTMLCanvasElement | null>(null);
  const latest = useRef(paint);
  const draw = useCallback(() => {
    const surface = canvas.current && surfaceOf(canvas.current);
    if (surface) latest.current(surface);
  }, []);
  useEffect(() => {
    latest.current = paint;
    draw();
  }, [paint, draw]);
  useEffect(() => {
    const theme = window.matchMedia("(prefers-color-scheme: dark)");
    const attribute = new MutationObserver(draw);
    attribute.observe(document.documentElement, { attributes: true, attributeFilter: ["data-theme"] });
    theme.addEventListener("change", draw);
    void document.fonts.ready.then(draw);
    return () => {
      attribute.disconnect();
      theme.removeEventListener("change", draw);
    };
  }, [draw]);
  return useCallback(
    (element: HTMLCanvasElement | null) => {
      canvas.current = element;
      if (!element) return;
      const sizes = new ResizeObserver(draw);
      sizes.observe(element);
      draw();
      return () => {
        canvas.current = null;
        sizes.disconnect();
      };
    },
    [draw],
  );
}
