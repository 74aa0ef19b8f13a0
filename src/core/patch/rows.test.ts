import { describe, expect, test } from "vitest";
import { KINDS } from "./kinds";
import { AMP } from "./kinds/amp";
import { ENVELOPE } from "./kinds/envelope";
import { FILTER } from "./kinds/filter";
import { OSCILLATOR } from "./kinds/oscillator";
import { clampToParameter, fromNorm, moved, toNorm, type Parameter } from "./row";
import { LANES } from "./lanes";
import { ARPEGGIO_ROWS, NOTE_ROWS, PART_ROWS, SONG_ROWS } from "./rows";
import { formatAmount, formatValue, parseAmount, parseValue, spokenValue } from "./valueText";

const ALL: readonly Parameter[] = [
  ...KINDS.flatMap((k): Parameter[] => Object.values(k.rows)),
  ...Object.values(SONG_ROWS),
  ...Object.values(ARPEGGIO_ROWS),
  ...Object.values(NOTE_ROWS),
  ...Object.values(PART_ROWS),
  ...Object.values(LANES).map((lane) => lane.row),
];

describe("rows", () => {
  test("keys move a value by round figures that can be seen, and coarse ones are so many fine ones", () => {
    const isRound = (v: number): boolean => v === 15 || [1, 2, 5].includes(Number((v / 10 ** Math.floor(Math.log10(v) + 1e-9)).toFixed(9))); // prettier-ignore
    for (const p of ALL) {
      const shown = (by: number): string => formatValue(p, p.taper === "log" ? p.default * by : p.default + by);
      if (p.taper === "log") expect(p.step > p.fine && p.fine > 1 && p.step <= 1.25, p.label).toBe(true);
      else {
        expect(isRound(p.step) && isRound(p.fine), p.label).toBe(true);
        expect((p.step / p.fine) % 1, p.label).toBeCloseTo(0, 9);
      }
      expect(new Set([p.taper === "log" ? 1 : 0, p.fine, p.step].map(shown)).size, p.label).toBe(p.fine === p.step ? 2 : 3); // prettier-ignore
    }
  });
  test("defaults lie in range, whole ones are whole", () => {
    for (const p of ALL) {
      expect(clampToParameter(p, p.default)).toBe(p.default);
      if (p.whole) expect(Number.isInteger(p.default)).toBe(true);
    }
    for (const k of KINDS)
      for (const c of Object.values<{ options: readonly string[]; default: string }>(k.choices))
        expect(c.options).toContain(c.default);
  });
  test("a place on the scale is taken back", () => {
    for (const p of ALL) for (const n of [0, 0.25, 0.5, 1]) expect(toNorm(p, fromNorm(p, n))).toBeCloseTo(n, 9);
    expect(fromNorm(FILTER.rows.cutoff, 0.5)).toBeCloseTo(632.46, 2);
  });
  test("a NaN becomes the default", () => {
    expect(clampToParameter(FILTER.rows.cutoff, NaN)).toBe(1200);
  });
  test("amounts are in the target's unit", () => {
    expect(moved(FILTER.rows.cutoff, 420, 1)).toBe(840);
    expect(moved(FILTER.rows.cutoff, 420, 9)).toBe(20_000);
    expect(moved(AMP.rows.level, -3, -9)).toBe(-12);
  });
});

test("a frequency has no decimals from a hundred on; what is off at its lowest says so there", () => {
  expect([99.9, 100, 100.4].map((v) => formatAmount(v, "Hz", 1))).toEqual(["99.9 Hz", "100 Hz", "100 Hz"]);
  expect([-60, -59.9].map((v) => formatValue(AMP.rows.level, v))).toEqual(["off", "−59.9 dB"]);
});

