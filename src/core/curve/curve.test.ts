import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { evenly, evenlyByOctaves } from "../../../tests/support/evenly";
import { arbitraryPoints } from "../../../tests/support/arbitraryProject";
import { runs } from "../../../tests/support/runs";
import { farthest } from "../../../tests/support/same";
import { newSilent, newVibrato } from "../patch/defaults";
import { bend, bendScale, tensionExponent } from "./bend";
import { MAX_POINTS, compileCurve, curveAt } from "./curve";
import { addPoint, copyPoints, movePoints, pastePoints, removePoints, setTension } from "./edit";
import { compileEnvelope, envelopeAt, nextTurn } from "./envelope";
import { roundMarks } from "./roundMarks";

describe("bends", () => {
  test.each([-100, -37, 0, 1e-9, 50, 100])("tension %d runs from 0 to 1 and never turns back", (tension) => {
    const k = tensionExponent(tension);
    const s = bendScale(k);
    expect(bend(0, k, s)).toBeCloseTo(0, 15);
    expect(bend(1, k, s)).toBeCloseTo(1, 12);
    for (let i = 1; i <= 100; i++) expect(bend(i / 100, k, s)).toBeGreaterThan(bend((i - 1) / 100, k, s));
  });
  test("positive starts fast, negative is its mirror", () => {
    const at = (tension: number, t: number): number =>
      bend(t, tensionExponent(tension), bendScale(tensionExponent(tension)));
    expect(at(60, 0.5)).toBeGreaterThan(0.5);
    for (const t of [0.1, 0.4, 0.8]) expect(at(60, t)).toBeCloseTo(1 - at(-60, 1 - t), 12);
  });
});

