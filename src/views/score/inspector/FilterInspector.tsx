import { useCallback, useMemo } from "react";
import { VOWELS, filterMagnitudeDb, type FilterSetting } from "@/core/dsp/filter";
import type { Address } from "@/core/patch/address";
import { addressOfRow, modulesOf } from "@/core/patch/kinds";
import { FILTER, type Filter } from "@/core/patch/kinds/filter";
import { hasWidth, inUse } from "@/core/patch/inUse";
import { toNorm } from "@/core/patch/row";
import { formatAmount } from "@/core/patch/valueText";
import { describeHz, usesFlats } from "@/core/pitch/note";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { useHeard, usePart, useProject } from "@/views/studio/studio";
import { tracksOfSides, rangeOf } from "../heardTracks";
import { FILTER_TEXT } from "../stripList";
import { SoundHead } from "./SoundHead";
import { MovedValues } from "./Routes";
import { ModuleRow, ModuleSelect } from "./rows";

/** Lowest and highest value over the loop; null while nothing sounds. */
function useHeardRange(address: Address): { low: number; high: number } | null {
  const part = usePart();
  const partIndex = useProject((s) => s.project.parts.indexOf(part));
  const { heard, program } = useHeard();
  return useMemo(
    () => (heard && program ? rangeOf(tracksOfSides(heard, program, partIndex, part.patch, address).flat()) : null),
    [heard, program, partIndex, part.patch, address],
  );
}

/** A filter's values and its response. */
export function FilterRows({ filter }: { filter: Filter }) {
  const song = useProject((s) => s.project.song);
  const { rows, choices } = FILTER;
  const { type } = filter.choices;
  const range = useHeardRange(addressOfRow(filter, rows.cutoff));
  const goesOn = inUse(usePart().patch, addressOfRow(filter, rows.onward));
  return (
    <>
      <section>
        <ModuleSelect module={filter} choice={choices.type} text={(o) => FILTER_TEXT[o]} />
        <FilterGraph filter={filter} range={range} />
        {type === "vowel" && <ModuleRow module={filter} row={rows.vowel} text={vowelText} />}
        <ModuleRow
          module={filter}
          row={rows.cutoff}
          reach={range && { from: toNorm(rows.cutoff, range.low), to: toNorm(rows.cutoff, range.high), kind: "heard" }}
        />
        <p className="text-right text-[11px] text-ink2">{describeHz(filter.values.cutoff, usesFlats(song.key))}</p>
        <ModuleRow module={filter} row={rows.resonance} />
        {hasWidth(type) && <ModuleRow module={filter} row={rows.width} />}
        <ModuleRow module={filter} row={rows.drive} />
        <ModuleRow module={filter} row={rows.keyFollow} />
        <ModuleRow module={filter} row={rows.apart} text={(v) => formatAmount(v, "st", v % 1 === 0 ? 0 : 1, true)} />
        <ModuleRow module={filter} row={rows.mix} />
        {goesOn && <ModuleRow module={filter} row={rows.onward} />}
      </section>
      {range && (
        <p className="text-[11px] text-ink2">
          As heard over the loop: lowest {formatAmount(range.low, "Hz", 0)}, highest {formatAmount(range.high, "Hz", 0)}
        </p>
      )}
    </>
  );
}

/** Between which vowels a place lies: "a", "e 40 % to i". */
function vowelText(place: number): string {
  const at = (Math.min(100, Math.max(0, place)) / 100) * (VOWELS.length - 1);
  const from = Math.min(VOWELS.length - 2, Math.floor(at));
  const share = Math.round((at - from) * 100);
  if (share === 0) return VOWELS[from]!.name;
  return share === 100 ? VOWELS[from + 1]!.name : `${VOWELS[from]!.name} ${share} % to ${VOWELS[from + 1]!.name}`;
}

export function FilterInspector({ filter }: { filter: Filter }) {
  const { rows } = FILTER;
  return (
    <>
      <SoundHead module={filter} subtitle={FILTER_TEXT[filter.choices.type]} />
      <FilterRows filter={filter} />
      <MovedValues module={filter} always={[rows.cutoff, rows.resonance]} />
    </>
  );
}

