import { describe, expect, test } from "vitest";
import { barTicks, formatPosition, parsePosition, stepTicks } from "./meter";
import { NOTE_VALUES, noteValueName, noteValueTicks, parseNoteValue, TICKS_PER_WHOLE } from "./noteValue";
import { repeatReport } from "./repeat";
import { SYNCED_SPANS, formatSpan, parseSpan, spanMs, spanTicks, type Span } from "./span";
import { straightTick, swingTick } from "./swing";

const base = { tempoBpm: 120, meter: { beats: 4, unit: 4 } };

describe("note values", () => {
  test("every offered value is a whole number of ticks", () => {
    for (const v of NOTE_VALUES) expect((v.num * TICKS_PER_WHOLE) % v.den).toBe(0);
    expect(NOTE_VALUES).toHaveLength(21);
  });

  test("a length is stepped from the shortest note value to the longest, then over whole bars", () => {
    const ticks = SYNCED_SPANS.map((span) => spanTicks(span, base));
    expect(ticks).toEqual(ticks.toSorted((a, b) => a - b));
    expect(SYNCED_SPANS.slice(-10).map((span) => formatSpan(span))).toEqual(["1/1D", ..."2 3 4 6 8 12 16 24 32".split(" ").map((n) => `${n} bars`)]); // prettier-ignore
  });

  test("names are read back", () => {
    for (const v of NOTE_VALUES) expect(parseNoteValue(noteValueName(v))).toEqual(v);
    expect(noteValueName({ num: 3, den: 16 })).toBe("1/8D");
    expect(noteValueName({ num: 1, den: 12 })).toBe("1/8T");
    expect(["96/5", "5/192"].map(parseNoteValue)).toEqual([{ num: 96, den: 5 }, { num: 5, den: 192 }]); // prettier-ignore
    expect(["1/96", "32/1", "1/64T"].map(parseNoteValue)).toEqual([{ num: 1, den: 96 }, { num: 32, den: 1 }, { num: 1, den: 96 }]); // prettier-ignore
    for (const bad of [
      "",
      "1/64.5",
      "1/97",
      "97/5",
      "1/0",
      "0/4",
      "x",
      "1/8X",
      "99/1",
      "33/1",
      "1/97",
      "97/100",
      "5/193",
    ])
      expect(parseNoteValue(bad)).toBeNull();
  });

  // Definition of beats per minute, and of dotted (3/2) and triplet (2/3) values.
  test.each([20, 90, 122, 138.5, 400])("times at %d BPM", (tempoBpm) => {
    const ms = (name: string): number => spanMs({ unit: "note", ...parseNoteValue(name)! }, { ...base, tempoBpm });
    expect(ms("1/4")).toBeCloseTo(60_000 / tempoBpm, 9);
    expect(ms("1/8")).toBeCloseTo(30_000 / tempoBpm, 9);
    expect(ms("1/4D")).toBeCloseTo((60_000 / tempoBpm) * 1.5, 9);
    expect(ms("1/4T")).toBeCloseTo((60_000 / tempoBpm) * (2 / 3), 9);
    expect(spanMs({ unit: "bars", bars: 2 }, { ...base, tempoBpm })).toBeCloseTo((8 * 60_000) / tempoBpm, 9);
  });

  test("sixteen sixteenths are one bar of 4/4", () => {
    expect(16 * noteValueTicks({ num: 1, den: 16 })).toBe(barTicks(base.meter));
  });
});