describe("curves", () => {
  test("pass through their points; the later one counts at a step", () => {
    const curve = compileCurve([
      { x: 0, y: 0.2, tension: 30 },
      { x: 0.5, y: 1, tension: 0 },
      { x: 0.5, y: 0.1, tension: 0 },
      { x: 1, y: 0.6, tension: 0 },
    ]);
    expect(curveAt(curve, 0)).toBe(0.2);
    expect(curveAt(curve, 0.5)).toBe(0.1);
    expect(curveAt(curve, 0.75)).toBeCloseTo(0.35, 12);
    expect(curveAt(curve, 1)).toBe(0.6);
  });

  test("stay between the lowest and the highest point", () => {
    fc.assert(
      fc.property(arbitraryPoints, evenly(0, 1), (points, x) => {
        const y = curveAt(compileCurve(points), x);
        expect(y).toBeGreaterThanOrEqual(Math.min(...points.map((p) => p.y)) - 1e-12);
        expect(y).toBeLessThanOrEqual(Math.max(...points.map((p) => p.y)) + 1e-12);
      }),
    );
  });

  test("edits keep order and ends, and change nothing when there is nothing to change", () => {
    fc.assert(
      fc.property(arbitraryPoints, fc.nat(9), evenly(-2, 2), evenly(-2, 2), (points, i, dx, dy) => {
        const moved = movePoints(points, new Set([i, i + 1]), dx, dy);
        expect(moved[0]!.x).toBe(0);
        expect(moved.at(-1)!.x).toBe(1);
        moved.forEach((p, k) => expect(p.x).toBeGreaterThanOrEqual(moved[k - 1]?.x ?? 0));
        expect(movePoints(points, new Set([i]), 0, 0)).toBe(points);
        const added = addPoint(points, dx, dy)!;
        expect(added.points).toHaveLength(points.length + 1);
        added.points.forEach((p, k) => expect(p.x).toBeGreaterThanOrEqual(added.points[k - 1]?.x ?? 0));
        const removed = removePoints(points, new Set(points.keys()));
        expect(removed).toEqual([points[0], points.at(-1)]);
        expect(setTension(points, i, points[i]?.tension ?? 0)).toBe(points);
      }),
    );
  });

  test("points that are moved together stop together: at the ends, and at the first that stays", () => {
    const at = (x: number) => ({ x, y: 0.5, tension: 0 });
    const points = [0, 0.2, 0.4, 0.6, 1].map(at);
    const xs = (chosen: number[], dx: number): number[] => movePoints(points, new Set(chosen), dx, 0).map((p) => Number(p.x.toFixed(9))); // prettier-ignore
    expect(xs([2, 3], 0.3)).toEqual([0, 0.2, 0.7, 0.9, 1]);
    expect(xs([2, 3], 0.9)).toEqual([0, 0.2, 0.8, 1, 1]);
    expect(xs([2, 3], -0.9)).toEqual([0, 0.2, 0.2, 0.4, 1]);
    expect(xs([1, 2], -0.9)).toEqual([0, 0, 0.2, 0.6, 1]);
    expect(xs([1, 2], 0.9)).toEqual([0, 0.4, 0.6, 0.6, 1]);
    expect(xs([1, 2, 3], 0.9)).toEqual([0, 0.6, 0.8, 1, 1]);
  });

  test("what vibratos go along is a sine, within 2.2 % of its height, from the middle up", () => {
    for (const { data } of [newVibrato("v", "V"), newSilent("s", "S")]) {
      const curve = compileCurve(data.points);
      const places = Array.from({ length: 1000 }, (_, i) => i / 999);
      const sine = places.map((x) => 0.5 + 0.5 * Math.sin(2 * Math.PI * x));
      expect(
        farthest(
          places.map((x) => curveAt(curve, x)),
          sine,
        ),
      ).toBeLessThan(0.022);
    }
  });

  test("copied points come in between the others where they are put, and what has no room is left out", () => {
    const at = (x: number, y: number) => ({ x, y, tension: 0 });
    const points = [at(0, 0), at(0.25, 1), at(0.5, 0.4), at(0.625, 0.8), at(1, 0)];
    const copied = copyPoints(points, new Set([1, 2]));
    expect(copied).toEqual([at(0, 1), at(0.25, 0.4)]);
    const middle = pastePoints(points, copied, 0.375)!;
    expect(middle.points.map((p) => [p.x, p.y])).toEqual([[0, 0], [0.25, 1], [0.375, 1], [0.5, 0.4], [0.625, 0.8], [0.625, 0.4], [1, 0]]); // prettier-ignore
    expect([...middle.indices]).toEqual([2, 5]);
    // The second one would lie behind the end; the first and the last point stay the ends.
    expect(pastePoints(points, copied, 0.875)!.points.map((p) => p.x)).toEqual([0, 0.25, 0.5, 0.625, 0.875, 1]);
    expect(pastePoints(points, copied, 1)!.points.map((p) => p.y)).toEqual([0, 1, 0.4, 0.8, 1, 0]);
    expect(pastePoints(points, copied, 0)!.points.map((p) => p.y)).toEqual([0, 1, 1, 0.4, 0.4, 0.8, 0]);
    expect(pastePoints(points, copied, 1.5)).toBeNull();
    expect(copyPoints(points, new Set())).toEqual([]);
    const full = Array.from({ length: MAX_POINTS - 1 }, (_, i) => at(i / (MAX_POINTS - 2), 0));
    expect(pastePoints(full, copied, 0.5)!.points).toHaveLength(MAX_POINTS);
  });

  test("points that lie on each other stay in order where they are stopped by the next one", () => {
    const at = (v: number) => ({ x: v, y: 0.5, tension: 0 });
    const wrong = Array.from({ length: 2000 }, (_, k) => [k / 7919, 0.6 + k / 6007] as const).filter(([x, next]) => {
      const moved = movePoints([at(0), at(x), at(x), at(next), at(1)], new Set([1, 2]), 1, 0);
      return Math.abs(moved[1]!.x - next) > 1e-12 || moved.some((p, i) => p.x < (moved[i - 1]?.x ?? 0));
    });
    expect(wrong).toEqual([]);
  });

  test("chosen points move together, as far as the first of them may", () => {
    const at = (x: number) => ({ x, y: 0.5, tension: 0 });
    const places = (dx: number): number[] => movePoints([0, 0.25, 0.375, 0.75, 1].map(at), new Set([1, 2]), dx, 0).map((p) => p.x); // prettier-ignore
    expect(places(-0.5)).toEqual([0, 0, 0.125, 0.75, 1]);
    expect(places(0.5)).toEqual([0, 0.625, 0.75, 0.75, 1]);
    expect(places(0.25)).toEqual([0, 0.5, 0.625, 0.75, 1]);
    const three = movePoints([0, 0.25, 0.5, 0.75, 1].map(at), new Set([1, 2, 3]), 1, 0);
    expect(three.map((p) => p.x)).toEqual([0, 0.5, 0.75, 1, 1]);
  });

  test("the last point bends nothing; tension stays between -100 and 100 %", () => {
    const points = [0, 0.5, 1].map((x) => ({ x, y: x, tension: 0 }));
    for (const index of [2, 3, 9]) expect(setTension(points, index, 30)).toBe(points);
    expect([-500, 500].map((t) => setTension(points, 1, t)[1]!.tension)).toEqual([-100, 100]);
  });

  test("no more than 128 points", () => {
    const full = Array.from({ length: 128 }, (_, i) => ({ x: i / 127, y: 0, tension: 0 }));
    expect(addPoint(full, 0.5, 0.5)).toBeNull();
  });
});

