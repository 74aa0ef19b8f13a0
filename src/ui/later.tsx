import { Suspense, lazy, type ComponentType } from "react";

/** A component that is loaded when it is first shown. */
export function later<P extends object>(load: () => Promise<ComponentType<P>>): ComponentType<P> {
  const Loaded = lazy(() => load().then((component) => ({ default: component })));
  return function Later(props: P) {
    return (
      <Suspense fallback={null}>
        <Loaded {...props} />
      </Suspense>
    );
  };
}
