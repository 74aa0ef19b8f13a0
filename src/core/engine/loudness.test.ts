import { describe, expect, test } from "vitest";
import { loudness } from "../measure/loudness";
import { makeProject, note, withSettings, type Made } from "../../../tests/support/projects";
import { expectSame } from "../../../tests/support/same";
import { peak, spectrumDb, toDb } from "../../../tests/support/spectrum";
import { newShape } from "../patch/defaults";
import { withSource, withoutSound } from "../patch/edit";
import type { Module } from "../patch/kinds";
import { adjusted, newModule } from "../patch/kinds/kind";
import { NOISE } from "../patch/kinds/noise";
import type { Project } from "../patch/project";
import { compileProject } from "./compile";
import { evenLevels } from "./even";
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
  // A click counts wherever it lies, at the very start too.
  const click = (at: number): Float32Array => new Float32Array(4800).map((_, i) => (i === at ? 1 : 0));
  expect(loudness(click(0))).toBeCloseTo(loudness(click(1)), 3);
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
  /** How loud a single voice is, each measured once. */
  const single = new Map<string, number>();
  const difference = (count: number, amp: Made["amp"], key: number, tempoBpm = 240): number => {
    const of = (unison: number): number => lufs({ song: { tempoBpm }, notes: [note(0, 3840, key)], values: { "osc.unison": unison, "osc.detune": 12 }, ...(amp ? { amp } : {}) }); // prettier-ignore
    const name = JSON.stringify([amp, key, tempoBpm]);
    const alone = single.get(name) ?? of(1);
    single.set(name, alone);
    return of(count) - alone;
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
    expectSame(left.slice(24_000, 36_000), left.slice(0, 12_000));
    expectSame(left.slice(48_000, 60_000), left.slice(0, 12_000));
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

/** A part of noise alone. */
const noisy = (
  values: Record<string, number>,
  choices: Record<string, string>,
  notes = [note(0, 3840, 60)],
): Project => {
  const project = makeProject({ notes, values: { "amp.level": -20 } });
  const part = project.parts[0]!;
  const made = withSource(withoutSound(part.patch, "osc"), newModule(NOISE, "noise", "Noise", {}));
  return { ...project, parts: [{ ...part, patch: withSettings(made, values, choices) }] };
};
const heardOf = (p: Project) => renderNow(compileProject(p), { sampleRate: RATE, bars: 1, tail: "cut" });

describe("noise", () => {
  /** Slope in dB an octave of the power in thirds of an octave from 100 Hz to 10 kHz, by least squares. */
  function slope(x: Float32Array): number {
    const n = 32_768;
    const spectra = [0, n, 2 * n - 10_000].map((at) => spectrumDb(x.slice(at, at + n)));
    const points: [number, number][] = [];
    for (let hz = 100; hz < 9000; hz *= 2 ** (1 / 3)) {
      const [from, to] = [Math.round((hz * n) / RATE), Math.round((hz * 2 ** (1 / 3) * n) / RATE)];
      let power = 0;
      for (const db of spectra) for (let k = from; k < to; k++) power += 10 ** (db(k) / 10);
      points.push([Math.log2(hz), 10 * Math.log10(power / (to - from))]);
    }
    const [mx, my] = [0, 1].map((i) => points.reduce((s, p) => s + p[i]!, 0) / points.length) as [number, number];
    return points.reduce((s, [x, y]) => s + (x - mx) * (y - my), 0) / points.reduce((s, [x]) => s + (x - mx) ** 2, 0);
  }
  test.each([["white", 0], ["pink", -3.01], ["brown", -6.02]] as const)("%s falls by %d dB an octave, within half a dB", (colour, db) => {
    expect(Math.abs(slope(heardOf(noisy({}, { "noise.colour": colour })).left) - db)).toBeLessThan(0.5);
  }); // prettier-ignore
  test("colours are as loud as a saw, within 1 LU", () => {
    const of = (p: Project): number => {
      const { left, right } = heardOf(p);
      return loudness(left, right);
    };
    const saw = of(makeProject({ notes: [note(0, 3840, 60)], values: { "amp.level": -20 } }));
    for (const colour of ["white", "pink", "brown"]) expect(Math.abs(of(noisy({}, { "noise.colour": colour })) - saw), colour).toBeLessThan(1); // prettier-ignore
  });
  test("starts alike with each note, or runs on; the seed draws another", () => {
    const hits = [note(0, 480, 60), note(960, 480, 60)];
    const parts = (p: Project) => {
      const { left } = heardOf(p);
      return [left.slice(0, 9000), left.slice(24_000, 33_000)] as const;
    };
    const alike = parts(noisy({}, {}, hits));
    expect(alike[1]).toEqual(alike[0]);
    const running = parts(noisy({}, { "noise.start": "running" }, hits));
    expect(running[1]).not.toEqual(running[0]);
    expect(parts({ ...noisy({}, {}, hits), seed: 8 })[0]).not.toEqual(alike[0]);
    expect(peak(alike[0])).toBeGreaterThan(0.01);
  });
  test("width goes from the same on both sides to nothing in common, at one loudness", () => {
    const of = (width: number) => {
      const { left, right } = heardOf(noisy({ "noise.width": width }, {}));
      const dot = (a: Float32Array, b: Float32Array): number => a.reduce((s, v, i) => s + v * b[i]!, 0);
      return { alike: dot(left, right) / Math.sqrt(dot(left, left) * dot(right, right)), power: dot(left, left) };
    };
    expect(of(0).alike).toBeCloseTo(1, 6);
    expect(Math.abs(of(100).alike)).toBeLessThan(0.02);
    expect(of(50).alike).toBeCloseTo(Math.cos(Math.PI / 4), 1);
    expect(10 * Math.log10(of(100).power / of(0).power)).toBeCloseTo(0, 1);
  });
  test("sampled and held: a new value as often as the rate says, held between", () => {
    // The filter is open at 20 kHz but still rounds; changes are counted where the step is large.
    const { left } = heardOf(noisy({ "noise.rate": 500, "filter.cutoff": 20_000 }, {}));
    let changes = 0;
    for (let i = 1000; i < 49_000; i++) {
      const step = Math.abs(left[i]! - left[i - 1]!);
      if (step > 0.004 && step >= Math.abs(left[i + 1]! - left[i]!) && step > Math.abs(left[i - 1]! - left[i - 2]!)) changes++;
    }
    expect(Math.abs(changes - 500)).toBeLessThan(50);
  }); // prettier-ignore
});

test("a source's level is heard in dB, and moved in percent of amplitude: one shape raises one and lowers another", () => {
  const saw = { notes: [note(0, 3840, 60)], values: { "amp.level": -20 } };
  const full = lufs(saw);
  expect(lufs({ ...saw, values: { ...saw.values, "osc.level": -9 } }) - full).toBeCloseTo(-9, 1);
  expect(lufs({ ...saw, values: { ...saw.values, "osc.level": -60 } })).toBe(-Infinity);
  const half: Module = adjusted(newShape("half", "Half"), { choices: { restart: "song" }, values: { smoothing: 0 }, data: { points: [{ x: 0, y: 0.5, tension: 0 }, { x: 1, y: 0.5, tension: 0 }] } }); // prettier-ignore
  // Half-way up from silence in amplitude is -6.02 dB.
  const moved = { ...saw, modules: [half], routes: [{ source: "half", target: "osc.level" as const, amount: -100, amplitude: true }] }; // prettier-ignore
  expect(lufs(moved) - full).toBeCloseTo(-6.02, 1);
});

test("sources are made equally loud, at the mean power that they had; a silent one stays", () => {
  const second = newModule(NOISE, "hiss", "Hiss", {});
  const silent = { ...newModule(NOISE, "none", "None", {}), on: false };
  const base = makeProject({ notes: [note(0, 3600, 48)], values: { "osc.level": -4 } });
  const part = base.parts[0]!;
  const p: Project = {
    ...base,
    parts: [
      { ...part, patch: withSettings(withSource(withSource(part.patch, second), silent), { "hiss.level": -24 }) },
    ],
  };
  const levels = evenLevels(p, part.id, new Map());
  expect([...levels.keys()].sort()).toEqual(["hiss", "osc"]);
  const alone = (id: string, level: number): number => {
    const only = withSettings(p.parts[0]!.patch, { [`${id}.level`]: level });
    const modules = only.modules.map((m) => (m.id !== id && ["osc", "hiss"].includes(m.id) ? { ...m, on: false } : m));
    const { left, right } = renderNow(compileProject({ ...p, parts: [{ ...part, patch: { ...only, modules } }] }), { sampleRate: RATE, bars: 1, tail: "cut" }); // prettier-ignore
    return loudness(left, right);
  };
  expect(alone("osc", levels.get("osc")!)).toBeCloseTo(alone("hiss", levels.get("hiss")!), 0);
  const mean = 10 * Math.log10((10 ** (alone("osc", -4) / 10) + 10 ** (alone("hiss", -24) / 10)) / 2);
  expect(alone("osc", levels.get("osc")!)).toBeCloseTo(mean, 0);
});
