import { useLayoutEffect, useRef, type KeyboardEvent, type MouseEvent } from "react";
import { useStore } from "zustand";
import { createStore } from "zustand/vanilla";

export interface MenuEntry {
  readonly text: string;
  /** The key that does the same on what has the focus, as it is shown; those with Ctrl are written "Ctrl C". */
  readonly keys?: string;
  /** Why it cannot be done now; shown, and the entry does nothing. */
  readonly why?: string | null | undefined;
  /** The one that holds now. */
  readonly on?: boolean;
  readonly run: () => void;
}

/** Why an edit cannot be made where nothing may be changed. */
export const LOCKED = "Nothing can be changed here now";

interface OpenMenu {
  readonly label: string;
  readonly entries: readonly MenuEntry[];
  readonly x: number;
  readonly y: number;
}

const menu = createStore<{ readonly open: OpenMenu | null }>(() => ({ open: null }));

/** Opens a menu with its top left corner at a place of the window, or as near as it fits. */
export function showMenu(label: string, at: { x: number; y: number }, entries: readonly MenuEntry[]): void {
  menu.setState({ open: { label, entries, ...at } });
}

/** What can be done with a thing: there at once, or when it has been loaded; nothing when that fails. */
export type Asked = readonly MenuEntry[] | Promise<readonly MenuEntry[] | undefined>;

const isThere = (asked: Asked): asked is readonly MenuEntry[] => !(asked instanceof Promise);

function showAsked(label: string, at: { x: number; y: number }, asked: Asked): void {
  if (isThere(asked)) showMenu(label, at, asked);
  else void asked.then((list) => list && showMenu(label, at, list));
}

/** Opens a menu where a right-click or the Menu key asked for it. */
export function menuOf(label: string, entries: () => Asked) {
  return (e: MouseEvent): void => {
    // A field has the browser's own menu of the clipboard.
    if (e.target instanceof HTMLInputElement) return;
    e.preventDefault();
    e.stopPropagation();
    const box = e.currentTarget.getBoundingClientRect();
    // The Menu key of some browsers tells no place.
    const told = e.clientX !== 0 || e.clientY !== 0;
    showAsked(label, told ? { x: e.clientX, y: e.clientY } : { x: box.left + 12, y: box.top + 12 }, entries());
  };
}

/** A button that opens a menu below itself. */
export function MenuButton({ label, text, entries }: { label: string; text: string; entries: () => Asked }) {
  return (
    <button
      type="button"
      className="chip px-1.5 py-0"
      aria-haspopup="menu"
      aria-label={label}
      onClick={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        showAsked(label, { x: box.left, y: box.bottom + 2 }, entries());
      }}
    >
      {text}
    </button>
  );
}

/** Keys that do something with a thing; what they do may still have to be loaded. */
const KEYS_OF_THINGS: ReadonlySet<string> = new Set(["Ctrl C", "Ctrl X", "Ctrl V", "Ctrl D", "Delete", "F2"]);

/** Runs the entry whose key was pressed; false when none has it. */
export function runKeyed(asked: Asked, e: KeyboardEvent): boolean {
  if (e.altKey || e.shiftKey) return false;
  const named = (e.ctrlKey || e.metaKey ? "Ctrl " : "") + (e.key.length === 1 ? e.key.toUpperCase() : e.key);
  const pressed = named === "Backspace" ? "Delete" : named;
  const entryOf = (list: readonly MenuEntry[]): MenuEntry | undefined => list.find((x) => x.keys === pressed);
  const run = (entry: MenuEntry | undefined): void => {
    if (!entry?.why) entry?.run();
  };
  if (isThere(asked) ? !entryOf(asked) : !KEYS_OF_THINGS.has(pressed)) return false;
  e.preventDefault();
  e.stopPropagation();
  if (isThere(asked)) run(entryOf(asked));
  else void asked.then((list) => list && run(entryOf(list)));
  return true;
}

