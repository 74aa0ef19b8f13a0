import { describe, expect, test } from "vitest";
import { RATE, engineWith } from "../../../tests/support/live";
import { peak, spectrumDb } from "../../../tests/support/spectrum";
import { makeProject, note } from "../../../tests/support/projects";
import { compileProject } from "./compile";
import { NoteLog, renderNow } from "./render";

describe("sound", () => {
  test("a 5 kHz saw at 48 kHz has no alias above -100 dB of its fundamental", () => {
    const n = 32_768;
    const bin = 3413;
    const key = 69 + 12 * Math.log2((bin * RATE) / n / 440);
    const made = makeProject({
      notes: [note(0, 3840, Math.floor(key))],
      values: { "osc.pitch": key - Math.floor(key), "amp.level": -12 },
    });
    const { left } = renderNow(compileProject(made), { sampleRate: RATE, bars: 1, tail: "cut" });
    const db = spectrumDb(left.subarray(24_000, 24_000 + n));
    const fundamental = db(bin);
    let worst = -Infinity;
    for (let k = 8; k < n / 2; k++) {
      const nearHarmonic = [1, 2, 3, 4].some((h) => Math.abs(k - h * bin) < 8);
      if (!nearHarmonic) worst = Math.max(worst, db(k) - fundamental);
    }
    expect(worst).toBeLessThan(-100);
    expect(db(2 * bin) - fundamental).toBeGreaterThan(-12);
  });

  test("envelope times, measured on the sound of a sine", () => {
    const made = makeProject({
      notes: [note(0, 1920, 81)],
      choices: { "osc.wave": "sine" },
      values: { "amp.level": -6 },
      amp: {
        attack: { unit: "ms", ms: 100 },
        decay: { unit: "note", num: 1, den: 8 },
        sustain: 50,
        release: { unit: "ms", ms: 200 },
        attackCurve: 0,
        decayCurve: 0,
        releaseCurve: 0,
      },
    });
    const { left } = renderNow(compileProject(made), { sampleRate: RATE, bars: 1, tail: "cut" });
    // Peak over a period of 880 Hz around a time.
    const level = (ms: number): number => peak(left.subarray(Math.round(ms * 48) - 28, Math.round(ms * 48) + 28));
    const top = level(100);
    expect(level(50) / top).toBeCloseTo(0.5, 1.6);
    expect(level(100 + 125) / top).toBeCloseTo(0.75, 1.6);
    expect(level(100 + 250 + 100) / top).toBeCloseTo(0.5, 1.6);
    expect(level(1000 + 100) / top).toBeCloseTo(0.25, 1.6);
    expect(level(1000 + 205)).toBeLessThan(1e-4);
  });

  test("a note starts on its frame: onsets of the arpeggio lie where the grid says", () => {
    const made = makeProject({
      song: { tempoBpm: 137.31 },
      notes: [note(0, 3840, 60)],
      arpeggio: { on: true, rate: { num: 1, den: 16 }, gate: 40 },
      amp: { attack: { unit: "ms", ms: 0 }, release: { unit: "ms", ms: 4 } },
    });
    const log = new NoteLog(["part-1"]);
    const { left } = renderNow(compileProject(made), { sampleRate: RATE, bars: 1, tail: "cut", listener: log });
    expect(log.notes).toHaveLength(16);
    log.notes.forEach((n, i) => {
      const frame = Math.round((i * 240 * 60 * RATE) / (960 * 137.31));
      expect(n.onSample).toBe(frame);
      expect(peak(left.subarray(Math.max(0, frame - 200), frame))).toBeLessThan(1e-6);
      expect(peak(left.subarray(frame, frame + 48))).toBeGreaterThan(0.01);
    });
  });

  test("a note sounds within one block of 128 frames", () => {
    const engine = engineWith(makeProject({ amp: { attack: { unit: "ms", ms: 0 } } }));
    const out = new Float32Array(128);
    engine.process(out, new Float32Array(128), 128);
    expect(peak(out)).toBe(0);
    engine.noteOn("part-1", 60, 127);
    engine.process(out, new Float32Array(128), 128);
    expect(peak(out)).toBeGreaterThan(0.01);
    engine.noteOff("part-1", 60);
    for (let i = 0; i < 8; i++) engine.process(out, new Float32Array(128), 128);
    expect(engine.sounding).toBe(false);
  });
});

describe("loops", () => {
  test("every pass starts on its frame, without building up a rounding error", () => {
    const made = makeProject({ song: { tempoBpm: 122, meter: { beats: 1, unit: 4 } }, notes: [note(0, 200, 60)] });
    const log = new NoteLog(["part-1"]);
    renderNow(compileProject(made), { sampleRate: RATE, bars: 50, tail: "cut", listener: log });
    expect(log.notes.map((n) => n.onSample)).toEqual(
      Array.from({ length: 50 }, (_, i) => Math.round((i * 60 * RATE) / 122)),
    );
  });

  test("wrapped releases join without a seam: a file's start goes on where its end stops", () => {
    const made = makeProject({
      notes: [note(0, 3840, 57), note(3600, 240, 69)],
      choices: { "osc.wave": "sine" },
      amp: { attack: { unit: "ms", ms: 60 }, release: { unit: "ms", ms: 700 } },
    });
    const program = compileProject(made);
    const { left, barFrames } = renderNow(program, { sampleRate: RATE, bars: 1, tail: "wrap" });
    expect(left).toHaveLength(96_000);
    expect(barFrames).toBe(96_000);
    // The second difference of a sine below 500 Hz stays small; a seam would stand out.
    const bend = (i: number): number => {
      const at = (k: number): number => left[(k + left.length) % left.length]!;
      return Math.abs(at(i - 1) - 2 * at(i) + at(i + 1));
    };
    const seam = Math.max(...Array.from({ length: 9 }, (_, i) => bend(i - 4)));
    const inside = Math.max(...Array.from({ length: 20_000 }, (_, i) => bend(30_000 + i)));
    expect(seam).toBeLessThan(inside * 1.5);
    const appended = renderNow(program, { sampleRate: RATE, bars: 1, tail: "append" });
    expect(appended.left.length).toBeGreaterThan(96_000 + 0.7 * RATE - 1);
    expect(peak(appended.left.subarray(96_000 + 100, 96_000 + 10_000))).toBeGreaterThan(0.001);
  });
});
