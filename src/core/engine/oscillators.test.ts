import { readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { farthest } from "../../../tests/support/same";
import { BENT_SINE } from "../../../tests/support/bentSine";
import { N, RATE, fitting, project, sound, spectrum } from "../../../tests/support/oneOscillator";
import { note, withSettings, type Made } from "../../../tests/support/projects";
import { fftOf, peak, spectrumDb, spectrumOf } from "../../../tests/support/spectrum";
import { transform } from "../dsp/fourier";
import { FRAME_LEVELS, frameTable } from "../dsp/frameTables";
import { OWN_TABLE_IDS } from "../dsp/ownTableIds";
import { OWN_TABLES } from "../dsp/ownTables";
import { tableName, type TableSpec } from "../dsp/tableSpec";
import { harmonicsAt, makeTable, ownFrames } from "../dsp/tables";
import { newOscillator, newShape } from "../patch/defaults";
import { withSource } from "../patch/edit";
import type { Module } from "../patch/kinds";
import type { Oscillator } from "../patch/kinds/oscillator";
import { adjusted, newModule } from "../patch/kinds/kind";
import { NOISE } from "../patch/kinds/noise";
import { SUB } from "../patch/kinds/sub";
import type { Project } from "../patch/project";
import { TableKeeper } from "./tableKeeper";

describe("the transform", () => {
  test("is that of a library, and turns back", () => {
    const n = 1024;
    const re = Float64Array.from({ length: n }, (_, i) => Math.sin(i * 0.37) + ((i * 7919) % 13) / 13);
    const im = Float64Array.from({ length: n }, (_, i) => Math.cos(i * i * 0.01));
    const [a, b] = [re.slice(), im.slice()];
    transform(a, b);
    const fft = fftOf(n);
    const input = new Float64Array(2 * n);
    for (let i = 0; i < n; i++) [input[2 * i], input[2 * i + 1]] = [re[i]!, im[i]!];
    const out = new Float64Array(2 * n);
    fft.transform(out, input);
    for (let k = 0; k < n; k += 37) {
      expect(a[k]).toBeCloseTo(out[2 * k]!, 9);
      expect(b[k]).toBeCloseTo(out[2 * k + 1]!, 9);
    }
    transform(a, b, true);
    for (let i = 0; i < n; i += 41) expect(a[i]! / n).toBeCloseTo(re[i]!, 12);
    expect(() => transform(new Float64Array(12), new Float64Array(12))).toThrow(/power of two/);
  });
});

/** What tables of our own hold: projects name them, so one that was released stays as it is. */
const RELEASED = JSON.parse(readFileSync("tests/fixtures/tables.json", "utf8")) as Record<string, number[][]>;

describe("tables of our own", () => {
  test("there are thirty or so, each with a name of its own", () => {
    expect(OWN_TABLE_IDS.length).toBeGreaterThanOrEqual(24);
    expect(new Set(OWN_TABLE_IDS.map((id) => OWN_TABLES[id].name)).size).toBe(OWN_TABLE_IDS.length);
  });

  test.each(OWN_TABLE_IDS)("%s: every frame has a saw's power and no mean, and its levels lose half of the harmonics each", (id) => {
    const table = frameTable(ownFrames(id).filter((_, i) => i % 16 === 0));
    for (let f = 0; f < table.frames; f++) {
      const cycle = (level: number): Float32Array => {
        const [offset, bits] = table.levels[level]!;
        return table.samples.subarray(f * table.frameLength + offset, f * table.frameLength + offset + 2 ** bits);
      };
      const full = cycle(0);
      const mean = full.reduce((a, v) => a + v, 0) / full.length;
      const power = full.reduce((a, v) => a + v * v, 0) / full.length;
      expect(Math.abs(mean)).toBeLessThan(1e-4);
      // What a straight line will take from the highest ones stands in the samples.
      expect(10 * Math.log10(power * 3)).toBeCloseTo(0, 0);
      expect(cycle(FRAME_LEVELS - 1).every((v) => Math.abs(v) < 2)).toBe(true);
      const re = Float64Array.from(cycle(4));
      const im = new Float64Array(re.length);
      transform(re, im);
      let above = 0;
      for (let h = 33; h < 60; h++) above = Math.max(above, Math.hypot(re[h]!, im[h]!) / re.length);
      expect(above).toBeLessThan(1e-6);
    }
  }); // prettier-ignore

  test("what was released sounds as it did: some harmonics of the first, a middle and the last frame of each", () => {
    const now = Object.fromEntries(
      OWN_TABLE_IDS.map((id) => {
        const all = ownFrames(id);
        return [id, [0, all.length >> 1, all.length - 1].map((f) => [1, 2, 3, 5, 8, 13].flatMap((h) => [all[f]!.sin[h - 1]!, all[f]!.cos[h - 1]!]))]; // prettier-ignore
      }),
    );
    expect(Object.keys(now)).toEqual(Object.keys(RELEASED));
    const unlike = OWN_TABLE_IDS.filter((id) => !(farthest(now[id]!.flat(), RELEASED[id]!.flat()) < 1e-5));
    expect(unlike).toEqual([]);
  });

  test("two tables hold the harmonics that their names say: primes under a hundred and the first, and octaves", () => {
    const isPrime = (n: number): boolean => n === 1 || !Array.from({ length: n }, (_, i) => i).some((d) => d > 1 && n % d === 0);
    const held = (id: "primes" | "octaves"): number[] => [...ownFrames(id)[20]!.sin].flatMap((v, i) => (Math.abs(v) > 1e-9 ? [i + 1] : []));
    expect(held("primes")).toEqual(Array.from({ length: 99 }, (_, i) => i + 1).filter(isPrime));
    expect(held("octaves")).toEqual([1, 2, 4, 8, 16, 32, 64, 128, 256, 512]);
  }); // prettier-ignore

  test("a saw in the plain table has the series of a saw", () => {
    const saw = harmonicsAt(ownFrames("plain"), 200 / 3);
    for (const h of [2, 3, 7, 50]) expect(saw.sin[h - 1]! / saw.sin[0]!).toBeCloseTo(1 / h, 9);
  });
});

describe("a table of frames", () => {
  test("plays the harmonics of its frame, in tune, with nothing beside them", () => {
    const { hz, off } = fitting(440);
    const at = spectrum(project({ choices: { "osc.wave": "table" }, values: { "osc.pitch": off, "osc.position": 200 / 3 } }, { table: "plain" })); // prettier-ignore
    const first = at(hz);
    for (const h of [2, 3, 5, 10, 20, 40]) expect(at(h * hz) - first).toBeCloseTo(-20 * Math.log10(h), 1);
    for (let k = 1; k < 40; k++) expect(at((k + 0.5) * hz) - first).toBeLessThan(-85);
  });

  test.each([1500, 5000])("at %d Hz nothing folds back above -80 dB", (wanted) => {
    const { hz, off } = fitting(wanted);
    const at = spectrum(project({ notes: [note(0, 3840, 69)], choices: { "osc.wave": "table" }, values: { "osc.pitch": off, "osc.position": 200 / 3 } })); // prettier-ignore
    let worst = -200;
    for (let f = 100; f < 20_000; f += 37) if (Math.abs(f - Math.round(f / hz) * hz) > 60) worst = Math.max(worst, at(f));
    expect(worst - at(hz)).toBeLessThan(-80);
  }); // prettier-ignore

  test("is as loud between its frames as on them, and moves without a step", () => {
    const rms = (x: Float32Array): number => 10 * Math.log10(x.reduce((s, v) => s + v * v, 0) / x.length);
    const of = (position: number): number =>
      rms(sound(project({ choices: { "osc.wave": "table" }, values: { "osc.position": position } }, { table: "plain" })).slice(12_000, 60_000)); // prettier-ignore
    const on = of(0);
    for (const position of [10, 100 / 6, 33.3, 50, 80, 90, 100]) expect(Math.abs(of(position) - on)).toBeLessThan(0.2);
    const shape = adjusted(newShape("sweep", "Sweep"), { times: { rate: { unit: "note", num: 1, den: 1 } } });
    const moving = sound(project({ song: { tempoBpm: 240 }, choices: { "osc.wave": "table" }, modules: [shape], routes: [{ source: "sweep", target: "osc.position", amount: 100 }] }, { table: "sluice" })); // prettier-ignore
    // A step would be a click: all of it lies in few harmonics of 440 Hz here at the start, and above 15 kHz there is little.
    const db = spectrumDb(moving.slice(0, 8192));
    let high = -200;
    for (let k = Math.round((15_000 / RATE) * 8192); k < 4096; k++) high = Math.max(high, db(k));
    expect(high).toBeLessThan(-70);
  });

  test("four waves: each alone in its corner; in the middle unlike ones keep the power, equal ones the level", () => {
    const of = (position: number, upward: number, corners?: Oscillator["data"]["corners"]): Float32Array =>
      sound(project({ choices: { "osc.wave": "corners" }, values: { "osc.position": position, "osc.upward": upward } }, corners ? { corners } : {})).slice(12_000, 60_000); // prettier-ignore
    const rms = (x: Float32Array): number => 10 * Math.log10(x.reduce((s, v) => s + v * v, 0) / x.length);
    const level = rms(of(0, 0));
    for (const [x, y] of [[100, 0], [0, 100], [100, 100], [50, 50], [20, 70]] as const) expect(Math.abs(rms(of(x, y)) - level)).toBeLessThan(0.2); // prettier-ignore
    const corner = { table: "plain", place: 0, harmonic: 1, level: 1, phase: 0 } as const;
    const unlike = [1, 2, 3, 5].map((harmonic) => ({ ...corner, harmonic }));
    expect(Math.abs(rms(of(50, 50, unlike)) - level)).toBeLessThan(0.2);
    const db = spectrumDb(of(100, 0, unlike).slice(0, N));
    const bin = (hz: number): number => db(Math.round((hz * N) / RATE));
    expect(bin(880) - bin(440)).toBeGreaterThan(60);
  });

  test("a drawn wave has the levels that were drawn", () => {
    const { hz, off } = fitting(440);
    const at = spectrum(project({ choices: { "osc.wave": "drawn" }, values: { "osc.pitch": off } }, { drawn: [{ levels: [1, 0, 0.5, 0, 0, 0.25], phases: [0, 0, 90] }] })); // prettier-ignore
    expect(at(3 * hz) - at(hz)).toBeCloseTo(-6.02, 1);
    expect(at(6 * hz) - at(hz)).toBeCloseTo(-12.04, 1);
    expect(at(2 * hz) - at(hz)).toBeLessThan(-80);
  });

  test.each([["even", [0, 30, 60]], ["middle", [0, 15, 60]], ["ends", [0, 60 * Math.SQRT1_2, 60]]] as const)("voices of a unison that is spread %s lie where they should", (spread, places) => {
    const hz = 3520;
    const at = spectrum(project({ notes: [note(0, 3840, 105)], choices: { "osc.wave": "sine", "osc.spread": spread }, values: { "osc.unison": 5, "osc.detune": 60, "osc.width": 0 } }));
    const level = (cents: number): number => at(hz * 2 ** (cents / 1200));
    const lines = places.flatMap((p) => [level(p), level(-p)]);
    expect(Math.max(...lines) - Math.min(...lines)).toBeLessThan(3);
    // Nothing lies in the middle between them, or beyond.
    for (const p of [7, 22, 36, 51, 70]) if (places.every((q) => Math.abs(p - q) > 5)) expect(Math.max(level(p), level(-p))).toBeLessThan(Math.min(...lines) - 30);
  }); // prettier-ignore

  test("unison of a table spreads and stacks as plain waves do", () => {
    const { hz, off } = fitting(220);
    const at = spectrum(project({ choices: { "osc.wave": "table", "osc.stack": "fifths" }, values: { "osc.pitch": off, "osc.unison": 3, "osc.detune": 0 } })); // prettier-ignore
    for (const ratio of [1, 2 ** (7 / 12), 2]) expect(at(hz * ratio)).toBeGreaterThan(-30);
    expect(at(hz * 1.26)).toBeLessThan(-80);
    const plain = spectrum(project({ choices: { "osc.wave": "sine", "osc.stack": "minor" }, values: { "osc.pitch": off, "osc.unison": 4, "osc.detune": 0 } })); // prettier-ignore
    for (const st of [0, 3, 7, 12]) expect(plain(hz * 2 ** (st / 12))).toBeGreaterThan(-30);
  });
});

/** J_n(x) by its ascending series (Abramowitz and Stegun, 9.1.10). */
function bessel(n: number, x: number): number {
  let term = 1;
  for (let k = 1; k <= n; k++) term *= x / 2 / k;
  let sum = 0;
  for (let k = 0; k < 60; k++) {
    sum += term;
    term *= -((x / 2) ** 2) / ((k + 1) * (k + 1 + n));
  }
  return sum;
}

describe("a phase that is turned", () => {
  test("the series reads as the tables do (Abramowitz and Stegun, table 9.1)", () => {
    expect(bessel(0, 1)).toBeCloseTo(0.7651976866, 9);
    expect(bessel(1, 1)).toBeCloseTo(0.4400505857, 9);
    expect(bessel(0, 5)).toBeCloseTo(-0.1775967713, 9);
    expect(bessel(3, 5)).toBeCloseTo(0.3648312306, 9);
  });

  const carrier = fitting(3000);
  const modulator = fitting(200).hz;
  const sidebands = (at: (hz: number) => number, index: number): void => {
    // A sine of -12 dB at the amp, evened out to the saw; what the tone is without being turned is J_0(0) = 1.
    const clean = spectrum(project({ choices: { "osc.wave": "sine" }, values: { "osc.pitch": carrier.off, "osc.inner": 1e-9 } })); // prettier-ignore
    const full = clean(carrier.hz);
    for (let n = 0; n <= 6; n++) {
      const expected = 20 * Math.log10(Math.abs(bessel(n, index)));
      if (expected < -50) continue;
      // Hinges on the maker's phase: both sides of the carrier are alike.
      expect(Math.abs(at(carrier.hz + n * modulator) - full - expected)).toBeLessThan(0.2);
      expect(Math.abs(at(carrier.hz - n * modulator) - full - expected)).toBeLessThan(0.2);
    }
  };

  test.each([0.5, 1, 2.4, 5])("by its own modulator, %d radians: sidebands are Bessel's (Chowning 1973)", (index) => {
    const at = spectrum(project({ choices: { "osc.wave": "sine", "osc.innerPitch": "hz" }, values: { "osc.pitch": carrier.off, "osc.inner": index, "osc.innerHz": modulator } })); // prettier-ignore
    sidebands(at, index);
  });

  test("by another source that is silent itself, and by a ratio", () => {
    const silent = { ...newOscillator("other", "Other"), choices: { ...newOscillator("x", "x").choices, wave: "sine" as const, keys: "fixed" as const } }; // prettier-ignore
    const other = { ...silent, values: { ...silent.values, fixed: modulator, level: -60 } };
    const at = spectrum(project({ choices: { "osc.wave": "sine" }, values: { "osc.pitch": carrier.off, "osc.pm": 2 } }, { pmFrom: "other" }, (p) => withSource(p, other))); // prettier-ignore
    sidebands(at, 2);
    // The first frame of the plain table is a sine as well, turned the same way whoever plays it.
    const table = { ...other, choices: { ...other.choices, wave: "table" as const }, values: { ...other.values, position: 0 } }; // prettier-ignore
    sidebands(spectrum(project({ choices: { "osc.wave": "sine" }, values: { "osc.pitch": carrier.off, "osc.pm": 2 } }, { pmFrom: "other" }, (p) => withSource(p, table))), 2); // prettier-ignore
    const ratio = spectrum(project({ choices: { "osc.wave": "sine" }, values: { "osc.pitch": carrier.off, "osc.inner": 2, "osc.ratio": modulator / carrier.hz } })); // prettier-ignore
    sidebands(ratio, 2);
  });

  test("what is off turns nothing, nor does what runs later", () => {
    const plain = sound(project({ choices: { "osc.wave": "sine" } }));
    const other = adjusted(newOscillator("other", "Other"), { values: { level: -60 }, choices: { wave: "sine" } });
    const turned = (source: Module): Float32Array => sound(project({ choices: { "osc.wave": "sine" }, values: { "osc.pm": 2 } }, { pmFrom: "other" }, (p) => withSource(p, source))); // prettier-ignore
    expect(farthest(turned(other), plain)).toBeGreaterThan(0.01);
    expect(farthest(turned({ ...other, on: false }), plain)).toBe(0);
    // Of two that turn each other, the first one in the patch does; the other one is turned by nothing.
    const silent = adjusted(newOscillator("other", "Other"), { values: { level: -60, pm: 2 }, choices: { wave: "sine" }, data: { pmFrom: "osc" } }); // prettier-ignore
    expect(farthest(turned(silent), turned(adjusted(silent, { data: { pmFrom: null } })))).toBeLessThan(1e-6);
  });

  test("two that turn each other: the first one does, and nothing runs away", () => {
    const other = { ...newOscillator("other", "Other"), data: { ...newOscillator("x", "x").data, pmFrom: "osc" } };
    const loud = { ...other, values: { ...other.values, pm: 25, feedback: 3, inner: 25, ratio: 64 } };
    const x = sound(project({ values: { "osc.pm": 25, "osc.feedback": 3, "osc.bend1": 100, "osc.bend2": 100, "osc.unison": 16 }, choices: { "osc.bend1": "sync", "osc.bend2": "fold" } }, { pmFrom: "other" }, (p) => withSource(p, loud))); // prettier-ignore
    expect(x.every(Number.isFinite)).toBe(true);
    expect(peak(x)).toBeGreaterThan(0.01);
    expect(peak(x)).toBeLessThan(2);
  });

  test("ringing makes sums and differences, and takes the tones away", () => {
    const a = fitting(1000);
    const b = fitting(300).hz;
    const base = newOscillator("other", "Other");
    const other = { ...base, choices: { ...base.choices, wave: "sine" as const, keys: "fixed" as const }, values: { ...base.values, fixed: b, level: -60 } }; // prettier-ignore
    const at = spectrum(project({ choices: { "osc.wave": "sine" }, values: { "osc.pitch": a.off, "osc.ring": 100 } }, { ringFrom: "other" }, (p) => withSource(p, other))); // prettier-ignore
    const clean = spectrum(project({ choices: { "osc.wave": "sine" }, values: { "osc.pitch": a.off } }))(a.hz);
    expect(at(a.hz + b) - clean).toBeCloseTo(-6.02, 1);
    expect(at(a.hz - b) - clean).toBeCloseTo(-6.02, 1);
    expect(at(a.hz) - clean).toBeLessThan(-70);
  });

  test("a sub turns a phase, too, silent itself, an octave or two below the key", () => {
    for (const [below, octaves] of [["one", 1], ["two", 2]] as const) {
      const low = fitting(440 / 2 ** octaves).hz;
      const plain = newModule(SUB, "low", "Low", {});
      const sub = { ...plain, choices: { wave: "sine" as const, below }, values: { ...plain.values, level: -60, fine: 1200 * Math.log2((low * 2 ** octaves) / 440) } };
      const { hz } = fitting(1600);
      const at = spectrum(project({ choices: { "osc.wave": "sine", "osc.keys": "fixed" }, values: { "osc.fixed": hz, "osc.pm": 1 } }, { pmFrom: "low" }, (p) => withSource(p, sub)));
      // J1(1) / J0(1), Abramowitz and Stegun, table 9.1, of the key that plays: A4.
      for (const side of [-1, 1]) expect(at(hz + side * low) - at(hz)).toBeCloseTo(20 * Math.log10(0.440051 / 0.765198), 1);
    }
  }); // prettier-ignore

  test("a sub is an oscillator an octave or two below, at its own phase", () => {
    const only = (source: Module): Float32Array => sound(project({ values: { "osc.level": -60 } }, {}, (p) => withSource(p, source))); // prettier-ignore
    for (const [below, octave] of [
      ["one", -1],
      ["two", -2],
    ] as const) {
      const sub = only(adjusted(newModule(SUB, "low", "Low", {}), { values: { phase: 130, level: -3 }, choices: { below, wave: "saw" } })); // prettier-ignore
      const plain = only(adjusted(newOscillator("low", "Low"), { values: { phase: 130, level: -3, octave, unison: 1 }, choices: { wave: "saw", start: "fixed" } })); // prettier-ignore
      expect(peak(sub)).toBeGreaterThan(0.01);
      expect(farthest(sub, plain)).toBeLessThan(1e-5);
    }
  });

  test("noise turns a phase, too", () => {
    const noise = newModule(NOISE, "hiss", "Hiss", {});
    const at = spectrum(project({ choices: { "osc.wave": "sine" }, values: { "osc.pitch": carrier.off, "osc.pm": 1 } }, { pmFrom: "hiss" }, (p) => withSettings(withSource(p, noise), { "hiss.level": -60 }))); // prettier-ignore
    expect(at(carrier.hz + 777)).toBeGreaterThan(-85);
  });
});

describe("bends", () => {
  const { hz, off } = fitting(1000);
  const bent = (wave: string, bend: string, amount: number, extra: Made["values"] = {}): Project =>
    project({ choices: { "osc.wave": wave, "osc.bend1": bend }, values: { "osc.pitch": off, "osc.bend1": amount, ...extra } }); // prettier-ignore

  test.each(["sync", "squeeze", "pulse", "mirror", "fold", "quantise"])("%s: at nothing the wave is as it was, within 0.1 dB", (bend) => {
    const clean = spectrum(project({ choices: { "osc.wave": "triangle" }, values: { "osc.pitch": off } }));
    const at = spectrum(bent("triangle", bend, 0.001));
    for (const h of [1, 3, 5, 9]) expect(Math.abs(at(h * hz) - clean(h * hz))).toBeLessThan(0.1);
  }); // prettier-ignore

  test("a second bend that stands alone is as a first one that does, and one of no amount is none", () => {
    const of = (first: string, amount1: number, second: string, amount2: number): Float32Array =>
      sound(project({ choices: { "osc.wave": "sine", "osc.bend1": first, "osc.bend2": second }, values: { "osc.bend1": amount1, "osc.bend2": amount2 } })); // prettier-ignore
    const alone = of("squeeze", 40, "none", 0);
    expect(farthest(of("none", 0, "squeeze", 40), alone)).toBeLessThan(1e-6);
    expect(farthest(of("squeeze", 40, "fold", 0), alone)).toBeLessThan(1e-6);
    expect(farthest(of("fold", 0, "squeeze", 40), alone)).toBeLessThan(1e-6);
    expect(farthest(of("fold", 40, "squeeze", 40), alone)).toBeGreaterThan(0.01);
  });

  test.each(["sync", "squeeze", "mirror"])("%s: bent by next to nothing, a table is as loud as it was", (bend) => {
    const power = (choices: Made["choices"], amount: number): number => {
      const x = sound(project({ choices: { "osc.wave": "table", ...choices }, values: { "osc.bend1": amount } }, { table: "vowels" })).slice(12_000, 40_000); // prettier-ignore
      return 10 * Math.log10(x.reduce((sum, v) => sum + v * v, 0));
    };
    expect(power({ "osc.bend1": bend }, 0.01) - power({}, 0)).toBeCloseTo(0, 0);
  });

  test.each(Object.keys(BENT_SINE))("%s: a sine's harmonics are those of the formula", (bend) => {
    const amount = 60;
    const at = spectrum(bent("sine", bend, amount));
    const full = spectrum(project({ choices: { "osc.wave": "sine" }, values: { "osc.pitch": off } }))(hz);
    // Fourier's integral, as the sum of so many values of a cycle (fft.js).
    const n = 1 << 16;
    const sums = spectrumOf(Float64Array.from({ length: n }, (_, i) => BENT_SINE[bend]!((i + 0.5) / n, amount / 100)));
    for (const h of [1, 2, 3, 4, 5, 8]) {
      const expected = 20 * Math.log10((2 * Math.hypot(sums[2 * h]!, sums[2 * h + 1]!)) / n + 1e-12);
      if (expected > -50) expect(Math.abs(at(h * hz) - full - expected)).toBeLessThan(0.25);
      else expect(at(h * hz) - full).toBeLessThan(-48);
    }
  });

  test.each(["sync", "squeeze", "pulse", "mirror", "fold", "quantise"].flatMap((b) => [[b, "sine"], [b, "saw"]]))(
    "%s of a %s: at full amount what folds back from a tone of 1 kHz lies under -60 dB",
    (bend, wave) => {
      // A longer look: what folds back lies close together.
      const p = bent(wave, bend, 100);
      const at = spectrum({ ...p, song: { ...p.song, tempoBpm: 148 } }, 2 * N);
      let loudest = -200;
      for (let h = 1; h < 19; h++) loudest = Math.max(loudest, at(h * hz));
      let worst = -200;
      for (let f = 100; f < 19_500; f += RATE / N) if (Math.abs(f - Math.round(f / hz) * hz) > 15) worst = Math.max(worst, at(f));
      expect(worst - loudest).toBeLessThan(-60);
    },
  ); // prettier-ignore

  test("two bends in a row, moved by a shape at 90 Hz, stay within bounds and make no clicks of their own", () => {
    const shape = adjusted(newShape("lfo", "Lfo"), { times: { rate: { unit: "hz", hz: 90 } } });
    const x = sound(project({ modules: [shape], choices: { "osc.wave": "sine", "osc.bend1": "squeeze", "osc.bend2": "fold" }, routes: [{ source: "lfo", target: "osc.bend1", amount: 80 }, { source: "lfo", target: "osc.bend2", amount: 30 }] })); // prettier-ignore
    expect(x.every(Number.isFinite)).toBe(true);
    const db = spectrumDb(x.slice(12_000, 12_000 + N));
    let high = -200;
    for (let k = Math.round((17_000 / RATE) * N); k < N / 2; k++) high = Math.max(high, db(k));
    expect(high).toBeLessThan(-60);
  });
});

describe("pitch", () => {
  test("middle C eight octaves down is 1.022 Hz", () => {
    const p = project({ song: { tempoBpm: 30 }, notes: [note(0, 3840, 60)], choices: { "osc.wave": "sine" }, values: { "osc.octave": -8 } }); // prettier-ignore
    const x = sound(p);
    const rises: number[] = [];
    for (let i = 1; i < x.length; i++) if (x[i - 1]! < 0 && x[i]! >= 0) rises.push(i);
    const cycles = rises.length - 1;
    expect(cycles).toBeGreaterThan(4);
    expect((RATE * cycles) / (rises.at(-1)! - rises[0]!)).toBeCloseTo(261.6256 / 256, 3);
  });

  test("a fixed pitch stands, whatever key is played, and pitch and fine go on from there", () => {
    const at = (key: number, values: Made["values"]): ((hz: number) => number) =>
      spectrum(project({ notes: [note(0, 3840, key)], choices: { "osc.wave": "sine", "osc.keys": "fixed" }, values: { "osc.fixed": 1000, ...values } })); // prettier-ignore
    expect(at(40, {})(1000)).toBeGreaterThan(-20);
    expect(at(90, {})(1000)).toBeGreaterThan(-20);
    expect(at(90, { "osc.pitch": 12 })(2000)).toBeGreaterThan(-20);
    expect(at(90, { "osc.pitch": 12 })(1000)).toBeLessThan(-80);
  });

  test("phases run on where they shall: two equal notes differ; fixed ones do not", () => {
    const of = (start: string, wave: string, values: Made["values"] = {}): number => {
      const x = sound(project({ notes: [note(0, 300, 69), note(1920, 300, 69)], song: { tempoBpm: 120 }, choices: { "osc.wave": wave, "osc.start": start }, values: { "osc.pitch": 0.37, ...values } })); // prettier-ignore
      const [a, b] = [x.slice(0, 6000), x.slice(48_000, 54_000)];
      return peak(a.map((v, i) => v - b[i]!));
    };
    // What runs on sets out from its phase, too.
    const first = (start: string): Float32Array => sound(project({ choices: { "osc.wave": "sine", "osc.start": start }, values: { "osc.phase": 90 } })).slice(0, 3000); // prettier-ignore
    expect(first("running")).toEqual(first("fixed"));
    for (const [wave, values] of [
      ["sine", {}],
      ["table", {}],
      ["sine", { "osc.inner": 0.5 }],
    ] as const) {
      expect(of("fixed", wave, values)).toBeLessThan(1e-6);
      expect(of("running", wave, values)).toBeGreaterThan(0.01);
    }
  });
});

test("tables that no program of late reads are dropped, those that are come once", () => {
  const keeper = new TableKeeper();
  const drawn = (level: number): TableSpec => ({ kind: "drawn", frames: [{ levels: [level], phases: [] }] });
  const saw: TableSpec = { kind: "wave", wave: "saw" };
  expect(keeper.next([saw, drawn(0.1)])).toEqual({ lacking: [saw, drawn(0.1)], unused: [] });
  expect(keeper.next([saw, drawn(0.1)])).toEqual({ lacking: [], unused: [] });
  let dropped: string[] = [];
  for (let i = 2; i < 12; i++) dropped = [...dropped, ...keeper.next([saw, drawn(i / 20)]).unused];
  expect(dropped).toContain(tableName(drawn(0.1)));
  expect(dropped).not.toContain("saw");
  // One that comes back is sent again.
  expect(keeper.next([saw, drawn(0.1)]).lacking).toEqual([drawn(0.1)]);
  expect(makeTable(saw)).toBe(makeTable(saw));
  // An engine that is begun anew has none of them.
  keeper.clear();
  expect(keeper.next([saw])).toEqual({ lacking: [saw], unused: [] });
});
