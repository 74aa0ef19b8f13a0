import type { Surface } from "@/ui/useCanvas";
import type { NoteEvent } from "@/core/pattern/noteEvent";
import type { Meter } from "@/core/time/meter";
import { gridLines, tickToX, type Timeline } from "./timeline";

/** Bars, beats and steps behind a strip. */
export function paintGrid({ g, height, palette }: Surface, t: Timeline, meter: Meter, endTick: number): void {
  for (const line of gridLines(t, meter, endTick)) {
    g.fillStyle = line.level === "bar" ? palette.ink2 : line.level === "beat" ? palette.line : palette.line2;
    g.globalAlpha = line.level === "bar" ? 0.55 : 1;
    g.fillRect(Math.round(tickToX(t, line.tick)), 0, 1, height);
  }
  g.globalAlpha = 1;
}

export interface PitchRange {
  readonly low: number;
  readonly high: number;
}

/** The keys that a strip of notes needs, with room above and below; at least an octave. */
export function pitchRange(keys: readonly number[], room: number): PitchRange {
  if (keys.length === 0) return { low: 54, high: 66 };
  let low = Infinity;
  let high = -Infinity;
  for (const key of keys) {
    low = Math.min(low, key - room);
    high = Math.max(high, key + room);
  }
  const missing = Math.max(0, 12 - (high - low));
  return { low: low - Math.floor(missing / 2), high: high + Math.ceil(missing / 2) };
}

export const keyToY = (range: PitchRange, key: number, height: number): number =>
  ((range.high + 1 - key) / (range.high - range.low + 2)) * height;

/** Steps of strength in which velocities are shown. */
export const STRENGTHS = 8;

export const strengthOf = (velocity: number): number =>
  Math.min(STRENGTHS - 1, Math.floor((velocity * STRENGTHS) / 128));

/** Fills boxes, each four numbers: single ones are faster than a path of them. */
export function fillBoxes(g: CanvasRenderingContext2D, boxes: readonly number[]): void {
  for (let i = 0; i < boxes.length; i += 4) g.fillRect(boxes[i]!, boxes[i + 1]!, boxes[i + 2]!, boxes[i + 3]!);
}

/** Notes as bars over the grid; louder notes are stronger. `lead` leaves room at the top for names. */
export function paintEvents(
  { g, height, palette }: Surface,
  t: Timeline,
  events: readonly NoteEvent[],
  range: PitchRange,
  colour: string,
  lead = 0,
): void {
  const room = height - lead;
  const thick = Math.max(2, Math.min(6, room / (range.high - range.low + 2)));
  // Events of like strength are painted together: there may be thousands.
  const boxes = Array.from({ length: STRENGTHS }, (): number[] => []);
  for (const e of events) {
    const x = tickToX(t, e.onTick);
    const end = tickToX(t, e.offTick);
    if (end < 0 || x > t.width) continue;
    boxes[strengthOf(e.velocity)]!.push(
      x,
      lead + keyToY(range, e.key, room) - thick / 2,
      Math.max(4, end - x - 1),
      thick,
    );
  }
  g.fillStyle = colour;
  boxes.forEach((list, i) => {
    g.globalAlpha = 0.4 + (0.6 * (i + 0.5)) / STRENGTHS;
    fillBoxes(g, list);
  });
  g.globalAlpha = 1;
  g.fillStyle = palette.ink;
}

/** Stronger and fainter stretches of many curves, one pixel column at a time. */
export interface Track {
  /** Ticks of the first value and between values. */
  readonly firstTick: number;
  readonly tickStep: number;
  readonly count: number;
  /** Lowest, highest and last value of each step. */
  readonly low: ArrayLike<number>;
  readonly high: ArrayLike<number>;
  readonly last: ArrayLike<number>;
  /** Index from which a newer note sounds; the curve is faint from there. */
  readonly strongUntil: number;
}

/** Tracks that take less than so many pixels each, on the average, run into each other: they are painted together. */
const DENSE_PX = 5;

/** Paints tracks; `toY` maps a value to pixels. Every peak between two columns is kept. */
export function paintTracks(
  { g, height }: Surface,
  t: Timeline,
  tracks: readonly Track[],
  toY: (value: number) => number,
  colour: string,
): void {
  g.strokeStyle = colour;
  g.fillStyle = colour;
  // One pixel wide, a line is painted several times as fast as a wider one: a strong one is two of them.
  g.lineWidth = 1;
  const inView = tracks.filter((track) => isInView(t, track));
  if (inView.length * DENSE_PX > t.width) return paintDense(g, t, inView, toY, height);
  g.globalAlpha = 0.28;
  for (const track of inView) {
    g.beginPath();
    if (trace(t, track, track.strongUntil, track.count, toY, g)) g.stroke();
  }
  for (const track of inView) {
    const line = new Path2D();
    const span = trace(t, track, 0, track.strongUntil, toY, line);
    if (!span) continue;
    const area = new Path2D(line);
    area.lineTo(span.end, height);
    area.lineTo(span.start, height);
    g.globalAlpha = 0.1;
    g.fill(area);
    g.globalAlpha = 1;
    strokeTwice(g, line);
  }
  g.globalAlpha = 1;
}

