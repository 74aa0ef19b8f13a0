import fc from "fast-check";
import { runs } from "../../../tests/support/runs";
import { columnsOf, ofSource, rise } from "../../../tests/support/heardMotion";
import { PitchDetector } from "pitchy";
import { describe, expect, test } from "vitest";
import { evenly } from "../../../tests/support/evenly";
import { makeProject, note, type Made } from "../../../tests/support/projects";
import { compileProject } from "../engine/compile";
import { renderNow } from "../engine/render";
import type { Address } from "../patch/address";
import { adjusted, newModule } from "../patch/kinds/kind";
import { MACRO, type Macro } from "../patch/kinds/macro";
import { RANDOM, type Random } from "../patch/kinds/random";
import { type SequenceStep } from "../patch/kinds/steps";
import type { Span } from "../time/span";
import { newMacro, newShape } from "../patch/defaults";
import type { Shape } from "../patch/kinds/shape";
import { AUTOMATION } from "../patch/kinds/automation";
import { repeatReport } from "../time/repeat";
import { cyclesOf } from "./cycles";
import { compileDraws, drawnAt } from "./drawn";
import { compileSequence, sequenceAt } from "./sequence";
import { step, steps } from "../../../tests/support/steps";

const RATE = 48_000;

const random = (choices: Partial<Random["choices"]>, take = 0, rate: Span = { unit: "note", num: 1, den: 16 }): Random => {
  const made = newModule(RANDOM, "dice", "Dice", { points: [{ x: 0, y: 0, tension: 0 }, { x: 0.8, y: 0, tension: 0 }, { x: 1, y: 1, tension: 0 }], kept: [] });
  return { ...made, values: { take, smoothing: 0 }, choices: { ...made.choices, ...choices }, times: { rate } };
}; // prettier-ignore

const columns = (made: Made, address: Address) => columnsOf(makeProject(made), address);

/** One bar with one note; the resonance goes by the source from 0 to 100 %. */
const moving = (modules: Made["modules"], source: string, more: Made = {}): Made => ({
  notes: [note(0, 3840, 60, 127)],
  values: { "filter.resonance": 0 },
  modules: modules!,
  routes: [{ source, target: "filter.resonance", amount: 100 }],
  ...more,
});

