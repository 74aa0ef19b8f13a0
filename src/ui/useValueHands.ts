import {
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type PointerEvent,
  type WheelEvent,
} from "react";
import { newGesture } from "./gesture";
import { menuOf, type MenuEntry } from "./menu";

/** The same value while nothing of it that is shown changes; its hands are always the latest. */
export function useStableValue(value: HandledValue): HandledValue {
  const latest = useRef(value);
  useLayoutEffect(() => {
    latest.current = value;
  });
  const { norm, text, origin, now, min, max, spoken, travelPx } = value;
  return useMemo(
    () => ({
      norm,
      text,
      origin,
      now,
      min,
      max,
      spoken,
      ...(travelPx === undefined ? {} : { travelPx }),
      setNorm: (...args) => latest.current.setNorm(...args),
      step: (...args) => latest.current.step(...args),
      type: (typed) => latest.current.type(typed),
      reset: () => latest.current.reset(),
      more: () => latest.current.more?.() ?? [],
    }),
    [norm, text, origin, now, min, max, spoken, travelPx],
  );
}

export type StepSize = "step" | "fine" | "page";

/** A value as the hands meet it: a place on its scale, a text, and ways to change it. */
export interface HandledValue {
  /** Place on the scale, 0 to 1. */
  readonly norm: number;
  readonly text: string;
  /** Where the bar grows from: the place of zero on scales that go both ways, else 0. */
  readonly origin: number;
  /** For the slider role. */
  readonly now: number;
  readonly min: number;
  readonly max: number;
  readonly spoken: string;
  /** Pixels of a drag that cross the whole scale; 220 unless said otherwise. */
  readonly travelPx?: number;
  /** `fine` asks for finer steps than a drag usually takes. */
  setNorm(norm: number, gesture: string, fine?: boolean): void;
  step(direction: 1 | -1, size: StepSize, gesture: string): void;
  /** Why the text cannot be read; null when it was taken. */
  type(text: string): string | null;
  reset(): void;
  /** What else its menu offers. */
  readonly more?: () => readonly MenuEntry[];
}

/** Pixels of a drag that cross the whole scale. */
const TRAVEL_PX = 220;
const FINE = 0.1;
const WHEEL_REST_MS = 400;
/** Keys that open the field with what they write. */
const BEGINS_A_NUMBER = /^[\d.,-]$/;

const STEPS: Record<string, readonly [1 | -1, StepSize]> = {
  ArrowUp: [1, "step"],
  ArrowRight: [1, "step"],
  ArrowDown: [-1, "step"],
  ArrowLeft: [-1, "step"],
  PageUp: [1, "page"],
  PageDown: [-1, "page"],
};

/**
 * The hands of every value: drag sideways (Shift for fine), double-click, Enter or a digit to type, arrows by a step (Shift for
 * fine), Page keys by ten, Backspace for the default. With `bothWays`, a drag upwards and the wheel turn it up, too.
 */
export function useValueHands(value: HandledValue, disabled = false, bothWays = false) {
  const [typing, setTyping] = useState<string | null>(null);
  const [refused, setRefused] = useState<string | null>(null);
  const drag = useRef<{ x: number; y: number; norm: number; gesture: string } | null>(null);
  const keyGesture = useRef<string | null>(null);
  const wheel = useRef({ at: -Infinity, gesture: "" });
  const host = useRef<HTMLDivElement>(null);
  /** Set while the focus leaves the field because what was typed is dealt with: it is not to be taken twice. */
  const done = useRef(false);

  const begin = (text = value.text): void => {
    if (disabled) return;
    setRefused(null);
    setTyping(text);
  };
  /** Takes what was typed, or says why not and waits for something else; null gives up. */
  const finish = (text: string | null): void => {
    const problem = text === null || text === value.text ? null : value.type(text);
    setRefused(problem);
    if (problem !== null) return;
    setTyping(null);
    done.current = true;
    host.current?.focus();
    done.current = false;
  };
  /** The hand has gone elsewhere: what can be read is taken, what cannot is given up. */
  const leave = (text: string): void => {
    if (typing === null || done.current) return;
    if (refused === null && text !== value.text) value.type(text);
    setTyping(null);
    setRefused(null);
  };

  const onPointerDown = (e: PointerEvent): void => {
    if (e.button !== 0 || typing !== null || disabled) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    drag.current = { x: e.clientX, y: e.clientY, norm: value.norm, gesture: newGesture() };
  };
  const onPointerMove = (e: PointerEvent): void => {
    const d = drag.current;
    if (!d) return;
    const by = e.clientX - d.x + (bothWays ? d.y - e.clientY : 0);
    if (by === 0) return;
    d.x = e.clientX;
    d.y = e.clientY;
    d.norm = Math.min(1, Math.max(0, d.norm + (by / (value.travelPx ?? TRAVEL_PX)) * (e.shiftKey ? FINE : 1)));
    value.setNorm(d.norm, d.gesture, e.shiftKey);
  };
  const end = (): void => {
    drag.current = null;
  };

  const onKeyDown = (e: KeyboardEvent): void => {
    if (typing !== null || disabled || e.ctrlKey || e.metaKey || e.altKey) return;
    const step = STEPS[e.key];
    if (step) {
      // A held key is one gesture.
      if (!e.repeat || !keyGesture.current) keyGesture.current = newGesture();
      value.step(step[0], e.shiftKey && step[1] === "step" ? "fine" : step[1], keyGesture.current);
    } else if (e.key === "Enter") begin();
    else if (BEGINS_A_NUMBER.test(e.key)) begin(e.key);
    else if (e.key === "Backspace" || e.key === "Delete") value.reset();
    else return;
    e.preventDefault();
    e.stopPropagation();
  };

  const onWheel = (e: WheelEvent): void => {
    if (!bothWays || disabled || typing !== null || e.ctrlKey || e.deltaY === 0) return;
    // Notches that follow each other are one gesture.
    const now = performance.now();
    if (now - wheel.current.at > WHEEL_REST_MS) wheel.current.gesture = newGesture();
    wheel.current.at = now;
    value.step(e.deltaY < 0 ? 1 : -1, e.shiftKey ? "fine" : "step", wheel.current.gesture);
  };

  const entries = (): MenuEntry[] => {
    const why = disabled ? "It cannot be changed now" : null;
    return [
      { text: "Type a value", keys: "Enter", why, run: () => begin() },
      { text: "Default", keys: "Backspace", why, run: () => value.reset() },
      { text: `Copy ${value.text}`, run: () => void navigator.clipboard.writeText(value.text).catch(() => undefined) },
      {
        text: "Paste",
        why,
        run: () =>
          void navigator.clipboard.readText().then(
            (text) => {
              if (value.type(text) === null) return;
              // What cannot be read stands in the field, with the reason.
              begin();
              setTyping(text.slice(0, 40));
              setRefused(value.type(text));
            },
            () => begin(),
          ),
      },
      ...(value.more?.() ?? []),
    ];
  };

  return {
    typing,
    refused,
    setTyping,
    finish,
    leave,
    slider: {
      ref: host,
      role: "slider",
      tabIndex: 0,
      "aria-valuemin": value.min,
      "aria-valuemax": value.max,
      "aria-valuenow": value.now,
      "aria-valuetext": value.spoken,
      "aria-disabled": disabled || undefined,
      onPointerDown,
      onPointerMove,
      onPointerUp: end,
      onPointerCancel: end,
      onDoubleClick: () => begin(),
      onContextMenu: menuOf("Value", entries),
      onWheel,
      onKeyDown,
    },
  } as const;
}
