import { expect, test } from "vitest";
import { RATE, rise } from "../../../tests/support/heardMotion";
import { makeProject, note, withStages, type Made } from "../../../tests/support/projects";
import { step, steps } from "../../../tests/support/steps";
import { compileProject } from "../engine/compile";
import type { Address } from "../patch/address";
import { newEnvelope, newFollower, newGate, newRandom } from "../patch/defaults";
import type { Module } from "../patch/kinds";
import { AUTOMATION } from "../patch/kinds/automation";
import type { Envelope } from "../patch/kinds/envelope";
import { adjusted, newModule } from "../patch/kinds/kind";
import type { Restart, Shape } from "../patch/kinds/shape";
import { SharedMotion } from "./shared";

/**
 * What all notes share depends on the place in the song alone: wherever playing sets in, it is what it would be had the song
 * been playing for ever. Two bars of 4/4 at 120 BPM, looked at once a sub-block.
 */
const SUB = 16;
const LOOP = 7680;
const TICKS = (SUB / RATE) * 1920;
const STEPS = Math.round(LOOP / TICKS);
const ms = (n: number) => ({ unit: "ms", ms: n }) as const;
const NOTES = [[0, 900, 60], [1500, 400, 48], [1920, 200, 64], [4000, 1700, 67], [6500, 1180, 50]].map(([at, length, key]) => note(at!, length!, key!, key! + 40)); // prettier-ignore
const TRIGGERS = [700, 2400, 2450, 5000];
const CURVE = [{ x: 0, y: 0.2, tension: 30 }, { x: 0.4, y: 1, tension: -40 }, { x: 1, y: 0, tension: 0 }] as const; // prettier-ignore

const line = (target: Address, ...points: (readonly [x: number, y: number])[]): Module =>
  newModule(AUTOMATION, "line", "Line", { target, points: points.map(([x, y]) => ({ x, y, tension: 0 })) });
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
  "an envelope whose sustain is automated": [envelope("triggers"), {}, line("x.sustain", [0, 0.1], [1, 0.9])],
  "a draw that stands, its rate moved": [random("held"), rate],
  "a draw on its way to the next one": [random("smooth"), rate],
  "a gate of which all is moved": [gate("bar"), { "x.hold": 25, "x.tail": 1, "x.attack": 1 }],
  "a follower, its times moved": [follower(60, 200), { "x.attack": 1, "x.release": -1 }],
  "a follower slower than the loop": [follower(900, 5000), { "x.release": 1 }],
}; // prettier-ignore

test.each(Object.keys(CASES))(
  "wherever it is played from, it stands where it would had it been played on: %s",
  (name) => {
    const [x, moved = {}, automated] = CASES[name]!;
    const tide = adjusted(rise("tide", 0.5, "song"), {
      data: { points: CURVE },
      times: { rate: { unit: "bars", bars: 2 } },
    });
    const made: Made = {
    song: { tempoBpm: 120, loopBars: 2 },
    notes: NOTES,
    modules: [tide, x, ...(automated ? [automated] : [])],
    routes: [{ source: "x", target: "filter.cutoff", amount: 2 }, ...Object.entries(moved).map(([target, amount]) => ({ source: "tide", target: target as Address, amount }))],
  }; // prettier-ignore
    const { parts, song } = compileProject(makeProject(made));
    const { motion: program } = parts[0]!.sound;
    const ref = program.sources["x"]!;
    expect(ref).toBeLessThan(0);
    const motion = new SharedMotion(program, RATE, () => undefined);
    const tickOf = (k: number): number => (k % STEPS) * TICKS;
    const played = (from: number, count: number): number[] => {
      motion.relocate(tickOf(from), song, SUB);
      return Array.from({ length: count }, (_, i) => {
        motion.evaluate(tickOf(from + i), song, i === 0 ? 0 : SUB);
        return motion.values[~ref]!;
      });
    };
    const twice = played(0, 2 * STEPS);
    const steady = (k: number): number => twice[STEPS + (k % STEPS)]!;
    const apart = (list: readonly number[], from: number): number => Math.max(...list.map((v, i) => Math.abs(v - steady(from + i)))); // prettier-ignore
    expect(apart(twice.slice(0, STEPS), 0)).toBeLessThan(1e-4);
    const starts = [0, 700, 1001, 2400, 2451, 3840, 4000, 5000.5, 6600, 7679].map((tick) => Math.ceil(tick / TICKS));
    for (const from of starts) expect(apart(played(from, 150), from), `from tick ${from * TICKS}`).toBeLessThan(1e-4);
    expect(new Set(twice).size > 100 || name.includes("nothing triggers")).toBe(true);
  },
);
