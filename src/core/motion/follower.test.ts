import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { columnsOf } from "../../../tests/support/heardMotion";
import { makeProject, note, withSettings, withStages } from "../../../tests/support/projects";
import { farthest } from "../../../tests/support/same";
import { Compiler } from "../engine/compile";
import { newFollower, newPart } from "../patch/defaults";
import { adjusted } from "../patch/kinds/kind";
import { compileEnvelope } from "../curve/envelope";
import type { Module } from "../patch/kinds";
import { FOLLOWER } from "../patch/kinds/follower";
import type { Part } from "../patch/project";
import { compileFollower, followerAt } from "./follower";

const ended = (startTick: number, lengthTicks: number, key = 60, velocity = 127) => ({ onTick: startTick, offTick: startTick + lengthTicks, key, velocity }); // prettier-ignore
const how = {
  loopTicks: 3840,
  heldTicks: Infinity,
  attackTicks: 0,
  releaseTicks: 0,
  alike: false,
  shape: null,
  ticksPerSec: 1920,
};

/** Another way to the same: one-pole steps of a tick, round and round until nothing changes. */
function stepped(notes: readonly ReturnType<typeof ended>[], { loopTicks, heldTicks, attackTicks, releaseTicks, alike }: typeof how): Float64Array {
  const goal = Float64Array.from({ length: loopTicks }, (_, t) =>
    Math.max(0, ...notes.filter((n) => [t, t + loopTicks].some((u) => n.onTick <= u && u < Math.min(n.offTick, n.onTick + heldTicks))).map((n) => (alike ? 1 : n.velocity / 127))),
  );
  const keep = (ticks: number): number => (ticks === 0 ? 0 : 0.05 ** (1 / ticks));
  // 95 % of the way in the time that is set: 5 % is left, to the precision of exp(-3) = 4.98 %.
  const [up, down] = [keep(attackTicks), keep(releaseTicks)];
  const out = new Float64Array(loopTicks);
  let v = 0;
  for (let i = 0; i < 20 * loopTicks; i++) {
    const t = i % loopTicks;
    out[t] = v;
    v = goal[t]! + (v - goal[t]!) * (goal[t]! > v ? up : down);
    if (up === 0 && goal[t]! > out[t]) out[t] = goal[t]!;
    if (down === 0 && goal[t]! < out[t]) out[t] = goal[t]!;
  }
  return out;
} // prettier-ignore