describe("a step sequence", () => {
  test("walks through its values, each as long as its rate says, at any tempo", () => {
    const values = [0.2, 0.9, 0, 0.55];
    for (const tempoBpm of [90, 174]) {
      const seq = steps(values.map((v) => step(v)));
      const { low, high } = columns(moving([seq], "seq", { song: { tempoBpm } }), "filter.resonance");
      values.forEach((v, i) => {
        for (const place of [i / 4 + 0.01, i / 4 + 0.125, i / 4 + 0.24]) {
          expect(low(place)).toBeCloseTo(100 * v, 3);
          expect(high(place)).toBeCloseTo(100 * v, 3);
        }
      });
    }
  });

  test.each([{ unit: "hz", hz: 4 }, { unit: "ms", ms: 250 }] as const)("or as long as a free rate says: %o", (rate) => {
    const values = [0.2, 0.9, 0, 0.55, 0.7, 0.1, 0.4, 1];
    for (const rateOf of ["step", "all"] as const) {
      // A bar lasts two seconds.
      const { low, high } = columns(moving([steps(values.map((v) => step(v)), { rateOf }, rate)], "seq"), "filter.resonance");
      const count = rateOf === "step" ? 8 : 64;
      for (let i = 0; i < count; i += rateOf === "step" ? 1 : 5)
        for (const place of [0.2, 0.8]) expect([low((i + place) / count), high((i + place) / count)].map((v) => Number(v.toFixed(1)))).toEqual([100 * values[i % 8]!, 100 * values[i % 8]!].map((v) => Number(v.toFixed(1)))); // prettier-ignore
    }
  }); // prettier-ignore

  test("a rate of all steps together is that of a round: sixteen in a quarter", () => {
    const list = Array.from({ length: 16 }, (_, i) => step(i / 16));
    const { low } = columns(moving([steps(list, { rateOf: "all" })], "seq"), "filter.resonance");
    // A sixteenth of a quarter is 1/64 of the bar.
    for (let i = 0; i < 64; i += 7) expect(low((i + 0.5) / 64)).toBeCloseTo((100 * (i % 16)) / 16, 2);
  });

  test("plays a line on the pitch, heard to the cent (pitchy)", () => {
    const semitones = [0, 7, 12, 3];
    const made = moving([steps(semitones.map((s) => step(s / 12)))], "seq", {
      notes: [note(0, 3840, 57, 127)],
      routes: [{ source: "seq", target: "osc.pitch", amount: 12 }],
      choices: { "osc.wave": "sine" },
      values: { "osc.unison": 1, "osc.octave": 0 },
    });
    const { left } = renderNow(compileProject(makeProject(made)), { sampleRate: RATE, bars: 1, tail: "cut" });
    semitones.forEach((s, i) => {
      const from = Math.round((i * 0.5 + 0.15) * RATE);
      const [hz] = PitchDetector.forFloat32Array(8192).findPitch(left.slice(from, from + 8192), RATE);
      expect(Math.abs(1200 * Math.log2(hz / (220 * 2 ** (s / 12))))).toBeLessThan(1);
    });
  });

  test.each([
    ["flat", 0.8, 0.8, 0.8],
    ["rise", 0.2, 0.4, 0.6],
    ["fall", 0.6, 0.4, 0.2],
    ["swell", 0.8 / 64, 0.1, (0.8 * 27) / 64],
    ["drop", (0.8 * 27) / 64, 0.1, 0.8 / 64],
    ["hill", 0.4, 0.8, 0.4],
    ["dip", 0.4, 0, 0.4],
  ] as const)("%s runs within the step as drawn", (form, quarter, half, threeQuarters) => {
    const s = compileSequence([step(0.8, { form }), step(0.1)], 1);
    expect([0.25, 0.5, 0.75].map((t) => sequenceAt(s, t / 2, 0, 0))).toEqual(
      [quarter, half, threeQuarters].map((v) => expect.closeTo(v, 9) as number),
    );
  });

  test("glides over the end of a step into the next, round the end too, and not into one that holds", () => {
    const s = compileSequence([step(1, { glide: 50 }), step(0, { glide: 50 })], 1);
    expect(sequenceAt(s, 0.24, 0, 0)).toBe(1);
    expect(sequenceAt(s, 0.375, 0, 0)).toBeCloseTo(0.5, 9);
    expect(sequenceAt(s, 0.875, 0, 0)).toBeCloseTo(0.5, 9);
    const held = compileSequence([step(1, { glide: 50 }), step(0, { hold: true })], 1);
    expect([0.4, 0.5, 0.9].map((x) => sequenceAt(held, x, 0, 0))).toEqual([1, 1, 1]);
    // A step that holds stays where the one before ended, not where it began.
    const risen = compileSequence([step(0.6, { form: "rise" }), step(0, { hold: true })], 1);
    expect(sequenceAt(risen, 0.75, 0, 0)).toBeCloseTo(0.6, 9);
    expect(sequenceAt(risen, 1, 0, 0, true)).toBeCloseTo(0.6, 9);
  });

  test("whatever its steps, it stands where the last one that is played has brought it", () => {
    const any = fc.record({ value: evenly(0, 1), second: evenly(0, 1), form: fc.constantFrom("flat" as const, "rise" as const, "fall" as const), glide: fc.constantFrom(0, 30, 100), chance: fc.constantFrom(0, 100, 100), hold: fc.boolean() }); // prettier-ignore
    fc.assert(
      fc.property(fc.array(any, { minLength: 1, maxLength: 9 }), fc.nat(4000), fc.constantFrom(0, 0.4, 1), fc.boolean(), (list, at, blend, over) => {
        const n = list.length;
        const place = (at / 997) * n;
        const played = (i: number): boolean => !list[((i % n) + n) % n]!.hold && list[((i % n) + n) % n]!.chance === 100;
        const stepAt = (i: number): SequenceStep => list[((i % n) + n) % n]!;
        const level = (s: SequenceStep): number => s.value * (1 - blend) + s.second * blend;
        const run = (s: SequenceStep, t: number): number => level(s) * (s.form === "flat" ? 1 : s.form === "rise" ? t : 1 - t);
        const now = over ? n - 1 : Math.floor(place + 1e-9);
        let from = now;
        while (from >= now - n && !played(from)) from--;
        let expected: number;
        if (from < now - n) expected = run(stepAt(now), 0);
        else if (over || from < now) expected = run(stepAt(from), 1);
        else {
          const t = Math.max(0, place - now);
          const glide = stepAt(now).glide / 100;
          const here = run(stepAt(now), t);
          expected = t > 1 - glide && played(now + 1) ? here + (run(stepAt(now + 1), 0) - here) * ((t - 1 + glide) / glide) : here;
        }
        expect(sequenceAt(compileSequence(list, 5), place / n, blend, 0, over)).toBeCloseTo(expected, 6);
      }),
      runs(400),
    );
    // A hair before a step is that step: cycles are sums.
    const two = compileSequence([step(0.2), step(0.8)], 0);
    expect([0.5 - 1e-11, 0.5 + 1e-11, 1 - 1e-11, 0.5 - 1e-7].map((rounds) => sequenceAt(two, rounds, 0, 0))).toEqual([0.8, 0.8, 0.2, 0.2]);
  }); // prettier-ignore

  test("stands between its rows as its blend is set", () => {
    const seq = steps([step(0.2, { second: 1 })], {}, { unit: "note", num: 1, den: 2 }, { blend: 30 });
    const [n] = ofSource({ notes: [note(0, 960, 60)], modules: [seq], routes: [{ source: "seq", target: "osc.pitch", amount: 1 }] }, "seq"); // prettier-ignore
    expect(n!.rows.at(-1)).toBeCloseTo(0.7 * 0.2 + 0.3 * 1, 9);
  });
  test("blends from one row to the other, moved by a route as well", () => {
    const list = [step(1, { second: 0.2 }), step(0, { second: 0.6 })];
    const s = compileSequence(list, 1);
    expect(sequenceAt(s, 0.1, 0.5, 0)).toBeCloseTo(0.6, 9);
    const seq = steps(list, {}, { unit: "note", num: 1, den: 2 }, { blend: 0 });
    const full = { ...newModule(MACRO, "macro", "Macro", {}), values: { value: 25, low: 0, high: 100, curve: 0 } };
    const made = moving([seq, full], "seq", {
      routes: [
        { source: "seq", target: "filter.resonance", amount: 100 },
        { source: "macro", target: "seq.blend", amount: 100 },
      ],
    });
    expect(columns(made, "filter.resonance").low(0.2)).toBeCloseTo(80, 3);
    expect(columns(made, "filter.resonance").low(0.7)).toBeCloseTo(15, 3);
    // As set, and of each note's own as well, whoever moves it.
    for (const restart of ["bar", "note"] as const) {
      const set = (blend: number, by: number): number => columns(moving([steps(list, { restart }, { unit: "note", num: 1, den: 2 }, { blend })], "seq", { routes: [{ source: "seq", target: "filter.resonance", amount: 100 }, { source: "velocity", target: "seq.blend", amount: by }] }), "filter.resonance").low(0.2); // prettier-ignore
      expect([set(0, 0), set(30, 0), set(30, 45), set(100, -20), set(90, 60)].map((v) => Number(v.toFixed(3)))).toEqual(
        [100, 76, 40, 36, 20],
      );
    }
  });

  test("chance plays a step as often as it says (binomial, four sigmas), another way in each round, alike in each render", () => {
    const s = compileSequence([step(0), step(1, { chance: 30 })], 99);
    const rounds = 4000;
    const played = Array.from({ length: rounds }, (_, r) => sequenceAt(s, r + 0.75, 0, 0));
    const share = played.filter((v) => v === 1).length / rounds;
    expect(Math.abs(share - 0.3)).toBeLessThan(4 * Math.sqrt((0.3 * 0.7) / rounds));
    expect(played).toEqual(Array.from({ length: rounds }, (_, r) => sequenceAt(s, r + 0.75, 0, 0)));
    expect(played).not.toEqual(Array.from({ length: rounds }, (_, r) => sequenceAt(s, r + 0.75, 0, 3840)));
    // With no step played at all there is still a value.
    expect(sequenceAt(compileSequence([step(0.4, { chance: 0 })], 1), 7.3, 0, 0)).toBe(0.4);
  });

  test("goes through once from each note and stays; starts anew with the bar", () => {
    const list = [step(1), step(0.5), step(0.25)];
    const once = columns(moving([steps(list, { restart: "once" }, { unit: "note", num: 1, den: 8 })], "seq"), "filter.resonance"); // prettier-ignore
    expect([0.06, 0.19, 0.31, 0.9].map((x) => once.low(x))).toEqual([100, 50, 25, 25].map((v) => expect.closeTo(v, 3) as number)); // prettier-ignore
    const bar = columns(moving([steps(list, { restart: "bar" }, { unit: "note", num: 1, den: 2 }, { every: 1 })], "seq", { song: { loopBars: 2 }, notes: [note(0, 7680, 60, 127)] }), "filter.resonance"); // prettier-ignore
    expect([0.1, 0.3, 0.6, 0.9].map((x) => bar.low(x))).toEqual([100, 50, 100, 50].map((v) => expect.closeTo(v, 3) as number)); // prettier-ignore
  });
});