const TOP_DB = 24;
const BOTTOM_DB = -60;

const settingOf = ({ values: v, choices }: Filter): FilterSetting => ({
  type: choices.type,
  cutoffHz: v.cutoff,
  resonance: v.resonance,
  width: v.width,
  vowel: v.vowel,
  mix: v.mix,
});

/** The filter's response at rest, and where the loop's lowest and highest cutoff take it. */
function FilterGraph({ filter, range }: { filter: Filter; range: { low: number; high: number } | null }) {
  const { cutoff: rest, resonance, width: octaves, vowel, mix, apart } = filter.values;
  const { type } = filter.choices;
  const { modules, cables } = usePart().patch;
  // Another filter in a row with this one.
  const other = modulesOf(modules, FILTER).find(
    (m) =>
      m.id !== filter.id &&
      m.on &&
      // Two ways that meet again add up by their phases too, which is not drawn.
      cables.some(
        (c) =>
          (c.from === m.id && c.to === filter.id && m.values.onward === 100) ||
          (c.from === filter.id && c.to === m.id && filter.values.onward === 100),
      ),
  );
  const paint = useCallback(
    ({ g, width, height, palette }: Surface) => {
      const toY = (db: number): number => ((TOP_DB - db) / (TOP_DB - BOTTOM_DB)) * height;
      const hzAt = (x: number): number => 20 * 1000 ** (x / width);
      g.fillStyle = palette.line;
      for (const hz of [100, 1000, 10_000]) g.fillRect((Math.log(hz / 20) / Math.log(1000)) * width, 0, 1, height);
      for (const db of [0, -24, -48]) g.fillRect(0, toY(db), width, 1);
      g.fillStyle = palette.ink2;
      g.fillText("0 dB", 3, toY(0) - 3);
      g.fillText("−48", 3, toY(-48) - 3);
      const curve = (cutoff: number, colour: string, alpha: number): void => {
        g.strokeStyle = colour;
        g.globalAlpha = alpha;
        g.lineWidth = 1.6;
        g.beginPath();
        for (let x = 0; x <= width; x += 2)
          g.lineTo(
            x,
            toY(filterMagnitudeDb({ type, cutoffHz: cutoff, resonance, width: octaves, vowel, mix }, 48_000, hzAt(x))),
          );
        g.stroke();
        g.globalAlpha = 1;
      };
      if (range) {
        curve(range.low, palette.heard, 0.45);
        curve(range.high, palette.heard, 1);
      }
      // Each side goes half of the semitones that are between them.
      for (const half of apart === 0 ? [0] : [-apart / 24, apart / 24]) curve(rest * 2 ** half, palette.ink, 1);
      if (!other) return;
      g.strokeStyle = palette.ink2;
      g.setLineDash([4, 3]);
      g.beginPath();
      for (let x = 0; x <= width; x += 2) {
        const hz = hzAt(x);
        const own = filterMagnitudeDb({ type, cutoffHz: rest, resonance, width: octaves, vowel, mix }, 48_000, hz);
        g.lineTo(x, toY(own + filterMagnitudeDb(settingOf(other), 48_000, hz)));
      }
      g.stroke();
      g.setLineDash([]);
    },
    [type, rest, resonance, octaves, vowel, mix, apart, range, other],
  );
  return (
    <figure>
      <div className="relative h-[84px] border border-line bg-sheet">
        <canvas
          ref={useCanvas(paint)}
          className="absolute inset-0 h-full w-full"
          role="img"
          aria-label="Filter response from 20 Hz to 20 kHz"
        />
      </div>
      <figcaption className="flex justify-between gap-1 text-[11px] whitespace-nowrap text-ink2">
        <span>20 Hz</span>
        <span className="text-center whitespace-normal">
          {other ? `at rest, as heard; dashed: with ${other.name}` : "ink: at rest, pink: as heard"}
        </span>
        <span>20 kHz</span>
      </figcaption>
    </figure>
  );
}
