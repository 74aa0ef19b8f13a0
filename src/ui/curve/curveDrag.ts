import { bendScale, bend, tensionExponent } from "@/core/curve/bend";
import { compileCurve, curveAt, type CurvePoint } from "@/core/curve/curve";
import { addPoint, movePoints, setTension, snapTo } from "@/core/curve/edit";

/** Where a curve is drawn, in pixels. */
export interface Frame {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}

export interface Px {
  readonly x: number;
  readonly y: number;
}

export interface Keys {
  readonly ctrl: boolean;
  readonly alt: boolean;
  readonly shift: boolean;
}

/** Snaps as fractions of the cycle and of the value range; 0 is none. */
export interface Snaps {
  readonly x: number;
  readonly y: number;
}

export type Points = readonly CurvePoint[];
export type Selection = ReadonlySet<number>;

type CurveDrag =
  | { readonly kind: "idle" }
  /** Pressed on empty ground: a click adds a point, a drag draws a marquee. */
  | {
      readonly kind: "ground";
      readonly start: Px;
      readonly to: Px;
      readonly marquee: boolean;
      readonly gesture: string;
    }
  | {
      readonly kind: "move";
      readonly start: Px;
      readonly grabbed: number;
      readonly origin: Points;
      readonly axis: "x" | "y" | null;
      readonly gesture: string;
    }
  | {
      readonly kind: "bend";
      readonly start: Px;
      readonly segment: number;
      readonly origin: Points;
      readonly gesture: string;
    };

export interface CurveEdit {
  readonly drag: CurveDrag;
  readonly points: Points;
  readonly selection: Selection;
  /** What was done, for the history; null when the points are as they were. */
  readonly label: string | null;
}

/** Pixels within which a point or a middle mark is hit. */
const REACH = 9;
/** A press that moved less is still a click. */
const CLICK = 3;
/** The row and the column in which a drag began hold what is dragged within this many pixels. */
export const MAGNET = 6;

export const toPx = (f: Frame, x: number, y: number): Px => ({
  x: f.left + x * f.width,
  y: f.top + (1 - y) * f.height,
});
export const fromPx = (f: Frame, p: Px): { x: number; y: number } => ({
  x: Math.min(1, Math.max(0, (p.x - f.left) / f.width)),
  y: Math.min(1, Math.max(0, 1 - (p.y - f.top) / f.height)),
});

/** The place of a segment's middle mark; null for steps and flat segments, which nothing bends. */
export function middleOf(points: Points, segment: number): { x: number; y: number } | null {
  const a = points[segment];
  const b = points[segment + 1];
  if (!a || !b || b.x <= a.x || a.y === b.y) return null;
  const k = tensionExponent(a.tension);
  return { x: (a.x + b.x) / 2, y: a.y + (b.y - a.y) * bend(0.5, k, bendScale(k)) };
}

export type Hit = { readonly kind: "point" | "middle"; readonly index: number } | { readonly kind: "ground" };

const near = (a: Px, b: Px): boolean => Math.hypot(a.x - b.x, a.y - b.y) <= REACH;

/** What lies under a pixel: points before middle marks. */
export function hitTest(points: Points, f: Frame, at: Px): Hit {
  for (let i = points.length - 1; i >= 0; i--)
    if (near(toPx(f, points[i]!.x, points[i]!.y), at)) return { kind: "point", index: i };
  for (let i = 0; i + 1 < points.length; i++) {
    const middle = middleOf(points, i);
    if (middle && near(toPx(f, middle.x, middle.y), at)) return { kind: "middle", index: i };
  }
  return { kind: "ground" };
}

/** The segment that a phase lies in. */
const segmentAt = (points: Points, x: number): number =>
  Math.max(
    0,
    points.findLastIndex((p, i) => p.x <= x && i < points.length - 1),
  );

export function press(points: Points, selection: Selection, f: Frame, at: Px, keys: Keys, gesture: string): CurveEdit {
  const hit = hitTest(points, f, at);
  const same = { points, selection, label: null };
  if (hit.kind === "middle" || keys.alt) {
    const segment = hit.kind === "ground" ? segmentAt(points, fromPx(f, at).x) : hit.index;
    return { ...same, drag: { kind: "bend", start: at, segment, origin: points, gesture } };
  }
  if (hit.kind === "point") {
    const toggled = new Set(selection);
    if (keys.shift) {
      if (!toggled.delete(hit.index)) toggled.add(hit.index);
    }
    const next: Selection = keys.shift ? toggled : selection.has(hit.index) ? selection : new Set([hit.index]);
    return {
      ...same,
      selection: next,
      drag: { kind: "move", start: at, grabbed: hit.index, origin: points, axis: null, gesture },
    };
  }
  return { ...same, drag: { kind: "ground", start: at, to: at, marquee: false, gesture } };
}