test("chance falls another way in each bar, and each note has its own", () => {
  const list = Array.from({ length: 16 }, (_, i) => step(i % 2, { chance: i % 2 === 0 ? 100 : 50 }));
  const seq = steps(list, { restart: "bar" }, { unit: "note", num: 1, den: 16 });
  const eight = { song: { loopBars: 8 }, notes: [note(0, 8 * 3840, 60, 127)] };
  const { low } = columns(moving([seq], "seq", eight), "filter.resonance");
  const bars = Array.from({ length: 8 }, (_, b) => Array.from({ length: 16 }, (_, i) => Math.round(low((b + (i + 0.5) / 16) / 8))).join()); // prettier-ignore
  expect(new Set(bars).size).toBe(8);
  const own = steps([step(0), step(1, { chance: 50 })], { restart: "note" }, { unit: "note", num: 1, den: 16 });
  const notes = Array.from({ length: 8 }, (_, i) => note(i * 480, 480, 60, 127));
  const each = columns(moving([own], "seq", { notes }), "filter.resonance");
  expect(new Set(notes.map((_, i) => Math.round(each.low((i + 0.75) / 8)))).size).toBe(2);
});

test("smoothing settles by the one-pole law, to 95 % within its time, for all notes and for each", () => {
  for (const restart of ["bar", "note"] as const) {
    const seq = steps([step(0), step(1)], { restart }, { unit: "note", num: 1, den: 2 }, { smoothing: 200 });
    const { high } = columns(moving([seq], "seq"), "filter.resonance");
    // 120 BPM: the second step begins after a second, half of the bar.
    for (const sec of [0.05, 0.1, 0.2]) expect(high(0.5 + sec / 2)).toBeCloseTo(100 * (1 - Math.exp((-3 * sec) / 0.2)), -0.3); // prettier-ignore
  }
});

