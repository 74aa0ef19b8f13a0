import { describe, expect, test } from "vitest";
import { AMP } from "@/core/patch/kinds/amp";
import { FILTER } from "@/core/patch/kinds/filter";
import { OSCILLATOR } from "@/core/patch/kinds/oscillator";
import type { Parameter } from "@/core/patch/row";
import type { Span } from "@/core/time/span";
import { RATE_RULES, TIME_RULES, parameterValue, spanNear, spanValue } from "./values";

const BASE = { tempoBpm: 120, meter: { beats: 4, unit: 4 } };

describe("a parameter under the hands", () => {
  const under = (row: Parameter, value: number) => {
    const set: number[] = [];
    return { hands: parameterValue(row, value, (v) => void set.push(v)), set };
  };
  test("steps, fine steps and pages are of its own unit; it stops at its ends", () => {
    const { hands, set } = under(AMP.rows.level, -6);
    hands.step(1, "step", "g");
    hands.step(-1, "fine", "g");
    hands.step(1, "page", "g");
    hands.setNorm(0, "g");
    expect(set).toEqual([-5, -6.1, 4, -60]);
  });
  test("a frequency steps by semitones", () => {
    const { hands, set } = under(FILTER.rows.cutoff, 440);
    hands.step(1, "step", "g");
    hands.step(1, "page", "g");
    expect(set[0]).toBeCloseTo(466.2, 1);
    expect(set[1]).toBeCloseTo(440 * 2 ** (10 / 12), 1);
  });
  test("whole numbers stay whole under a drag; typing and the default", () => {
    const { hands, set } = under(OSCILLATOR.rows.unison, 4);
    hands.setNorm(0.5, "g");
    expect(hands.type("7.6")).toBeNull();
    expect(hands.type("many")).toContain("whole number");
    hands.reset();
    expect(set).toEqual([9, 8, 1]);
  });
  test("two-way scales grow from their middle", () => {
    expect(under(AMP.rows.pan, -50).hands).toMatchObject({ origin: 0.5, norm: 0.25 });
    expect(under(OSCILLATOR.rows.width, 50).hands.origin).toBe(0);
  });
});

describe("a time under the hands", () => {
  const under = (span: Span, rules = RATE_RULES) => {
    const set: Span[] = [];
    return { hands: spanValue(span, BASE, rules, { unit: "ms", ms: 5 }, (s) => void set.push(s)), set };
  };
  test("note values step along the note values, ms and Hz along a log scale", () => {
    const note = under({ unit: "note", num: 1, den: 8 });
    note.hands.step(1, "step", "g");
    note.hands.step(-1, "step", "g");
    note.hands.step(1, "page", "g");
    expect(note.set).toEqual([
      { unit: "note", num: 1, den: 6 },
      { unit: "note", num: 3, den: 32 },
      { unit: "note", num: 1, den: 4 },
    ]);
    const ms = under({ unit: "ms", ms: 100 });
    ms.hands.step(1, "page", "g");
    expect(ms.set[0]).toEqual({ unit: "ms", ms: 317.5 });
    const hz = under({ unit: "hz", hz: 2 });
    hz.hands.step(-1, "step", "g");
    expect(hz.set[0]!.unit).toBe("hz");
  });
  test("what is typed decides the unit; Hz only where it makes sense", () => {
    const { hands, set } = under({ unit: "note", num: 1, den: 8 }, TIME_RULES);
    for (const text of ["250ms", "1/8 triplet", "1/8 dotted", "2 bars"]) expect(hands.type(text)).toBeNull();
    expect(hands.type("4 Hz")).toContain("note value");
    // In note values, a bare 1 is not a millisecond.
    expect(hands.type("1")).toContain("of what?");
    expect(set).toEqual([
      { unit: "ms", ms: 250 },
      { unit: "note", num: 1, den: 12 },
      { unit: "note", num: 3, den: 16 },
      { unit: "bars", bars: 2 },
    ]);
  });
  test("another unit keeps the length, as near as it can", () => {
    expect(spanNear({ unit: "note", num: 1, den: 4 }, 251, BASE, RATE_RULES)).toEqual({ unit: "note", num: 1, den: 8 });
    expect(spanNear({ unit: "hz", hz: 1 }, 250, BASE, RATE_RULES)).toEqual({ unit: "hz", hz: 4 });
    expect(spanNear({ unit: "ms", ms: 1 }, 99_999, BASE, RATE_RULES)).toEqual({ unit: "ms", ms: 60_000 });
    expect(spanNear({ unit: "ms", ms: 1 }, 0, BASE, TIME_RULES)).toEqual({ unit: "ms", ms: 0 });
  });
});
