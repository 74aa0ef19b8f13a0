import { describe, expect, test } from "vitest";
import { spectrumOf } from "../../../tests/support/spectrum";
import { Bench, LANES, RATE, ROW } from "../../../tests/support/kernelBench";
import { BANK_TYPES, filterMagnitudeDb, type FilterSetting, type FilterType } from "../dsp/filter";
import { hash01 } from "../pattern/chance";

/** What the other lanes hear meanwhile: noise on the left. */
const BESIDE = Float32Array.from({ length: 512 }, (_, i) => (i < 256 && i % 4 !== 1 ? hash01(i % 4, i >> 2) - 0.5 : 0));

/** Runs a filter's kernel on lane 1 of a bus, a block of 64 frames at a time; `rows` may be set again before each block. */
function run(
  f: FilterSetting & { drive?: number; apart?: number },
  n: number,
  input: (frame: number) => number,
  side: 0 | 1 = 0,
  cutoffAt: (frame: number) => number = () => f.cutoffHz,
): Float64Array {
  const b = new Bench();
  const frames = 4096;
  const memory = b.heap.take(32 + frames * 32);
  const aside = b.heap.take(1024);
  const { kernels } = b.heap;
  const log2Rate = Math.log2(RATE);
  const at = (use: number): number => use * LANES * 8;
  const out = new Float64Array(n);
  const bus = b.heap.float32(b.bus, 512);
  b.segments([[0, 1, 0, 64]]);
  const set = (row: number, frame: number): void => {
    b.set(row, 0, [10, Math.log2(cutoffAt(frame)), 9, 9]);
    b.set(row, 1, [0, f.resonance, 0, 0]);
    b.set(row, 2, [1.9, f.width ?? 1.9, 1, 1]);
    b.set(row, 3, [0, f.vowel ?? 0, 0, 0]);
    b.set(row, 4, [0, f.apart ?? 0, 0, 0]);
    b.set(row, 5, [0, f.drive ?? 0, 0, 0]);
  };
  for (let from = 0; from < n; from += 64) {
    set(0, from);
    set(1, from + 64);
    bus.set(BESIDE);
    for (let i = 0; i < 64; i++) bus[i * 4 + 1] = bus[256 + i * 4 + 1] = input(from + i);
    const fresh = from === 0 ? 1 : 0;
    if (f.type === "ladder")
      kernels.ladder(memory, log2Rate, b.rowsAt, ROW * 8, at(0), at(1), at(5), at(4), b.segmentsAt, 1, b.bus);
    else if (f.type === "combUp" || f.type === "combDown")
      kernels.comb(memory, frames - 1, f.type === "combUp" ? 1 : -1, log2Rate, b.rowsAt, ROW * 8, at(0), at(1), at(4), b.segmentsAt, 1, b.bus); // prettier-ignore
    else
      kernels.filterBank(BANK_TYPES[f.type], memory, log2Rate, b.rowsAt, ROW * 8, at(0), at(1), at(2), at(3), at(4), b.segmentsAt, 1, fresh, b.bus, aside); // prettier-ignore
    out.set(b.lane(side, 1), from);
  }
  return out;
}

/** Level in dB at a frequency of what comes of an impulse, by fft.js. */
function response(f: FilterSetting & { drive?: number; apart?: number }, side: 0 | 1 = 0): (hz: number) => number {
  const n = 32_768;
  // Soft, so that nothing bends.
  const soft = 2 ** -10;
  const out = run(f, n, (i) => (i === 0 ? soft : 0), side);
  const spectrum = spectrumOf(out);
  return (hz) => {
    const k = Math.round((hz / RATE) * n);
    return 20 * Math.log10(Math.hypot(spectrum[2 * k]!, spectrum[2 * k + 1]!) / soft + 1e-12);
  };
}

/** The frequency between two at which a falling or rising response crosses a level. */
function crossing(of: (hz: number) => number, level: number, from: number, to: number): number {
  let [a, b] = [from, to];
  const above = of(a) > level;
  for (let i = 0; i < 40; i++) {
    const m = Math.sqrt(a * b);
    if (of(m) > level === above) a = m;
    else b = m;
  }
  return a;
}