/** A line a pixel and a half thick. */
function strokeTwice(g: CanvasRenderingContext2D, line: Path2D): void {
  g.translate(0, -APART / 2);
  g.stroke(line);
  g.translate(0, APART);
  g.stroke(line);
  g.translate(0, -APART / 2);
}
const APART = 0.5;

const isInView = (t: Timeline, { firstTick, tickStep, count }: Track): boolean =>
  firstTick <= t.fromTick + t.ticks && firstTick + count * tickStep >= t.fromTick;

/**
 * Many short tracks, a column of pixels at a time: from the lowest to the highest that any of them reaches there, strong
 * ones over faint ones.
 */
function paintDense(g: CanvasRenderingContext2D, t: Timeline, tracks: readonly Track[], toY: (v: number) => number, height: number): void {
  const columns = Math.ceil(t.width) + 1;
  for (const pass of ["faint", "strong"] as const) {
    const low = new Float64Array(columns).fill(Infinity);
    const high = new Float64Array(columns).fill(-Infinity);
    for (const track of tracks) {
      const from = pass === "strong" ? 0 : track.strongUntil;
      const to = pass === "strong" ? track.strongUntil : track.count;
      for (let i = from; i < to; i++) {
        const x = Math.round(tickToX(t, track.firstTick + i * track.tickStep));
        if (x < 0 || x >= columns) continue;
        low[x] = Math.min(low[x]!, track.low[i]!);
        high[x] = Math.max(high[x]!, track.high[i]!);
      }
    }
    const line: number[] = [];
    const area: number[] = [];
    for (let x = 0; x < columns; x++) {
      if (low[x] === Infinity) continue;
      const top = toY(high[x]!);
      line.push(x, top - 0.75, 1, toY(low[x]!) - top + 1.5);
      area.push(x, top, 1, height - top);
    }
    if (pass === "strong") {
      g.globalAlpha = 0.1;
      fillBoxes(g, area);
    }
    g.globalAlpha = pass === "strong" ? 1 : 0.28;
    fillBoxes(g, line);
  }
  g.globalAlpha = 1;
} // prettier-ignore

/** Writes the line of a track's values from one to another; returns where it starts and ends, null where it is out of view. */
function trace(
  t: Timeline,
  track: Track,
  from: number,
  to: number,
  toY: (v: number) => number,
  line: Pick<CanvasPath, "moveTo" | "lineTo">,
): { readonly start: number; readonly end: number } | null {
  const xOf = (i: number): number => tickToX(t, track.firstTick + i * track.tickStep);
  const perPx = Math.max(1, Math.floor(t.ticks / t.width / track.tickStep));
  const first = Math.max(from, Math.floor((t.fromTick - track.firstTick) / track.tickStep) - perPx);
  const last = Math.min(to - 1, Math.ceil((t.fromTick + t.ticks - track.firstTick) / track.tickStep) + perPx);
  if (last < first) return null;
  const start = xOf(first);
  // A note's first step holds its onset: the rise of an attack stands as a line.
  line.moveTo(start, toY(track.low[first]!));
  for (const v of [track.high[first]!, track.last[first]!]) line.lineTo(start, toY(v));
  // What stands is one line, from where it came to.
  let [standsAt, standsTo] = [toY(track.last[first]!), start];
  let stood = false as boolean;
  const goTo = (x: number, y: number): void => {
    if (y === standsAt) {
      standsTo = x;
      stood = true;
      return;
    }
    if (stood) line.lineTo(standsTo, standsAt);
    stood = false;
    line.lineTo(x, y);
    standsAt = y;
  };
  for (let i = first + 1; i <= last; i += perPx) {
    const end = Math.min(last, i + perPx - 1);
    let low = track.low[i]!;
    let high = track.high[i]!;
    for (let k = i + 1; k <= end; k++) {
      low = Math.min(low, track.low[k]!);
      high = Math.max(high, track.high[k]!);
    }
    const x = xOf(i);
    const before = track.last[i - 1]!;
    const after = track.last[end]!;
    // A column that turns nowhere goes to its last value; else falling first or rising first, as it is crossed.
    if (low >= Math.min(before, after) && high <= Math.max(before, after)) goTo(x, toY(after));
    else {
      goTo(x, toY(before >= after ? high : low));
      goTo(x, toY(before >= after ? low : high));
    }
  }
  if (stood) line.lineTo(standsTo, standsAt);
  return { start, end: xOf(last) };
}