test("a frequency is in kHz from a thousand on; what is typed is rounded to what is shown, frequencies are not", () => {
  expect([999, 999.6, 1000, 1001].map((v) => formatAmount(v, "Hz", 0))).toEqual([
    "999 Hz",
    "1000 Hz",
    "1.00 kHz",
    "1.00 kHz",
  ]);
  const whole = { ...FILTER.rows.resonance, digits: 0 };
  expect(parseValue(whole, "33.4")).toBe(33);
  expect(parseValue({ ...whole, digits: 1 }, "33.4")).toBe(33.4);
  expect(parseValue({ ...FILTER.rows.cutoff, digits: 0 }, "420.5")).toBe(420.5);
  expect(parseValue(OSCILLATOR.rows.unison, "3.4")).toBe(3);
  // Shares of all there is: of a hundred percent, of the most that a number may be; of nothing there is none.
  expect([parseValue(FILTER.rows.resonance, "1/1"), parseValue(FILTER.rows.resonance, "93/127"), parseValue(OSCILLATOR.rows.unison, "1/2"), parseValue(FILTER.rows.resonance, "3/0")]).toEqual([100, 73.22834645669292, 8, null]); // prettier-ignore
});

test("a ratio is written with its digits below ten, and with one from there", () => {
  expect([0.5, 1, 9.99, 10, 12.34].map((v) => formatAmount(v, "×", 2))).toEqual([
    "×0.50",
    "×1.00",
    "×9.99",
    "×10.0",
    "×12.3",
  ]);
});

describe("values as text", () => {
  test.each([
    [FILTER.rows.cutoff, "1.2k", 1200],
    [FILTER.rows.cutoff, "A3", 220],
    [FILTER.rows.cutoff, "420 Hz", 420],
    [AMP.rows.level, "-6dB", -6],
    [AMP.rows.level, "−6.0 dB", -6],
    [AMP.rows.level, "off", -60],
    [OSCILLATOR.rows.unison, "3.4", 3],
    [SONG_ROWS.tempo, "999", 400],
    [OSCILLATOR.rows.phase, "90°", 90],
    [NOTE_ROWS.velocity, "93/127", 93],
    [ENVELOPE.rows.sustain, "93/127", (100 * 93) / 127],
    [OSCILLATOR.rows.ratio, "3/2", 1.5],
    [OSCILLATOR.rows.ratio, "12 st", 2],
    [OSCILLATOR.rows.ratio, "1/64", 1 / 64],
  ] as const)("$0.label reads %s", (row, text, value) => {
    expect(parseValue(row, text)).toBeCloseTo(value, 9);
  });
  test.each([
    [FILTER.rows.cutoff, "loud"],
    [AMP.rows.level, "A3"],
    [AMP.rows.level, "3 Hz"],
    [OSCILLATOR.rows.detune, ""],
  ] as const)("$0.label refuses %s", (row, text) => {
    expect(parseValue(row, text)).toBeNull();
  });
  test("frequencies are told with the note that they are nearest to", () => {
    expect(spokenValue(FILTER.rows.cutoff, 440)).toBe("440 Hz, about A4");
    expect(spokenValue(FILTER.rows.cutoff, 110)).toBe("110 Hz, about A2");
    // F sharp 5, of the table of equal temperament, and a quarter of a tone less one cent above it.
    expect(spokenValue(FILTER.rows.cutoff, 739.99 * 2 ** (49 / 1200))).toContain(", about F♯5");
    expect(spokenValue(AMP.rows.level, -6)).toBe("−6.0 dB");
  });
  test("what is shown is read back", () => {
    for (const p of ALL) {
      const read = parseValue(p, formatValue(p, p.default));
      expect(read).toBeCloseTo(p.default, 6);
    }
  });
  test("signs and units", () => {
    expect(formatAmount(2.4, "oct", 2, true)).toBe("+2.40 oct");
    expect(formatAmount(-0.001, "dB", 1)).toBe("0.0 dB");
    expect(formatAmount(2217, "Hz", 0)).toBe("2.22 kHz");
    expect(parseAmount("7 st", "oct")).toBeCloseTo(7 / 12);
    expect(parseAmount("1.2 s", "ms")).toBe(1200);
    expect(parseAmount("90 °", "rad")).toBeCloseTo(Math.PI / 2, 9);
    expect(parseAmount("×12 st", "×")).toBeCloseTo(2, 9);
    expect(parseAmount("50 ct", "st")).toBe(0.5);
    expect(parseAmount("−2 oct", "st")).toBe(-24);
    expect(parseAmount("1,5 st", "ct")).toBe(150);
    expect(parseAmount("1.5 kHz", "Hz")).toBe(1500);
    expect(parseAmount("1.5k", "dB")).toBeNull();
    expect(parseAmount("5 ms", "st")).toBeNull();
  });
});