describe("envelopes", () => {
  const e = compileEnvelope({
    attackSec: 0.1,
    decaySec: 0.2,
    sustain: 0.4,
    releaseSec: 0.5,
    attackCurve: 0,
    decayCurve: 60,
    releaseCurve: 60,
  });
  test("rises, falls to sustain, holds, and is silent a release after the key was let go", () => {
    expect(envelopeAt(e, 0, Infinity)).toBe(0);
    expect(envelopeAt(e, 0.05, Infinity)).toBeCloseTo(0.5, 12);
    expect(envelopeAt(e, 0.1, Infinity)).toBe(1);
    expect(envelopeAt(e, 0.3, Infinity)).toBeCloseTo(0.4, 12);
    expect(envelopeAt(e, 9, Infinity)).toBe(0.4);
    expect(envelopeAt(e, 1.5, 1)).toBe(0);
  });
  test("released early, it falls from where it was, without a jump", () => {
    const at = envelopeAt(e, 0.05 - 1e-9, 0.05);
    expect(envelopeAt(e, 0.05, 0.05)).toBeCloseTo(at, 6);
    expect(envelopeAt(e, 0.1, 0.05)).toBeLessThan(at);
  });
});

test("round marks are 1, 2 or 5 times a power of ten, within the range, and never fewer than two", () => {
  expect(roundMarks(20, 20_000, true)).toEqual([20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000]);
  // A cutoff that stands near 300 Hz.
  expect(roundMarks(280, 320, true)).toEqual([280, 290, 300, 310, 320]);
  expect(roundMarks(-0.2, 0.2, false)).toEqual([-0.2, -0.1, 0, 0.1, 0.2]);
  expect(roundMarks(0, 12, false)).toEqual([0, 5, 10]);
  expect(roundMarks(20, 10_000, true).slice(-2)).toEqual([5000, 10_000]);
  expect(roundMarks(0.3, 1.3, false)).toEqual([0.5, 1]);
  expect(roundMarks(0, 70, false)).toEqual([0, 20, 40, 60]);
  expect(roundMarks(3, 7, true)).toEqual([3, 4, 5, 6, 7]);
  expect(roundMarks(5, 5, false)).toEqual([]);
  expect(roundMarks(0, 0.4, false)).toEqual([0, 0.1, 0.2, 0.3, 0.4]);
  expect([roundMarks(3, 12, true), roundMarks(15, 60, true), roundMarks(15, 60, false)]).toEqual([[5, 10], [20, 50], [20, 40, 60]]); // prettier-ignore
  // A step of 5 would leave one: the next one finer.
  expect(roundMarks(1, 9.04, false)).toEqual([2, 4, 6, 8]);
  fc.assert(
    fc.property(evenlyByOctaves(1e-3, 1e5), evenlyByOctaves(1.0001, 1000), fc.boolean(), (low, ratio, log) => {
      const marks = roundMarks(low, low * ratio, log);
      expect(marks.length).toBeGreaterThanOrEqual(2);
      expect(marks.length).toBeLessThan(40);
      expect(
        marks.every((m, i) => m >= low * (1 - 1e-9) && m <= low * ratio * (1 + 1e-9) && (i === 0 || m > marks[i - 1]!)),
      ).toBe(true);
    }),
    runs(100),
  );
});

