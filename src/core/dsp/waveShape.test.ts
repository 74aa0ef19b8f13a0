import { describe, expect, test } from "vitest";
import { BENT_SINE } from "../../../tests/support/bentSine";
import { farthest } from "../../../tests/support/same";
import { fitting, project, spectrum } from "../../../tests/support/oneOscillator";
import { note } from "../../../tests/support/projects";
import { peak, spectrumOf } from "../../../tests/support/spectrum";
import { newOscillator } from "../patch/defaults";
import { adjusted } from "../patch/kinds/kind";
import type { Oscillator } from "../patch/kinds/oscillator";
import type { Harmonics } from "./fourier";
import { framesShown, waveShape } from "./waveShape";
import { harmonicsAt, ownFrames, tableHarmonics } from "./tables";

type Given = Required<Parameters<typeof adjusted<Oscillator>>[1]>;
const drawn = (choices: Given["choices"], values: Given["values"] = {}, data: Given["data"] = {}): Float64Array =>
  waveShape(adjusted(newOscillator("osc", "Oscillator"), { choices, values, data }));
/** A formula of the phase, 0 to 1, where the picture has its samples. */
const formula = (of: (p: number) => number): Float64Array => Float64Array.from({ length: 512 }, (_, i) => of(i / 512));

describe("the picture of a wave", () => {
  test("plain waves are those of the schoolbook", () => {
    expect(
      farthest(
        drawn({ wave: "sine" }),
        formula((p) => Math.sin(2 * Math.PI * p)),
      ),
    ).toBeLessThan(1e-4);
    expect(
      farthest(
        drawn({ wave: "saw" }),
        formula((p) => 2 * p - 1),
      ),
    ).toBeLessThan(1e-9);
    expect(farthest(drawn({ wave: "triangle" }), formula((p) => (2 / Math.PI) * Math.asin(Math.sin(2 * Math.PI * p))))).toBeLessThan(1e-9); // prettier-ignore
    expect(
      farthest(
        drawn({ wave: "pulse" }, { pulseWidth: 25 }),
        formula((p) => (p < 0.25 ? 1 : -1)),
      ),
    ).toBe(0);
  });

  test.each(Object.keys(BENT_SINE))("%s of a sine is its formula, as first bend and as second", (bend) => {
    // Straight lines between 512 samples of a sine lie within 2e-5 of it, times what bends make steeper; a step may fall beside.
    const of = BENT_SINE[bend]!;
    for (const amount of [15, 60]) {
      const expected = formula((p) => of(p, amount / 100));
      const [first, second] = (["bend1", "bend2"] as const).map((which) =>
        drawn({ wave: "sine", [which]: bend }, { [which]: amount }),
      );
      const wrong = [...first!].filter((v, i) => Math.abs(v - expected[i]!) > 1e-3).length;
      expect(wrong).toBeLessThanOrEqual(bend === "quantise" ? 4 : 0);
      expect(farthest(second!, first!)).toBe(0);
    }
  });

  test("half a radian of its own modulator turns it by half a radian", () => {
    const expected = formula((p) => Math.sin(2 * Math.PI * p + 0.5 * Math.sin(2 * Math.PI * 3 * p)));
    expect(farthest(drawn({ wave: "sine" }, { inner: 0.5, ratio: 3 }), expected)).toBeLessThan(2e-3);
    for (const [place, end] of [[-20, 0], [130, 100]] as const) expect(farthest(harmonicsAt(ownFrames("plain"), place).sin, harmonicsAt(ownFrames("plain"), end).sin)).toBe(0); // prettier-ignore
  });

  test("four corners blend as a square does, each at its own level", () => {
    const corners = (["plain", "vowels", "plain", "vowels"] as const).map((table, i) => ({ table, place: 25 * i, harmonic: 1, level: 0.25 * (i + 1), phase: 0 })); // prettier-ignore
    const [x, y] = [30, 80];
    const shares = [0.7 * 0.2, 0.3 * 0.2, 0.7 * 0.8, 0.3 * 0.8];
    const made = tableHarmonics(corners, x, y);
    for (const h of [1, 2, 5, 30]) {
      const each = corners.map((c) => harmonicsAt(ownFrames(c.table), c.place).sin[h - 1]!);
      expect(made.sin[h - 1]).toBeCloseTo(
        each.reduce((sum, v, i) => sum + v * shares[i]! * corners[i]!.level, 0),
        9,
      );
    }
  });

  test("bends work one after the other, and its own modulator turns the phase before them", () => {
    const both = drawn({ wave: "sine", bend1: "sync", bend2: "fold" }, { bend1: 25, bend2: 30 });
    const fold = BENT_SINE["fold"]!;
    // A sync of a quarter runs twice through; a fold of a value is that of the sine which has it.
    const expected = formula((p) => fold(Math.asin(Math.sin(4 * Math.PI * p)) / (2 * Math.PI), 0.3));
    expect(farthest(both, expected)).toBeLessThan(1e-3);
    // Phase modulation as Chowning has it (1973): sin(c + I sin(m)).
    const turned = drawn({ wave: "sine" }, { inner: 1.5, ratio: 3 });
    expect(farthest(turned, formula((p) => Math.sin(2 * Math.PI * p + 1.5 * Math.sin(6 * Math.PI * p))))).toBeLessThan(1e-3); // prettier-ignore
  });

  // Turned three times a cycle, each harmonic is made once; twice, what folds back at nothing meets what is there.
  const turning = [3, 2].flatMap((ratio) => (["sine", "triangle", "saw", "square"] as const).map((inner) => [inner, ratio] as const)); // prettier-ignore
  test.each(turning)("a %s that turns the phase %d times a cycle is drawn as it is heard", (inner, ratio) => {
    const { hz } = fitting(110);
    const at = spectrum(project({ notes: [note(0, 3840, 45)], choices: { "osc.wave": "sine", "osc.inner": inner }, values: { "osc.inner": 1.2, "osc.ratio": ratio, "osc.pitch": 12 * Math.log2(hz / 110) } }));
    const places = ratio === 3 ? [1, 2, 4, 5, 7, 8] : [1, 3, 5, 7, 9];
    const heard = places.map((h) => at(h * hz) - at(hz));
    for (const [choices, values] of [
      [{ innerPitch: "ratio" }, { ratio }],
      [{ innerPitch: "hz", keys: "fixed" }, { innerHz: 220 * ratio, fixed: 220 }],
      // Middle C two octaves down and seven semitones up.
      [{ innerPitch: "hz" }, { innerHz: 97.9989 * ratio, octave: -2, pitch: 6.5, fine: 50 }],
    ] as const) {
      const seen = spectrumOf(drawn({ wave: "sine", inner, ...choices }, { inner: 1.2, ...values }));
      const db = (h: number): number => 20 * Math.log10(Math.hypot(seen[2 * h]!, seen[2 * h + 1]!));
      const loud = places.map((h, i) => [db(h) - db(1), heard[i]!] as const).filter(([is]) => is > -45);
      expect(loud.length).toBeGreaterThanOrEqual(ratio + 1);
      expect(farthest(loud.map(([is]) => is), loud.map(([, sounds]) => sounds))).toBeLessThan(0.5);
    }
  }); // prettier-ignore

  test("four corners blend by where it stands between them, each with its level, its octave and its phase", () => {
    const sine = { table: "plain", place: 0 } as const;
    const corners = [
      { ...sine, harmonic: 1, level: 1, phase: 0 },
      { ...sine, harmonic: 2, level: 0.5, phase: 90 },
      { ...sine, harmonic: 3, level: 0, phase: 0 },
      { ...sine, harmonic: 4, level: 1, phase: 180 },
    ];
    const found = drawn({ wave: "corners" }, { position: 25, upward: 50 }, { corners });
    const sum = formula((p) => 0.375 * Math.sin(2 * Math.PI * p) + 0.125 * (0.5 * Math.cos(4 * Math.PI * p) - Math.sin(8 * Math.PI * p))); // prettier-ignore
    expect(
      farthest(
        found,
        sum.map((v) => v / peak(sum)),
      ),
    ).toBeLessThan(1e-3);
  });

  test("frames of a table are shown as loud as can be, the first and the last among them", () => {
    const frames = ownFrames("vowels");
    const shown = framesShown(frames, 5);
    expect(shown).toHaveLength(5);
    for (const cycle of shown) expect(peak(cycle)).toBeCloseTo(1, 9);
    // How loud the third harmonic is beside the first: by fft.js in the picture, by the frame's own figures.
    const inPicture = (cycle: Float64Array): number => {
      const x = spectrumOf(cycle);
      return Math.hypot(x[6]!, x[7]!) / Math.hypot(x[2]!, x[3]!);
    };
    const inFrame = ({ cos, sin }: Harmonics): number => Math.hypot(cos[2]!, sin[2]!) / Math.hypot(cos[0]!, sin[0]!);
    expect(inPicture(shown[0]!)).toBeCloseTo(inFrame(frames[0]!), 6);
    expect(inPicture(shown[4]!)).toBeCloseTo(inFrame(frames.at(-1)!), 6);
    expect(inFrame(frames[0]!)).not.toBeCloseTo(inFrame(frames.at(-1)!), 2);
    expect(framesShown(frames, 1000)).toHaveLength(frames.length);
    expect(framesShown(frames, 1)).toHaveLength(1);
  });
});