test("draws are smoothed by the same law, on from one to the next", () => {
  const dice = random({}, 3, { unit: "hz", hz: 2 });
  const at = (smoothing: number, sec: number): number => columns(moving([{ ...dice, values: { ...dice.values, smoothing } }], "dice"), "filter.resonance").high(sec / 2); // prettier-ignore
  const [before, after] = [at(0, 0.25), at(0, 0.75)];
  expect(Math.abs(after - before)).toBeGreaterThan(5);
  // 95 % within 150 ms, 1 - 1/e in a third of that.
  for (const [sec, left] of [[0.55, Math.exp(-1)], [0.65, Math.exp(-3)]] as const) expect((at(150, sec) - after) / (before - after)).toBeCloseTo(left, 1);
}); // prettier-ignore

test("a shape of each note's own whose rate and phase move together stands where both say", () => {
  const made = newShape("s", "S");
  const shape = adjusted(made, { values: { smoothing: 0 }, choices: { restart: "note" }, times: { rate: { unit: "note", num: 1, den: 1 } }, data: { points: [{ x: 0, y: 0, tension: 0 }, { x: 1, y: 1, tension: 0 }] } }); // prettier-ignore
  const quarter = { ...newMacro("macro", "Macro"), values: { value: 100, low: 0, high: 100, curve: 0 } };
  const routes = [
    { source: "s", target: "filter.resonance" as const, amount: 100 },
    { source: "velocity", target: "s.rate" as const, amount: 1 },
    { source: "macro", target: "s.phase" as const, amount: 90 },
  ];
  const { high } = columns(moving([shape, quarter], "s", { routes }), "filter.resonance");
  // Twice as fast, from a quarter on.
  for (const x of [0.1, 0.2, 0.3]) expect(high(x)).toBeCloseTo(100 * (0.25 + 2 * x), 0);
  expect(high(0.5)).toBeCloseTo(25, 0);
});

