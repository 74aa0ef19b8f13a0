import { expect, test } from "vitest";
import { RATE, rise } from "../../../tests/support/heardMotion";
import { makeProject, note, withStages, type Made } from "../../../tests/support/projects";
import { compileProject } from "../engine/compile";
import { Sequencer } from "../engine/sequencer";
import { HeardLog, type HeardNote } from "../engine/watch";
import type { Address } from "../patch/address";
import { newEnvelope, newMacro, newRandom, newSteps } from "../patch/defaults";
import type { Module } from "../patch/kinds";
import type { Envelope } from "../patch/kinds/envelope";
import { adjusted } from "../patch/kinds/kind";
import type { Shape } from "../patch/kinds/shape";
import type { SequenceStep } from "../patch/kinds/steps";
import { newLane } from "../patch/lanes";
import { NOTE_SOURCES } from "../patch/targets";

/** Chords, overlaps and repeats, so that notes have lanes of all groups; each is let go while others are held. */
const NOTES = [
  ...[60, 48, 67, 72, 40].map((key, i) => note(0, 400 + 170 * i, key, 20 + 25 * i)),
  note(133, 700, 55, 90),
  note(700, 300, 60, 127),
  // Let go with the one before, and begun later.
  note(900, 100, 45, 60),
  note(1111, 350, 52, 70),
  note(1300, 500, 79, 33),
];
const ADDRESSES: Address[] = ["osc.pitch", "filter.cutoff", "filter.resonance", "amp.pan"];
const ms = (n: number) => ({ unit: "ms", ms: n }) as const;

/** What each note does to what is watched, in order of time, while hands stand somewhere. */
function moved(made: Made, notes: Made["notes"], sources: readonly string[]): HeardNote[] {
  const project = makeProject({ ...made, notes: notes!, amp: { release: ms(150) } });
  const program = compileProject(project);
  const found: HeardNote[] = [];
  const log = new HeardLog(program, [{ addresses: ADDRESSES, sources }], (n) => found.push(n));
  const sequencer = new Sequencer(RATE, log, 32);
  sequencer.load(program);
  sequencer.hands(project.parts[0]!.id, 0.3, 0.6, 0.8);
  sequencer.play(0);
  sequencer.finishAfter(program.song.loopTicks);
  // To the end of the last one's release; 25 frames a tick.
  sequencer.run(25 * Math.max(...notes!.map((n) => n.startTick + n.lengthTicks)) + 0.16 * RATE);
  log.finish();
  return found.sort((a, b) => a.onFrame - b.onFrame || a.key - b.key);
}

const shape = (values: Partial<Shape["values"]>, choices: Partial<Shape["choices"]> = {}, times: Partial<Shape["times"]> = {}): Module =>
  adjusted(rise("x", 3), { values: { smoothing: 20, ...values }, choices, times, data: { points: [{ x: 0, y: 0.2, tension: 30 }, { x: 0.4, y: 1, tension: -40 }, { x: 1, y: 0, tension: 0 }] } }); // prettier-ignore
const envelope = (stages: Parameters<typeof withStages>[1], choices: Partial<Envelope["choices"]> = {}): Module =>
  adjusted(withStages(newEnvelope("x", "X"), { delay: ms(10), attack: ms(40), hold: ms(15), decay: ms(120), release: ms(150), sustain: 40, ...stages }), { choices }); // prettier-ignore
const row: SequenceStep[] = [0.1, 0.9, 0.3, 0.7, 0.5].map((value, i) => ({ value, second: 1 - value, form: i === 3 ? "fall" : "flat", glide: 25 * i, chance: 100 - 15 * i, hold: i === 2 })); // prettier-ignore
const steps = (choices: Partial<ReturnType<typeof newSteps>["choices"]> = {}): Module =>
  adjusted(newSteps("x", "X"), {
    values: { blend: 30, smoothing: 8 },
    choices: { restart: "note", ...choices },
    data: { steps: row },
  });
const random = adjusted(newRandom("x", "X"), {
  values: { smoothing: 5 },
  choices: { draws: "note", likely: "middle" },
});
const synced = { rate: { unit: "note", num: 3, den: 16 } } as const;
const all = ["rate", "phase", "smoothing", "fadeIn"];

/** A modulator "x", and which of its own values the key and the velocity move. */
const CASES: Record<string, readonly [Module, moved?: readonly string[]]> = {
  "a shape": [shape({ phase: 40 })],
  "a shape that follows the tempo": [shape({ smoothing: 0 }, {}, synced)],
  "one that goes once": [shape({}, { restart: "once" })],
  "one that fades in from a drawn start": [shape({ scatter: 70 }, {}, { fadeIn: ms(160) })],
  "one that fades in by note values": [shape({}, {}, { ...synced, fadeIn: { unit: "note", num: 1, den: 8 } })],
  "one that follows the key": [shape({ keyFollow: 80 })],
  "one that loops while it is held": [shape({ heldFrom: 20, heldTo: 45, scatter: 20 }, { restart: "once", whileHeld: "loops" })],
  "one that stands while it is held": [shape({ heldTo: 35 }, { restart: "once", whileHeld: "stands" }, synced)],
  "one that stands, whose rate is moved": [shape({ heldTo: 35, phase: 30 }, { restart: "once", whileHeld: "stands" }), ["rate", "phase"]],
  "a shape of which all is moved": [shape({ phase: 40 }, {}, { fadeIn: ms(100) }), all],
  "one that follows the tempo, of which all is moved": [shape({}, { restart: "once" }, { ...synced, fadeIn: ms(90) }), all],
  "a sequence": [steps()],
  "a sequence that goes once": [steps({ restart: "once", rateOf: "all" })],
  "a sequence whose rows and rate are moved": [steps(), ["blend", "rate", "phase", "smoothing"]],
  "a draw of each note's own": [random],
  "an envelope": [envelope({})],
  "an envelope whose decay loops": [envelope({ decay: ms(70) }, { loop: "decay" })],
  "an envelope of which all loops": [envelope({ decay: ms(50) }, { loop: "all" })],
  "an envelope of which all is moved": [envelope({}), ["delay", "attack", "hold", "decay", "release", "sustain", "attackCurve", "decayCurve", "releaseCurve"]],
  "an envelope that loops and is moved": [envelope({ decay: ms(50) }, { loop: "all" }), ["attack", "decay", "sustain"]],
  "an envelope in whole sixteenths": [envelope({}, { movedTimes: "sixteenths" }), ["attack", "decay"]],
  "a macro that notes move": [adjusted(newMacro("x", "X"), { values: { value: 50 } }), ["value"]],
}; // prettier-ignore

