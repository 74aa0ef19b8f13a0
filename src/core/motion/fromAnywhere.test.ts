import { expect, test } from "vitest";
import { RATE, rise } from "../../../tests/support/heardMotion";
import { makeProject, note, withStages, type Made } from "../../../tests/support/projects";
import { step, steps } from "../../../tests/support/steps";
import { compileProject } from "../engine/compile";
import type { Address } from "../patch/address";
import { newEnvelope, newFollower, newGate, newMacro, newRandom } from "../patch/defaults";
import type { Module } from "../patch/kinds";
import { AUTOMATION } from "../patch/kinds/automation";
import type { Envelope } from "../patch/kinds/envelope";
import { adjusted, newModule } from "../patch/kinds/kind";
import type { Restart, Shape } from "../patch/kinds/shape";
import { SharedMotion } from "./shared";

/**
 * What all notes share depends on the place in the song alone: wherever playing sets in, it is what it would be had the song
 * been playing for ever. Two bars of 4/4 at 120 BPM, looked at every 32 frames.
 */
const SUB = 32;
const LOOP = 7680;
const TICKS = (SUB / RATE) * 1920;
const STEPS = Math.round(LOOP / TICKS);
const ms = (n: number) => ({ unit: "ms", ms: n }) as const;
const NOTES = [[0, 900, 60], [1500, 400, 48], [1920, 200, 64], [4000, 1700, 67], [6500, 1180, 50]].map(([at, length, key]) => note(at!, length!, key!, key! + 40)); // prettier-ignore
const TRIGGERS = [700, 2400, 2450, 5000];
const CURVE = [{ x: 0, y: 0.2, tension: 30 }, { x: 0.4, y: 1, tension: -40 }, { x: 1, y: 0, tension: 0 }] as const; // prettier-ignore

const line = (target: Address, ...points: (readonly [x: number, y: number])[]): Module =>
  newModule(AUTOMATION, "line", "Line", { target, points: points.map(([x, y]) => ({ x, y, tension: 0 })) });
const tide = adjusted(rise("tide", 0.5, "song"), { data: { points: CURVE }, times: { rate: { unit: "bars", bars: 2 } } }); // prettier-ignore
const envelope = (restart: Envelope["choices"]["restart"], loop: Envelope["choices"]["loop"] = "none", more: Partial<Envelope["data"]> = {}, stages = {}): Module =>
  adjusted(withStages(newEnvelope("x", "X"), { delay: ms(20), attack: ms(90), hold: ms(30), decay: ms(200), sustain: 40, ...stages }), { choices: { restart, loop }, data: { triggers: TRIGGERS, ...more } }); // prettier-ignore
const shape = (restart: Restart, values: Partial<Shape["values"]> = {}, choices: Partial<Shape["choices"]> = {}, times: Partial<Shape["times"]> = {}): Module =>
  adjusted(rise("x", 2.3, restart, TRIGGERS), { values: { smoothing: 30, ...values }, choices, times, data: { points: CURVE } }); // prettier-ignore
const note8 = { rate: { unit: "note", num: 3, den: 16 } } as const;
const row = [step(0.1), step(0.9, { form: "fall", glide: 40 }), step(0.4, { chance: 50 }), step(0.7, { hold: true }), step(0.2, { second: 1 })]; // prettier-ignore
const sequence = (restart: Restart): Module => ({ ...steps(row, { restart }, { unit: "note", num: 3, den: 32 }, { blend: 30, smoothing: 10 }), id: "x", data: { steps: row, triggers: TRIGGERS, notesOf: null } }); // prettier-ignore
const random = (moves: "held" | "smooth"): Module => adjusted(newRandom("x", "X"), { choices: { moves } });
const gate = (restart: "song" | "bar"): Module => adjusted(newGate("x", "X"), { values: { tail: 300 }, choices: { restart } }); // prettier-ignore
const follower = (attack: number, release: number): Module => adjusted(newFollower("x", "X"), { times: { attack: ms(attack), release: ms(release) } }); // prettier-ignore

const RESTARTS = ["song", "bar", "triggers", "chord", "rest", "hand"] as const;
const rate = { "x.rate": 1.5 } as const;

