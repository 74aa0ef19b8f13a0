import { describe, expect, test } from "vitest";
import { engineWith, run } from "../../../tests/support/live";
import JZZ from "jzz";
import fc from "fast-check";
import { PitchDetector } from "pitchy";
import { makeProject } from "../../../tests/support/projects";
import { readMidiMessage } from "../format/midiMessage";
import { recordedNote, type RecordRules } from "./record";

const STRAIGHT = { percent: 50, gridTicks: 240, barTicks: 3840 };
const RULES: RecordRules = { snapTicks: 240, strength: 1, from: 0, to: 3840, swing: STRAIGHT };
const played = (tick: number, heldTicks = 100) => ({ tick, heldTicks, key: 60, velocity: 90 });

describe("what is recorded", () => {
  test("starts on the grid, as far as is told; lengths stay", () => {
    expect(recordedNote(played(251.4), RULES)).toEqual({ startTick: 240, lengthTicks: 100, key: 60, velocity: 90 });
    expect(recordedNote(played(270), { ...RULES, strength: 0.5 }).startTick).toBe(255);
    expect(recordedNote(played(270.4), { ...RULES, snapTicks: null }).startTick).toBe(270);
  });
  test("just before the end it starts the stretch that is repeated; nothing lasts past the end", () => {
    expect(recordedNote(played(3800, 500), RULES)).toMatchObject({ startTick: 0, lengthTicks: 500 });
    expect(recordedNote(played(2850, 500), { ...RULES, from: 1920, to: 2880 })).toMatchObject({ startTick: 1920, lengthTicks: 500 }); // prettier-ignore
    expect(recordedNote(played(3600, 500), RULES)).toMatchObject({ startTick: 3600, lengthTicks: 240 });
    expect(recordedNote(played(100, 0), RULES).lengthTicks).toBe(1);
  });
  test("harder than hard is as hard as can be, and silence is the softest", () => {
    expect([0, 0.4, 1, 126.6, 127, 300].map((velocity) => recordedNote({ ...played(100, 50), velocity }, RULES).velocity)).toEqual([1, 1, 1, 127, 127, 127]); // prettier-ignore
  });
  test("played with the song's swing, it is written straight: the off-step of 66 % is the second sixteenth", () => {
    const swing = { ...STRAIGHT, percent: 66 };
    expect(recordedNote(played(316.8), { ...RULES, swing }).startTick).toBe(240);
    expect(recordedNote(played(316.8), { ...RULES, swing, snapTicks: null }).startTick).toBe(240);
  });
});

describe("messages of instruments, after the tables of MIDI 1.0", () => {
  // JZZ, a general-purpose MIDI library, writes the bytes.
  const read = (m: ArrayLike<number>) => readMidiMessage(m);
  test("notes, bend, wheel and pedal of any channel", () => {
    expect(read(JZZ.MIDI.noteOn(3, 61, 77))).toEqual({ type: "press", key: 61, velocity: 77 });
    expect(read(JZZ.MIDI.noteOn(3, 61, 0))).toEqual({ type: "release", key: 61 });
    expect(read(JZZ.MIDI.noteOff(15, 61, 10))).toEqual({ type: "release", key: 61 });
    expect([0, 8192, 16383].map((v) => read(JZZ.MIDI.pitchBend(0, v)))).toEqual([-1, 0, 1].map((value) => ({ type: "bend", value }))); // prettier-ignore
    expect(read(JZZ.MIDI.control(2, 1, 127))).toEqual({ type: "wheel", value: 1 });
    expect([read(JZZ.MIDI.control(0, 64, 64)), read(JZZ.MIDI.control(0, 64, 63))]).toEqual([{ type: "pedal", down: true }, { type: "pedal", down: false }]); // prettier-ignore
    expect([read(JZZ.MIDI.allNotesOff(0)), read(JZZ.MIDI.allSoundOff(0))]).toEqual([{ type: "allOff" }, { type: "allOff" }]); // prettier-ignore
    expect([[0xd3, 127], [0xd0, 0], [0xa0, 60, 127], [0xaf, 60, 0]].map(read)).toEqual([1, 0, 1, 0].map((value) => ({ type: "pressure", value }))); // prettier-ignore
    // What is no channel message, or has a data byte past 127, says nothing.
    for (const bytes of [[], [0xd0], [0x90], [0x90, 60], [0x90, 128, 9], [0x90, 60, 128], [0xd0, 200], [60, 60, 60], [0xf8, 0, 0]]) expect(read(bytes)).toBeNull(); // prettier-ignore
    expect([read(JZZ.MIDI.program(0, 5)), read(JZZ.MIDI.control(0, 7, 5)), read(JZZ.MIDI.clock())]).toEqual([null, null, null]); // prettier-ignore
  });
  test("no bytes bring the reader down, and what it says stays in range", () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 5 }), (bytes) => {
        const event = readMidiMessage(bytes);
        if (event?.type === "press")
          expect(event.key <= 127 && event.velocity >= 1 && event.velocity <= 127).toBe(true);
        if (event?.type === "bend") expect(Math.abs(event.value)).toBeLessThanOrEqual(1);
        if (event?.type === "wheel") expect(event.value >= 0 && event.value <= 1).toBe(true);
      }),
    );
  });
});

