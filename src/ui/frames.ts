/** One animation loop for everything that moves with the sound. It runs only while somebody listens. */

type OnFrame = (nowMs: number) => void;

const listeners = new Set<OnFrame>();
let request = 0;

function loop(nowMs: number): void {
  listeners.forEach((listener) => listener(nowMs));
  request = listeners.size > 0 ? requestAnimationFrame(loop) : 0;
}

/** Calls back once a frame until the returned function is called. */
export function onFrame(listener: OnFrame): () => void {
  listeners.add(listener);
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