/** A modulator "x", by how much a slow tide moves its own values, and an automation of one of them. */
const CASES: Readonly<Record<string, readonly [Module, moved?: Readonly<Record<Address, number>>, line?: Module]>> = {
  ...Object.fromEntries(RESTARTS.map((r) => [`a shape that restarts with ${r}, its rate moved`, [shape(r), rate]])),
  ...Object.fromEntries(RESTARTS.map((r) => [`one in note values that goes once, restarted with ${r}`, [shape(r, {}, { goes: "once" }, note8), rate]])),
  ...Object.fromEntries(RESTARTS.map((r) => [`an envelope that starts with ${r}, its times moved`, [envelope(r), { "x.decay": 1.5, "x.sustain": 30 }]])),
  ...Object.fromEntries(RESTARTS.map((r) => [`a sequence that restarts with ${r}, its rate moved`, [sequence(r), rate]])),
  "a shape of which all is moved": [shape("bar", { phase: 90 }, {}, { fadeIn: ms(400) }), { "x.rate": 1, "x.phase": 120, "x.smoothing": 20, "x.fadeIn": 1 }],
  "one that nothing triggers": [adjusted(rise("x", 2.3, "triggers"), { data: { points: CURVE } }), rate],
  "one whose rate is automated": [shape("bar", {}, { atJumps: "goesOn" }), {}, line("x.rate", [0, 0.6], [0.3, 0.8], [0.3, 0.5], [1, 0.7])],
  "one that starts again where its rate jumps": [shape("bar", {}, { atJumps: "restarts" }), {}, line("x.rate", [0, 0.6], [0.3, 0.8], [0.3, 0.5], [1, 0.7])],
  "an envelope whose decay loops": [envelope("chord", "decay", {}, { decay: ms(130) }), { "x.decay": 1 }],
  "an envelope of which all loops": [envelope("bar", "all", {}, { decay: ms(130) }), { "x.attack": 1, "x.sustain": 25 }],
  "an envelope that nothing triggers": [envelope("triggers", "none", { triggers: [] }), { "x.decay": 1 }],
  "an envelope that rises at once": [envelope("chord", "none", {}, { delay: ms(0), attack: ms(25) }), { "x.decay": 1 }],
  "an envelope whose sustain is automated": [envelope("triggers"), {}, line("x.sustain", [0, 0.1], [1, 0.9])],
  "a draw that stands, its rate moved": [random("held"), rate],
  "a draw on its way to the next one": [random("smooth"), rate],
  "a gate of which all is moved": [gate("bar"), { "x.hold": 25, "x.tail": 1, "x.attack": 1 }],
  "a follower, its times moved": [follower(60, 200), { "x.attack": 1, "x.release": -1 }],
  "a follower slower than the loop": [follower(900, 5000), { "x.release": 1 }],
}; // prettier-ignore

const song = (modules: readonly Module[], moved: Readonly<Record<Address, number>>): Made => ({
  song: { tempoBpm: 120, loopBars: 2 },
  notes: NOTES,
  modules: [tide, ...modules],
  routes: [{ source: "x", target: "filter.cutoff", amount: 2 }, ...Object.entries(moved).map(([target, amount]) => ({ source: "tide", target: target as Address, amount }))],
}); // prettier-ignore

