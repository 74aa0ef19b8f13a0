import fc from "fast-check";
import { at, ofAddress } from "../../../tests/support/heardMotion";
import { engineWith, run } from "../../../tests/support/live";
import { PitchDetector } from "pitchy";
import { describe, expect, test } from "vitest";
import { AUTOMATION } from "../patch/kinds/automation";
import { newModule } from "../patch/kinds/kind";
import { runs } from "../../../tests/support/runs";
import { makeProject, note, type Made } from "../../../tests/support/projects";
import { compileProject } from "../engine/compile";
import { renderNow } from "../engine/render";
import { newLane, type StepLane } from "../patch/lanes";
import type { Project } from "../patch/project";
import { keysOfNote } from "../pitch/noteChord";
import { partEvents } from "./events";

const one = (made: Made): Project => makeProject({ ...made, playing: { ...made.playing, choices: { voices: "one", ...made.playing?.choices } } }); // prettier-ignore
const eventsOf = (p: Project) => partEvents(p.parts[0]!, p.song, p.seed);
const spans = (p: Project) => eventsOf(p).map((e) => [e.onTick, e.offTick, e.key]);

describe("one note at a time", () => {
  // A low note under the whole bar, a high one and a middle one over it.
  const notes = [note(0, 3840, 40), note(960, 960, 64), note(1440, 1440, 52)];
  test("the newest, the highest or the lowest of what is held", () => {
    expect(spans(one({ notes }))).toEqual([[0, 960, 40], [960, 1440, 64], [1440, 2880, 52], [2880, 3840, 40]]); // prettier-ignore
    expect(spans(one({ notes, playing: { choices: { priority: "high" } } }))).toEqual([[0, 960, 40], [960, 1920, 64], [1920, 2880, 52], [2880, 3840, 40]]); // prettier-ignore
    expect(spans(one({ notes, playing: { choices: { priority: "low" } } }))).toEqual([[0, 3840, 40]]);
  });
  test("nothing lasts past the end of the loop, and what would sound again there does not", () => {
    const past = [note(0, 9000, 40), note(2000, 1840, 64)];
    expect(spans(one({ notes: past }))).toEqual([[0, 2000, 40], [2000, 3840, 64]]); // prettier-ignore
    expect(spans(one({ notes: past, playing: { choices: { priority: "low" } } }))).toEqual([[0, 3840, 40]]);
    const long = { on: true, rate: { num: 1, den: 4 }, gate: 180, restart: "loop" } as const;
    expect(spans(one({ notes: [note(0, 3840, 40)], arpeggio: long })).at(-1)).toEqual([2880, 3840, 40]);
  });
  test("of two of one key the later one sounds, whichever goes before", () => {
    const twice = [note(0, 1920, 60, 40), note(960, 1920, 60, 90)];
    for (const priority of ["last", "high", "low"]) expect(eventsOf(one({ notes: twice, playing: { choices: { priority } as object } })).map((e) => [e.onTick, e.offTick, e.velocity])).toEqual([[0, 960, 40], [960, 2880, 90]]); // prettier-ignore
  });
  test("notes that overlap are tied where that is chosen; those that only touch are not", () => {
    const tied = (list: typeof notes) => eventsOf(one({ notes: list, playing: { choices: { overlap: "tied" } } })).map((e) => e.tied ?? false); // prettier-ignore
    expect(tied(notes)).toEqual([false, true, true, true]);
    expect(tied([note(0, 960, 40), note(960, 960, 43), note(1919, 5, 47)])).toEqual([false, false, true]);
  });
  test("glides come from the note before, the first from the last of the pass; where they overlap only, if so chosen", () => {
    const glide = { unit: "note", num: 1, den: 8 } as const;
    const line = [note(0, 960, 48), note(960, 970, 60), note(1920, 960, 54)];
    const slides = (choices: object) => eventsOf(one({ notes: line, playing: { glide, choices } })).map((e) => e.slide && [e.slide.from, e.slide.ticks, e.slide.ms]); // prettier-ignore
    expect(slides({})).toEqual([[54, 480, 0], [48, 480, 0], [60, 480, 0]]); // prettier-ignore
    expect(slides({ glides: "overlapping" })).toEqual([undefined, undefined, [60, 480, 0]]);
    // By the octave, half an octave takes half the time.
    expect(slides({ glideTime: "octave" })).toEqual([[54, 240, 0], [48, 480, 0], [60, 240, 0]]); // prettier-ignore
  });
  test("a step's slide in note values and in milliseconds add up, as many of the one as of the other too", () => {
    const lane = (id: "slide" | "slideMs", value: number) => ({ ...newLane(id, 1), values: [value] });
    const slides = (lanes: object) => eventsOf(makeProject({ notes: [note(0, 1920, 48), note(0, 1920, 55)], arpeggio: { on: true, rate: { num: 1, den: 8 }, lanes } })).map((e) => e.slide && [e.slide.ticks, e.slide.ms]); // prettier-ignore
    const [ticks] = slides({ slide: lane("slide", 1) })[1]!;
    expect(ticks).toBeGreaterThan(0);
    expect(slides({ slide: lane("slide", 1), slideMs: lane("slideMs", ticks!) })[1]).toEqual([ticks, ticks]);
    expect(slides({ slide: lane("slide", 0), slideMs: lane("slideMs", 0) })[1]).toBeUndefined();
  });
  test("by the octave, in milliseconds too; what is moved elsewhere leaves a glide of nothing alone", () => {
    const line = [note(0, 960, 48), note(960, 970, 60), note(1920, 960, 54)];
    const glide = { unit: "ms", ms: 80 } as const;
    expect(eventsOf(one({ notes: line, playing: { glide, choices: { glideTime: "octave" } } })).map((e) => [e.slide!.ticks, e.slide!.ms])).toEqual([[0, 40], [0, 80], [0, 40]]); // prettier-ignore
    const other = newModule(AUTOMATION, "a", "A", { target: "filter.cutoff", points: [{ x: 0, y: 0, tension: 0 }, { x: 1, y: 1, tension: 0 }] }); // prettier-ignore
    expect(eventsOf(one({ notes: line, modules: [other], playing: { glide: { unit: "ms", ms: 0 } } })).map((e) => e.slide)).toEqual([undefined, undefined, undefined]); // prettier-ignore
  });
  test("a step's own slide leads into the note where it begins, and not where a held one comes back", () => {
    const slide = { ...newLane("slide", 2), values: [1, 1] };
    const made = one({ notes: [note(0, 960, 48), note(0, 960, 55)], arpeggio: { on: true, rate: { num: 1, den: 8 }, lanes: { slide } } }); // prettier-ignore
    expect(eventsOf(made).map((e) => [e.key, e.slide?.from, e.slide?.byRule ?? false])).toEqual([[48, expect.any(Number), false], [55, 48, false]]); // prettier-ignore
  });
  test("where an automation moves the glide, there is one to be moved: a tenth of a millisecond at least", () => {
    const line = [note(0, 960, 48), note(960, 970, 60)];
    const moves = newModule(AUTOMATION, "a", "A", { target: "playing.glide", points: [{ x: 0, y: 0, tension: 0 }, { x: 1, y: 1, tension: 0 }] }); // prettier-ignore
    const of = (ms: number, modules: (typeof moves)[]): unknown => eventsOf(one({ notes: line, modules, playing: { glide: { unit: "ms", ms } } })).map((e) => e.slide?.ms); // prettier-ignore
    expect(of(0, [])).toEqual([undefined, undefined]);
    expect(of(0, [moves])).toEqual([0.1, 0.1]);
    expect(of(70, [moves])).toEqual([70, 70]);
  });
  test("whatever is held, at most one sounds, and it sounds whenever something is held", () => {
    const any = fc.array(fc.tuple(fc.nat(3800), fc.integer({ min: 1, max: 2000 }), fc.integer({ min: 30, max: 90 })), { minLength: 1, maxLength: 14 }); // prettier-ignore
    const rule = fc.record({ priority: fc.constantFrom("last", "high", "low"), overlap: fc.constantFrom("tied", "restart") } as const); // prettier-ignore
    fc.assert(
      fc.property(any, rule, (list, choices) => {
        const p = one({ notes: list.map(([s, l, k]) => note(s, l, k)), playing: { choices } });
        const events = eventsOf(p);
        for (const e of events) expect(e.offTick).toBeLessThanOrEqual(3840);
        const wrong: { tick: number; held: number[]; sounding: number[] }[] = [];
        for (let tick = 0; tick < 3840; tick += 7) {
          const held = list.filter(([s, l]) => s <= tick && tick < s + l).map(([, , k]) => k);
          const sounding = events.filter((e) => e.onTick <= tick && tick < e.offTick).map((e) => e.key);
          const { priority } = choices;
          const may = priority === "high" ? [Math.max(...held)] : priority === "low" ? [Math.min(...held)] : held;
          const right = held.length === 0 ? sounding.length === 0 : sounding.length === 1 && may.includes(sounding[0]!);
          if (!right) wrong.push({ tick, held, sounding });
        }
        expect(wrong).toEqual([]);
      }),
      runs(25),
    );
  });
});

