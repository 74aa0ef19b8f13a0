import { describe, expect, test } from "vitest";
import type { Note } from "@/core/patch/project";
import { nearestInScale } from "@/core/pattern/noteTools";
import { keyAt, moveRoll, pressRoll, releaseRoll, rowTop, type Press, type RollRules, type RollView } from "./noteDrag"; // prettier-ignore
import { stemsOf } from "./notePaint";
import { rowsOf, scrolled, usedRows } from "./noteRows";

/** A bar on 640 pixels: a sixteenth is 40 wide, a row 20 high. */
const view: RollView = {
  timeline: { fromTick: 0, ticks: 3840, width: 640 },
  keys: Array.from({ length: 20 }, (_, i) => 48 + i),
  height: 400,
};
const notes: Note[] = [{ id: "a", startTick: 960, lengthTicks: 960, key: 60, velocity: 90 }];
const rules: RollRules = { snapTicks: 240, endTick: 3840, newId: () => "new", velocity: 77, lengthTicks: 480, allowed: (key) => key }; // prettier-ignore
const onNote = { x: 200, y: rowTop(view, 60) + 5 };
type Px = typeof onNote;
const drag = (from: Px, to: Px, { ctrl = false, ...press }: Partial<Press> & { ctrl?: boolean } = {}, own = rules, v = view) => {
  const pressed = pressRoll(notes, new Set(), v, from, { shift: false, alt: false, gesture: "g", ...press }, own.newId);
  return releaseRoll(moveRoll(pressed, v, to, ctrl, own), v, own);
}; // prettier-ignore
const times = (n: Note | undefined) => [n?.startTick, n?.lengthTicks, n?.key];

describe("hands on notes", () => {
  test("rows and keys agree", () => {
    for (let key = 48; key < 68; key++) expect(keyAt(view, rowTop(view, key) + 1)).toBe(key);
    expect([keyAt(view, -1), keyAt(view, 401)]).toEqual([68, 47]);
    const folded = { ...view, keys: [40, 60, 61] };
    for (const key of folded.keys) expect(keyAt(folded, rowTop(folded, key) + 1)).toBe(key);
    expect(rowTop(folded, 50)).toBeGreaterThanOrEqual(-400);
  });

  test("a drag moves by snaps both ways, with a magnet where it began; Ctrl holds the first axis moved", () => {
    const moved = (dx: number, dy: number, ctrl = false) => {
      const { startTick, key } = drag(onNote, { x: onNote.x + dx, y: onNote.y + dy }, { ctrl }).notes[0]!;
      return [startTick, key];
    };
    expect(moved(45, 45)).toEqual([1200, 58]);
    expect(moved(45, 6)).toEqual([1200, 60]);
    expect(moved(6, 45)).toEqual([960, 58]);
    expect(moved(45, 40, true)).toEqual([1200, 60]);
    expect(moved(40, 45, true)).toEqual([960, 58]);
  });

  test("its end stretches it; a click adds one of the last length; Shift and a frame choose", () => {
    const end = { x: 318, y: onNote.y };
    expect(drag(end, { x: end.x + 80, y: end.y }).notes[0]).toMatchObject({ startTick: 960, lengthTicks: 1440 });
    const added = drag({ x: 500, y: 100 }, { x: 503, y: 104 });
    expect(added.notes[1]).toEqual({
      id: "new",
      startTick: 2880,
      lengthTicks: 480,
      key: keyAt(view, 100),
      velocity: 77,
    });
    expect([...drag({ x: 10, y: 5 }, { x: 300, y: 395 }, { shift: true }).selected]).toEqual(["a"]);
    expect([...drag({ x: 10, y: 5 }, { x: 130, y: 395 }, { shift: true }).selected]).toEqual([]);
  });

  test("a drag on empty ground draws a note with its length, to either side", () => {
    expect(times(drag({ x: 410, y: 100 }, { x: 500, y: 140 }).notes[1])).toEqual([2400, 720, keyAt(view, 100)]);
    expect(times(drag({ x: 410, y: 100 }, { x: 330, y: 100 }).notes[1])).toEqual([1920, 720, keyAt(view, 100)]);
    expect(times(drag({ x: 630, y: 100 }, { x: 900, y: 100 }).notes[1])).toEqual([3600, 240, keyAt(view, 100)]);
    const inC = { ...rules, allowed: (key: number) => nearestInScale(key, { tonic: 0, scale: "major" }) };
    expect(drag({ x: 410, y: rowTop(view, 61) + 5 }, { x: 500, y: 100 }, {}, inC).notes[1]!.key).toBe(60);
  });

  test("with Alt what is chosen is copied; copies that were not moved are none", () => {
    const copied = drag(onNote, { x: onNote.x + 80, y: onNote.y }, { alt: true });
    expect(copied.notes.map(times)).toEqual([[960, 960, 60], [1440, 960, 60]]); // prettier-ignore
    expect([...copied.selected]).toEqual(["new"]);
    const still = drag(onNote, onNote, { alt: true });
    expect(still.notes).toBe(notes);
    expect([...still.selected]).toEqual([]);
  });

  test("notes go from used row to used row where only those are shown", () => {
    const folded = { ...view, keys: [40, 60, 75] };
    const from = { x: 200, y: rowTop(folded, 60) + 5 };
    expect(drag(from, { x: 200, y: rowTop(folded, 75) + 5 }, {}, rules, folded).notes[0]!.key).toBe(75);
  });
});

test("rows show notes with room, scroll within MIDI's keys, or fold to those that are used", () => {
  expect(rowsOf([])).toHaveLength(22);
  expect(rowsOf(notes)).toContain(60);
  expect(scrolled(rowsOf(notes), 500).at(-1)).toBe(127);
  expect(scrolled(rowsOf(notes), -500)[0]).toBe(0);
  expect(usedRows([])).toBeNull();
  expect(usedRows([notes[0]!, { ...notes[0]!, key: 48 }, { ...notes[0]!, key: 60 }])).toEqual([48, 60]);
});

test("velocities of notes on one start stand side by side", () => {
  const chord = [0, 4, 7].map((k) => ({ ...notes[0]!, id: `c${k}`, key: 60 + k }));
  expect(stemsOf(chord, (tick) => tick / 10).map((s) => [s.note.key, s.x])).toEqual([[60, 96], [64, 101], [67, 106]]); // prettier-ignore
});