describe("a follower", () => {
  test("is the loudest of the notes that are held", () => {
    const f = compileFollower([ended(0, 960, 60, 127), ended(480, 1440, 64, 64), ended(2880, 480, 60, 32)], how);
    const at = (tick: number): number => followerAt(f, tick / 3840);
    expect([0, 479, 959, 960, 1919, 1920, 2880, 3359, 3360].map((t) => at(t))).toEqual([1, 1, 1, 64 / 127, 64 / 127, 0, 32 / 127, 32 / 127, 0]); // prettier-ignore
  });

  test("rises and falls to 95 % in its times, after the one-pole formula", () => {
    const f = compileFollower([ended(960, 960)], { ...how, attackTicks: 240, releaseTicks: 960 });
    const at = (tick: number): number => followerAt(f, tick / 3840);
    const left = Math.exp(-3);
    expect(at(1200)).toBeCloseTo(1 - left, 2);
    expect(at(1920)).toBeCloseTo(1 - left ** 4, 4);
    expect(at(2880) / at(1920)).toBeCloseTo(left, 6);
    expect(at(2400) / at(1920)).toBeCloseTo(Math.sqrt(left), 6);
  });

  test("whatever is played, is what steps of a tick come to, round the loop's end as well", () => {
    const notes = fc.array(fc.tuple(fc.integer({ min: 0, max: 479 }), fc.integer({ min: 1, max: 700 }), fc.integer({ min: 1, max: 127 })), { maxLength: 6 }); // prettier-ignore
    const times = fc.constantFrom(0, 30, 150, 600);
    fc.assert(
      fc.property(notes, times, times, fc.boolean(), fc.constantFrom(Infinity, 50), (list, attackTicks, releaseTicks, alike, heldTicks) => {
        const played = list.map(([start, length, velocity]) => ended(start, Math.min(length, 480), 60, velocity));
        const options = { ...how, loopTicks: 480, attackTicks, releaseTicks, alike, heldTicks };
        const f = compileFollower(played, options);
        const other = stepped(played, options);
        expect(farthest(other.map((_, t) => followerAt(f, t / 480)), other)).toBeLessThan(0.005);
      }),
      { numRuns: 60 },
    ); // prettier-ignore
  });

  test("as shaped, it goes with the envelope of each note, round the loop's end as well", () => {
    // Half a second up, as long down to half, and as long after it is let go: straight lines, 1920 ticks a second.
    const shape = compileEnvelope({ attackSec: 0.5, decaySec: 0.5, sustain: 0.5, releaseSec: 0.5, attackCurve: 0, decayCurve: 0, releaseCurve: 0 }); // prettier-ignore
    const f = compileFollower([ended(2880, 960 + 480, 60, 127), ended(480, 480, 64, 64)], { ...how, shape });
    const at = (tick: number): number => followerAt(f, tick / 3840);
    // It lags by some milliseconds behind what it follows.
    const near = (tick: number, value: number): void => expect(at(tick)).toBeCloseTo(value, 1);
    near(2880 + 480, 0.5);
    near(2880 + 955, 1);
    near(240, 1 - 0.5 * 0.25);
    // Let go a quarter of a second into the next pass, at three quarters; the other note is softer as long as it rises.
    near(480 + 240, 0.75 * 0.75);
    near(480 + 480, 0.75 * 0.5);
    // That one is let go half-way up, and half of its release is over where the first one's is.
    near(480 + 480 + 480, (64 / 127) * 0.5 * 0.5);
    expect(at(2800)).toBeLessThan(1e-3);
    // A release is not heard longer than it is said.
    const short = compileFollower([ended(0, 960)], { ...how, shape, heldTicks: 480 });
    expect(followerAt(short, 470 / 3840)).toBeCloseTo(0.49, 1);
    expect(followerAt(short, 560 / 3840)).toBeLessThan(1e-3);
  });

  test("hears the notes of another part, within its keys, and is worked out anew when those change", () => {
    const listener = adjusted(newFollower("f", "F"), { data: { notesOf: "kick" }, values: { highest: 40 }, times: { attack: { unit: "ms", ms: 0 }, release: { unit: "note", num: 1, den: 4 } } }); // prettier-ignore
    const base = makeProject({ notes: [note(0, 3840, 60)], values: { "filter.resonance": 80, "amp.level": -12 }, modules: [listener], routes: [{ source: "f", target: "filter.resonance", amount: -60 }] }); // prettier-ignore
    const hits = (key: number) => [0, 1920].map((tick) => ({ ...note(tick, 240, key), id: `hit ${tick}` }));
    const kick = { ...newPart("kick", "Kick"), notes: hits(36) };
    const project = { ...base, parts: [...base.parts, kick] };
    const { low } = columnsOf(project, "filter.resonance");
    // Ducked to 20 % while the kick is held, back by 95 % a quarter later.
    expect(low(0.03)).toBeCloseTo(20, 1);
    expect(low((240 + 960) / 3840)).toBeCloseTo(80 - 60 * Math.exp(-3), 0);
    expect(low(0.53)).toBeCloseTo(20, 1);
    const high = { ...project, parts: [project.parts[0]!, { ...kick, notes: hits(48) }] };
    expect(columnsOf(high, "filter.resonance").low(0.03)).toBeCloseTo(80, 3);
    // Of a held note no more than is told, and all of it where that is as far as it goes.
    const long = { ...kick, notes: [{ ...note(0, 1920, 36), id: "long" }] };
    const heldFor = (held: number): number => columnsOf({ ...project, parts: [{ ...base.parts[0]!, patch: { ...base.parts[0]!.patch, modules: base.parts[0]!.patch.modules.map((m) => (m.kind === "follower" ? adjusted(m, { values: { held } }) : m)) } }, long] }, "filter.resonance").low(0.2); // prettier-ignore
    // 400 ms in; a quarter after its end it has come back by 95 %: exponential.
    expect(heldFor(FOLLOWER.rows.held.max)).toBeCloseTo(20, 1);
    expect(heldFor(200)).toBeCloseTo(80 - 60 * Math.exp((-3 * 0.2) / 0.5), 0);
    // Keys from the lowest to the highest one, both included.
    const only = (lowest: number, highest: number): number => columnsOf({ ...project, parts: [{ ...base.parts[0]!, patch: { ...base.parts[0]!.patch, modules: base.parts[0]!.patch.modules.map((m) => (m.kind === "follower" ? adjusted(m, { values: { lowest, highest } }) : m)) } }, kick] }, "filter.resonance").low(0.03); // prettier-ignore
    expect([only(36, 36), only(37, 127), only(0, 35)].map(Math.round)).toEqual([20, 80, 80]);
    const compiler = new Compiler();
    const before = compiler.compile(project);
    const after = compiler.compile(high);
    expect(after.parts[0]!.sound).not.toBe(before.parts[0]!.sound);
    expect(compiler.compile({ ...high, name: "Other" }).parts[0]).toBe(after.parts[0]);
  });

  test("as shaped, it hears the other part's level envelope, and is worked out anew with nothing else of its sound", () => {
    const listener = adjusted(newFollower("f", "F"), { data: { notesOf: "kick" }, choices: { level: "shaped" }, times: { attack: { unit: "ms", ms: 0 }, release: { unit: "ms", ms: 0 } } }); // prettier-ignore
    const base = makeProject({ notes: [note(0, 3840, 60)], values: { "filter.resonance": 10, "amp.level": -12 }, modules: [listener], routes: [{ source: "f", target: "filter.resonance", amount: 80 }] }); // prettier-ignore
    const kick = { ...newPart("kick", "Kick"), notes: [{ ...note(0, 1920, 36), id: "hit" }] };
    const withKick = (change: (m: Module) => Module) => ({
      ...base,
      parts: [...base.parts, { ...kick, patch: { ...kick.patch, modules: kick.patch.modules.map(change) } }],
    });
    // Down to a fifth in half a second, straight.
    const decays = (m: Module): Module => (m.kind === "envelope" ? withStages(m, { attack: { unit: "ms", ms: 0 }, decay: { unit: "ms", ms: 500 }, sustain: 20, decayCurve: 0 }) : m); // prettier-ignore
    const project = withKick(decays);
    const { high } = columnsOf(project, "filter.resonance");
    // The bar lasts two seconds.
    for (const sec of [0.1, 0.25, 0.4]) expect(high(sec / 2)).toBeCloseTo(10 + 80 * (1 - 0.8 * (sec / 0.5)), -0.5);
    expect(high(0.9 / 2)).toBeCloseTo(10 + 80 * 0.2, 1);
    const compiler = new Compiler();
    const sound = compiler.compile(project).parts[0]!.sound;
    const [first, second] = project.parts as [Part, Part];
    const darker = { ...second, patch: withSettings(second.patch, { "filter.cutoff": 300 }) };
    const modules = darker.patch.modules.map((m) => (m.kind === "filter" ? m : second.patch.modules.find((o) => o.id === m.id)!)); // prettier-ignore
    const filtered = { ...project, parts: [first, { ...darker, patch: { ...darker.patch, modules } }] };
    expect(compiler.compile(filtered).parts[0]!.sound).toBe(sound);
    expect(compiler.compile(withKick((m) => m)).parts[0]!.sound).not.toBe(sound);
  });
});
