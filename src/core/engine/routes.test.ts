import { describe, expect, test } from "vitest";
import { makeProject, note, withSettings, type Made } from "../../../tests/support/projects";
import { spectrumDb } from "../../../tests/support/spectrum";
import { farthest } from "../../../tests/support/same";
import { nextHeap } from "../../../tests/support/nextHeap";
import { newModule } from "../patch/kinds/kind";
import { FILTER } from "../patch/kinds/filter";
import { SUB } from "../patch/kinds/sub";
import type { Cable, Project } from "../patch/project";
import { withoutRecordings } from "../dsp/tables";
import { compileProject } from "./compile";
import { Engine } from "./engine";
import { isSource } from "./program";
import { renderNow } from "./render";

const RATE = 48_000;
const N = 32_768;

/** A saw of 110 Hz through two filters by these cables. */
function project(made: Made, cables: readonly Cable[]): Project {
  const p = makeProject({
    song: { tempoBpm: 200 },
    notes: [note(0, 3840, 45)],
    amp: { sustain: 100 },
    ...made,
    values: { "amp.level": -12, "filter.resonance": 0, "osc.unison": 1 },
  });
  const part = p.parts[0]!;
  const second = newModule(FILTER, "second", "Second", {});
  const patch = { ...part.patch, modules: [...part.patch.modules, second], cables };
  return { ...p, parts: [{ ...part, patch: withSettings(patch, made.values ?? {}, made.choices) }] };
}
const cable = (from: string, to: string): Cable => ({ from, to });
const SERIES = [cable("osc", "filter"), cable("filter", "second"), cable("second", "amp")];
const BESIDE = [cable("osc", "filter"), cable("osc", "second"), cable("filter", "amp"), cable("second", "amp")];

const render = (p: Project): Float32Array =>
  renderNow(compileProject(p), { sampleRate: RATE, bars: 1, tail: "cut" }).left;
/** Level of a harmonic of 110 Hz. */
function harmonics(x: Float32Array): (h: number) => number {
  const db = spectrumDb(x.slice(24_000, 24_000 + N));
  return (h) => Math.max(...[-2, -1, 0, 1, 2].map((d) => db(Math.round((110 * h * N) / RATE) + d)));
}

describe("a filter that goes on to another one", () => {
  const values = { "filter.cutoff": 20_000, "second.cutoff": 200, "second.resonance": 0, "filter.keyFollow": 0 };

  test("by all of its sound: in series; by none: past it", () => {
    const all = render(project({ values }, SERIES));
    const none = render(project({ values: { ...values, "filter.onward": 0 } }, SERIES));
    const past = render(project({ values }, [cable("osc", "filter"), cable("filter", "amp")]));
    expect(farthest(none, past)).toBeLessThan(1e-5);
    // Three octaves above the second cutoff: 72 dB at 24 dB an octave.
    expect(harmonics(none)(15) - harmonics(all)(15)).toBeGreaterThan(60);
  });

  test("by a share: so much through it, the rest past it; moved from note to note as well", () => {
    const part = (onward: number): Float32Array => render(project({ values: { ...values, "filter.onward": onward } }, SERIES)); // prettier-ignore
    const [all, none, quarter] = [render(project({ values }, SERIES)), part(0), part(25)];
    expect(
      farthest(
        quarter,
        all.map((v, i) => 0.25 * v + 0.75 * none[i]!),
      ),
    ).toBeLessThan(1e-5);
    const moved = render(project({ values, routes: [{ source: "velocity", target: "filter.onward", amount: -100 }] }, SERIES)); // prettier-ignore
    const share = 100 - 100 * (127 / 127);
    expect(farthest(moved, part(share))).toBeLessThan(1e-4);
  });

  test("with a cable to the output of its own: what goes on is scaled, what goes past stays", () => {
    const both = [...SERIES, cable("filter", "amp")];
    const x = render(project({ values: { ...values, "filter.onward": 0 } }, both));
    const past = render(project({ values }, [cable("osc", "filter"), cable("filter", "amp")]));
    expect(farthest(x, past)).toBeLessThan(1e-5);
  });
});