test("a bend adds to what moves the pitch", () => {
  const made = makeProject({ notes: [], choices: { "osc.wave": "sine" }, values: { "amp.level": -20, "playing.bendRange": 7 }, routes: [{ source: "velocity", target: "osc.fine", amount: 50 }] }); // prettier-ignore
  const engine = engineWith(made);
  engine.noteOn(made.parts[0]!.id, 60, 127);
  engine.hands(made.parts[0]!.id, 1, 0, 0);
  const x = run(engine, 24_000).slice(-8192);
  const hz = PitchDetector.forFloat32Array(8192).findPitch(x, 48_000)[0];
  expect(69 + 12 * Math.log2(hz / 440)).toBeCloseTo(67.5, 2);
});

test("bend moves what sounds by its range, the wheel what it is routed to; both glide", () => {
  const made = makeProject({ notes: [], choices: { "osc.wave": "sine" }, values: { "amp.level": -20, "playing.bendRange": 7 }, routes: [{ source: "wheel", target: "amp.level", amount: 12 }] }); // prettier-ignore
  const engine = engineWith(made);
  const id = made.parts[0]!.id;
  const after = (sec: number): Float32Array => run(engine, sec * 48_000);
  const key = (x: Float32Array): number => 69 + 12 * Math.log2(PitchDetector.forFloat32Array(4096).findPitch(x.slice(-4096), 48_000)[0] / 440); // prettier-ignore
  const db = (x: Float32Array): number => 10 * Math.log10(x.slice(-4800).reduce((s, v) => s + v * v, 0) / 4800);
  engine.noteOn(id, 60, 100);
  const rest = after(0.3);
  expect(key(rest)).toBeCloseTo(60, 2);
  engine.hands(id, 1, 0, 0);
  expect(key(after(0.4))).toBeCloseTo(67, 2);
  engine.hands(id, -0.5, 0, 0);
  expect(key(after(0.4))).toBeCloseTo(56.5, 2);
  engine.hands(id, 0, 0.5, 0);
  const louder = after(0.4);
  expect(key(louder)).toBeCloseTo(60, 2);
  expect(db(louder) - db(rest)).toBeCloseTo(6, 1);
  // It goes there without a step: no two samples are further apart than the louder sine has them.
  engine.hands(id, 0, 0, 0);
  const back = after(0.2);
  const step = (x: Float32Array): number => x.reduce((most, v, i) => (i === 0 ? 0 : Math.max(most, Math.abs(v - x[i - 1]!))), 0); // prettier-ignore
  expect(step(back)).toBeLessThan(1.02 * step(louder));
});
