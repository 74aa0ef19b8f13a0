import { describe, expect, test } from "vitest";
import { loudness } from "../../../tests/support/loudness";
import { makeProject, note, type Made } from "../../../tests/support/projects";
import { peak, spectrumDb, toDb } from "../../../tests/support/spectrum";
import { compileProject } from "./compile";
import { renderNow } from "./render";

const RATE = 48_000;
const render = (made: Made) => renderNow(compileProject(makeProject(made)), { sampleRate: RATE, bars: 1, tail: "cut" });
/** Of a bar of one second. */
const lufs = (made: Made): number => {
  const { left, right } = render({ song: { tempoBpm: 240 }, ...made });
  return loudness(left, right);
};

test("the meter reads the standard's tone: 997 Hz at full scale on one side is -3.01", () => {
  const tone = Float32Array.from({ length: 96_000 }, (_, i) => Math.sin((2 * Math.PI * 997 * i) / RATE));
  expect(loudness(tone)).toBeCloseTo(-3.01, 2);
});

describe("a wave is as loud as another at the same level", () => {
  test.each([36, 60, 72])("key %d: within 1 LU of the saw", (key) => {
    const of = (wave: string, pulseWidth = 50): number =>
      lufs({ notes: [note(0, 3840, key)], choices: { "osc.wave": wave }, values: { "osc.pulseWidth": pulseWidth } });
    const saw = of("saw");
    for (const wave of ["sine", "triangle", "pulse"]) expect(Math.abs(of(wave) - saw)).toBeLessThan(1);
    for (const width of [5, 80]) expect(Math.abs(of("pulse", width) - saw)).toBeLessThan(1);
  });
});

describe("unison of a fixed start is as loud as a single voice", () => {
  const pluck = { attack: { unit: "ms", ms: 1 }, decay: { unit: "ms", ms: 200 }, sustain: 0, decayCurve: 50 } as const;
  const pad = { attack: { unit: "ms", ms: 300 } } as const;
  const difference = (count: number, amp: Made["amp"], key: number, tempoBpm = 240): number => {
    const of = (unison: number): number => lufs({ song: { tempoBpm }, notes: [note(0, 3840, key)], values: { "osc.unison": unison, "osc.detune": 12 }, ...(amp ? { amp } : {}) }); // prettier-ignore
    return of(count) - of(1);
  };
  test.each([2, 3, 4, 7, 8, 16])("%d voices, plucks, within 0.5 LU", (count) => {
    const all = [43, 55].map((key) => difference(count, pluck, key));
    expect(Math.abs(all.reduce((a, b) => a + b) / all.length)).toBeLessThan(0.5);
    for (const one of all) expect(Math.abs(one)).toBeLessThan(0.75);
  });
  test.each([4, 16])("%d voices, pads, within 0.5 LU", (count) => {
    const all = [48, 60].map((key) => difference(count, pad, key, 120));
    expect(Math.abs(all.reduce((a, b) => a + b) / all.length)).toBeLessThan(0.5);
  });
  test("every hit is alike, to the last bit", () => {
    const { left } = render({ notes: [0, 960, 1920].map((t) => note(t, 400, 50)), values: { "osc.unison": 8 } });
    expect(left.subarray(24_000, 36_000)).toEqual(left.subarray(0, 12_000));
    expect(left.subarray(48_000, 60_000)).toEqual(left.subarray(0, 12_000));
  });
});

describe("low notes and high ones are clean", () => {
  /** Power that lies on no harmonic against all of it, and the harmonic nearest to a frequency against its series. */
  function measure(wave: string, pulseWidth: number, key: number) {
    const n = 65_536;
    // A pitch whose cycles fit the stretch, so that harmonics are lines.
    const wanted = 440 * 2 ** ((key - 69) / 12);
    const cycles = Math.round((wanted * n) / RATE);
    const hz = (cycles * RATE) / n;
    const off = 12 * Math.log2(hz / wanted);
    const { left } = render({
      notes: [note(0, 3840, key)],
      choices: { "osc.wave": wave },
      values: { "osc.pitch": off, "osc.pulseWidth": pulseWidth, "amp.level": -12 },
    });
    const db = spectrumDb(left.subarray(12_000, 12_000 + n));
    let all = 0;
    let stray = 0;
    for (let k = 6; k < n / 2; k++) {
      const power = 10 ** (db(k) / 10);
      all += power;
      const from = Math.abs(k - Math.round(k / cycles) * cycles);
      if (from > 5 || k < cycles / 2) stray += power;
    }
    const h = Math.round(16_000 / hz);
    return { strayDb: 10 * Math.log10(stray / all), harmonicDb: db(h * cycles) - db(cycles), h };
  }

  test.each([
    ["saw", 50, 24, -75],
    ["pulse", 5, 24, -75],
    ["saw", 50, 83, -100],
    ["pulse", 5, 83, -98],
  ] as const)("%s, width %d, key %d: what is no harmonic lies under %d dB of all", (wave, width, key, under) => {
    expect(measure(wave, width, key).strayDb).toBeLessThan(under);
  });

  test.each([24, 48])("key %d: the saw's harmonic at 16 kHz is within 0.5 dB of its series", (key) => {
    const { harmonicDb, h } = measure("saw", 50, key);
    expect(Math.abs(harmonicDb - 20 * Math.log10(1 / h) - lowpassAt(key, h))).toBeLessThan(0.5);
  });
  /** The open filter of the test's patch takes a little at 16 kHz: Butterworth of order 4 at 20 kHz, warped. */
  function lowpassAt(key: number, h: number): number {
    const hz = Math.min(23_900, h * 440 * 2 ** ((key - 69) / 12));
    const w = Math.tan((Math.PI * hz) / RATE) / Math.tan((Math.PI * 20_000) / RATE);
    return -10 * Math.log10(1 + w ** 8);
  }
});

test("equal notes with a decay of 3 ms hit alike wherever they fall between sub-blocks", () => {
  // 137.31 BPM: no onset stands where the last one did against the grid of 16 frames.
  const made: Made = {
    song: { tempoBpm: 137.31 },
    notes: Array.from({ length: 16 }, (_, i) => note(i * 240, 200, 69)),
    choices: { "osc.wave": "sine" },
    values: { "osc.phase": 90, "amp.level": -6 },
    amp: { attack: { unit: "ms", ms: 1.3 }, decay: { unit: "ms", ms: 3 }, sustain: 0, decayCurve: 50 },
  };
  const { left } = render(made);
  const hits = Array.from({ length: 16 }, (_, i) => {
    const at = Math.round((i * 240 * 60 * RATE) / (960 * 137.31));
    const hit = left.subarray(at, at + 400);
    return { peak: toDb(peak(hit)), power: toDb(Math.sqrt(hit.reduce((s, v) => s + v * v, 0))) };
  });
  const spread = (of: (h: (typeof hits)[number]) => number): number =>
    Math.max(...hits.map(of)) - Math.min(...hits.map(of));
  expect(spread((h) => h.peak)).toBeLessThan(0.1);
  expect(spread((h) => h.power)).toBeLessThan(0.1);
  expect(hits[0]!.peak).toBeGreaterThan(-9);
});
