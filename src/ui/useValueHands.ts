import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { newGesture } from "./gesture";

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
  setNorm(norm: number, gesture: string): void;
  step(direction: 1 | -1, size: StepSize, gesture: string): void;
  /** False when the text cannot be read. */
  type(text: string): boolean;
  reset(): void;
}

/** Pixels of a drag that cross the whole scale. */
const TRAVEL_PX = 220;
const FINE = 0.1;

const STEPS: Record<string, readonly [1 | -1, StepSize]> = {
  ArrowUp: [1, "step"],
  ArrowRight: [1, "step"],
  ArrowDown: [-1, "step"],
  ArrowLeft: [-1, "step"],
  PageUp: [1, "page"],
  PageDown: [-1, "page"],
};

/**
 * The hands of every value: drag sideways (Shift for fine), double-click or Enter to type, arrows by a step (Shift for
 * fine), Page keys by ten, Home and End to the ends, Backspace for the default.
 */
export function useValueHands(value: HandledValue, disabled = false) {
  const [typing, setTyping] = useState<string | null>(null);
  const [refused, setRefused] = useState(false);
  const drag = useRef<{ x: number; norm: number; gesture: string } | null>(null);
  const keyGesture = useRef<string | null>(null);
  const host = useRef<HTMLDivElement>(null);

  const begin = (): void => {
    if (disabled) return;
    setRefused(false);
    setTyping(value.text);
  };
  const finish = (text: string | null): void => {
    if (text !== null && !value.type(text)) return setRefused(true);
    setTyping(null);
    setRefused(false);
    host.current?.focus();
  };

  const onPointerDown = (e: PointerEvent): void => {
    if (e.button !== 0 || typing !== null || disabled) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    drag.current = { x: e.clientX, norm: value.norm, gesture: newGesture() };
  };
  const onPointerMove = (e: PointerEvent): void => {
    const d = drag.current;
    if (!d) return;
    const dx = e.clientX - d.x;
    if (dx === 0) return;
    d.x = e.clientX;
    d.norm = Math.min(1, Math.max(0, d.norm + (dx / TRAVEL_PX) * (e.shiftKey ? FINE : 1)));
    value.setNorm(d.norm, d.gesture);
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
    } else if (e.key === "Home" || e.key === "End") value.setNorm(e.key === "Home" ? 0 : 1, newGesture());
    else if (e.key === "Enter") begin();
    else if (e.key === "Backspace" || e.key === "Delete") value.reset();
    else return;
    e.preventDefault();
    e.stopPropagation();
  };

  return {
    typing,
    refused,
    setTyping,
    finish,
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
      onDoubleClick: begin,
      onKeyDown,
    },
  } as const;
}
