import type { Note, Part, Song } from "@/core/patch/project";
import { loopTicks } from "@/core/pattern/events";
import { inScale } from "@/core/pitch/note";
import type { Surface } from "@/ui/useCanvas";
import { STRENGTHS, fillBoxes, paintGrid, strengthOf } from "../paint";
import { tickToX } from "../timeline";
import { rowTop, type Px, type RollView } from "./noteDrag";

/** Height of the lane of velocities under the notes, in pixels. */
export const VELOCITY_HEIGHT = 44;
/** How far apart the velocities of notes on one start stand, in pixels. */
const STEM_APART = 5;

export interface Stem {
  readonly note: Note;
  /** Pixels. */
  readonly x: number;
}

/** Where each note's velocity stands: side by side where notes start together. */
export function stemsOf(notes: readonly Note[], x: (tick: number) => number): Stem[] {
  const taken = new Map<number, number>();
  return [...notes]
    .sort((a, b) => a.startTick - b.startTick || a.key - b.key)
    .map((note) => {
      const before = taken.get(note.startTick) ?? 0;
      taken.set(note.startTick, before + 1);
      return { note, x: x(note.startTick) + STEM_APART * before };
    });
}

interface Roll {
  readonly notes: readonly Note[];
  readonly selected: ReadonlySet<string>;
  /** Other parts, whose notes are shown behind. */
  readonly others: readonly Part[];
  readonly song: Song;
  readonly frame: { readonly from: Px; readonly to: Px } | null;
}

type Box = [x: number, y: number, width: number, height: number];

const boxOf = (v: RollView, n: Note): Box => {
  const x = tickToX(v.timeline, n.startTick);
  const rowHeight = v.height / v.keys.length;
  return [
    x,
    rowTop(v, n.key) + 1,
    Math.max(4, tickToX(v.timeline, n.startTick + n.lengthTicks) - x - 1),
    rowHeight - 2,
  ];
};

const stemHeight = (n: Note): number => (n.velocity / 127) * (VELOCITY_HEIGHT - 8);

/** Rows, grid, the other parts' notes, and the notes that are not chosen. */
function paintStill(s: Surface, v: RollView, stems: readonly Stem[], others: readonly Part[], song: Song): void {
  const { g, palette } = s;
  const rowHeight = v.height / v.keys.length;
  for (const key of v.keys) {
    const y = rowTop(v, key);
    g.fillStyle = inScale(key, song.key) ? palette.sheet : palette.paper;
    g.fillRect(0, y, s.width, rowHeight);
    g.fillStyle = key % 12 === song.key.tonic ? palette.line : palette.line2;
    g.fillRect(0, y + rowHeight - 1, s.width, 1);
  }
  paintGrid(s, v.timeline, song.meter, loopTicks(song));
  g.strokeStyle = palette.ink2;
  g.lineWidth = 1;
  g.globalAlpha = 0.6;
  for (const part of others) for (const n of part.notes) if (v.keys.includes(n.key)) g.strokeRect(...boxOf(v, n));
  g.globalAlpha = 1;
  g.fillStyle = palette.ink2;
  g.fillRect(0, v.height, s.width, 1);
  // Notes of like strength are painted together.
  const plain = Array.from({ length: STRENGTHS }, (): number[] => []);
  const chancy: Stem[] = [];
  for (const stem of stems) {
    const { note: n, x } = stem;
    const box = boxOf(v, n);
    if (box[0] > s.width || box[0] + box[2] < 0) continue;
    if ((n.chance ?? 100) < 100) chancy.push(stem);
    else plain[strengthOf(n.velocity)]!.push(...box, x, s.height - stemHeight(n), 3, stemHeight(n));
  }
  g.fillStyle = palette.notes;
  plain.forEach((boxes, i) => {
    g.globalAlpha = 0.45 + (0.5 * (i + 0.5)) / STRENGTHS;
    fillBoxes(g, boxes);
  });
  for (const stem of chancy) paintNote(s, v, stem, false);
  g.globalAlpha = 1;
}

