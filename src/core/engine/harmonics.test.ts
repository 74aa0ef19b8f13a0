import { describe, expect, test } from "vitest";
import { fitting, project, sound, spectrum } from "../../../tests/support/oneOscillator";
import { weightedAt } from "../dsp/tables";
import { newShape } from "../patch/defaults";
import { adjusted } from "../patch/kinds/kind";
import { OSCILLATOR_DATA, type HarmonicWeights } from "../patch/kinds/oscillator";

const plain: HarmonicWeights = { ...OSCILLATOR_DATA.weights, pattern: [1] };
const level = (w: Partial<HarmonicWeights>, h: number, percent = 100): number => {
  const { cos, sin } = weightedAt({ ...plain, ...w }, percent);
  return Math.hypot(cos[h - 1]!, sin[h - 1]!);
};
/** Of a saw with the same power, whose harmonics fall as 1/h. */
const saw = (h: number): number => level({}, 1) / h;

describe("weighted harmonics of a saw", () => {
  test.each<[string, Partial<HarmonicWeights>, (h: number) => number]>([
    ["as they are", {}, saw],
    ["a pattern of three, again and again", { pattern: [1, 0.5, 0.25] }, (h) => saw(h) * [0.25, 1, 0.5][h % 3]!],
    ["every second: the odd ones", { every: 2 }, (h) => (h % 2 === 1 ? saw(h) : 0)],
    ["every third: the first, the fourth, the seventh", { every: 3 }, (h) => (h % 3 === 1 ? saw(h) : 0)],
    ["every fourth of a pattern of two", { every: 4, pattern: [0.5, 1] }, (h) => (h % 4 === 1 ? 0.5 * saw(h) : 0)],
    ["from the third to the fifth", { low: 3, high: 5 }, (h) => (h >= 3 && h <= 5 ? saw(h) : 0)],
    ["moved up by two", { shift: 2 }, (h) => (h > 2 ? saw(h - 2) : 0)],
    ["moved down by one: the first falls out", { shift: -1 }, (h) => saw(h + 1)],
    ["turned: as loud as before", { turn: 90 }, saw],
  ])("%s", (_name, w, expected) => {
    for (const h of [1, 2, 3, 4, 5, 6, 7, 30]) expect(level(w, h)).toBeCloseTo(expected(h), 6);
    // No amount leaves the saw.
    for (const h of [1, 2, 9]) expect(level(w, h, 0)).toBeCloseTo(saw(h), 6);
  });

  test("half of the amount leaves half of what is taken, and turns half as far", () => {
    expect(level({ pattern: [1, 0] }, 2, 50)).toBeCloseTo(saw(2) / 2, 6);
    const { cos, sin } = weightedAt({ ...plain, turn: 60 }, 50);
    const was = weightedAt(plain, 0);
    const angle = (c: number, s: number): number => Math.atan2(c, s);
    // The third harmonic: twice 60 degrees, half of it.
    const by = angle(cos[2]!, sin[2]!) - angle(was.cos[2]!, was.sin[2]!);
    expect((((by * 180) / Math.PI + 540) % 360) - 180).toBeCloseTo(60, 6);
  });

  test("a turn leaves levels as they are, and turns each harmonic by so much more than the one before, sines and cosines alike", () => {
    const gravel = { ...plain, table: "gravel" as const, place: 40, turn: 50 };
    const [was, now] = [weightedAt(gravel, 0), weightedAt(gravel, 100)];
    for (const h of [1, 2, 3, 7]) {
      const [a, b] = [was, now].map(({ cos, sin }) => ({ level: Math.hypot(cos[h - 1]!, sin[h - 1]!), angle: (180 / Math.PI) * Math.atan2(cos[h - 1]!, sin[h - 1]!) })) as [{ level: number; angle: number }, { level: number; angle: number }];
      expect(b.level).toBeCloseTo(a.level, 9);
      expect(Math.abs((((b.angle - a.angle - 50 * (h - 1)) % 360) + 540) % 360 - 180)).toBeLessThan(1e-6);
    }
  }); // prettier-ignore

  test("are heard as they are weighted: a saw without its even harmonics is a square", () => {
    const { hz, off } = fitting(440);
    const at = spectrum(project({ choices: { "osc.wave": "harmonics" }, values: { "osc.pitch": off } }, { weights: { ...plain, every: 2 } })); // prettier-ignore
    for (const h of [3, 5, 11, 21]) expect(at(h * hz) - at(hz)).toBeCloseTo(-20 * Math.log10(h), 1);
    for (const h of [2, 4, 10, 20]) expect(at(h * hz) - at(hz)).toBeLessThan(-80);
    const half = spectrum(project({ choices: { "osc.wave": "harmonics" }, values: { "osc.pitch": off, "osc.weighting": 50 } }, { weights: { ...plain, every: 2 } })); // prettier-ignore
    expect(half(2 * hz) - half(hz)).toBeCloseTo(-20 * Math.log10(4), 1);
  });

  test("moved by a shape, they stay within bounds; a pattern of nothing is silent", () => {
    const lfo = adjusted(newShape("lfo", "Lfo"), { times: { rate: { unit: "hz", hz: 30 } } });
    const w = { ...plain, pattern: [0.2, 1, 0], turn: 70 };
    const x = sound(project({ modules: [lfo], choices: { "osc.wave": "harmonics" }, routes: [{ source: "lfo", target: "osc.weighting", amount: -100 }] }, { weights: w })); // prettier-ignore
    expect(x.every((v) => Math.abs(v) < 1)).toBe(true);
    const silent = sound(project({ choices: { "osc.wave": "harmonics" } }, { weights: { ...plain, pattern: [0] } }));
    expect(Math.max(...silent.slice(4800, 9600).map(Math.abs))).toBeLessThan(1e-6);
  });
});
