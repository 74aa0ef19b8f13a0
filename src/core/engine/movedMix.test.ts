import { describe, expect, test } from "vitest";
import { playing } from "../../../tests/support/live";
import { RATE, rise } from "../../../tests/support/heardMotion";
import { makeProject, note, type Made } from "../../../tests/support/projects";
import { peak } from "../../../tests/support/spectrum";
import { withMix } from "../patch/edit";
import { AUTOMATION } from "../patch/kinds/automation";
import { adjusted, newModule } from "../patch/kinds/kind";
import type { Project } from "../patch/project";
import { compileProject } from "./compile";
import type { Engine } from "./engine";

/** Three notes that overlap, so that all of them have to be turned together. */
const notes = [note(0, 3840, 45), note(900, 2000, 57), note(1920, 1900, 64)];
const made = (more: Made): Project =>
  makeProject({ notes, values: { "amp.level": -24 }, ...more, song: { tempoBpm: 120, ...more.song } });

const mixed = (p: Project, values: Parameters<typeof withMix>[1], mute = false): Project => ({
  ...p,
  parts: p.parts.map((q) => ({ ...q, mix: { ...q.mix, mute }, patch: withMix(q.patch, values) })),
});

interface Sides {
  readonly left: Float32Array;
  readonly right: Float32Array;
}

function play(engine: Engine, frames: number): Sides {
  const [left, right] = [new Float32Array(frames), new Float32Array(frames)];
  engine.process(left, right, frames);
  return { left, right };
}

/** A bar: two seconds, but for its last frames, where a new pass begins. */
const BAR = 2 * RATE - 64;
const plain = play(playing(made({})), BAR);

/** Holds a sound against the plain one at gains by the time in seconds, left and right. */
function expectGains({ left, right }: Sides, gain: (sec: number) => readonly [left: number, right: number]): void {
  let worst = 0;
  left.forEach((l, i) => {
    const [a, b] = gain((i + 1) / RATE);
    worst = Math.max(worst, Math.abs(l - plain.left[i]! * a), Math.abs(right[i]! - plain.right[i]! * b));
  });
  // Between the ends of sub-blocks gains run straight, not in decibels: at these speeds that is the same.
  expect(worst / peak(plain.left)).toBeLessThan(1e-6);
}

/** One rise in the bar, 0 to 1. */
const bar = rise("bar", 0.5, "bar");

