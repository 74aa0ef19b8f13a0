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

/** Where each note's velocity stands, in pixels: side by side where notes start together. */
export function stemsOf(notes: readonly Note[], x: (tick: number) => number): { note: Note; x: number }[] {
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

/** Rows, grid, the other parts' notes, the notes with their velocities, and the frame that chooses. */
export function paintRoll(s: Surface, v: RollView, { notes, selected, others, song, frame }: Roll): void {
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
  const boxOf = (n: Note): [number, number, number, number] => {
    const x = tickToX(v.timeline, n.startTick);
    return [x, rowTop(v, n.key) + 1, Math.max(4, tickToX(v.timeline, n.startTick + n.lengthTicks) - x - 1), rowHeight - 2]; // prettier-ignore
  };
  g.strokeStyle = palette.ink2;
  g.lineWidth = 1;
  g.globalAlpha = 0.6;
  for (const part of others) for (const n of part.notes) if (v.keys.includes(n.key)) g.strokeRect(...boxOf(n));
  g.globalAlpha = 1;
  g.fillStyle = palette.ink2;
  g.fillRect(0, v.height, s.width, 1);
  // Notes of like strength are painted together: thousands of them are, while one is dragged.
  const plain = Array.from({ length: STRENGTHS }, (): number[] => []);
  const stemOf = (n: Note): number => (n.velocity / 127) * (VELOCITY_HEIGHT - 8);
  const single: { note: Note; x: number }[] = [];
  for (const stem of stemsOf(notes, (tick) => tickToX(v.timeline, tick))) {
    const { note: n, x } = stem;
    const box = boxOf(n);
    if (box[0] > s.width || box[0] + box[2] < 0) continue;
    if (selected.has(n.id) || (n.chance ?? 100) < 100) {
      single.push(stem);
      continue;
    }
    plain[strengthOf(n.velocity)]!.push(...box, x, s.height - stemOf(n), 3, stemOf(n));
  }
  g.fillStyle = palette.notes;
  plain.forEach((boxes, i) => {
    g.globalAlpha = 0.45 + (0.5 * (i + 0.5)) / STRENGTHS;
    fillBoxes(g, boxes);
  });
  for (const { note: n, x } of single) {
    const on = selected.has(n.id);
    const box = boxOf(n);
    g.globalAlpha = on ? 1 : 0.45 + 0.5 * (n.velocity / 127);
    g.fillStyle = palette.notes;
    g.fillRect(...box);
    if (n.chance !== undefined && n.chance < 100) {
      // What chance may leave out is hollow by as much.
      g.fillStyle = palette.sheet;
      g.fillRect(box[0] + 1, box[1] + 1, Math.max(0, box[2] - 2), (box[3] - 2) * (1 - n.chance / 100));
    }
    if (on) {
      g.strokeStyle = palette.heard;
      g.lineWidth = 2;
      g.strokeRect(...box);
    }
    const stem = stemOf(n);
    g.fillStyle = on ? palette.heard : palette.notes;
    g.fillRect(x, s.height - stem, 3, stem);
    g.globalAlpha = 1;
  }
  if (frame) {
    g.strokeStyle = palette.ink;
    g.lineWidth = 1;
    g.setLineDash([3, 3]);
    g.strokeRect(frame.from.x, frame.from.y, frame.to.x - frame.from.x, frame.to.y - frame.from.y);
    g.setLineDash([]);
  }
}
