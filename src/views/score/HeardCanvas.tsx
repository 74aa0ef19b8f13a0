import { useCallback, useMemo } from "react";
import { splitAddress, type Address } from "@/core/patch/address";
import { formatAmount } from "@/core/patch/valueText";
import { describeKey, noteName, usesFlats } from "@/core/pitch/note";
import { useSame } from "@/ui/steady";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { markPainted, useHeard, useOfPart, usePartIndex, useProject, useStudio } from "@/views/studio/studio";
import {
  heardScale,
  heardValue,
  onScale,
  ownTracks,
  rangeOf,
  sameTracks,
  sideTracks,
  valueAt,
  valueTracks,
  type HeardValue,
} from "./heardTracks";
import { HoverText } from "./HoverText";
import { GUTTER, STRIP_CANVAS } from "./layout";
import { paintGrid, paintTracks, type Track } from "./paint";
import { PlayDot } from "./Playhead";
import { heardAddresses } from "./heardStrips";
import { tickToX, type Timeline } from "./timeline";

const NO_SIDES: [Track[], Track[]] = [[], []];

/** The as-heard curve of a value, or one of each side where they are apart. */
export function HeardCanvas({
  address,
  timeline,
  large = false,
}: {
  address: Address;
  timeline: Timeline;
  large?: boolean;
}) {
  const song = useProject((s) => s.project.song);
  const partIndex = usePartIndex();
  const { heard, program } = useHeard(true);
  const value = useHeardValue(address);
  const { reads, row, text } = value;
  const found = useMemo(
    () => (heard && program ? ownTracks(value, valueTracks(heard, program, partIndex, address)) : []),
    [heard, program, partIndex, address, value],
  );
  const tracks = useSame(found, sameTracks);
  const [foundLeft, foundRight] = useMemo(
    () => (heard && program ? sideTracks(heard, program, partIndex, value) : NO_SIDES),
    [heard, program, partIndex, value],
  );
  const left = useSame(foundLeft, sameTracks);
  const right = useSame(foundRight, sameTracks);
  const range = useMemo(() => rangeOf(left.length > 0 ? [...left, ...right] : tracks), [tracks, left, right]);
  const scale = useMemo(() => heardScale(value, range), [value, range]);
  const flats = usesFlats(song.key);
  const paint = useCallback(
    (s: Surface) => {
      const t = { ...timeline, width: s.width };
      paintGrid(s, t, song.meter, Infinity);
      const toY = (v: number): number => s.height - 3 - onScale(scale, v) * (s.height - 8);
      if (left.length === 0) paintTracks(s, t, tracks, toY, s.palette.heard);
      for (const [name, side] of [
        ["left", left],
        ["right", right],
      ] as const) {
        const first = side[0];
        if (!first) continue;
        paintTracks(s, t, side, toY, s.palette.heard);
        if (!large) continue;
        s.g.fillStyle = s.palette.ink;
        s.g.fillText(name, Math.max(4, tickToX(t, first.firstTick) + 4), toY(first.last[0]!) - 5);
      }
      for (const tick of scale.ticks) {
        s.g.fillStyle = s.palette.line;
        s.g.fillRect(0, Math.round(toY(tick)), s.width, large ? 1 : 0.5);
      }
      markPainted();
    },
    [timeline, song.meter, tracks, left, right, scale, large],
  );
  const figure = (tick: number): string =>
    text
      ? text(tick).replace(" ", "\u202f")
      : reads === "key"
        ? noteName(tick, flats)
        : reads === "hz"
          ? shortHz(tick)
          : formatAmount(tick, row.unit, scale.digits).replace(" ", "\u202f");
  const toY = useCallback((v: number) => 1 - onScale(scale, v), [scale]);
  const format = (v: number): string =>
    text ? text(v) : reads === "key" ? noteName(v, flats) : formatAmount(v, row.unit, 1);
  const what = range ? `lowest ${format(range.low)}, highest ${format(range.high)}` : heard ? "nothing sounds yet" : "being worked out"; // prettier-ignore
  return (
    <>
      <canvas
        ref={useCanvas(paint)}
        className={STRIP_CANVAS}
        role="img"
        aria-label={`${row.label}, as heard: ${what}`}
      />
      <PlayDot timeline={timeline} tracks={tracks} toY={toY} kind="heard" />
      <div className="absolute inset-y-0 left-full border-l border-line" style={{ width: GUTTER }} aria-hidden>
        {scale.ticks.map((tick) => (
          <span
            key={tick}
            className="absolute left-1 text-[10px] leading-none whitespace-nowrap text-ink2"
            style={{
              top: `clamp(0px, calc(100% - 3px - ${onScale(scale, tick)} * (100% - 8px) - 5px), calc(100% - 10px))`,
            }}
          >
            {figure(tick)}
          </span>
        ))}
      </div>
      <HoverText
        timeline={timeline}
        describe={(tick) => {
          const told = (v: number): string => (reads === "key" ? describeKey(v, flats) : reads === "hz" && v >= 100 ? formatAmount(v, row.unit, 0) : format(v)); // prettier-ignore
          const [v, l, r] = [tracks, left, right].map((list) => valueAt(list, tick));
          if (l != null && r != null) return `left ${told(l)}, right ${told(r)}`;
          return v == null ? null : told(v);
        }}
      />
      {heard && !range && (
        <p className="absolute inset-0 z-1 grid place-items-center text-[11px] text-ink2">
          {heard.notes.some((n) => n.part === partIndex)
            ? "Nothing moves it: it stands where it is set"
            : "Add notes to see what is heard"}
        </p>
      )}
    </>
  );
}

/** The value at an address of the part; the same object while its module stands, and no reason to draw before. */
function useHeardValue(address: Address): HeardValue {
  const song = useProject((s) => s.project.song);
  const { owner } = splitAddress(address);
  const module = useOfPart(({ patch }) => patch.modules.find((m) => m.id === owner));
  const found = useMemo(
    () => (module ? heardValue({ modules: [module] }, address, song) : null),
    [module, address, song],
  );
  // It may be gone already, and its strip be about to go.
  const { part } = useStudio();
  return found ?? heardValue(part.patch, heardAddresses(part.patch)[0]!)!;
}

/** Scale marks are short: the strip's name says that they are Hz. */
const shortHz = (hz: number): string => (hz >= 1000 ? `${hz / 1000}k` : String(hz));