export function move(edit: CurveEdit, f: Frame, at: Px, keys: Keys, snaps: Snaps): CurveEdit {
  const { drag } = edit;
  switch (drag.kind) {
    case "idle":
      return edit;
    case "ground": {
      const marquee = drag.marquee || Math.hypot(at.x - drag.start.x, at.y - drag.start.y) > CLICK;
      const selection = marquee ? within(edit.points, f, drag.start, at) : edit.selection;
      return { ...edit, selection, label: null, drag: { ...drag, to: at, marquee } };
    }
    case "bend":
      return { ...edit, points: bendTo(drag.origin, drag.segment, f, drag.start, at), label: "Bend a segment" };
    case "move": {
      const dx = at.x - drag.start.x;
      const dy = at.y - drag.start.y;
      if (drag.axis === null && Math.hypot(dx, dy) <= CLICK) return edit;
      const axis = drag.axis ?? (Math.abs(dx) > Math.abs(dy) ? "x" : "y");
      const grabbed = drag.origin[drag.grabbed]!;
      const wanted = { x: grabbed.x + dx / f.width, y: grabbed.y - dy / f.height };
      const useX = keys.ctrl ? axis === "x" : Math.abs(dx) > MAGNET;
      const useY = keys.ctrl ? axis === "y" : Math.abs(dy) > MAGNET;
      const shiftX = useX ? snapTo(wanted.x, snaps.x) - grabbed.x : 0;
      const shiftY = useY ? snapTo(wanted.y, snaps.y) - grabbed.y : 0;
      const points = movePoints(drag.origin, edit.selection, shiftX, shiftY);
      return {
        ...edit,
        points,
        label: edit.selection.size > 1 ? "Move points" : "Move a point",
        drag: { ...drag, axis },
      };
    }
  }
}

export function release(edit: CurveEdit, f: Frame, snaps: Snaps): CurveEdit {
  const { drag } = edit;
  const done: CurveEdit = { ...edit, drag: { kind: "idle" }, label: null };
  if (drag.kind !== "ground" || drag.marquee) return done;
  const at = fromPx(f, drag.start);
  const added = addPoint(edit.points, snapTo(at.x, snaps.x), snapTo(at.y, snaps.y));
  if (!added) return done;
  return { ...done, points: added.points, selection: new Set([added.index]), label: "Add a point" };
}

function within(points: Points, f: Frame, a: Px, b: Px): Selection {
  const inside = (p: Px): boolean =>
    p.x >= Math.min(a.x, b.x) && p.x <= Math.max(a.x, b.x) && p.y >= Math.min(a.y, b.y) && p.y <= Math.max(a.y, b.y);
  return new Set(points.flatMap((p, i) => (inside(toPx(f, p.x, p.y)) ? [i] : [])));
}

/** Bends a segment so that its middle follows the pointer up and down. */
function bendTo(origin: Points, segment: number, f: Frame, start: Px, at: Px): Points {
  const middle = middleOf(origin, segment);
  const a = origin[segment];
  const b = origin[segment + 1];
  if (!middle || !a || !b) return origin;
  const wanted = middle.y - (at.y - start.y) / f.height;
  const part = Math.min(0.982, Math.max(0.018, (wanted - a.y) / (b.y - a.y)));
  // bend(1/2) = 1 / (1 + e^(-k/2)), solved for k.
  const k = 2 * Math.log(part / (1 - part));
  return setTension(origin, segment, Math.round((k / tensionExponent(100)) * 100));
}

/** The curve as an SVG path. */
export function curvePath(points: Points, f: Frame, steps = 200): string {
  const compiled = compileCurve(points);
  const parts: string[] = [];
  points.forEach((p, i) => {
    const at = toPx(f, p.x, p.y);
    parts.push(`${i === 0 ? "M" : "L"}${at.x.toFixed(1)} ${at.y.toFixed(1)}`);
    const next = points[i + 1];
    if (!next || next.x <= p.x || p.tension === 0) return;
    const count = Math.max(2, Math.ceil((next.x - p.x) * steps));
    for (let k = 1; k < count; k++) {
      const x = p.x + ((next.x - p.x) * k) / count;
      const px = toPx(f, x, curveAt(compiled, x));
      parts.push(`L${px.x.toFixed(1)} ${px.y.toFixed(1)}`);
    }
  });
  return parts.join("");
}
