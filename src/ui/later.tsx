import { Suspense, lazy, useState, type ComponentType } from "react";

const loads: (() => Promise<unknown>)[] = [];
let ahead: Promise<void> | null = null;

/** What hands do, as the page hears of it. */
export const SIGNS = ["pointermove", "pointerdown", "keydown", "wheel"] as const;

/** Hands that pause for this long have let go, or look at what they did. */
const PAUSE_MS = 300;
let lastSign = 0;
const onSign = (): void => {
  lastSign = performance.now();
};
const pauseLeft = (): number => lastSign + PAUSE_MS - performance.now();

/** Once hands pause and nothing else is to be done: a script that has come is run at once, and would hold up what they do. */
async function idle(): Promise<void> {
  for (let left = pauseLeft(); left > 0; left = pauseLeft()) await new Promise((resolve) => setTimeout(resolve, left));
  await new Promise<unknown>((resolve) => {
    // Not in every browser.
    if ("requestIdleCallback" in window) requestIdleCallback(resolve, { timeout: 2000 });
    else setTimeout(resolve, 50);
  });
}

/** Has something loaded ahead that is not a component. */
export const alsoAhead = (load: () => Promise<unknown>): void => void loads.push(load);

/** Loads what can be opened, one after the other, so that it is there when it is. Called at the first sign of a hand. */
export function loadAhead(): void {
  ahead ??= (async () => {
    for (const sign of SIGNS) document.addEventListener(sign, onSign, { capture: true, passive: true });
    onSign();
    for (const load of loads) {
      await idle();
      await load().catch(() => undefined);
    }
    for (const sign of SIGNS) document.removeEventListener(sign, onSign, { capture: true });
  })();
}

/** A component whose script may be loaded before it is shown. Rejects when that does not come. */
export type Later<P extends object = object> = ComponentType<P> & { load: () => Promise<unknown> };

/** A component that is loaded when it is first shown, or ahead of that. */
export function later<P extends object>(load: () => Promise<ComponentType<P>>): Later<P> {
  let loaded: ComponentType<P> | null = null;
  const once = async (): Promise<{ default: ComponentType<P> }> => {
    loaded = await load();
    return { default: loaded };
  };
  loads.push(once);
  const Lazy: ComponentType<P> = lazy(once);
  function Later(props: P) {
    // What was there at the first showing stays: another component would begin anew.
    const [Shown] = useState(() => loaded ?? Lazy);
    return (
      <Suspense fallback={null}>
        <Shown {...props} />
      </Suspense>
    );
  }
  Later.load = once;
  return Later;
}