describe("filters of several sections", () => {
  const settings: FilterSetting[] = [
    ...(["lp24", "lp12", "hp12", "hp24", "bp12", "bp24", "notch12", "notch24", "allpass"] as const).flatMap((type) => [
      { type, cutoffHz: 700, resonance: 0 },
      { type, cutoffHz: 3000, resonance: 60, width: 1 },
    ]),
    { type: "vowel", cutoffHz: 1000, resonance: 50, vowel: 0 },
    { type: "vowel", cutoffHz: 1400, resonance: 20, vowel: 62.5 },
    { type: "ladder", cutoffHz: 900, resonance: 0 },
    { type: "ladder", cutoffHz: 2500, resonance: 70 },
    // Past what can be: just below half the sample rate.
    { type: "lp12", cutoffHz: 30_000, resonance: 0 },
    { type: "ladder", cutoffHz: 60_000, resonance: 20 },
    { type: "vowel", cutoffHz: 14_000, resonance: 0, vowel: 30 },
    { type: "combUp", cutoffHz: 480, resonance: 40 },
    { type: "combDown", cutoffHz: 480, resonance: 60 },
  ];
  test.each(settings)("what is drawn is what sounds: $type at $cutoffHz Hz, resonance $resonance", (f) => {
    const measured = response(f);
    for (const hz of [60, 120, 300, 480, 700, 960, 1500, 3000, 5000, 9000]) {
      const k = Math.round((hz / RATE) * 32_768);
      const expected = filterMagnitudeDb(f, RATE, (k * RATE) / 32_768);
      // Far down neither is heard; but one of them alone never is.
      if (!(Math.max(expected, measured(hz)) < -70)) expect(measured(hz)).toBeCloseTo(expected, 1);
    }
  });

  test("a width is that between the half-power points, in octaves", () => {
    for (const width of [0.5, 1, 2.5])
      for (const [type, outside] of [
        ["bp12", 1],
        ["bp24", 1],
        ["notch12", -1],
        ["notch24", -1],
      ] as const) {
        // prettier-ignore
        const of = (hz: number): number => filterMagnitudeDb({ type, cutoffHz: 500, resonance: 0, width }, 192_000, hz);
        const low = crossing((hz) => outside * of(hz), outside * -3.0103, 20, 499.9);
        const high = crossing((hz) => outside * of(hz), outside * -3.0103, 500.1, 12_000);
        expect(Math.log2(high / low)).toBeCloseTo(width, 2);
      }
  });

  test("slopes: 24 dB an octave where two sections or four poles run, 12 where one does", () => {
    const slope = (type: FilterType, low: number, high: number): number => {
      const of = response({ type, cutoffHz: 1000, resonance: 0 });
      return (of(high) - of(low)) / Math.log2(high / low);
    };
    // The transform pulls the top down: measured well below half the rate.
    expect(slope("hp24", 60, 120)).toBeCloseTo(24, 0);
    expect(slope("hp12", 60, 120)).toBeCloseTo(12, 0);
    expect(slope("ladder", 5000, 7000)).toBeLessThan(-22);
    const ladder = response({ type: "ladder", cutoffHz: 200, resonance: 0 });
    expect(ladder(3200) - ladder(1600)).toBeCloseTo(-24, 0);
  });

  test("the sides may lie apart: half of the semitones each way", () => {
    for (const type of ["lp24", "ladder"] as const) {
      const set = { type, cutoffHz: 1000, resonance: 0, apart: 12 };
      const [left, right] = [response(set, 0), response(set, 1)];
      const level = filterMagnitudeDb({ type, cutoffHz: 1000, resonance: 0 }, RATE, 1000);
      expect(left(1000 / Math.SQRT2)).toBeCloseTo(level, 0);
      expect(right(1000 * Math.SQRT2)).toBeCloseTo(level, 0);
    }
  });

  test("an all-pass changes no level, only time", () => {
    const of = response({ type: "allpass", cutoffHz: 800, resonance: 40, width: 1.2 });
    for (const hz of [50, 400, 800, 1600, 9000]) expect(of(hz)).toBeCloseTo(0, 2);
    const out = run({ type: "allpass", cutoffHz: 800, resonance: 0 }, 4096, (i) => (i === 0 ? 1 : 0));
    expect(Math.abs(out[0]!)).toBeLessThan(0.9);
  });
});

test("a comb's peaks lie at the multiples of 1 / delay, or half-way between", () => {
  const up = response({ type: "combUp", cutoffHz: 375, resonance: 70 });
  const down = response({ type: "combDown", cutoffHz: 375, resonance: 70 });
  for (const n of [1, 2, 5]) {
    expect(up(375 * n) - up(375 * (n + 0.5))).toBeGreaterThan(18);
    expect(down(375 * (n + 0.5)) - down(375 * n)).toBeGreaterThan(18);
    // 1 / (1 - f) against 1 / (1 + f), with f = 0.99 (1 - 0.3^2).
    const f = 0.99 * 0.91;
    expect(up(375 * n) - up(375 * (n + 0.5))).toBeCloseTo(20 * Math.log10((1 + f) / (1 - f)), 0);
  }
});