describe("what comes back from behind the amp", () => {
  const open = { "filter.cutoff": 18_000, "second.cutoff": 18_000, "amp.level": 0, "osc.level": -30 };

  test.each([
    ["in series", SERIES, -6.02],
    // Both take what comes back, and both are heard.
    ["side by side", BESIDE, -12.04],
  ] as const)(
    "comes 64 samples later: a comb whose peaks lie at multiples of 750 Hz, filters %s",
    (_, cables, half) => {
      const still = harmonics(render(project({ values: { ...open, "amp.feedback": -60 } }, cables)));
      // Half of it comes back: 1 / (1 - 0.5) where it meets itself, 1 / (1 + 0.5) half-way between.
      const fed = harmonics(render(project({ values: { ...open, "amp.feedback": half } }, cables)));
      // The saw's harmonics next to 750 Hz x k and 750 Hz x (k + 1/2): exact by the comb's formula at their frequency; the
      // filters in the loop add a little delay of their own.
      for (const h of [1, 3, 4, 7, 10]) {
        const w = (2 * Math.PI * 110 * h * 64) / RATE;
        const gain = -10 * Math.log10(1 + 0.25 - Math.cos(w));
        expect(fed(h) - still(h), `harmonic ${h}`).toBeGreaterThan(gain - 1);
        expect(fed(h) - still(h), `harmonic ${h}`).toBeLessThan(gain + 1);
      }
    },
  );

  test("is safe at full, with every filter resonant, in series and side by side; it ends with the note", () => {
    for (const cables of [SERIES, BESIDE]) {
      const loud = { "filter.cutoff": 700, "filter.resonance": 100, "second.cutoff": 900, "second.resonance": 100, "amp.feedback": 24, "amp.level": 6 }; // prettier-ignore
      const p = project({ notes: [note(0, 960, 45)], values: loud }, cables);
      const x = renderNow(compileProject(p), { sampleRate: RATE, bars: 1, tail: "append" }).left;
      expect(x.every((v) => Number.isFinite(v) && Math.abs(v) <= 0.9)).toBe(true);
      expect(Math.max(...x.slice(2400, 20_000).map(Math.abs))).toBeGreaterThan(0.3);
      expect(Math.max(...x.slice(-2400).map(Math.abs))).toBeLessThan(1e-4);
    }
  });

  test("holds nothing below 20 Hz: a first-order high-pass keeps what is lower from building up", () => {
    // Half of it comes back through a high-pass: 1 / (1 - h / 2), with h = i f / (20 + i f) at frequency f, and 64 frames later.
    const level = (octave: number, feedback: number): number => {
      const x = render(project({ song: { tempoBpm: 60 }, notes: [note(0, 3840, 36)], choices: { "osc.wave": "sine" }, values: { ...open, "osc.octave": octave, "amp.feedback": feedback } }, SERIES)).slice(24_000); // prettier-ignore
      return Math.sqrt(x.reduce((sum, v) => sum + v * v, 0) / x.length);
    };
    for (const [octave, hz] of [
      [-4, 4.088],
      [-1, 32.703],
      [0, 65.406],
    ] as const) {
      const [size, angle] = [hz / Math.hypot(20, hz), Math.atan2(20, hz) - (2 * Math.PI * hz * 64) / RATE];
      const expected = 1 / Math.hypot(1 - (size * Math.cos(angle)) / 2, (size * Math.sin(angle)) / 2);
      expect(level(octave, -6.02) / level(octave, -60) / expected, `${hz} Hz`).toBeCloseTo(1, 1);
    }
  });

  test("is each note's own: a second one in another voice leaves it as it was", () => {
    const values = { ...open, "amp.level": -24, "amp.feedback": 20, "filter.cutoff": 1500 };
    const one = (notes: NonNullable<Made["notes"]>): Float32Array => render(project({ notes, values }, SERIES));
    const low = one([note(0, 3840, 45)]);
    const high = one([note(0, 3840, 52)]);
    const both = one([note(0, 3840, 45), note(0, 3840, 52)]);
    expect(farthest(both, low.map((v, i) => v + high[i]!))).toBeLessThan(2e-5); // prettier-ignore
  });
});