test("a shape or a sequence restarts every so many bars", () => {
  const ramp = [{ x: 0, y: 0, tension: 0 }, { x: 1, y: 1, tension: 0 }]; // prettier-ignore
  const made = newShape("s", "S");
  const shape = adjusted(made, { values: { smoothing: 0, every: 2 }, times: { rate: { unit: "bars", bars: 4 } }, data: { points: ramp } }); // prettier-ignore
  const four = { song: { loopBars: 4 }, notes: [note(0, 4 * 3840, 60, 127)] };
  const at = columns(moving([shape], "s", four), "filter.resonance").high;
  // A rise over four bars is cut after two, at its half.
  expect([0.24, 0.49, 0.51, 0.74, 0.99].map((x) => Math.round(at(x)))).toEqual([24, 49, 1, 24, 49]);
  const seq = steps([step(1), step(0.5), step(0)], { restart: "bar" }, { unit: "note", num: 1, den: 1 }, { every: 2 });
  const { low } = columns(moving([seq], "seq", four), "filter.resonance");
  expect([0.1, 0.4, 0.6, 0.9].map(low)).toEqual([100, 50, 100, 50].map((v) => expect.closeTo(v, 3) as number));
  // Nothing set: it goes through, and starts again with the bar after that. Three steps of 3/4 take two bars and a quarter.
  const long = steps([step(1), step(0.5), step(0.25)], { restart: "bar" }, { unit: "note", num: 3, den: 4 });
  const through = columns(moving([long], "seq", four), "filter.resonance").low;
  expect([0.1, 0.3, 0.5, 0.6, 0.74, 0.76].map((x) => Math.round(through(x)))).toEqual([100, 50, 25, 100, 100, 100]);
});

/** Greatest distance of sorted values from a law (Kolmogorov and Smirnov); under 1.95 / sqrt(n) in 99.9 of 100 cases. */
function distance(values: readonly number[], law: (x: number) => number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted.reduce((most, v, i) => Math.max(most, Math.abs(law(v) - i / sorted.length), Math.abs(law(v) - (i + 1) / sorted.length)), 0); // prettier-ignore
}

