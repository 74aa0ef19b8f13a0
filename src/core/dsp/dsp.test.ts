import FFT from "fft.js";
import { describe, expect, test } from "vitest";
import { FILTER_BP12, FILTER_HP12, FILTER_LP12, FILTER_LP24, COEFFICIENTS, FILTER_STATE, damping, designFilter, filter12, filterMagnitudeDb, flushState, lowpass24 } from "./filter"; // prettier-ignore
import { CEILING, SafetyLimiter } from "./limiter";
import { unisonGain } from "./oscillator";
import { cosCycles, dbToGain, exp, exp2, gainToDb, log2, sinCycles, tanPi } from "./portableMath";
import { WAVE_PULSE, WAVE_SAW, WAVE_SINE, WAVE_TRIANGLE, waveLevel, waveTable } from "./waveTables";

const RATE = 48_000;

describe("portable functions stay within their bounds of the language's own", () => {
  test("exp2, exp, log2, decibels", () => {
    for (let x = -300; x < 300; x += 0.137) {
      expect(Math.abs(exp2(x) / 2 ** x - 1)).toBeLessThan(1e-14);
      const y = 2 ** x;
      expect(Math.abs(log2(y) - x)).toBeLessThan(1e-13 * Math.max(1, Math.abs(x)));
    }
    expect(exp(1)).toBeCloseTo(Math.E, 13);
    expect(exp2(-5000)).toBe(0);
    expect(log2(0)).toBe(-Infinity);
    for (const db of [-96, -6.0206, 0, 12]) expect(gainToDb(dbToGain(db))).toBeCloseTo(db, 11);
    expect(dbToGain(-6.020599913279624)).toBeCloseTo(0.5, 12);
  });
  test("sine, cosine, tangent", () => {
    for (let c = -3; c < 3; c += 0.00123) {
      expect(Math.abs(sinCycles(c) - Math.sin(2 * Math.PI * c))).toBeLessThan(1e-14);
      expect(Math.abs(cosCycles(c) - Math.cos(2 * Math.PI * c))).toBeLessThan(1e-14);
    }
    for (let x = 0; x < 0.49; x += 0.001) expect(Math.abs(tanPi(x) - Math.tan(Math.PI * x))).toBeLessThan(1e-11);
  });
});

/** Magnitudes of a real signal of a power-of-two length by fft.js, a general-purpose library; bin k scaled to amplitude. */
function spectrum(signal: Float64Array): Float64Array {
  const fft = new FFT(signal.length);
  const out = fft.createComplexArray() as number[];
  fft.realTransform(out, Array.from(signal));
  return Float64Array.from(
    { length: signal.length / 2 },
    (_, k) => (2 * Math.hypot(out[2 * k]!, out[2 * k + 1]!)) / signal.length,
  );
}

describe("wave tables", () => {
  // Fourier series: saw 2/(pi h), square 4/(pi h) on odd h, triangle 8/(pi h)^2 on odd h (any handbook of mathematics).
  test.each([
    [WAVE_SINE, (h: number) => (h === 1 ? 1 : 0)],
    [WAVE_SAW, (h: number) => 2 / (Math.PI * h)],
    [WAVE_TRIANGLE, (h: number) => (h % 2 ? 8 / (Math.PI * h) ** 2 : 0)],
  ])("wave %d has the harmonics of its series", (wave, series) => {
    const table = waveTable(wave);
    const at = waveLevel(Math.log2(100 / RATE)) * table.stride;
    const found = spectrum(table.samples.slice(at, at + 2048));
    for (let h = 1; h <= 150; h++) expect(found[h]).toBeCloseTo(series(h), 10);
    expect(found[0]).toBeLessThan(1e-12);
  });

  test("a pulse of half width is a square", () => {
    const table = waveTable(WAVE_PULSE);
    const at = waveLevel(Math.log2(100 / RATE)) * table.stride;
    const saw = table.samples.slice(at, at + 2048);
    const found = spectrum(saw.map((y, i) => saw[(i - 1024 + 2048) % 2048]! - y));
    for (let h = 1; h <= 100; h++) expect(found[h]).toBeCloseTo(h % 2 ? 4 / (Math.PI * h) : 0, 9);
  });

  test("no level holds a harmonic above half the sample rate", () => {
    for (let hz = 20; hz < 20_000; hz *= 1.07) {
      const level = waveLevel(Math.log2(hz / RATE));
      const table = waveTable(WAVE_SAW);
      const found = spectrum(table.samples.slice(level * table.stride, level * table.stride + 2048));
      const top = found.findLastIndex((a) => a > 1e-9);
      expect(top * hz).toBeLessThanOrEqual(RATE / 2);
      if (hz > 60) expect(top * hz).toBeGreaterThan(hz > 9000 ? hz - 1 : 15_000);
    }
  });
});

