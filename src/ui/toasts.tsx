import { useStore } from "zustand";
import { createStore } from "zustand/vanilla";

// Our own few lines: the libraries for this put style elements into the page, which its security policy forbids.

export interface Toast {
  readonly kind: "info" | "error";
  readonly text: string;
  readonly action?: { readonly label: string; readonly run: () => void };
}

const SHOWN_MS = { info: 2500, error: 12_000 };
const WITH_ACTION_MS = 12_000;
const MOST = 3;

const store = createStore<{ readonly list: readonly (Toast & { readonly id: number })[] }>(() => ({ list: [] }));
let count = 0;

const dismiss = (id: number): void => store.setState((s) => ({ list: s.list.filter((t) => t.id !== id) }));

/** Shows a message for a while; one with an action or a problem stays longer. */
export function showToast(toast: Toast): void {
  const id = ++count;
  store.setState((s) => ({ list: [...s.list.filter((t) => t.text !== toast.text), { ...toast, id }].slice(-MOST) }));
  setTimeout(() => dismiss(id), toast.action ? WITH_ACTION_MS : SHOWN_MS[toast.kind]);
}

export function Toasts() {
  const list = useStore(store, (s) => s.list);
  return (
    <div
      className="pointer-events-none fixed inset-x-0 bottom-8 z-40 flex flex-col items-center gap-1.5"
      role="status"
      aria-live="polite"
    >
      {list.map((t) => (
        <div
          key={t.id}
          className="pointer-events-auto flex max-w-[560px] items-center gap-3 bg-ink px-3 py-2 text-[12px] text-sheet"
          data-kind={t.kind}
        >
          {t.kind === "error" && <span className="h-2 w-2 shrink-0 bg-warn" aria-hidden />}
          <span className="min-w-0 break-words">{t.text}</span>
          {t.action && (
            <button
              type="button"
              className="cursor-pointer font-semibold underline"
              onClick={() => {
                t.action?.run();
                dismiss(t.id);
              }}
            >
              {t.action.label}
            </button>
          )}
          <button
            type="button"
            className="cursor-pointer opacity-80 hover:opacity-100"
            aria-label="Dismiss"
            onClick={() => dismiss(t.id)}
          >
            ×
          </button>
        </div>
      ))}
    </div>
  );
}
