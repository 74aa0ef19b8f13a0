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