const run = (type: number, cutoff: number, resonance: number, signal: Float64Array): Float64Array => {
  const c = new Float64Array(COEFFICIENTS);
  designFilter(type, cutoff, resonance, RATE, c);
  const left = signal.slice();
  (type === FILTER_LP24 ? lowpass24 : filter12)(
    new Float64Array(FILTER_STATE),
    c,
    c,
    left,
    signal.slice(),
    0,
    signal.length,
  );
  return left;
};

describe("filters", () => {
  const impulse = new Float64Array(65_536);
  impulse[0] = 1;
  const measured = (type: number, cutoff: number, resonance: number) => {
    const fft = new FFT(impulse.length);
    const out = fft.createComplexArray() as number[];
    fft.realTransform(out, Array.from(run(type, cutoff, resonance, impulse)));
    return (hz: number): number => {
      const k = Math.round((hz / RATE) * impulse.length);
      return 20 * Math.log10(Math.hypot(out[2 * k]!, out[2 * k + 1]!));
    };
  };
  /** Where a digital filter by the bilinear transform sits on the analogue axis, for a cutoff that was prewarped. */
  const warped = (hz: number, cutoff: number): number =>
    Math.tan((Math.PI * hz) / RATE) / Math.tan((Math.PI * cutoff) / RATE);
  const bins = [50, 200, 500, 1000, 2000, 5000, 12_000].map((hz) => (Math.round((hz / RATE) * 65_536) / 65_536) * RATE);

  test.each([100, 1000, 8000])(
    "without resonance the 24 dB low-pass at %d Hz is the Butterworth of order 4",
    (cutoff) => {
      const db = measured(FILTER_LP24, cutoff, 0);
      // |H|^2 = 1 / (1 + w^8) (Butterworth 1930).
      for (const hz of bins) expect(db(hz)).toBeCloseTo(-10 * Math.log10(1 + warped(hz, cutoff) ** 8), 3);
    },
  );

  test.each([
    [FILTER_LP12, (w: number, k: number) => 1 / ((1 - w * w) ** 2 + (k * w) ** 2)],
    [FILTER_BP12, (w: number, k: number) => (k * w) ** 2 / ((1 - w * w) ** 2 + (k * w) ** 2)],
    [FILTER_HP12, (w: number, k: number) => w ** 4 / ((1 - w * w) ** 2 + (k * w) ** 2)],
  ])("type %d is the second-order response", (type, power) => {
    for (const resonance of [0, 40, 90]) {
      const db = measured(type, 1000, resonance);
      for (const hz of bins) {
        const expected = 10 * Math.log10(power(warped(hz, 1000), damping(type, resonance)));
        if (expected > -100) expect(db(hz)).toBeCloseTo(expected, 3);
        expect(filterMagnitudeDb(type, 1000, resonance, RATE, hz)).toBeCloseTo(expected, 6);
      }
    }
  });

  test("at the cutoff: -3.01 dB flat, Q when resonant", () => {
    expect(filterMagnitudeDb(FILTER_LP24, 1000, 0, RATE, 1000)).toBeCloseTo(-3.0103, 3);
    expect(filterMagnitudeDb(FILTER_LP12, 1000, 0, RATE, 1000)).toBeCloseTo(-3.0103, 3);
    expect(filterMagnitudeDb(FILTER_LP12, 1000, 100, RATE, 1000)).toBeCloseTo(
      20 * Math.log10(1 / damping(FILTER_LP12, 100)),
      6,
    );
  });

  test("stays bounded while cutoff and resonance jump every sub-block", () => {
    const a = new Float64Array(COEFFICIENTS);
    const b = new Float64Array(COEFFICIENTS);
    const state = new Float64Array(FILTER_STATE);
    let random = 12345;
    const draw = (): number => (random = (random * 1103515245 + 12345) & 0x7fffffff) / 0x7fffffff;
    designFilter(FILTER_LP24, 1000, 50, RATE, b);
    let top = 0;
    for (let block = 0; block < 3000; block++) {
      a.set(b);
      designFilter(FILTER_LP24, 20 * 1000 ** draw(), 100 * draw(), RATE, b);
      const l = Float64Array.from({ length: 16 }, () => 2 * draw() - 1);
      lowpass24(state, a, b, l, l.slice(), 0, 16);
      for (const y of l) top = Math.max(top, Math.abs(y));
    }
    expect(top).toBeLessThan(40);
  });

  test("silence leaves no denormals behind", () => {
    const c = new Float64Array(COEFFICIENTS);
    const state = new Float64Array(FILTER_STATE).fill(0.5);
    designFilter(FILTER_LP24, 200, 0, RATE, c);
    for (let block = 0; block < 4000; block++) {
      lowpass24(state, c, c, new Float64Array(64), new Float64Array(64), 0, 64);
      flushState(state);
      for (const s of state) expect(s === 0 || Math.abs(s) > 1e-15).toBe(true);
    }
    expect([...state].every((s) => s === 0)).toBe(true);
  });
});