test("a sub is a plain wave one or two octaves under the note, as loud as a saw, past the filters where it goes", () => {
  const base = makeProject({ song: { tempoBpm: 120 }, notes: [note(0, 3840, 57)], amp: { sustain: 100 }, values: { "amp.level": -12, "osc.level": -60 } }); // prettier-ignore
  const part = base.parts[0]!;
  const run = (choices: Record<string, string>, values: Record<string, number> = {}): Float32Array => {
    const patch = { ...part.patch, modules: [newModule(SUB, "sub", "Sub", {}), ...part.patch.modules], cables: [...part.patch.cables, cable("sub", "amp")] }; // prettier-ignore
    return render({ ...base, parts: [{ ...part, patch: withSettings(patch, { "filter.cutoff": 20, ...values }, choices) }] }); // prettier-ignore
  };
  // A3 is 220 Hz.
  for (const [below, hz] of [
    ["one", 110],
    ["two", 55],
  ] as const) {
    const db = spectrumDb(run({ "sub.below": below }).slice(24_000, 24_000 + N));
    const loudest = Array.from({ length: 400 }, (_, k) => db(k)).reduce((best, v, k, all) => (v > all[best]! ? k : best), 0); // prettier-ignore
    expect((loudest * RATE) / N).toBeCloseTo(hz, -0.3);
  }
  // Seventy-five cycles in the stretch that is looked at.
  const fine = 1200 * Math.log2((75 * RATE) / N / 110);
  const saw = harmonics(run({ "sub.wave": "saw" }, { "sub.fine": fine }));
  expect(saw(5) - saw(1)).toBeCloseTo(-20 * Math.log10(5), 1);
  const up = spectrumDb(run({}, { "sub.pitch": 12 }).slice(24_000, 24_000 + N));
  expect(up(Math.round((220 * N) / RATE))).toBeGreaterThan(up(Math.round((110 * N) / RATE)) + 60);
});

test("sources tell how loud they are, each by its place, and sink when they are silent", () => {
  const made = makeProject({ song: { tempoBpm: 120 }, notes: [note(0, 480, 57)], amp: { sustain: 100 }, values: { "osc.level": -20, "osc.unison": 1, "amp.level": -30 }, choices: { "osc.wave": "sine" } }); // prettier-ignore
  const part = made.parts[0]!;
  const patch = { ...part.patch, modules: [...part.patch.modules, newModule(SUB, "sub", "Sub", {})], cables: [...part.patch.cables, cable("sub", "amp")] }; // prettier-ignore
  const engine = new Engine(RATE, nextHeap(), { tables: withoutRecordings });
  const program = compileProject({ ...made, parts: [{ ...part, patch }] });
  engine.load(program);
  const { bank } = engine.parts[0]!;
  bank.meter(true);
  const run = (frames: number) => engine.process(new Float32Array(frames), new Float32Array(frames), frames);
  engine.play(0);
  run(9600);
  const levels = new Float64Array(10);
  bank.takePeaks(levels, 1, 0);
  const places = program.parts[0]!.sound.modules.filter(isSource).map((m) => m.id);
  expect(places.toSorted()).toEqual(["osc", "sub"]);
  // A sine as loud as a saw: 0.9716 at its peak, the oscillator 20 dB below.
  expect(levels[1 + places.indexOf("sub")]).toBeCloseTo(0.9716, 2);
  expect(levels[1 + places.indexOf("osc")]).toBeCloseTo(0.09716, 3);
  run(96_000 - 9600 - 4800);
  bank.takePeaks(levels, 1, 0);
  run(4000);
  // It sinks by what is kept, and is not to be heard any more.
  const before = levels.slice();
  bank.takePeaks(levels, 1, 0.5);
  expect(Math.max(...levels)).toBeCloseTo(Math.max(...before) / 2, 6);
  bank.takePeaks(levels, 1, 0);
  expect(Math.max(...levels)).toBeLessThan(1e-3);
  bank.meter(false);
  run(9600);
  bank.takePeaks(levels, 1, 0);
  expect(Math.max(...levels)).toBe(0);
});