/** One note with its velocity: hollow by as much as chance may leave it out, framed where it is chosen. */
function paintNote(s: Surface, v: RollView, { note: n, x }: Stem, on: boolean): void {
  const { g, palette } = s;
  const box = boxOf(v, n);
  g.globalAlpha = on ? 1 : 0.45 + 0.5 * (n.velocity / 127);
  g.fillStyle = palette.notes;
  g.fillRect(...box);
  if (n.chance !== undefined && n.chance < 100) {
    g.fillStyle = palette.sheet;
    g.fillRect(box[0] + 1, box[1] + 1, Math.max(0, box[2] - 2), (box[3] - 2) * (1 - n.chance / 100));
  }
  if (on) {
    g.strokeStyle = palette.heard;
    g.lineWidth = 2;
    g.strokeRect(...box);
  }
  g.fillStyle = on ? palette.heard : palette.notes;
  g.fillRect(x, s.height - stemHeight(n), 3, stemHeight(n));
  g.globalAlpha = 1;
}

/** Fewer notes than this are painted as fast as a picture of them. */
const WORTH_A_PICTURE = 200;

/** What stands still while chosen notes are moved, as a picture, and what it was made of. */
export class StillPicture {
  private picture: OffscreenCanvas | null = null;
  private made: readonly unknown[] = [];
  private stems: readonly Stem[] = [];

  /** Paints what stands still: from the picture where nothing of it has changed. */
  paint(s: Surface, v: RollView, stems: readonly Stem[], others: readonly Part[], song: Song): void {
    if (stems.length < WORTH_A_PICTURE || typeof OffscreenCanvas === "undefined") return paintStill(s, v, stems, others, song);
    const ratio = s.g.getTransform().a;
    const { timeline } = v;
    const of = [s.width, s.height, ratio, s.palette, v.height, v.keys, timeline.fromTick, timeline.ticks, timeline.width, song.meter, song.key, song.loopBars, ...others.map((p) => p.notes)];
    const same = of.length === this.made.length && of.every((x, i) => x === this.made[i]) && stems.length === this.stems.length && stems.every((m, i) => m.note === this.stems[i]!.note && m.x === this.stems[i]!.x);
    if (!same || !this.picture) {
      this.made = of;
      this.stems = stems;
      this.picture = new OffscreenCanvas(Math.max(1, Math.round(s.width * ratio)), Math.max(1, Math.round(s.height * ratio)));
      const g = this.picture.getContext("2d")! as unknown as CanvasRenderingContext2D;
      g.setTransform(ratio, 0, 0, ratio, 0, 0);
      paintStill({ ...s, g }, v, stems, others, song);
    }
    s.g.drawImage(this.picture, 0, 0, s.width, s.height);
  }
} // prettier-ignore

/** Rows, grid, the other parts' notes, the notes with their velocities, and the frame that chooses. */
export function paintRoll(
  s: Surface,
  v: RollView,
  { notes, selected, others, song, frame }: Roll,
  still: StillPicture,
): void {
  const { g, palette } = s;
  const stems = stemsOf(notes, (tick) => tickToX(v.timeline, tick));
  still.paint(
    s,
    v,
    stems.filter((m) => !selected.has(m.note.id)),
    others,
    song,
  );
  for (const stem of stems) {
    if (!selected.has(stem.note.id)) continue;
    const box = boxOf(v, stem.note);
    if (box[0] <= s.width && box[0] + box[2] >= 0) paintNote(s, v, stem, true);
  }
  if (frame) {
    g.strokeStyle = palette.ink;
    g.lineWidth = 1;
    g.setLineDash([3, 3]);
    g.strokeRect(frame.from.x, frame.from.y, frame.to.x - frame.from.x, frame.to.y - frame.from.y);
    g.setLineDash([]);
  }
}