describe("random values", () => {
  const n = 4000;
  test.each([
    ["even", (x: number) => x],
    // The arcsine law, and the law of the mean of three even draws (Irwin and Hall).
    ["ends", (x: number) => (2 / Math.PI) * Math.asin(Math.sqrt(x))],
    ["middle", (x: number) => { const y = 3 * x; return y <= 1 ? y ** 3 / 6 : y <= 2 ? (-2 * y ** 3 + 9 * y ** 2 - 9 * y + 3) / 6 : 1 - (3 - y) ** 3 / 6; }],
  ] as const)("%s: as its law says (Kolmogorov and Smirnov)", (likely, law) => {
    const d = compileDraws(random({ likely }), 5, 0);
    expect(distance(Array.from({ length: n }, (_, i) => drawnAt(d, i, 0)), law)).toBeLessThan(1.95 / Math.sqrt(n));
  }); // prettier-ignore

  test("as drawn: four of five leave it off, and the rest is even", () => {
    const d = compileDraws(random({ likely: "drawn" }), 5, 0);
    const values = Array.from({ length: n }, (_, i) => drawnAt(d, i, 0));
    const off = values.filter((v) => v === 0).length / n;
    expect(Math.abs(off - 0.8)).toBeLessThan(4 * Math.sqrt(0.16 / n));
    expect(distance(values.filter((v) => v > 0), (x) => x)).toBeLessThan(1.95 / Math.sqrt((1 - off) * n)); // prettier-ignore
  });

  test("neighbours have nothing to do with each other; takes and seeds neither", () => {
    const line = (seed: number, take = 0) => {
      const project = makeProject({ ...moving([random({}, take)], "dice"), seed });
      const op = compileProject(project).parts[0]!.sound.motion.shared.find((o) => o.type === "shape")!;
      return Array.from({ length: n }, (_, i) => drawnAt(op.shape.draws!, i, 0) - 0.5);
    };
    const [a, b, c] = [line(1), line(1, 1), line(2)];
    const related = (x: number[], y: number[]): number => (12 * x.reduce((s, v, i) => s + v * y[i]!, 0)) / n;
    // The 16 draws of a bar come round: independence is asked of a line that does not.
    const free = compileDraws(random({}), 7, 0);
    const draws = Array.from({ length: n + 1 }, (_, i) => drawnAt(free, i, 0) - 0.5);
    expect(Math.abs(related(draws.slice(0, n), draws.slice(1)))).toBeLessThan(4 / Math.sqrt(n));
    for (const [x, y] of [[a.slice(0, 16), b.slice(0, 16)], [a.slice(0, 16), c.slice(0, 16)]] as const) expect(x).not.toEqual(y); // prettier-ignore
    expect(line(1)).toEqual(a);
  });

  test("at a rate it stands between two draws, or is smoothly on its way, round the loop's end as well", () => {
    const held = columns(moving([random({})], "dice"), "filter.resonance");
    const values = Array.from({ length: 16 }, (_, i) => held.low((i + 0.5) / 16));
    values.forEach((v, i) => expect(held.high((i + 0.9) / 16)).toBeCloseTo(v, 6));
    expect(new Set(values.map((v) => v.toFixed(3))).size).toBe(16);
    const smooth = columns(moving([random({ moves: "smooth" })], "dice"), "filter.resonance");
    values.forEach((v, i) => {
      expect(smooth.low((i + 0.02) / 16)).toBeCloseTo(v, -0.4);
      const next = values[(i + 1) % 16]!;
      const middle = (smooth.low((i + 0.5) / 16) + smooth.high((i + 0.5) / 16)) / 2;
      expect(Math.abs(middle - (v + next) / 2)).toBeLessThan(4);
    });
  });

  test.each([
    ["at a rate of its own", { unit: "hz", hz: 8 }, 16],
    ["at one that does not fit into the loop", { unit: "note", num: 3, den: 16 }, 16 / 3],
  ] as const)("%s it draws on and on", (_, rate, inBar) => {
    const drawn = columns(moving([random({}, 0, rate)], "dice"), "filter.resonance");
    const values = Array.from({ length: Math.floor(inBar) }, (_, i) => drawn.low((i + 0.5) / inBar));
    values.forEach((v, i) => expect(drawn.high((i + 0.9) / inBar)).toBeCloseTo(v, 6));
    expect(new Set(values.map((v) => v.toFixed(3))).size).toBe(Math.floor(inBar));
  });

  test("one of each note's own stands while it sounds, differs from note to note, and comes again with each pass", () => {
    const notes = Array.from({ length: 8 }, (_, i) => note(i * 480, 400, 60 + (i % 3), 127));
    const made = moving([random({ draws: "note" })], "dice", { notes });
    const { low, high } = columns(made, "filter.resonance");
    const values = notes.map((_, i) => low((i + 0.1) / 8));
    values.forEach((v, i) => expect(high((i + 0.7) / 8)).toBeCloseTo(v, 6));
    expect(new Set(values.map((v) => v.toFixed(3))).size).toBe(8);
    const twice = columns({ ...made, song: { loopBars: 1 } }, "filter.resonance");
    expect(values.map((_, i) => twice.low((i + 0.1) / 8))).toEqual(values);
  });
});