test("spans are read as they are written", () => {
  for (const text of ["12.5 ms", "1.2 s", "4 Hz", "1/8T", "2 bars", "1 bar"])
    expect(formatSpan(parseSpan(text)!)).toBe(text);
  const spans: [Span, string][] = [
    [{ unit: "ms", ms: 9.994 }, "9.99 ms"],
    [{ unit: "ms", ms: 12.34 }, "12.3 ms"],
    [{ unit: "ms", ms: 1000 }, "1 s"],
    [{ unit: "ms", ms: 1234.5 }, "1.23 s"],
    [{ unit: "hz", hz: 1.2345 }, "1.23 Hz"],
  ];
  for (const [span, text] of spans) expect(formatSpan(span)).toBe(text);
  expect(parseSpan("250")).toEqual({ unit: "ms", ms: 250 });
  expect(parseSpan("1,5 s")).toEqual({ unit: "ms", ms: 1500 });
  expect(["0.5 hz", "32 bars", "1 bar"].map(parseSpan)).toEqual([{ unit: "hz", hz: 0.5 }, { unit: "bars", bars: 32 }, { unit: "bars", bars: 1 }]); // prettier-ignore
  for (const bad of ["", "fast", "0 hz", "40 bars", "33 bars", "0 bars", "1.5 bars", "-3 ms"])
    expect(parseSpan(bad)).toBeNull();
  expect(spanTicks({ unit: "hz", hz: 2 }, base)).toBe(960);
});

test("positions are counted from 1", () => {
  expect(formatPosition(0, base.meter)).toBe("1.1.1");
  expect(formatPosition(3840 + 960 + 240, base.meter)).toBe("2.2.2");
  expect(formatPosition(250, base.meter)).toBe("1.1.2+10");
  expect(formatPosition(7 * 480, { beats: 7, unit: 8 })).toBe("2.1.1");
  for (const tick of [0, 1, 239, 250, 5040, 100_000]) expect(parsePosition(formatPosition(tick, base.meter), base.meter)).toBe(tick); // prettier-ignore
  expect(parsePosition("2.3", base.meter)).toBe(3840 + 2 * 960);
  for (const bad of ["", "0", "0.1", "1.0", "1.5", "1.1.0", "1.1.5", "1.5.1", "x", "1.1.1.1"])
    expect(parsePosition(bad, base.meter)).toBeNull();
});

describe("swing", () => {
  test("50 % leaves everything where it is", () => {
    for (let t = 0; t < 2000; t += 37) expect(swingTick(t, { percent: 50, gridTicks: 240, barTicks: 3840 })).toBe(t);
  });
  test("two thirds put the off-step on the triplet (common practice)", () => {
    expect(swingTick(240, { percent: 66.6667, gridTicks: 240, barTicks: 3840 })).toBe(320);
    expect(swingTick(480, { percent: 66.6667, gridTicks: 240, barTicks: 3840 })).toBe(480);
  });
  test("pairs restart with each bar: in 7/8 every bar swings alike, its last eighth stays straight", () => {
    const swing = { percent: 66.6667, gridTicks: 480, barTicks: 7 * 480 };
    for (let bar = 0; bar < 4; bar++) {
      const at = (eighth: number): number => swingTick((7 * bar + eighth) * 480, swing) - 7 * bar * 480;
      expect([0, 1, 2, 3, 4, 5, 6].map(at)).toEqual([0, 640, 960, 1600, 1920, 2560, 2880]);
    }
  });
  test("order is kept", () => {
    let last = -1;
    for (let t = 0; t < 4000; t += 4) {
      const at = swingTick(t, { percent: 75, gridTicks: 240, barTicks: 3840 });
      expect(at).toBeGreaterThan(last);
      last = at;
    }
  });
});