const RATE = 48_000;
const SINE = { choices: { "osc.wave": "sine", "osc.start": "fixed" }, values: { "amp.level": -12 } } as const;

/** The key that is heard in 1024 frames around a moment, as pitchy (McLeod's method) hears it. */
function keyAt(left: Float32Array, sec: number): number {
  const from = Math.round(sec * RATE) - 512;
  const [hz] = PitchDetector.forFloat32Array(1024).findPitch(left.slice(from, from + 1024), RATE);
  return 69 + 12 * Math.log2(hz / 440);
}

describe("glides as they are heard", () => {
  test("a tied note goes straight in pitch from key to key in the time that is set, and nothing starts again", () => {
    // 120 BPM: the second note begins at 0.5 s and takes 1/4 = 0.5 s to climb an octave.
    const project = one({ ...SINE, notes: [note(0, 1000, 60), note(960, 2000, 72)], playing: { choices: { overlap: "tied", glides: "overlapping" }, glide: { unit: "note", num: 1, den: 4 } } }); // prettier-ignore
    const { left } = renderNow(compileProject(project), { sampleRate: RATE, bars: 1, tail: "cut" });
    expect(keyAt(left, 0.4)).toBeCloseTo(60, 1);
    for (const [sec, key] of [[0.6, 62.4], [0.75, 66], [0.9, 69.6]] as const) expect(Math.abs(keyAt(left, sec) - key), `${sec} s`).toBeLessThan(0.15); // prettier-ignore
    expect(keyAt(left, 1.1)).toBeCloseTo(72, 1);
    // The level stays where it is: no window of 10 ms around the tie is quieter or louder by 0.2 dB.
    const level = (at: number) => 10 * Math.log10(left.slice(at, at + 960).reduce((s, v) => s + v * v, 0) / 960);
    for (let at = 20_000; at < 30_000; at += 480) expect(Math.abs(level(at) - level(20_000))).toBeLessThan(0.4);
  });
  test("tied notes of a song are one to what moves, restarted ones begin anew", () => {
    const notes = [note(0, 1000, 60), note(960, 960, 67), note(1920, 900, 72)];
    const of = (overlap: "tied" | "restart") => ofAddress({ notes, playing: { choices: { voices: "one", overlap } } }, "osc.pitch"); // prettier-ignore
    const [tied, restarted] = [of("tied"), of("restart")];
    expect(tied.map((n) => n.onFrame)).toEqual([0, 48_000]);
    expect(at(tied[0]!, 0.4)).toBe(60);
    expect(at(tied[0]!, 0.7)).toBe(67);
    expect(restarted.map((n) => n.onFrame)).toEqual([0, 24_000, 48_000]);
  });
  test("the slide lane leads a step's pitch into the next one, in ms and in note values, chord by chord", () => {
    const lane = (id: "slide" | "slideMs", values: number[]): StepLane => ({ ...newLane(id, values.length), values });
    const arpeggio = { on: true, rate: { num: 1, den: 4 }, gate: 100, order: "up", length: 64 } as const;
    const chord = [note(0, 3840, 55), note(0, 3840, 67)];
    const project = makeProject({
      ...SINE,
      notes: chord,
      arpeggio: { ...arpeggio, lanes: { slideMs: lane("slideMs", [0, 200]) } },
    });
    // G3, G4, G3, G4: each G4 leads down in 200 ms, the last of the pass into the first of the next.
    expect(eventsOf(project).map((e) => e.slide)).toEqual([{ from: 67, ticks: 0, ms: 200 }, undefined, { from: 67, ticks: 0, ms: 200 }, undefined]); // prettier-ignore
    const { left } = renderNow(compileProject(project), { sampleRate: RATE, bars: 1, tail: "cut" });
    expect(keyAt(left, 0.75)).toBeCloseTo(67, 1);
    expect(Math.abs(keyAt(left, 1.1) - 61)).toBeLessThan(0.2);
    expect(keyAt(left, 1.3)).toBeCloseTo(55, 1);
    const inNotes = makeProject({ notes: chord, arpeggio: { ...arpeggio, order: "chord", octaves: 1,  lanes: { slide: lane("slide", [8]), transpose: { ...newLane("transpose", 2), values: [0, 5] } } } }); // prettier-ignore
    // Eight sixty-fourths are an eighth, 480 ticks; each note of the chord comes from the one at its place.
    expect(eventsOf(inNotes).map((e) => [e.key, e.slide!.from, e.slide!.ticks])).toEqual([[55, 60, 480], [67, 72, 480], [60, 55, 480], [72, 67, 480], [55, 60, 480], [67, 72, 480], [60, 55, 480], [72, 67, 480]]); // prettier-ignore
  });
  test("a step of fewer notes leads into one of more: the last one serves those above it", () => {
    const project = makeProject({ notes: [note(0, 480, 60), ...[60, 64, 67].map((key) => note(480, 480, key + 1))], arpeggio: { on: true, order: "chord", rate: { num: 1, den: 8 }, gate: 100, lanes: { slide: { ...newLane("slide", 1), values: [8] } } } }); // prettier-ignore
    const froms = eventsOf(project)
      .filter((e) => e.onTick === 480)
      .map((e) => [e.key, e.slide?.from]);
    expect(froms).toEqual([[61, 60], [65, 60], [68, 60]]); // prettier-ignore
  });
  test("played by hand: the newest key sounds, the one before comes back, both glide", () => {
    const project = one({
      ...SINE,
      notes: [],
      playing: { choices: { overlap: "tied" }, glide: { unit: "ms", ms: 100 } },
    });
    const engine = engineWith(project);
    const after = (sec: number): Float32Array => run(engine, sec * RATE);
    const id = project.parts[0]!.id;
    engine.noteOn(id, 60, 100);
    expect(keyAt(after(0.2), 0.1)).toBeCloseTo(60, 1);
    engine.noteOn(id, 72, 100);
    const up = after(0.3);
    expect(engine.voiceCount).toBe(1);
    expect(Math.abs(keyAt(up, 0.05) - 66)).toBeLessThan(0.3);
    expect(keyAt(up, 0.2)).toBeCloseTo(72, 1);
    engine.noteOff(id, 72);
    expect(keyAt(after(0.3), 0.2)).toBeCloseTo(60, 1);
    engine.noteOff(id, 60);
    after(0.1);
    expect(engine.voiceCount).toBe(0);
  });
});