test.each([
  ["song", [0]],
  ["bar", [0, 3840]],
  ["triggers", TRIGGERS],
  ["hand", TRIGGERS],
  ["chord", NOTES.map((n) => n.startTick)],
  // The last note is held to the end of the pass, so that the first one follows no rest.
  ["rest", [1500, 1920, 4000, 6500]],
] as const)("where a rate moves, cycles since the restart are its integral: %s", (restart, ticks) => {
  const points = [{ x: 0, y: 0, tension: 0 }, { x: 1, y: 1, tension: 0 }]; // prettier-ignore
  const x = adjusted(rise("x", 2.3, restart, TRIGGERS), { values: { smoothing: 0 }, choices: { goes: "round" }, data: { points } }); // prettier-ignore
  const { parts, song: frame } = compileProject(makeProject(song([x], { "x.rate": 1.5 })));
  const { motion: program } = parts[0]!.sound;
  const motion = new SharedMotion(program, RATE, () => undefined);
  motion.relocate(0, frame, SUB);
  // Triggers run through once.
  const once = restart === "triggers";
  const rates: number[] = [];
  let cycles = 0;
  let most = 0;
  for (let k = 0; k < 2 * STEPS; k++) {
    const tick = (k % STEPS) * TICKS;
    motion.evaluate(tick, frame, k === 0 ? 0 : SUB);
    const [is, tideIs] = ["x", "tide"].map((id) => motion.values[~program.sources[id]!]!) as [number, number];
    rates.push(2.3 * 2 ** (1.5 * tideIs));
    const restarted = ticks.find((t) => t <= tick && tick - TICKS < t);
    const sec = (restarted === undefined ? TICKS : tick - restarted) / 1920;
    cycles = (restarted === undefined ? cycles : 0) + sec * ((rates[k]! + (rates[k - 1] ?? rates[k]!)) / 2);
    // The first pass begins with what the one before has triggered; where a cycle ends it falls at once.
    const phase = once ? Math.min(1, cycles) : cycles % 1;
    if (k >= STEPS && phase > 0.01 && (once || phase < 0.99)) most = Math.max(most, Math.abs(is - phase));
  }
  expect(most).toBeLessThan(4e-3);
});

/** The value of "x" where playing sets in at a tick, while the newest note says `newest` of itself. */
function setIn(x: Module, routes: Made["routes"], tick: number, newest = 0): number {
  const made: Made = { ...song([x], {}), routes: [{ source: "x", target: "filter.cutoff", amount: 2 }, ...routes!] };
  const { parts, song: frame } = compileProject(makeProject(made));
  const program = parts[0]!.sound.motion;
  const motion = new SharedMotion(program, RATE, (_, into, at) => (into[at] = newest));
  motion.relocate(tick, frame, SUB);
  return motion.values[~program.sources["x"]!]!;
} // prettier-ignore

test("what a note moves begins as if its rate had always been that of the newest note", () => {
  const points = [{ x: 0, y: 0, tension: 0 }, { x: 1, y: 1, tension: 0 }]; // prettier-ignore
  for (const [restart, restarted] of [["song", 0], ["bar", 3840], ["triggers", 5000]] as const) {
    const x = adjusted(rise("x", 0.3, restart, TRIGGERS), { values: { smoothing: 0 }, choices: { goes: "round" }, data: { points } }); // prettier-ignore
    for (const newest of [0, 1])
      expect(setIn(x, [{ source: "velocity", target: "x.rate", amount: 1 }], 5400, newest)).toBeCloseTo((0.3 * 2 ** newest * ((5400 - restarted) / 1920)) % 1, 6); // prettier-ignore
  }
  for (const tick of [300, 1200, 3000, 7000]) {
    const [still, moved] = [[], [{ source: "velocity", target: "x.attack", amount: 1 }]].map((routes) => setIn(follower(300, 500), routes as Made["routes"], tick)); // prettier-ignore
    expect(moved).toBeCloseTo(still!, 9);
  }
}); // prettier-ignore

test("a follower that is slower than many passes ends one where the next begins", () => {
  const routes = (["x.attack", "x.release"] as const).map((target) => ({ source: "tide", target, amount: 2 }));
  const [start, end] = [0, LOOP - 1].map((tick) => setIn(follower(6000, 6000), routes, tick)) as [number, number];
  expect(start).toBeGreaterThan(0.2);
  // In a tick it moves by no more than that.
  expect(Math.abs(start - end)).toBeLessThan(5e-4);
});

test("an envelope of the song goes along its curves", () => {
  const x = envelope("bar", "none", {}, { attackCurve: 50, decayCurve: -50, hold: ms(40) });
  // Tension 50 % is an exponent of 4; half-way through the attack, the hold, and the decay from 1 to 0.4.
  const bent = (k: number): number => (1 - Math.exp(-k / 2)) / (1 - Math.exp(-k));
  for (const [milliseconds, value] of [
    [10, 0],
    [20 + 45, bent(4)],
    [110 + 20, 1],
    [150 + 100, 1 - 0.6 * bent(-4)],
    [600, 0.4],
  ] as const)
    // prettier-ignore
    expect(setIn(x, [], 3840 + 1.92 * milliseconds)).toBeCloseTo(value, 1);
});