describe("what repeats and what drifts", () => {
  test("a shape that fits its bar drifts not", () => {
    expect(repeatReport([{ id: "a", name: "a", ticks: 1920, restartTicks: 3840 }], 1, base.meter, 4)).toEqual({
      repeatBars: 1,
      drifts: [],
    });
  });
  test("three bars of shape in a loop of four are cut", () => {
    const report = repeatReport([{ id: "a", name: "a", ticks: 3 * 3840, restartTicks: 4 * 3840 }], 1, base.meter, 4);
    expect(report.repeatBars).toBe(4);
    expect(report.drifts[0]!.leftover).toBeCloseTo(1 / 3);
  });
  test("what runs on slides by so much a bar: late where it lasts longer than what fits, early where it is shorter", () => {
    const slid = (ticks: number, restartTicks = 4 * 3840): number | null | undefined =>
      repeatReport([{ id: "a", name: "a", ticks, restartTicks }], 1, base.meter, 4).drifts[0]?.slidTicks;
    // 1.1 Hz at 120 BPM: two cycles last 1.818 s and a bar 2 s; a little slower than 1 Hz, the second one ends late.
    expect(slid(1920 / 1.1)).toBeCloseTo(2 * (1920 / 1.1) - 3840, 9);
    expect(slid(1920 / 0.98)).toBeCloseTo(3840 * (1 / 0.98 - 1), 9);
    expect(slid(1920)).toBeUndefined();
    expect(slid(1920 / 1.1, 2 * 3840)).toBeCloseTo(2 * (1920 / 1.1) - 3840, 9);
    // What restarts with the bar does not slide, and what lasts longer than one has no place in it.
    expect(slid(1500, 3840)).toBeNull();
    expect(slid(1.7 * 3840)).toBeNull();
  });
  test("two bars of shape make a one-bar pattern repeat every two", () => {
    expect(
      repeatReport([{ id: "a", name: "a", ticks: 2 * 3840, restartTicks: 4 * 3840 }], 1, base.meter, 4).repeatBars,
    ).toBe(2);
  });
});

test("a share of a note value is the nearest note value: 25 % of a quarter is a sixteenth", () => {
  const of = (text: string): unknown => parseSpan(text);
  expect(of("25 % of 1/4")).toEqual({ unit: "note", num: 1, den: 16 });
  expect(of("50% 1/4")).toEqual({ unit: "note", num: 1, den: 8 });
  expect(of("75 % of 1/2")).toEqual({ unit: "note", num: 3, den: 8 });
  // A third of a quarter is a triplet eighth, 1/12, as near as the figure says.
  const third = of("33.3 % of 1/4") as { num: number; den: number };
  expect(third.num / third.den).toBeCloseTo(0.333 / 4, 3);
  expect(of("100 % of 1/1")).toEqual({ unit: "note", num: 1, den: 1 });
  expect(of("300 % of 2/1")).toEqual({ unit: "note", num: 6, den: 1 });
  // Nothing so short, nothing so long; the shortest way to write a length.
  expect(of("0.1 % of 1/4")).toBeNull();
  expect(of("9999 % of 1/1")).toBeNull();
  expect(of("50 % of 3/4")).toEqual({ unit: "note", num: 3, den: 8 });
  expect(of("% of 1/4")).toBeNull();
  expect(of("20 % of nothing")).toBeNull();
});

test("what sounds at a tick is written on the straight position that sounds nearest to it", () => {
  for (const percent of [50, 58, 66.6667, 75])
    for (const gridTicks of [240, 320]) {
      const swing = { percent, gridTicks, barTicks: 1680 };
      const sounds = Array.from({ length: 3500 }, (_, t) => swingTick(t, swing));
      const wrong = Array.from({ length: 262 }, (_, i) => 13 * i).filter((tick) => {
        // Swing only moves later, by less than a step of its grid.
        const off = sounds.slice(Math.max(0, tick - 320), tick + 2).map((at) => Math.abs(at - tick));
        const straight = straightTick(tick, swing);
        return straight < 0 || Math.abs(sounds[straight]! - tick) !== Math.min(...off);
      });
      expect(wrong).toEqual([]);
    }
});

test("a beat has four steps, and two where it is a sixteenth itself", () => {
  expect([2, 4, 8, 16, 32].map((unit) => stepTicks({ beats: 4, unit }))).toEqual([240, 240, 240, 120, 120]);
  expect(formatPosition(2 * 240 + 130, { beats: 3, unit: 16 })).toBe("1.3.2+10");
});
