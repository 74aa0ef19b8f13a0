import { describe, expect, test } from "vitest";
import { hitTest, middleOf, move, press, release, toPx, type CurveEdit, type Frame, type Keys } from "./curveDrag";

const FRAME: Frame = { left: 50, top: 10, width: 800, height: 200 };
const SNAPS = { x: 1 / 8, y: 1 / 12 };
const NONE: Keys = { ctrl: false, alt: false, shift: false };
const POINTS = [
  { x: 0, y: 0, tension: 0 },
  { x: 0.5, y: 1, tension: 40 },
  { x: 1, y: 0, tension: 0 },
];
const at = (x: number, y: number) => toPx(FRAME, x, y);
const drag = (
  from: { x: number; y: number },
  to: { x: number; y: number },
  keys = NONE,
  selection: ReadonlySet<number> = new Set(),
): CurveEdit => release(move(press(POINTS, selection, FRAME, from, keys, "g"), FRAME, to, keys, SNAPS), FRAME, SNAPS);

describe("hands on a curve", () => {
  test("a click on empty ground adds a snapped point", () => {
    const edit = release(press(POINTS, new Set(), FRAME, at(0.26, 0.3), NONE, "g"), FRAME, SNAPS);
    expect(edit.label).toBe("Add a point");
    expect(edit.points).toHaveLength(4);
    expect(edit.points[1]!.x).toBeCloseTo(0.25, 9);
    expect(edit.points[1]!.y).toBeCloseTo(4 / 12, 9);
    expect([...edit.selection]).toEqual([1]);
  });

  test("a drag goes both ways, with a magnet where it began; Ctrl holds the first axis moved", () => {
    const near = drag(at(0.5, 1), { x: at(0.5, 1).x + 5, y: at(0.5, 1).y + 60 });
    expect(near.points[1]).toMatchObject({ x: 0.5 });
    expect(near.points[1]!.y).toBeLessThan(0.8);
    const ctrl = { ...NONE, ctrl: true };
    const up = drag(at(0.5, 1), { x: at(0.5, 1).x + 30, y: at(0.5, 1).y + 60 }, ctrl);
    expect(up.points[1]).toMatchObject({ x: 0.5 });
    expect(up.points[1]!.y).toBeLessThan(0.8);
    const across = drag(at(0.5, 1), { x: at(0.5, 1).x + 100, y: at(0.5, 1).y + 60 }, ctrl);
    expect(across.points[1]).toMatchObject({ x: 0.625, y: 1 });
    const free = drag(at(0.5, 1), { x: at(0.5, 1).x + 100, y: at(0.5, 1).y + 60 });
    expect(free.points[1]!.x).toBe(0.625);
    expect(free.points[1]!.y).toBeLessThan(0.8);
  });

  test("values land on the unit's steps", () => {
    const edit = drag(at(0.5, 1), { x: at(0.5, 1).x, y: at(0.5, 1).y + 71 });
    expect((edit.points[1]!.y * 12) % 1).toBeCloseTo(0, 9);
  });

  test("the ends keep their place in time, and points do not pass each other", () => {
    const end = drag(at(0, 0), { x: at(0, 0).x + 200, y: at(0, 0).y });
    expect(end.points[0]!.x).toBe(0);
    const far = drag(at(0.5, 1), { x: at(0.5, 1).x + 9000, y: at(0.5, 1).y });
    expect(far.points[1]!.x).toBe(1);
  });

  test("the middle mark, or Alt, bends a segment under the hand", () => {
    const middle = middleOf(POINTS, 0)!;
    const from = at(middle.x, middle.y);
    expect(hitTest(POINTS, FRAME, from)).toEqual({ kind: "middle", index: 0 });
    const edit = drag(from, { x: from.x, y: from.y - 40 });
    expect(edit.points[0]!.tension).toBeGreaterThan(0);
    expect(middleOf(edit.points, 0)!.y).toBeCloseTo(middle.y + 0.2, 2);
    const alt = drag(at(0.8, 0.1), { x: at(0.8, 0.1).x, y: at(0.8, 0.1).y - 30 }, { ...NONE, alt: true });
    expect(alt.points[1]!.tension).not.toBe(40);
  });

  test("a frame drawn on empty ground selects, and adds nothing", () => {
    const edit = drag(at(0.4, 0.5), at(0.9, 0.98 + 0.05));
    expect(edit.points).toBe(POINTS);
    expect([...edit.selection]).toEqual([1]);
    const all = drag({ x: 0, y: 0 }, { x: 900, y: 300 });
    expect(all.selection.size).toBe(3);
  });

  test("a press without a move changes nothing", () => {
    const edit = release(press(POINTS, new Set(), FRAME, at(0.5, 1), NONE, "g"), FRAME, SNAPS);
    expect(edit.points).toBe(POINTS);
    expect([...edit.selection]).toEqual([1]);
  });
});
