import { useRef, type PointerEvent } from "react";
import { useStore } from "zustand";
import { inScale, noteName, usesFlats } from "@/core/pitch/note";
import { useSize } from "@/ui/useSize";
import { useProject, useStudio } from "@/views/studio/studio";
import { handsOf } from "./hands";
import { typedLetter, FIRST_TYPED } from "./typedKeys";

const BLACK = new Set([1, 3, 6, 8, 10]);
const isBlack = (key: number): boolean => BLACK.has(key % 12);
/** Of white keys in pixels: as many whole octaves are shown as fit. */
const LEAST_WIDTH = 21;
const WHITES = 7;

/** A row of piano keys: the further down one is pressed, the louder it sounds; a press that moves on plays along. */
export function PianoKeys() {
  const hands = handsOf(useStudio());
  const [size, sizeRef] = useSize();
  const { held, octave } = useStore(hands.state);
  const key = useProject((s) => s.project.song.key);
  const flats = usesFlats(key);
  const playing = useRef<number | null>(null);
  const octaves = Math.min(6, Math.max(2, Math.floor(size.width / (WHITES * LEAST_WIDTH))));
  const first = Math.min(127 - 12 * octaves, Math.max(0, FIRST_TYPED + 12 * (octave - Math.floor((octaves - 2) / 2))));
  const keys = Array.from({ length: 12 * octaves + 1 }, (_, i) => first + i).filter((k) => k <= 127);
  const whites = keys.filter((k) => !isBlack(k));
  const width = 100 / whites.length;

  const play = (e: PointerEvent<HTMLElement>): void => {
    const under = document.elementFromPoint(e.clientX, e.clientY);
    const element = under instanceof HTMLElement ? under.closest<HTMLElement>("[data-key]") : null;
    const next = element && e.currentTarget.contains(element) ? Number(element.dataset["key"]) : null;
    if (next === playing.current) return;
    if (playing.current !== null) hands.release(playing.current);
    playing.current = next;
    if (next === null || !element) return;
    const { top, height } = element.getBoundingClientRect();
    hands.press(next, Math.round(40 + 87 * Math.min(1, Math.max(0, (e.clientY - top) / height))));
  };
  const end = (): void => {
    if (playing.current !== null) hands.release(playing.current);
    playing.current = null;
  };
  return (
    <div
      ref={sizeRef}
      className="relative min-w-0 flex-1 touch-none overflow-hidden select-none"
      role="group"
      aria-label="Piano keys. Letters of the keyboard play them."
      data-testid="piano"
      onPointerDown={(e) => {
        if (e.button !== 0) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        play(e);
      }}
      onPointerMove={(e) => {
        if (e.currentTarget.hasPointerCapture(e.pointerId)) play(e);
      }}
      onPointerUp={end}
      onPointerCancel={end}
    >
      {keys.map((k) => {
        const black = isBlack(k);
        const before = whites.filter((w) => w < k).length;
        const left = black ? before * width - width * 0.3 : before * width;
        const name = noteName(k, flats);
        const letter = typedLetter(k, octave);
        return (
          <span
            key={k}
            data-key={k}
            data-held={held.has(k)}
            title={name}
            className={`absolute top-0 flex flex-col items-center justify-end border pb-0.5 text-[9px] leading-tight ${
              black
                ? "z-10 h-[60%] border-ink bg-ink text-sheet night:border-line night:bg-paper night:text-ink data-[held=true]:bg-heard night:data-[held=true]:bg-heard"
                : "h-full border-line bg-sheet text-ink2 night:bg-ink2 night:text-paper data-[held=true]:bg-heard data-[held=true]:text-sheet night:data-[held=true]:bg-heard"
            }`}
            style={{ left: `${left}%`, width: `${black ? width * 0.6 : width}%` }}
          >
            {letter && <span>{letter}</span>}
            {!black && k % 12 === 0 && <span className="font-semibold">{name}</span>}
            {inScale(k, key) && <span aria-hidden className={`mt-px h-[3px] w-[3px] ${black ? "bg-sheet night:bg-ink" : "bg-ink2 night:bg-paper"}`} />}
          </span>
        );
      })}
    </div>
  ); // prettier-ignore
}