test("a macro that is moved past its end stands there", () => {
  const of = (value: number): number => setIn(adjusted(newMacro("x", "X"), { values: { value, low: 10, high: 60, curve: 0 } }), [{ source: "tide", target: "x.value", amount: 90 }], 3072); // prettier-ignore
  // The tide is at its height.
  expect([of(100), of(60), of(0)]).toEqual([0.6, 0.6, 0.1 + 0.5 * 0.9].map((v) => expect.closeTo(v, 3) as number));
});

test("a shape of the song fades in from each of its restarts", () => {
  const x = (times: Partial<Shape["times"]>): Module => adjusted(rise("x", 0.25, "bar"), { values: { smoothing: 0 }, times }); // prettier-ignore
  // A bar lasts 2 s: half a cycle of the shape, from 0.
  for (const [sec, share] of [
    [0, 0],
    [0.1, 0.25],
    [0.3, 0.75],
    [0.5, 1],
    [1.5, 1],
  ] as const)
    // prettier-ignore
    expect(setIn(x({ fadeIn: ms(400) }), [], 3840 + 1920 * sec)).toBeCloseTo(0.25 * sec * share, 9);
  const note = { rate: { unit: "note", num: 2, den: 1 }, fadeIn: { unit: "note", num: 1, den: 4 } } as const;
  for (const tick of [100, 480, 960, 2000]) expect(setIn(x(note), [], 3840 + tick)).toBeCloseTo((tick / 7680) * Math.min(1, tick / 960), 9); // prettier-ignore
});

test("an envelope of which all loops sets out from its sustain, wherever that has moved to", () => {
  const x = envelope("bar", "all", {}, { attack: ms(100), decay: ms(130) });
  const { parts, song: frame } = compileProject(makeProject(song([x], { "x.sustain": 50 })));
  const { motion: program } = parts[0]!.sound;
  const motion = new SharedMotion(program, RATE, () => undefined);
  for (const tick of [0, 3840]) {
    motion.relocate(tick, frame, SUB);
    const [is, tideIs] = ["x", "tide"].map((id) => motion.values[~program.sources[id]!]!) as [number, number];
    // Some hundredths on, as its declicking lags.
    expect(is).toBeCloseTo((40 + 50 * tideIs) / 100, 1);
  }
});

test.each(Object.keys(CASES))(
  "wherever it is played from, it stands where it would had it been played on: %s",
  (name) => {
    const [x, moved = {}, automated] = CASES[name]!;
    const { parts, song: frame } = compileProject(makeProject(song([x, ...(automated ? [automated] : [])], moved)));
    const { motion: program } = parts[0]!.sound;
    const ref = program.sources["x"]!;
    expect(ref).toBeLessThan(0);
    const motion = new SharedMotion(program, RATE, () => undefined);
    const tickOf = (k: number): number => (k % STEPS) * TICKS;
    const played = (from: number, count: number): number[] => {
      motion.relocate(tickOf(from), frame, SUB);
      return Array.from({ length: count }, (_, i) => {
        motion.evaluate(tickOf(from + i), frame, i === 0 ? 0 : SUB);
        return motion.values[~ref]!;
      });
    };
    const twice = played(0, 2 * STEPS);
    const steady = (k: number): number => twice[STEPS + (k % STEPS)]!;
    const apart = (list: readonly number[], from: number): number => Math.max(...list.map((v, i) => Math.abs(v - steady(from + i)))); // prettier-ignore
    expect(apart(twice.slice(0, STEPS), 0)).toBeLessThan(1e-4);
    const starts = [0, 700, 1001, 2400, 2451, 3840, 4000, 5000.5, 6600, 7679].map((tick) => Math.ceil(tick / TICKS));
    for (const from of starts) expect(apart(played(from, 150), from), `from tick ${from * TICKS}`).toBeLessThan(1e-4);
    // Where nothing triggers it, it stands where it comes to in the end.
    const stands = /nothing triggers/.test(name) ? (x.kind === "envelope" ? 0.4 : 0) : null;
    if (stands === null) expect(new Set(twice).size).toBeGreaterThan(100);
    else expect(twice.every((v) => Math.abs(v - stands) < 1e-9)).toBe(true);
  },
);
