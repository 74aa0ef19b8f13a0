/** One animation loop for everything that moves with the sound. It runs only while somebody listens. */

type OnFrame = (nowMs: number) => void;

/** Each frame: for what asks only, or moves by the browser's own animations. */
export const EVERY = 1;
/** For marks that ride on a curve. Whatever moves has the browser compose the whole page anew. */
export const MARKS = 2;
/** For what is read rather than watched: a level, a load. These fall into frames of the marks. */
export const READINGS = 4;

const listeners = new Map<OnFrame, number>();
let request = 0;
let count = 0;

function loop(nowMs: number): void {
  count++;
  listeners.forEach((every, listener) => {
    if (count % every === 0) listener(nowMs);
  });
  request = listeners.size > 0 ? requestAnimationFrame(loop) : 0;
}

/** Calls back in every frame, or in every so many, until the returned function is called. */
export function onFrame(listener: OnFrame, every: typeof EVERY | typeof MARKS | typeof READINGS = EVERY): () => void {
  listeners.set(listener, every);
  if (request === 0) request = requestAnimationFrame(loop);
  return () => {
    listeners.delete(listener);
  };
}

/** Writes a text where it is another: the same one, written again, would be laid out again. */
export function setText(element: Element, text: string): void {
  if (element.textContent !== text) element.textContent = text;
}

/** Writes a style where it is another. */
export function setStyle(
  element: HTMLElement | SVGElement,
  name: "transform" | "visibility" | "opacity" | "width" | "left",
  value: string,
): void {
  if (element.style[name] !== value) element.style[name] = value;
}
