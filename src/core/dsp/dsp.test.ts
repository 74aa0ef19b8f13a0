import { readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { fftOf, spectrumOf } from "../../../tests/support/spectrum";
import { expectSame, farthest } from "../../../tests/support/same";
import { nextHeap } from "../../../tests/support/nextHeap";
import { damping, filterMagnitudeDb } from "./filter";
import { peakRoom } from "../engine/peakRoom";
import { CEILING_DB, TruePeakLimiter } from "./limiter";
import { cosCycles, dbToGain, exp, exp2, gainToDb, log2, sinCycles, tanPi } from "./portableMath";
import { MAX_UNISON, startPhase } from "./unison";
import { TOP_LEVEL, WAVES, harmonicsOf, waveTable } from "./waveTables";

const RATE = 48_000;

describe("portable functions stay within their bounds of the language's own", () => {
  test("exp2, exp, log2, decibels", () => {
    let [ofExp, ofLog] = [0, 0];
    for (let x = -300; x < 300; x += 0.137) {
      ofExp = Math.max(ofExp, Math.abs(exp2(x) / 2 ** x - 1));
      ofLog = Math.max(ofLog, Math.abs(log2(2 ** x) - x) / Math.max(1, Math.abs(x)));
    }
    expect(ofExp).toBeLessThan(1e-14);
    expect(ofLog).toBeLessThan(1e-13);
    expect(exp(1)).toBeCloseTo(Math.E, 13);
    expect(exp2(-5000)).toBe(0);
    expect(exp2(5000)).toBe(Infinity);
    expect(exp2(-1021) / 2 ** -1021).toBeCloseTo(1, 12);
    expect(log2(0)).toBe(-Infinity);
    for (const db of [-96, -6.0206, 0, 12]) expect(gainToDb(dbToGain(db))).toBeCloseTo(db, 11);
    expect(dbToGain(-6.020599913279624)).toBeCloseTo(0.5, 12);
  });
  test("sine, cosine, tangent", () => {
    let [ofSin, ofCos, ofTan] = [0, 0, 0];
    for (let c = -3; c < 3; c += 0.00123) {
      ofSin = Math.max(ofSin, Math.abs(sinCycles(c) - Math.sin(2 * Math.PI * c)));
      ofCos = Math.max(ofCos, Math.abs(cosCycles(c) - Math.cos(2 * Math.PI * c)));
    }
    for (let x = 0; x < 0.49; x += 0.001) ofTan = Math.max(ofTan, Math.abs(tanPi(x) - Math.tan(Math.PI * x)));
    expect(ofSin).toBeLessThan(1e-14);
    expect(ofCos).toBeLessThan(1e-14);
    expect(ofTan).toBeLessThan(1e-11);
  });
});

describe("wave tables", () => {
  // Fourier series: saw 2/(pi h), triangle 8/(pi h)^2 on odd h (any handbook of mathematics). The tables hold a little
  // more of each harmonic: what a straight line between samples takes away, sinc^2(h / size).
  const series = {
    sine: (h: number) => (h === 1 ? 1 : 0),
    saw: (h: number) => 2 / (Math.PI * h),
    triangle: (h: number) => (h % 2 ? 8 / (Math.PI * h) ** 2 : 0),
  };
  const lost = (h: number, size: number): number => (Math.sin((Math.PI * h) / size) / ((Math.PI * h) / size)) ** 2;

  test.each(WAVES)("%s: every level holds its harmonics and no other", (wave) => {
    const { samples, levels } = waveTable(wave);
    expect(levels).toHaveLength(TOP_LEVEL + 1);
    for (const level of [0, 3, 5, 8, 11, 12, 17, 22, 29, 30]) {
      const [offset, bits] = levels[level]!;
      const size = 2 ** bits;
      expect(samples[offset + size]).toBe(samples[offset]);
      const out = spectrumOf(samples.subarray(offset, offset + size));
      const top = Math.floor(2 ** ((30 - level) / 3) + 1e-9);
      let furthest = 0;
      for (let h = 0; h <= Math.min(size / 2 - 1, top + 40); h++) {
        const amplitude = (2 * Math.hypot(out[2 * h]!, out[2 * h + 1]!)) / size;
        const expected = h === 0 || h > top ? 0 : series[wave](h) / lost(h, size);
        furthest = Math.max(furthest, Math.abs(amplitude - expected));
      }
      // float32 samples: -140 dB.
      expect(furthest).toBeLessThan(1e-7);
    }
  });

  test("a level's harmonics stay below half the sample rate, and near it", () => {
    expect(harmonicsOf(TOP_LEVEL)).toBe(1);
    expect(harmonicsOf(0)).toBe(1024);
    expect(harmonicsOf(27)).toBe(2);
    for (let level = 0; level <= TOP_LEVEL; level++)
      expect(harmonicsOf(level)).toBeLessThanOrEqual(2 ** ((30 - level) / 3) + 1e-6);
  });
});

describe("the response that is drawn", () => {
  /** Where a digital filter by the bilinear transform sits on the analogue axis, for a cutoff that was prewarped. */
  const warped = (hz: number, cutoff: number): number =>
    Math.tan((Math.PI * hz) / RATE) / Math.tan((Math.PI * cutoff) / RATE);

  test("without resonance the 24 dB low-pass is the Butterworth of order 4", () => {
    // |H|^2 = 1 / (1 + w^8) (Butterworth 1930).
    for (const cutoff of [100, 1000, 8000])
      for (const hz of [50, 200, 500, 1000, 2000, 5000, 12_000])
        expect(filterMagnitudeDb({ type: "lp24", cutoffHz: cutoff, resonance: 0 }, RATE, hz)).toBeCloseTo(
          Math.max(-160, -10 * Math.log10(1 + warped(hz, cutoff) ** 8)),
          6,
        );
  });

  test("at the cutoff: -3.01 dB flat, Q when resonant, 0 dB in the middle of a band", () => {
    expect(filterMagnitudeDb({ type: "lp24", cutoffHz: 1000, resonance: 0 }, RATE, 1000)).toBeCloseTo(-3.0103, 3);
    expect(filterMagnitudeDb({ type: "lp12", cutoffHz: 1000, resonance: 0 }, RATE, 1000)).toBeCloseTo(-3.0103, 3);
    expect(filterMagnitudeDb({ type: "hp12", cutoffHz: 1000, resonance: 0 }, RATE, 1000)).toBeCloseTo(-3.0103, 3);
    expect(filterMagnitudeDb({ type: "bp12", cutoffHz: 1000, resonance: 60 }, RATE, 1000)).toBeCloseTo(0, 6);
    // A blend of half: (1 + H) / 2, with H of the analogue prototype, 1 / (1 - w^2 + i k w).
    for (const [hz, mix] of [
      [300, 50],
      [1000, 50],
      [3000, 20],
      [9000, 80],
    ] as const) {
      const w = warped(hz, 1000);
      const [re, im] = [1 - w * w, Math.SQRT2 * w];
      const power = re * re + im * im;
      const m = mix / 100;
      const blended = Math.hypot(1 - m + (m * re) / power, (m * im) / power);
      expect(filterMagnitudeDb({ type: "lp12", cutoffHz: 1000, resonance: 0, mix }, RATE, hz)).toBeCloseTo(
        20 * Math.log10(blended),
        6,
      );
    }
    // A comb: sqrt(1 - f^2) / |1 -+ f e^(-i w)|, with peaks at its pitch, or half-way between.
    for (const [type, sign] of [
      ["combUp", 1],
      ["combDown", -1],
    ] as const)
      for (const resonance of [0, 40, 100])
        for (const turn of [0.25, 0.5, 1, 1.4, 2]) {
          const f = sign * 0.99 * (1 - (1 - resonance / 100) ** 2);
          const below = Math.hypot(1 - f * Math.cos(2 * Math.PI * turn), f * Math.sin(2 * Math.PI * turn));
          const db = filterMagnitudeDb({ type, cutoffHz: 500, resonance }, RATE, 500 * turn);
          expect(db).toBeCloseTo(10 * Math.log10(1 - f * f) - 20 * Math.log10(below), 6);
        }
    // A vowel that nothing sets is the first one; past the last one it stays.
    const vowel = (v?: number): number[] =>
      [300, 900, 2500].map((hz) =>
        filterMagnitudeDb(
          { type: "vowel", cutoffHz: 1000, resonance: 40, ...(v === undefined ? {} : { vowel: v }) },
          RATE,
          hz,
        ),
      );
    expect(vowel()).toEqual(vowel(0));
    expect(vowel(-20)).toEqual(vowel(0));
    expect(vowel(130)).toEqual(vowel(100));
    expect(vowel(25)).not.toEqual(vowel(0));
    // Full resonance lowers the damping by 4.5 octaves: Q = 2^4.5 / sqrt 2 = 16.
    expect(damping("lp12", 100)).toBeCloseTo(1 / 16, 12);
    expect(filterMagnitudeDb({ type: "lp12", cutoffHz: 1000, resonance: 100 }, RATE, 1000)).toBeCloseTo(
      20 * Math.log10(16),
      6,
    );
  });
});

test("start phases: the lone voice at its own, others apart, all alike from note to note", () => {
  expect(startPhase(0, 1)).toBe(0);
  for (let count = 2; count <= MAX_UNISON; count++) {
    const phases = Array.from({ length: count }, (_, u) => startPhase(u, count));
    expect(phases.every((p) => p >= 0 && p < 1)).toBe(true);
    // A sine stack starts with the power of voices that know nothing of each other: |sum|^2 = count, within 2.5 dB.
    const sum = Math.hypot(
      phases.reduce((s, p) => s + Math.cos(2 * Math.PI * p), 0),
      phases.reduce((s, p) => s + Math.sin(2 * Math.PI * p), 0),
    );
    expect(Math.abs(10 * Math.log10(sum ** 2 / count))).toBeLessThan(2.5);
  }
});

test("start phases stay where they were when they were released: in 256ths, of stacks of 2 to 16", () => {
  const released = JSON.parse(readFileSync("tests/fixtures/stackStarts.json", "utf8")) as number[][];
  expect(released.map((row) => row.map((_, u) => 256 * startPhase(u, row.length)))).toEqual(released);
});

describe("the limiter", () => {
  const run = (signal: Float64Array, chunk = 64): { out: Float32Array; limiter: TruePeakLimiter } => {
    const limiter = new TruePeakLimiter(RATE, peakRoom(nextHeap()));
    const out = new Float32Array(signal.length);
    const other = new Float32Array(signal.length);
    for (let at = 0; at < signal.length; at += chunk) {
      const part = signal.subarray(at, at + chunk);
      limiter.process(part, part, part.length, out.subarray(at), other.subarray(at));
    }
    expectSame(other, out);
    return { out, limiter };
  };
  /** True peak by fft.js: the spectrum filled with zeros to eight times the rate. */
  function truePeakDb(x: Float32Array): number {
    const n = x.length;
    const spectrum = spectrumOf(x);
    const big = fftOf(8 * n);
    const filled = new Float64Array(16 * n);
    for (let k = 0; k < n / 2; k++) {
      filled[2 * k] = spectrum[2 * k]! * (k === 0 ? 1 : 2);
      filled[2 * k + 1] = spectrum[2 * k + 1]! * (k === 0 ? 1 : 2);
    }
    const out = new Float64Array(16 * n);
    big.inverseTransform(out, filled);
    let top = 0;
    for (let i = 0; i < 8 * n; i++) top = Math.max(top, Math.abs(out[2 * i]! * 8));
    return 20 * Math.log10(top);
  }

  test("lets quiet sound through untouched, late by its delay, in chunks of any size", () => {
    const quiet = Float64Array.from({ length: 4096 }, (_, i) => 0.3 * Math.sin(i / 3));
    for (const chunk of [64, 17, 1]) {
      const { out, limiter } = run(quiet, chunk);
      expect(limiter.acted).toBe(false);
      expectSame(out.subarray(limiter.delay), Float32Array.from(quiet.subarray(0, 4096 - limiter.delay)));
      expect(out.subarray(0, limiter.delay).every((y) => y === 0)).toBe(true);
    }
  });

  test.each([
    ["a low tone", (i: number) => 3 * Math.sin(i / 20)],
    // A quarter of the sample rate, half-way between samples: its true peak lies 3.01 dB over its samples.
    ["a tone whose peaks fall between samples", (i: number) => 1.2 * Math.sin((Math.PI / 2) * i + Math.PI / 4)],
    ["hits", (i: number) => (i % 3000 < 900 ? 2.5 : 0.1) * Math.sin(i / 7) * Math.exp(-(i % 3000) / 500)],
    ["a saw", (i: number) => [1, 2, 3, 4, 5, 6, 7].reduce((s, h) => s + (1.3 / h) * Math.sin((h * i) / 9), 0)],
  ])("%s leaves below the ceiling, true peaks included", (_name, wave) => {
    const n = 16_384;
    // Faded at both ends, so that the transform sees no edge.
    const fade = (i: number): number => Math.min(1, i / 2000, (n - 1 - i) / 2000);
    const { out, limiter } = run(Float64Array.from({ length: n }, (_, i) => fade(i) * wave(i)));
    expect(limiter.acted).toBe(true);
    const top = truePeakDb(out);
    expect(top).toBeLessThan(CEILING_DB);
    expect(top).toBeGreaterThan(CEILING_DB - 0.8);
  });

  test("is what its definition says, worked out plainly", () => {
    const x = Float64Array.from({ length: 9000 }, (_, i) => (i % 3500 < 700 ? 1.9 : 0.35) * Math.sin(i / 6 + 0.3 * Math.sin(i / 41)) + 0.4 * Math.sin(i * 1.7)); // prettier-ignore
    const at = (i: number): number => x[i] ?? 0;
    // Points a quarter, a half and three quarters behind a sample, of the seven samples before it and the eight behind.
    const between = (i: number, p: number): number => Array.from({ length: 16 }, (_, t) => { const d = t - 7 - p / 4; return at(i + t - 7) * (0.5 + 0.5 * Math.cos((2 * Math.PI * d) / 16)) * (Math.sin(Math.PI * d) / (Math.PI * d)); }).reduce((s, v) => s + v, 0); // prettier-ignore
    const ceiling = 10 ** ((CEILING_DB - 0.2) / 20);
    const need = Array.from({ length: 9100 }, (_, k) => Math.min(1, ceiling / Math.max(...[at(k - 8), between(k - 8, 1), between(k - 8, 2), between(k - 8, 3)].map(Math.abs)))); // prettier-ignore
    // A millisecond of them, the lowest of which counts; it recovers by e in 80 ms, and the mean of a millisecond is used.
    const ahead = RATE / 1000;
    let gain = 1;
    const gains = need.map((_, k) => {
      const least = Math.min(...need.slice(Math.max(0, k - ahead + 1), k + 1));
      const risen = gain + (1 - gain) * (1 - Math.exp(-1 / (0.08 * RATE)));
      gain = Math.min(least, risen);
      return gain;
    });
    const mean = (k: number): number => Array.from({ length: ahead }, (_, i) => gains[k - i] ?? 1).reduce((s, v) => s + v, 0) / ahead; // prettier-ignore
    const { out, limiter } = run(x);
    const expected = Float64Array.from({ length: 9000 }, (_, k) => at(k - limiter.delay) * mean(k));
    expect(farthest(out, expected)).toBeLessThan(2e-6);
    expect(Math.min(...gains)).toBeLessThan(0.6);
  });

  test("measures nothing while it rests: from 1.3 s after a loud sound until the next one", () => {
    const room = peakRoom(nextHeap());
    let measured = 0;
    const limiter = new TruePeakLimiter(RATE, { ...room, measure: (count) => { measured += count; room.measure(count); } }); // prettier-ignore
    const [out, other] = [new Float32Array(64), new Float32Array(64)];
    const after = (level: number, frames: number): number => {
      measured = 0;
      for (let at = 0; at < frames; at += 64) limiter.process(new Float64Array(64).fill(level), new Float64Array(64), 64, out, other); // prettier-ignore
      return measured;
    };
    expect([after(0.1, 6400), after(1.7, 6400)]).toEqual([0, 6400]);
    const recovering = after(0.1, 1.3 * RATE);
    expect(recovering > 0.8 * RATE && recovering < 1.25 * RATE).toBe(true);
    expect([after(0.1, 6400), after(1.7, 640)]).toEqual([0, 640]);
  });

  test("does the same in pieces of any size, after it has rested as well", () => {
    // Loud for a while, then low for so long that it rests, again and again, from all sorts of frames on.
    const x = Float64Array.from({ length: 40_000 }, (_, i) => (i % 9973 < 1200 ? 2.2 : 0.1) * Math.sin(i / 5));
    const { out } = run(x, 64);
    expect(Math.max(...out)).toBeGreaterThan(0.7);
    for (const chunk of [1, 37, 100, 611]) expectSame(run(x, chunk).out, out);
  });

  test("turns what is no number into silence, recovers, and tells the peak that came in", () => {
    const bad = new Float64Array(RATE).fill(0.25);
    bad.set([NaN, Infinity, -Infinity, 5], 100);
    const { out, limiter } = run(bad);
    expect([...out].every(Number.isFinite)).toBe(true);
    expect(out.at(-1)).toBeCloseTo(0.25, 5);
    const peaks = new Float32Array(2);
    limiter.takePeaks(peaks, 0);
    expect(peaks[0]).toBeGreaterThanOrEqual(5);
    limiter.takePeaks(peaks, 0);
    expect(peaks[0]).toBe(0);
  });

  test.each([NaN, Infinity])("turns a single %d between low samples into silence, and nothing else", (odd) => {
    const low = new Float64Array(4800).fill(0.01);
    const { out, limiter } = run(low.with(3000, odd));
    const silent = [...out].flatMap((v, i) => (v === 0 && i >= limiter.delay ? [i - limiter.delay] : []));
    expect(silent).toEqual([3000]);
    expect([...out].every(Number.isFinite)).toBe(true);
    expect(limiter.acted).toBe(false);
  });

  test("takes 80 ms to come back to 63 %", () => {
    const step = Float64Array.from({ length: RATE }, (_, i) => (i < 4800 ? 1.7825 : 0.1));
    const { out, limiter } = run(step);
    const gain = (frame: number): number => out[frame + limiter.delay]! / 0.1;
    const low = gain(4900);
    // An edge of 1.7825 overshoots by 9 % (Gibbs): held to -1.2 dB, 0.871 / 1.943 = 0.448, and a millisecond of recovery.
    expect(low).toBeGreaterThan(0.44);
    expect(low).toBeLessThan(0.48);
    const back = (gain(4900 + 3840) - low) / (1 - low);
    expect(back).toBeGreaterThan(0.6);
    expect(back).toBeLessThan(0.66);
  });
});