describe("a macro", () => {
  const macro = (values: Partial<Macro["values"]>): Macro => ({
    ...newModule(MACRO, "macro", "Macro", {}),
    values: { value: 0, low: 0, high: 100, curve: 0, ...values },
  });
  const gives = (values: Partial<Macro["values"]>, more: Made = {}): number =>
    columns(moving([macro(values)], "macro", more), "filter.resonance").low(0.5);
  test.each([
    [{ value: 40 }, 40],
    [{ value: 0, low: 13, high: 95 }, 13],
    [{ value: 50, low: 13, high: 95 }, 54],
    [{ value: 25, low: 100, high: 0 }, 75],
    // The exponential segment: (1 - e^-kx) / (1 - e^-k), k = 8 at full curve.
    [{ value: 25, curve: 100 }, (100 * (1 - Math.exp(-2))) / (1 - Math.exp(-8))],
    [{ value: 25, curve: -50 }, (100 * (1 - Math.exp(1))) / (1 - Math.exp(4))],
  ])("%o gives %f %%", (values, expected) => {
    expect(gives(values)).toBeCloseTo(expected, 3);
  });

  test("is moved by others, and scales what others do from none to full", () => {
    const routes = [
      { source: "macro", target: "filter.resonance" as const, amount: 100 },
      { source: "velocity", target: "macro.value" as const, amount: 60 },
    ];
    expect(gives({ value: 20 }, { routes, notes: [note(0, 3840, 60, 127)] })).toBeCloseTo(80, 3);
    // Moved past its end it stands there.
    expect(gives({ value: 70, low: 10, high: 40 }, { routes, notes: [note(0, 3840, 60, 127)] })).toBeCloseTo(40, 3);
    expect(
      gives(
        { value: 10, low: 10, high: 40 },
        { routes: [routes[0]!, { ...routes[1]!, amount: -60 }], notes: [note(0, 3840, 60, 127)] },
      ),
    ).toBeCloseTo(10, 3);
    const scaled = (value: number): number =>
      gives(
        { value },
        {
          modules: [macro({ value }), steps([step(0.5)])],
          routes: [{ source: "seq", target: "filter.resonance", amount: 80, scaledBy: "macro" }],
        },
      );
    expect([0, 50, 100].map(scaled)).toEqual([0, 20, 40].map((v) => expect.closeTo(v, 3) as number));
  });
});

describe("what repeats", () => {
  const song = makeProject({ song: { loopBars: 4 } }).song;
  const bars = (m: Parameters<typeof cyclesOf>[0][number]): number => repeatReport(cyclesOf([m], song), 1, song.meter, song.loopBars).repeatBars; // prettier-ignore
  test("a sequence with the song after its own length, one of chance and an automation with the loop, a macro at once", () => {
    const twelve = Array.from({ length: 12 }, () => step(0.5));
    const eighths = { unit: "note", num: 1, den: 8 } as const;
    // Twelve eighths against bars of eight come together after three; the loop of four cuts that short.
    const report = repeatReport(cyclesOf([steps(twelve, { restart: "song" }, eighths)], song), 1, song.meter, 4);
    expect(report.drifts).toMatchObject([{ name: "Sequence", everyBars: 4 }]);
    expect(bars(steps(twelve.slice(0, 8), { restart: "song" }, { unit: "note", num: 1, den: 4 }))).toBe(2);
    expect(bars(steps([step(1, { chance: 50 })], { restart: "bar" }))).toBe(4);
    expect(bars(steps([step(1)], { restart: "bar" }))).toBe(1);
    expect(bars(random({}))).toBe(4);
    expect(bars(random({ draws: "note" }))).toBe(1);
    expect(bars(newMacro("m", "M"))).toBe(1);
    const moved = newModule(AUTOMATION, "a", "A", { target: "macro.value", points: [{ x: 0, y: 0, tension: 0 }, { x: 1, y: 1, tension: 0 }] }); // prettier-ignore
    expect(bars(moved)).toBe(4);
    expect(bars({ ...moved, on: false })).toBe(1);
    expect(bars(newModule(AUTOMATION, "a", "A", { target: "macro.value", points: [0, 1].map((x) => ({ x, y: 0.4, tension: 0 })) }))).toBe(1); // prettier-ignore
    // One trigger is enough to come again with the loop only; without any it stands.
    expect([[], [0], [960, 1200]].map((triggers) => bars(rise("r", 1, "triggers", triggers)))).toEqual([1, 4, 4]);
    // A cycle of three quarters that starts again with every so many bars of four: no sooner, and with the loop at the latest.
    const threes = (every: number): Shape => adjusted(rise("r", 1, "bar"), { values: { every }, times: { rate: { unit: "note", num: 3, den: 4 } } }); // prettier-ignore
    // By hand only what a hand has set; until then it runs with the song.
    const byHand = (triggers: number[]): Shape => adjusted(rise("r", 1, "hand", triggers), { times: { rate: { unit: "note", num: 1, den: 1 } } }); // prettier-ignore
    expect([[], [960], [0, 960]].map((triggers) => bars(byHand(triggers)))).toEqual([1, 4, 4]);
    // Three bars fit the cycle, but not the loop.
    expect([1, 2, 3, 4, 16].map((every) => bars(threes(every)))).toEqual([1, 2, 4, 4, 4]);
    expect(cyclesOf([threes(2), threes(16)], song).map((c) => c.restartTicks)).toEqual([2 * 3840, 4 * 3840]);
  });
});