test("a comb between two frames is in tune, too", () => {
  // 48 000 / 440 = 109.09 frames: an impulse comes round after that.
  const out = run({ type: "combUp", cutoffHz: 440, resonance: 100 }, 8192, (i) => (i === 0 ? 0.5 : 0));
  const centre = (from: number, to: number): number => {
    let [sum, weight] = [0, 0];
    for (let i = Math.floor(from); i < to; i++) {
      sum += i * out[i]!;
      weight += out[i]!;
    }
    return sum / weight;
  };
  const tenth = centre(1080, 1102);
  expect(tenth).toBeCloseTo(10 * (48_000 / 440), 1);
});

describe("the driven four-pole", () => {
  test.each([50, 110, 440, 1000, 3000, 10_000])("goes on by itself at its cutoff, %d Hz, within 5 cents", (hz) => {
    const n = 65_536;
    const out = run({ type: "ladder", cutoffHz: hz, resonance: 100 }, n, (i) => (i === 0 ? 0.5 : 0));
    // Zero crossings of the second half, between frames by a straight line.
    const crossings: number[] = [];
    for (let i = n / 2; i < n; i++)
      if (out[i - 1]! < 0 && out[i]! >= 0) crossings.push(i - 1 + out[i - 1]! / (out[i - 1]! - out[i]!));
    const cycles = crossings.length - 1;
    expect(cycles).toBeGreaterThan(20);
    const measured = (RATE * cycles) / (crossings.at(-1)! - crossings[0]!);
    expect(Math.abs(1200 * Math.log2(measured / hz))).toBeLessThan(5);
    expect(Math.max(...out.slice(n / 2))).toBeGreaterThan(0.1);
    expect(Math.max(...out.slice(n / 2))).toBeLessThan(1);
  });

  test("below the loop gain of four it dies away", () => {
    const out = run({ type: "ladder", cutoffHz: 500, resonance: 85 }, 32_768, (i) => (i === 0 ? 0.5 : 0));
    expect(Math.max(...out.slice(30_000).map(Math.abs))).toBeLessThan(1e-5);
  });

  test("drive makes harmonics and keeps the level", () => {
    const sine = (i: number): number => 0.7 * Math.sin((2 * Math.PI * 187.5 * i) / RATE);
    const of = (drive: number): { rms: number; third: number } => {
      const n = 16_384;
      const out = run({ type: "ladder", cutoffHz: 8000, resonance: 0, drive }, 2 * n, sine).slice(n);
      const spectrum = spectrumOf(out);
      const level = (h: number): number => Math.hypot(spectrum[2 * 64 * h]!, spectrum[2 * 64 * h + 1]!);
      return { rms: Math.sqrt(out.reduce((s, v) => s + v * v, 0) / n), third: 20 * Math.log10(level(3) / level(1)) };
    };
    const [clean, driven] = [of(0), of(24)];
    expect(clean.third).toBeLessThan(-30);
    expect(driven.third).toBeGreaterThan(-14);
    expect(Math.abs(20 * Math.log10(driven.rms / clean.rms))).toBeLessThan(7);
  });

  test.each(["ladder", "lp24", "bp24", "vowel", "combUp"] as const)(
    "%s stays within bounds while the cutoff jumps at every row at full resonance",
    (type) => {
      const out = run({ type, cutoffHz: 500, resonance: 100, vowel: 40, drive: 36 }, 48_000, (i) => hash01(i) - 0.5, 0, (frame) =>
        20 * 2 ** (10 * hash01(frame, 7)),
      ); // prettier-ignore
      expect(out.every((v) => Number.isFinite(v))).toBe(true);
      expect(Math.max(...out.map(Math.abs))).toBeLessThan(60);
    },
  );
});