test.each(Object.keys(CASES))("each note of a chord moves as it does alone: %s", (name) => {
  const [x, by = []] = CASES[name]!;
  const amounts = { rate: 1.5, phase: 90, smoothing: 40, fadeIn: 1, blend: 60, value: 40, sustain: 30 } as const;
  const amount = (key: string): number => (key in amounts ? amounts[key as keyof typeof amounts] : key.endsWith("Curve") ? 60 : 1.2); // prettier-ignore
  const made: Made = {
    values: { "filter.resonance": 20, "filter.cutoff": 600 },
    modules: [x],
    routes: [
      { source: "x", target: "osc.pitch", amount: 12 },
      { source: "x", target: "filter.cutoff", amount: 3, scaledBy: "velocity", reversed: true },
      { source: "x", target: "filter.resonance", amount: 60, atStart: true },
      { source: "x", target: "amp.pan", amount: 70, around: true, curve: [{ x: 0, y: 1, tension: 20 }, { x: 0.3, y: 0, tension: 0 }, { x: 1, y: 0.6, tension: 0 }] },
      ...by.map((key, i) => ({ source: i % 2 === 0 ? "velocity" : "key", target: `x.${key}` as Address, amount: amount(key) })),
    ],
  }; // prettier-ignore
  expectAlone(made, ["x"], 0.02);
});

test("what the free lanes of an arpeggio say reaches every note of its chords", () => {
  const lanes = { freeA: { ...newLane("freeA", 2), values: [30, 80] }, freeB: { ...newLane("freeB", 2), values: [60, 10] } };
  const routes = [{ source: "freeA", target: "filter.resonance", amount: 100 }, { source: "freeB", target: "amp.pan", amount: 100 }] as const;
  const arpeggio = { on: true, order: "chord", rate: { num: 1, den: 4 }, gate: 50, lanes } as const;
  const notes = [48, 52, 55, 60, 64, 67].map((key) => note(0, 1900, key));
  const found = moved({ values: { "filter.resonance": 0 }, routes, arpeggio }, notes, []);
  expect(found.map((n) => [n.onFrame, n.key])).toEqual([0, 24_000].flatMap((at) => notes.map((n) => [at, n.key])));
  for (const n of found) {
    const at = n.onFrame === 0 ? 0 : 1;
    expect([n.rows[2], n.rows[3]]).toEqual([[30, 60], [80, 10]][at]!.map((v) => expect.closeTo(v, 6) as number));
  }
}); // prettier-ignore

test("each note of a chord says what it says alone, and what hands say is the same for all", () => {
  const ids = NOTE_SOURCES.map((s) => s.id).filter((id) => id !== "count" && id !== "copy");
  for (let i = 0; i < ids.length; i += 2) {
    const routes = ids.slice(i, i + 2).map((source, k) => ({ source, target: ADDRESSES[k + 1]!, amount: k === 0 ? 4 : 70 })); // prettier-ignore
    expectAlone(
      { values: { "playing.bendRange": 5, "filter.cutoff": 600, "filter.resonance": 0 }, routes, arpeggio: {} },
      [],
      0,
    );
    const [first] = moved({ values: { "filter.resonance": 0 }, routes: [{ source: ids[i]!, target: "filter.resonance", amount: 100 }] }, NOTES, []); // prettier-ignore
    const stands = { wheel: 60, pressure: 80, bend: 30 }[ids[i] as string];
    if (stands !== undefined) expect(first!.rows[2]).toBeCloseTo(stands, 6);
  }
});

function expectAlone(made: Made, sources: readonly string[], least: number): void {
  const width = ADDRESSES.length + sources.length;
  const together = moved(made, NOTES, sources);
  expect(together).toHaveLength(NOTES.length);
  const alone = NOTES.flatMap((n) => moved(made, [n], sources));
  alone.sort((a, b) => a.onFrame - b.onFrame || a.key - b.key);
  together.forEach((n, i) => {
    const one = alone[i]!;
    expect([n.key, n.onFrame, n.frames.length]).toEqual([one.key, one.onFrame, one.frames.length]);
    let off = 0;
    n.rows.forEach((v, k) => (off = Math.max(off, Math.abs(v - one.rows[k]!))));
    n.frames.forEach((f, k) => (off = Math.max(off, Math.abs(f - one.frames[k]!))));
    expect(off, `key ${n.key}`).toBeLessThan(1e-9);
    // What is compared moves, or differs from note to note.
    const source = n.rows.filter((_, k) => k % width === width - 1);
    if (least > 0 && n.key === 60) expect(Math.max(...source) - Math.min(...source) + Math.abs(source[0]! - together.at(-1)!.rows[width - 1]!)).toBeGreaterThan(least); // prettier-ignore
  });
}