describe("envelopes that wait, hold and loop", () => {
  const stages = { delaySec: 0.1, attackSec: 0.2, holdSec: 0.05, decaySec: 0.25, sustain: 0.4, releaseSec: 0.3, attackCurve: 0, decayCurve: 0, releaseCurve: 0 } as const; // prettier-ignore
  const plain = compileEnvelope(stages);

  test("nothing before the delay is over, full while it holds", () => {
    expect(envelopeAt(plain, 0.0999, Infinity)).toBe(0);
    expect(envelopeAt(plain, 0.2, Infinity)).toBeCloseTo(0.5, 9);
    expect(envelopeAt(plain, 0.3, Infinity)).toBeCloseTo(1, 9);
    expect(envelopeAt(plain, 0.349, Infinity)).toBe(1);
    expect(envelopeAt(plain, 0.475, Infinity)).toBeCloseTo(0.7, 9);
    expect(envelopeAt(plain, 0.601, Infinity)).toBe(0.4);
    // Let go before it began: it stays silent.
    expect(envelopeAt(plain, 0.08, 0.05)).toBe(0);
  });

  test("a decay that loops: full again after each, in the same time to the last cycle; jumps take a millisecond", () => {
    const loop = compileEnvelope({ ...stages, loop: "decay" });
    const start = 0.35;
    for (const cycle of [0, 1, 7, 1000]) {
      const at = (sec: number): number => envelopeAt(loop, start + cycle * 0.25 + sec, Infinity);
      expect(at(0.0001)).toBeCloseTo(1 - 0.6 * (0.0001 / 0.25), 4);
      expect(at(0.125)).toBeCloseTo(0.7, 6);
      expect(at(0.2489)).toBeCloseTo(1 - 0.6 * (0.2489 / 0.25), 4);
      // Half-way back: between what the line had come down to and full.
      expect(at(0.2495)).toBeCloseTo((1 + (1 - 0.6 * (0.2495 / 0.25))) / 2, 3);
    }
    // A short one takes a tenth of itself for the way back.
    const short = compileEnvelope({ ...stages, decaySec: 0.004, loop: "decay" });
    const line = (sec: number): number => 1 - 0.6 * (sec / 0.004);
    const found = [0.0035, 0.0036, 0.0037, 0.0039].map((sec) => envelopeAt(short, start + 0.004 + sec, Infinity));
    const back = [0, 0, 0.25, 0.75].map((share, i) => line([0.0035, 0.0036, 0.0037, 0.0039][i]!) * (1 - share) + share);
    expect(farthest(found, back)).toBeLessThan(1e-9);
    // Full again right where a decay ends.
    const exact = compileEnvelope({
      ...stages,
      delaySec: 0,
      attackSec: 0.25,
      holdSec: 0,
      decaySec: 0.5,
      loop: "decay",
    });
    expect([0.25, 0.75, 1.25].map((sec) => envelopeAt(exact, sec, Infinity))).toEqual([1, 1, 1]);
    expect(envelopeAt(loop, 1.05, 1)).toBeCloseTo(envelopeAt(loop, 0.99999, Infinity) * (1 - 0.05 / 0.3), 3);
  });

  test("all of it loops: later attacks set out from the sustain", () => {
    const loop = compileEnvelope({ ...stages, loop: "all" });
    for (const cycle of [1, 5]) {
      const at = (sec: number): number => envelopeAt(loop, 0.1 + cycle * 0.5 + sec, Infinity);
      expect(at(1e-9)).toBeCloseTo(0.4, 6);
      expect(at(0.1)).toBeCloseTo(0.7, 9);
      expect(at(0.22)).toBe(1);
      expect(at(0.375)).toBeCloseTo(0.7, 9);
    }
  });

  test("a loop shorter than a millisecond is none: it stands on its sustain, without corners", () => {
    for (const loop of ["decay", "all"] as const)
      for (const decaySec of [0, 1e-300, 0.0005]) {
        const e = compileEnvelope({ ...stages, attackSec: 0, holdSec: 0, decaySec, loop });
        expect(envelopeAt(e, 3, Infinity)).toBe(0.4);
        expect(nextTurn(e, 3)).toBe(Infinity);
      }
  });

  test("corners come in order and are those of the stages", () => {
    const turns = (e: ReturnType<typeof compileEnvelope>, count: number): number[] => {
      const found: number[] = [];
      for (let t = -1; found.length < count;) {
        t = nextTurn(e, t);
        found.push(Math.round(t * 1000) / 1000);
        if (t === Infinity) break;
      }
      return found;
    };
    expect(turns(plain, 6)).toEqual([0.1, 0.3, 0.35, 0.6, Infinity]);
    expect(turns(compileEnvelope({ ...stages, loop: "decay" }), 6)).toEqual([0.1, 0.3, 0.35, 0.6, 0.85, 1.1]);
    expect(turns(compileEnvelope({ ...stages, loop: "all" }), 8)).toEqual([0.1, 0.3, 0.35, 0.6, 0.8, 0.85, 1.1, 1.3]);
    // From anywhere in a later round, and a hair before and after a corner.
    const all = compileEnvelope({ ...stages, loop: "all" });
    const eps = 1e-6;
    expect([0.7, 0.82, 0.9, 1.1 - eps, 1.1 + eps, 1.3 + eps, 1.35 + eps].map((t) => Number(nextTurn(all, t).toFixed(6)))).toEqual([0.8, 0.85, 1.1, 1.1, 1.3, 1.35, 1.6]); // prettier-ignore
  });
});