describe("a part's level and place in the mix that are moved", () => {
  test("to the last frame of a pass, wherever that falls between sub-blocks", () => {
    for (const tempoBpm of [131, 97.3]) {
      const frames = Math.round((240 / tempoBpm) * RATE);
      expect(frames % 16).toBeGreaterThan(0);
      // Up and down again in a bar, so that nothing jumps where the next pass begins.
      const hill = adjusted(rise("hill", 1, "bar"), { times: { rate: { unit: "bars", bars: 1 } }, data: { points: [0, 1, 0].map((y, i) => ({ x: i / 2, y, tension: 0 })) } }); // prettier-ignore
      const p = made({ song: { tempoBpm }, modules: [hill], routes: [{ source: "hill", target: "part.level", amount: -30 }] }); // prettier-ignore
      const [still, moved] = [made({ song: { tempoBpm } }), p].map((project) => play(playing(project), frames)) as [Sides, Sides]; // prettier-ignore
      const bars = (frame: number): number => (frame * tempoBpm) / 240 / RATE;
      const gain = (frame: number): number => 10 ** ((-30 * (1 - Math.abs(1 - 2 * bars(frame)))) / 20);
      const off = moved.left.reduce((most, v, i) => Math.max(most, Math.abs(v - still.left[i]! * gain(i + 1))), 0);
      expect(off / peak(still.left)).toBeLessThan(1e-5);
    }
  });
  test("in decibels, by what all notes share: the same gain for all of them", () => {
    const p = made({ modules: [bar], routes: [{ source: "bar", target: "part.level", amount: -30 }] });
    expectGains(play(playing(mixed(p, { level: -6 })), BAR), (sec) => {
      const gain = 10 ** ((-6 - 30 * (sec / 2)) / 20);
      return [gain, gain];
    });
    // In the middle both sides are one and the same, while an edit glides as well.
    const edited = playing(mixed(p, { level: -6 }));
    play(edited, 4800);
    edited.load(compileProject(mixed(p, { level: -20 })));
    const glides = play(edited, 9600);
    expect(Buffer.from(glides.left.buffer).equals(Buffer.from(glides.right.buffer))).toBe(true);
    const { left, right } = play(playing(mixed(p, { level: -6 })), BAR);
    expect(Buffer.from(left.buffer).equals(Buffer.from(right.buffer))).toBe(true);
  });

  test("in percent of amplitude, and its place: the side that it is turned from becomes less", () => {
    const routes = [
      { source: "bar", target: "part.level", amount: -100, amplitude: true },
      { source: "bar", target: "part.pan", amount: 150 },
    ] as const;
    expectGains(play(playing(mixed(made({ modules: [bar], routes }), { pan: -50 })), BAR), (sec) => {
      const [gain, pan] = [1 - sec / 2, Math.min(1, -0.5 + 1.5 * (sec / 2))];
      return [gain * Math.min(1, 1 - pan), gain * Math.min(1, 1 + pan)];
    });
  });

  test("by break points over the loop", () => {
    const points = [{ x: 0, y: 1, tension: 0 }, { x: 1, y: 0.5, tension: 0 }]; // prettier-ignore
    const line = newModule(AUTOMATION, "line", "line", { target: "part.level", points });
    // From 12 dB to half-way down to -60 dB; they settle within 3 ms.
    const { left } = play(playing(made({ modules: [line] })), BAR);
    for (const sec of [0.3, 0.9, 1.5]) {
      const at = Math.round(sec * RATE);
      const rms = (x: Float32Array): number => Math.hypot(...x.subarray(at, at + 480));
      const db = 20 * Math.log10(rms(left) / rms(plain.left));
      expect(db).toBeCloseTo(12 - 36 * ((sec + 0.005) / 2), 0);
    }
  });

  test("by what each note brings: it follows the newest note", () => {
    const p = made({
      notes: [note(0, 3840, 45, 127), note(1920, 1900, 64, 64)],
      routes: [{ source: "velocity", target: "part.level", amount: -20 }],
    });
    const still = play(
      playing({ ...p, parts: p.parts.map((q) => ({ ...q, patch: { ...q.patch, routes: [] } })) }),
      BAR,
    );
    const { left } = play(playing(p), BAR);
    const ratio = (sec: number): number => {
      const at = Math.round(sec * RATE);
      const rms = (x: Float32Array): number => Math.hypot(...x.subarray(at, at + 4800));
      return 20 * Math.log10(rms(left) / rms(still.left));
    };
    expect(ratio(0.5)).toBeCloseTo(-20, 1);
    expect(ratio(1.5)).toBeCloseTo((-20 * 64) / 127, 1);
  });

  test("muted it is silent; an edit while it sounds fades in, and nothing steps", () => {
    const sine: Made = { notes: [note(0, 3840, 45)], choices: { "osc.wave": "sine" }, values: { "amp.level": -24, "osc.unison": 1 } }; // prettier-ignore
    const p = made({ ...sine, modules: [bar], routes: [{ source: "bar", target: "part.level", amount: -12 }] });
    expect(peak(play(playing(mixed(p, {}, true)), 9600).left)).toBe(0);
    const engine = playing(p);
    const step = (x: Float32Array): number => x.reduce((most, v, i) => (i === 0 ? 0 : Math.max(most, Math.abs(v - x[i - 1]!))), 0); // prettier-ignore
    const before = play(engine, 24_000).left;
    engine.load(compileProject(mixed(p, { level: -40 })));
    const after = play(engine, 9600).left;
    const joined = Float32Array.from([...before.subarray(-2), ...after]);
    expect(step(joined)).toBeLessThan(1.1 * step(before));
    const level = (x: Float32Array): number => Math.hypot(...x.slice(-2400));
    expect(20 * Math.log10(level(after) / level(before))).toBeCloseTo(-40 - 12 * 0.1, 0);
    // What moves it is taken away: it comes back without a step, too.
    engine.load(compileProject(made(sine)));
    const whole = play(engine, 9600).left;
    expect(step(Float32Array.from([...after.subarray(-2), ...whole]))).toBeLessThan(1.1 * step(whole.subarray(4800)));
  });
});
