/** One animation loop for everything that moves with the sound. It rests where nobody listens, and where nothing moves. */

type OnFrame = (nowMs: number) => void;

/** Each frame: for what asks only, or moves by the browser's own animations. */
export const EVERY = 1;
/** For marks that ride on a curve. Whatever moves has the browser compose the whole page anew. */
export const MARKS = 2;
/** For what is read rather than watched: a level, a load. These fall into frames of the marks. */
export const READINGS = 4;

/** How long frames go on after the last movement: until a meter has fallen from full scale, which takes 5.1 s. */
const REST_MS = 6000;

const listeners = new Map<OnFrame, number>();
let request = 0;
let count = 0;
/** When it rests, by the clock of `performance`. */
let restAt = -Infinity;

/** Asks for the next frame: where nothing moves, it shows what has changed. */
export function nextFrame(): void {
  if (request === 0 && listeners.size > 0) request = requestAnimationFrame(loop);
}

function loop(nowMs: number): void {
  request = 0;
  count++;
  const moves = performance.now() < restAt;
  // A frame out of rest is the only one that shows what has changed meanwhile.
  listeners.forEach((every, listener) => {
    if (!moves || count % every === 0) listener(nowMs);
  });
  if (performance.now() < restAt) nextFrame();
}

/** Says that something moves, or has just moved: frames go on for a while. While it moves, say it again in each of them. */
export function keepMoving(): void {
  restAt = performance.now() + REST_MS;
  nextFrame();
}

/**
 * Calls back in the next frame, and while something moves in every one, or in every so many, until the returned function
 * is called.
 */
export function onFrame(listener: OnFrame, every: typeof EVERY | typeof MARKS | typeof READINGS = EVERY): () => void {
  listeners.set(listener, every);
  nextFrame();
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