test("vowels peak where Peterson and Barney measured men's formants", () => {
  // The first two formants of "heed", "had"-like a, "who'd" (1952): within a sixth of an octave of the peaks.
  for (const [vowel, formants] of [
    [0, [730, 1090]],
    [50, [270, 2290]],
    [100, [300, 870]],
  ] as const) {
    // prettier-ignore
    const of = response({ type: "vowel", cutoffHz: 1000, resonance: 60, vowel });
    for (const hz of formants) {
      const around = Array.from({ length: 61 }, (_, i) => hz * 2 ** ((i - 30) / 90));
      const top = around.reduce((best, f) => (of(f) > of(best) ? f : best), hz);
      expect(Math.abs(Math.log2(top / hz))).toBeLessThan(1 / 6);
      expect(of(top)).toBeGreaterThan(of(hz * 1.25));
    }
  }
});

describe("drive before a filter", () => {
  const bend = (drive: number, hz: number, level: number): { spectrum: (hz: number) => number; peak: number } => {
    const b = new Bench();
    const memory = b.heap.take(896);
    for (let l = 0; l < 4; l++) b.heap.kernels.clearSaturateLane(memory, l);
    for (const row of [0, 1]) b.set(row, 0, [drive, drive, drive, drive]);
    b.segments([[0, 1, 0, 64]]);
    const n = 32_768;
    const out: number[] = [];
    for (let at = 0; at < 2 * n; at += 64) {
      b.fill((_s, _l, i) => level * Math.sin((2 * Math.PI * hz * (at + i)) / RATE));
      b.heap.kernels.saturate(memory, b.rowsAt, ROW * 8, 0, b.segmentsAt, 1, b.bus);
      out.push(...b.lane(1, 2));
    }
    const spectrum = spectrumOf(out.slice(n));
    return {
      spectrum: (f) => 20 * Math.log10((2 * Math.hypot(spectrum[2 * Math.round((f / RATE) * n)]!, spectrum[2 * Math.round((f / RATE) * n) + 1]!)) / n + 1e-9),
      peak: Math.max(...out.slice(n)),
    };
  }; // prettier-ignore
  const tone = (RATE / 32_768) * 683;

  test("at 0 dB nothing is bent; at more, full scale stays where it is", () => {
    const clean = bend(0, tone, 1);
    expect(clean.spectrum(3 * tone)).toBeLessThan(-85);
    expect(clean.peak).toBeCloseTo(1, 2);
    // A square wave's first harmonic is 4 / pi (Fourier): that is where hard driven full scale ends.
    expect(bend(36, tone, 1).spectrum(tone)).toBeCloseTo(20 * Math.log10(4 / Math.PI), 1);
    expect(bend(24, tone, 0.1).peak).toBeGreaterThan(0.85);
  });

  test("harmonics are those of tanh, by Fourier's integral in float64", () => {
    const drive = 12;
    const c = 10 ** (drive / 20) - 1;
    const bent = bend(drive, tone, 0.8);
    for (const h of [1, 3, 5, 7]) {
      let sum = 0;
      for (let i = 0; i < 4096; i++) {
        const x = (2 * Math.PI * i) / 4096;
        sum += (Math.tanh(c * 0.8 * Math.sin(x)) / Math.tanh(c)) * Math.sin(h * x);
      }
      expect(bent.spectrum(h * tone)).toBeCloseTo(20 * Math.log10((2 * Math.abs(sum)) / 4096), 1);
    }
  });

  test("what folds back at 36 dB lies under -60 dB of a tone of 1 kHz", () => {
    const { spectrum } = bend(36, tone, 1);
    let worst = -200;
    for (let hz = 300; hz < 20_000; hz += RATE / 32_768) {
      const nearest = Math.abs(hz - Math.round(hz / tone) * tone);
      if (nearest > 12) worst = Math.max(worst, spectrum(hz));
    }
    expect(worst).toBeLessThan(-60);
  });
});

test("a blend: what came in at 0 %, what is filtered at 100 %, straight between", () => {
  const b = new Bench();
  b.set(0, 0, [0, 100, 50, 0]);
  b.set(1, 0, [0, 100, 50, 100]);
  b.segments([[0, 1, 0, 64]]);
  b.fill(() => 0.25);
  const dry = b.heap.take(2048);
  b.heap.kernels.copyBus(b.bus, dry);
  b.fill(() => 1);
  b.heap.kernels.blend(dry, b.rowsAt, ROW * 8, 0, b.segmentsAt, 1, b.bus);
  expect(b.lane(0, 0)[63]).toBe(0.25);
  expect(b.lane(1, 1)[20]).toBe(1);
  expect(b.lane(0, 2)[5]).toBeCloseTo(0.625, 6);
  expect(b.lane(1, 3)[31]).toBeCloseTo(0.25 + 0.75 * 0.5, 6);
});