describe("a chord from one note", () => {
  const C_MAJOR = { tonic: 0, scale: "major" } as const;
  test("by its kind, or stacked in the key, inverted as told (common practice)", () => {
    expect(keysOfNote(57, { from: "kind", symbol: "m7", inversion: 0 }, C_MAJOR)).toEqual([57, 60, 64, 67]);
    // The sevenths on the degrees of major: maj7, m7, m7, maj7, 7, m7, m7 flat 5.
    const sevenths = [60, 62, 64, 65, 67, 69, 71].map((k) => keysOfNote(k, { from: "key", notes: 4, inversion: 0 }, C_MAJOR).map((x) => x - k).join(" ")); // prettier-ignore
    expect(sevenths).toEqual(["0 4 7 11", "0 3 7 10", "0 3 7 10", "0 4 7 11", "0 4 7 10", "0 3 7 10", "0 3 6 10"]);
    expect(keysOfNote(60, { from: "key", notes: 3, inversion: 1 }, C_MAJOR)).toEqual([64, 67, 72]);
    expect(keysOfNote(60, { from: "key", notes: 3, inversion: -1 }, C_MAJOR)).toEqual([55, 60, 64]);
    expect(keysOfNote(120, { from: "kind", symbol: "M", inversion: 0 }, C_MAJOR)).toEqual([120, 124, 127]);
    expect(keysOfNote(126, { from: "kind", symbol: "M", inversion: 0 }, C_MAJOR)).toEqual([126]);
  });
  test("stands before the arpeggio, moves with the note, and sounds a shared key once", () => {
    const chord = { from: "kind", symbol: "M", inversion: 0 } as const;
    const held = makeProject({ notes: [note(0, 3840, 48)], noteChord: chord, arpeggio: { on: true, rate: { num: 1, den: 4 }, length: 64 } }); // prettier-ignore
    expect(eventsOf(held).map((e) => e.key)).toEqual([48, 52, 55, 48]);
    const two = makeProject({ notes: [note(0, 960, 48), note(0, 1920, 55), note(1920, 960, 50)], noteChord: chord });
    expect(spans(two)).toEqual([[0, 960, 48], [0, 960, 52], [0, 1920, 55], [0, 1920, 59], [0, 1920, 62], [1920, 2880, 50], [1920, 2880, 54], [1920, 2880, 57]]); // prettier-ignore
  });
});