test("unison keeps its power, and its middle", () => {
  for (const count of [1, 2, 5, 8, 16]) {
    const power = (side: -1 | 1): number =>
      Array.from({ length: count }, (_, u) => unisonGain(u, count, 0.7, side) ** 2).reduce((a, b) => a + b, 0);
    expect(power(-1) + power(1)).toBeCloseTo(2, 12);
    expect(power(-1) / power(1)).toBeGreaterThan(count % 2 ? 0.999 : 0.4);
  }
});

describe("the safety limiter", () => {
  test("lets quiet sound through untouched and nothing over its ceiling", () => {
    const limiter = new SafetyLimiter(RATE);
    const quiet = Float64Array.from({ length: 64 }, (_, i) => 0.5 * Math.sin(i));
    const out = new Float32Array(64);
    limiter.process(quiet, quiet, 64, out, new Float32Array(64), 0);
    expect(out).toEqual(Float32Array.from(quiet));
    const loud = Float64Array.from({ length: 4800 }, (_, i) => 9 * Math.sin(i / 7));
    const limited = new Float32Array(4800);
    limiter.process(loud, loud, 4800, limited, new Float32Array(4800), 0);
    expect(Math.max(...limited.map(Math.abs))).toBeLessThanOrEqual(CEILING * 1.000001);
    expect(Math.max(...limited.map(Math.abs))).toBeGreaterThan(0.9);
  });
  test("turns what is no number into silence, and recovers", () => {
    const limiter = new SafetyLimiter(RATE);
    const bad = Float64Array.of(NaN, Infinity, -Infinity, 0.25);
    const out = new Float32Array(4);
    limiter.process(bad, bad, 4, out, new Float32Array(4), 0);
    expect([...out].every(Number.isFinite)).toBe(true);
    const after = new Float64Array(RATE).fill(0.25);
    const recovered = new Float32Array(RATE);
    limiter.process(after, after, RATE, recovered, new Float32Array(RATE), 0);
    expect(recovered.at(-1)).toBeCloseTo(0.25, 5);
  });
});