/** The open menu. The browser closes it on Escape and on a press elsewhere, and gives the focus back. */
export function MenuHost() {
  const open = useStore(menu, (m) => m.open);
  return open && <Menu key={`${open.label} ${open.x} ${open.y}`} menu={open} />;
}

/** A pause in typing after which the next letter begins a new search. */
const TYPING_MS = 700;

function Menu({ menu: { label, entries, x, y } }: { menu: OpenMenu }) {
  const host = useRef<HTMLDivElement>(null);
  const typed = useRef({ text: "", at: 0 });
  useLayoutEffect(() => {
    const element = host.current!;
    element.showPopover();
    const { width, height } = element.getBoundingClientRect();
    element.style.left = `${Math.max(4, Math.min(x, window.innerWidth - width - 4))}px`;
    element.style.top = `${Math.max(4, Math.min(y, window.innerHeight - height - 4))}px`;
    const items = [...element.querySelectorAll("button")];
    (items.find((b) => b.getAttribute("aria-current")) ?? items.find((b) => !b.ariaDisabled) ?? items[0])?.focus();
  }, [x, y]);

  const close = (): void => host.current?.hidePopover();
  const onKeyDown = (e: KeyboardEvent<HTMLDivElement>): void => {
    const items = [...e.currentTarget.querySelectorAll("button")];
    const at = items.indexOf(document.activeElement as HTMLButtonElement);
    const to = { ArrowDown: at + 1, ArrowUp: at - 1, Home: 0, End: items.length - 1 }[e.key];
    // Escape is the browser's own, and so are the keys that press the entry.
    if (e.key === "Escape") return;
    e.stopPropagation();
    if (e.key === "Enter" || e.key === " ") return;
    if (e.key === "Tab") return close();
    e.preventDefault();
    if (to !== undefined) items[(to + items.length) % items.length]?.focus();
    else if (e.key.length === 1 && !e.ctrlKey && !e.altKey && !e.metaKey) {
      const now = performance.now();
      const text = (now - typed.current.at < TYPING_MS ? typed.current.text : "") + e.key.toLowerCase();
      typed.current = { text, at: now };
      const from = text.length === 1 ? at + 1 : at;
      const turned = [...items.slice(from), ...items.slice(0, from)];
      turned.find((b) => b.textContent.toLowerCase().startsWith(text))?.focus();
    }
  };
  return (
    <div
      ref={host}
      popover="auto"
      role="menu"
      aria-label={label}
      className="m-0 max-h-[70vh] max-w-[340px] min-w-[180px] overflow-y-auto border border-ink bg-sheet py-1 text-[12px] text-ink"
      style={{ inset: "auto" }}
      onKeyDown={onKeyDown}
      onToggle={(e) => {
        if (e.newState === "closed") menu.setState((m) => (m.open?.entries === entries ? { open: null } : m));
      }}
    >
      {entries.map((entry, i) => (
        <button
          key={i}
          type="button"
          role="menuitem"
          tabIndex={-1}
          aria-disabled={entry.why ? true : undefined}
          aria-current={entry.on ? "true" : undefined}
          title={entry.why ?? undefined}
          className={`flex w-full items-center gap-2 px-2.5 py-[3px] text-left outline-none focus:bg-ink focus:text-sheet ${entry.why ? "opacity-50" : "cursor-pointer"}`}
          onPointerMove={(e) => e.currentTarget.focus()}
          onClick={() => {
            if (entry.why) return;
            close();
            entry.run();
          }}
        >
          <span className={`h-2 w-2 shrink-0 ${entry.on ? "bg-current" : ""}`} aria-hidden />
          <span className="min-w-0 flex-1 truncate">{entry.text}</span>
          {entry.keys && <span className="pl-4 text-[11px] opacity-75">{entry.keys}</span>}
        </button>
      ))}
    </div>
  );
}
