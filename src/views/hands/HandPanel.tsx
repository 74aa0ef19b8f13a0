import { useEffect, type PointerEvent, type ReactNode } from "react";
import { useStore } from "zustand";
import { noteName, usesFlats } from "@/core/pitch/note";
import { Select } from "@/ui/Select";
import { Toggle } from "@/ui/Toggle";
import { useEditable, useProject, useStudio, useView } from "@/views/studio/studio";
import { handsOf } from "./hands";
import { PianoKeys } from "./PianoKeys";
import { FIRST_TYPED, typedKey } from "./typedKeys";

const COUNTS = [0, 1, 2];
const TYPED_VELOCITY = 100;
/** Octaves that the typed keys may be moved either way. */
const OCTAVES = 3;

/** Keys to play by hand, on the screen, on the computer's keyboard or on a MIDI instrument, and what is recorded of it. */
export function HandPanel() {
  const studio = useStudio();
  const { view } = studio;
  const hands = handsOf(studio);
  const editable = useEditable();
  const { recording, overdub, quantiseIn, octave, midi, bend, wheel, pressure } = useStore(hands.state);
  const click = useView((v) => v.click);
  const countBars = useView((v) => v.countBars);
  const flats = usesFlats(useProject((s) => s.project.song.key));
  useTypedKeys();
  const toOctave = (to: number): void => {
    hands.letGo();
    hands.state.setState({ octave: Math.min(OCTAVES, Math.max(-OCTAVES, to)) });
  };
  return (
    <section className="flex h-[108px] border-t border-ink bg-paper" aria-label="Play by hand">
      <div className="flex w-[280px] shrink-0 flex-col justify-between border-r border-line px-3 py-2 xl:w-[304px]">
        <div className="flex flex-wrap items-center gap-1">
          <button
            type="button"
            className="chip font-semibold"
            aria-pressed={recording}
            data-on={recording}
            disabled={!editable}
            title="Writes what you play as notes, from here on or from the count-in"
            onClick={() => hands.toggleRecording()}
          >
            {recording ? "Recording" : "Record"}
          </button>
          <Toggle text="add" title="Adds to the notes there are; off, a recording takes their place" on={overdub} onChange={(on) => hands.state.setState({ overdub: on })} />
          <Toggle text="quantise" title="Brings what is recorded to the snap of the notes" on={quantiseIn} onChange={(on) => hands.state.setState({ quantiseIn: on })} />
          <Toggle text="click" title="Beats click while the song plays" on={click} onChange={(on) => view.setState({ click: on })} />
        </div>
        <div className="flex flex-wrap items-center gap-1">
          <Select
            label="Count-in"
            className="chip"
            value={String(countBars)}
            options={COUNTS.map((c) => ({ value: String(c), text: c === 0 ? "no count-in" : c === 1 ? "1 bar count-in" : `${c} bars count-in` }))}
            onChange={(c) => view.setState({ countBars: Number(c) })}
          />
          <button type="button" className="chip" onClick={() => void hands.connect()} title="Listens to MIDI instruments; the browser asks first">
            {midi === null ? "MIDI…" : midi.length === 0 ? "MIDI: none" : "MIDI"}
          </button>
        </div>
        <div className="flex items-center gap-1 text-[11px] text-ink2">
          <button type="button" className="chip px-1.5" aria-label="Typed keys an octave down" onClick={() => toOctave(octave - 1)}>
            −
          </button>
          <span className="whitespace-nowrap">typed from {noteName(FIRST_TYPED + 12 * octave, flats)}</span>
          <button type="button" className="chip px-1.5" aria-label="Typed keys an octave up" onClick={() => toOctave(octave + 1)}>
            +
          </button>
          <span className="truncate">{midi && midi.length > 0 ? midi.join(", ") : ""}</span>
          <button type="button" className="chip ml-auto" title="Closes the keys (Escape)" onClick={() => view.setState({ handsOpen: false })}>
            Close
          </button>
        </div>
      </div>
      <Stick label="Bend" value={bend} springs low={-1} onChange={(v) => hands.move({ bend: v })}>
        {bend === 0 ? "0" : `${bend > 0 ? "+" : "−"}${Math.round(Math.abs(bend) * 100)}`}
      </Stick>
      <Stick label="Wheel" value={wheel} low={0} onChange={(v) => hands.move({ wheel: v })}>
        {Math.round(wheel * 100)}
      </Stick>
      <Stick label="Press" name="Pressure" value={pressure} springs low={0} onChange={(v) => hands.move({ pressure: v })}>
        {Math.round(pressure * 100)}
      </Stick>
      <PianoKeys />
    </section>
  ); // prettier-ignore
}

