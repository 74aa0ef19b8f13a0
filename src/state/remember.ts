/** Small notes that outlive a page, as far as the browser lets: where it keeps nothing, nothing is remembered. */
function note(area: () => Storage, key: string): { get(): string | null; set(value: string): void } {
  return {
    get: () => {
      try {
        return area().getItem(key);
      } catch {
        return null;
      }
    },
    set: (value) => {
      try {
        area().setItem(key, value);
      } catch {
        // It is not remembered, and nothing else depends on it.
      }
    },
  };
}

/** The project that this tab had open, so that a reload opens it again whatever other tabs do. */
export const tabProject = note(() => sessionStorage, "clovik-project");
/** Where the eyes were in it. */
export const tabView = note(() => sessionStorage, "clovik-view");
export const keptTheme = note(() => localStorage, "clovik-theme");
export const keptMiddleC = note(() => localStorage, "clovik-middle-c");