/** Letters play while the panel is open, except while text is typed. */
function useTypedKeys(): void {
  const studio = useStudio();
  const { view } = studio;
  const hands = handsOf(studio);
  useEffect(() => {
    const down = new Map<string, number>();
    const isText = (target: EventTarget | null): boolean =>
      target instanceof HTMLElement && (target.matches("input, textarea, select") || target.isContentEditable || target.closest("[role=dialog], [role=menu]") !== null);
    const onDown = (e: KeyboardEvent): void => {
      if (isText(e.target) || e.ctrlKey || e.metaKey || e.altKey) return;
      if (e.key === "Escape") {
        view.setState({ handsOpen: false });
        e.stopPropagation();
        return;
      }
      const key = e.shiftKey ? null : typedKey(e.code, hands.state.getState().octave);
      if (key === null) return;
      // Letters that mean something elsewhere play here.
      e.preventDefault();
      e.stopPropagation();
      if (e.repeat || down.has(e.code)) return;
      down.set(e.code, key);
      hands.press(key, TYPED_VELOCITY);
    };
    const onUp = (e: KeyboardEvent): void => {
      const key = down.get(e.code);
      if (key === undefined) return;
      down.delete(e.code);
      hands.release(key);
    };
    const letGo = (): void => {
      down.clear();
      hands.letGo();
    };
    window.addEventListener("keydown", onDown, { capture: true });
    window.addEventListener("keyup", onUp, { capture: true });
    window.addEventListener("blur", letGo);
    return () => {
      window.removeEventListener("keydown", onDown, { capture: true });
      window.removeEventListener("keyup", onUp, { capture: true });
      window.removeEventListener("blur", letGo);
      letGo();
      hands.stopRecording();
    };
  }, [hands, view]);
} // prettier-ignore

/** A stick that is pushed up and down; one that springs goes back when it is let go. */
function Stick({
  label,
  name = label,
  value,
  low,
  springs = false,
  onChange,
  children,
}: {
  label: string;
  /** What it is called in full. */
  name?: string;
  value: number;
  low: -1 | 0;
  springs?: boolean;
  onChange: (value: number) => void;
  children: ReactNode;
}) {
  const held = (v: number): number => Math.min(1, Math.max(low, v));
  const follow = (e: PointerEvent<HTMLElement>): void => {
    const { top, height } = e.currentTarget.getBoundingClientRect();
    onChange(held(1 - ((e.clientY - top) / height) * (1 - low)));
  };
  const middle = low === 0 ? 0 : 50;
  const at = ((value - low) / (1 - low)) * 100;
  return (
    <div className="flex w-[46px] shrink-0 flex-col items-center border-r border-line py-1.5 text-[10px] text-ink2">
      <span>{label}</span>
      <div
        role="slider"
        tabIndex={0}
        aria-orientation="vertical"
        aria-label={name}
        aria-valuemin={low * 100}
        aria-valuemax={100}
        aria-valuenow={Math.round(value * 100)}
        className="relative my-0.5 w-[18px] flex-1 cursor-ns-resize touch-none border border-line bg-sheet"
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          follow(e);
        }}
        onPointerMove={(e) => {
          if (e.currentTarget.hasPointerCapture(e.pointerId)) follow(e);
        }}
        onPointerUp={() => springs && onChange(0)}
        onPointerCancel={() => springs && onChange(0)}
        onKeyDown={(e) => {
          const by = { ArrowUp: 0.1, ArrowDown: -0.1 }[e.key];
          if (by === undefined) return;
          e.preventDefault();
          onChange(held(Math.round((value + by) * 10) / 10));
        }}
        onBlur={() => springs && value !== 0 && onChange(0)}
      >
        <span className="absolute inset-x-0 bg-ink2" style={{ bottom: `${Math.min(at, middle)}%`, height: `${Math.abs(at - middle)}%` }} />
        <span className="absolute inset-x-[-2px] h-[2px] bg-ink" style={{ bottom: `calc(${at}% - 1px)` }} />
      </div>
      <span className="tabular-nums">{children}</span>
    </div>
  ); // prettier-ignore
}
