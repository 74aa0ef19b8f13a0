import { describe, expect, test } from "vitest";
import { bandsOf } from "../../../tests/support/bands";
import { makeProject, note, type Made } from "../../../tests/support/projects";
import { peak, toDb } from "../../../tests/support/spectrum";
import { CEILING_DB } from "../dsp/limiter";
import { readMidi } from "../format/midi";
import { withoutOverlaps } from "../format/midiOut";
import { expectSame, farthest } from "../../../tests/support/same";
import { midiOf } from "../../../tests/support/midi";
import { MAX_WAV_BYTES, WavWriter, wavBytes, writeWav } from "../format/wav";
import { demoProject } from "../patch/demo";
import { newShape } from "../patch/defaults";
import { partEvents } from "../pattern/events";
import { compileProject } from "./compile";
import { renderNow, renderProgram, type Piece } from "./render";
import { framesOfBars, watchLoop } from "./watch";
import { adjusted } from "../patch/kinds/kind";

const RATE = 48_000;
const smooth = (smoothing: number, restart: "bar" | "song" = "bar") =>
  adjusted(newShape("s", "S"), {
    values: { smoothing },
    choices: { restart },
    times: { rate: { unit: "note", num: 1, den: 2 } },
  });

const made: Made = {
  song: { tempoBpm: 120, loopBars: 2 },
  notes: [note(0, 3000, 45), note(0, 900, 57), note(3840, 3800, 48), note(6900, 780, 64)],
  values: { "filter.cutoff": 300, "filter.resonance": 40, "osc.unison": 5 },
  amp: { release: { unit: "ms", ms: 700 }, decay: { unit: "ms", ms: 90 }, sustain: 60 },
  modules: [smooth(200)],
  routes: [{ source: "s", target: "filter.cutoff", amount: 4 }, { source: "s", target: "amp.pan", amount: 80 }],
}; // prettier-ignore

describe("every pass sounds like the steady one", () => {
  test("a loop rendered once and repeated is a render of two passes, within -120 dB", () => {
    const program = compileProject(makeProject(made));
    const once = renderNow(program, { sampleRate: RATE, bars: 2, tail: "wrap" });
    const twice = renderNow(program, { sampleRate: RATE, bars: 4, tail: "cut" });
    const { barFrames } = once;
    let apart = 0;
    for (let i = 0; i < barFrames; i++)
      apart = Math.max(
        apart,
        Math.abs(once.left[i]! - twice.left[barFrames + i]!),
        Math.abs(once.right[i]! - twice.right[barFrames + i]!),
      );
    expect(peak(once.left)).toBeGreaterThan(0.1);
    expect(toDb(apart)).toBeLessThan(-120);
    // The first pass is the steady one, too, but for releases of the one before.
    let first = 0;
    for (let i = 0; i < barFrames; i++) first = Math.max(first, Math.abs(twice.left[i]! - once.left[i]!));
    let late = 0;
    for (let i = 36_000; i < barFrames; i++) late = Math.max(late, Math.abs(twice.left[i]! - once.left[i]!));
    expect(toDb(first)).toBeGreaterThan(-60);
    expect(toDb(late)).toBeLessThan(-120);
  });

  test.each([0, 4, 200])("a shape smoothed over %d ms does in bar 1 what it does in bar 2", (ms) => {
    const program = compileProject(makeProject({ ...made, modules: [smooth(ms)] }));
    const columns = 2 * 6000;
    const watch = watchLoop(program, RATE, [{ addresses: [], sources: ["s"] }], columns);
    const { at, count } = watch.shared[0]![0]!;
    const last = watch.values.subarray(at + 2 * count, at + 3 * count);
    expect(farthest(last.subarray(6000, 11_999), last.subarray(0, 5999))).toBeLessThan(5e-7);
    expect(new Set(last).size).toBeGreaterThan(500);
  });
});

describe("where events fall", () => {
  test("rates outside whole ticks do not drift: sevenths and ninths over 32 bars", () => {
    for (const den of [7, 9]) {
      const p = makeProject({
        song: { loopBars: 32 },
        notes: [note(0, 32 * 3840, 60)],
        arpeggio: { on: true, rate: { num: 1, den }, gate: 50 },
      });
      const events = partEvents(p.parts[0]!, p.song, p.seed);
      expect(events).toHaveLength(32 * den);
      expect(events.map((e) => e.onTick)).toEqual(events.map((_, k) => Math.round((k * 3840) / den)));
    }
  });

  test("in 7/8 with swing on eighths every bar starts on its bar line", () => {
    const made: Made = {
      song: { tempoBpm: 120, meter: { beats: 7, unit: 8 }, loopBars: 4, swing: { percent: 66, grid: 8 } },
      notes: [note(0, 4 * 3360, 60)],
      arpeggio: { on: true, rate: { num: 1, den: 8 }, gate: 30 },
    };
    const p = makeProject(made);
    const onsets = partEvents(p.parts[0]!, p.song, p.seed).map((e) => e.onTick);
    for (let bar = 0; bar < 4; bar++) expect(onsets[7 * bar]).toBe(bar * 3360);
    const { left, right } = renderNow(compileProject(p), { sampleRate: RATE, bars: 4, tail: "cut" });
    const heard = bandsOf(left, right, RATE, 0.25 * RATE).onsets;
    // Seven eighths at 120 BPM are 1.75 s.
    for (let bar = 0; bar < 4; bar++) expect(heard.some((sec) => Math.abs(sec - bar * 1.75) < 0.003)).toBe(true);
  });

  test("the same part and song are worked out once", () => {
    const p = makeProject({ notes: [note(0, 100, 60)] });
    const events = partEvents(p.parts[0]!, p.song, p.seed);
    const edited = { ...p.parts[0]!, patch: { ...p.parts[0]!.patch } };
    expect(partEvents(edited, { ...p.song, tempoBpm: 99 }, p.seed)).toBe(events);
    expect(partEvents(p.parts[0]!, { ...p.song, loopBars: 2 }, p.seed)).not.toBe(events);
  });
});

describe("files", () => {
  test("the output keeps below -1 dB of true peak, and says that it was limited", () => {
    const loud = { ...demoProject("d"), outputTrim: 12 };
    const { left, limited, peakDb } = renderNow(compileProject(loud), { sampleRate: RATE / 2, bars: 1, tail: "wrap" });
    expect(limited).toBe(true);
    expect(peakDb).toBeGreaterThan(0);
    expect(toDb(peak(left))).toBeLessThan(CEILING_DB);
  });

  test("a limited loop joins: its start knows what the limiter did at its end", () => {
    const made = makeProject({
      notes: [note(0, 3840, 40), note(0, 3840, 47)],
      values: { "amp.level": 6 },
      choices: { "osc.wave": "sine" },
      song: { tempoBpm: 240 },
    });
    const program = compileProject(made);
    const once = renderNow(program, { sampleRate: RATE, bars: 1, tail: "wrap" });
    const many = renderNow(program, { sampleRate: RATE, bars: 4, tail: "cut" });
    for (let i = 24_000; i < 47_000; i += 111) expect(once.left[i]).toBeCloseTo(many.left[2 * 48_000 + i]!, 3);
  });

  const short = makeProject({
    song: { tempoBpm: 300 },
    notes: [note(0, 3000, 52), note(3600, 240, 64)],
    amp: { release: { unit: "ms", ms: 300 } },
  });
  test("pieces of a long render come in order of time, the start last; together they are the loop over and over", () => {
    const program = compileProject(short);
    const bars = 90;
    const steps = renderProgram(program, { sampleRate: 8000, bars, tail: "wrap" });
    const pieces: Piece[] = [];
    let summary;
    let progress = 0;
    for (;;) {
      const step = steps.next();
      if (step.done) {
        summary = step.value;
        break;
      }
      if (step.value.left.length > 0) pieces.push(step.value);
      // What is done comes nearer to the whole in small steps.
      expect(step.value.progress - progress).toBeGreaterThanOrEqual(0);
      expect(step.value.progress - progress).toBeLessThan(0.03);
      progress = step.value.progress;
    }
    expect(progress).toBe(1);
    const { frames } = summary;
    expect(frames).toBe(framesOfBars(program, bars, 8000));
    // More than a minute: the start waits for the end.
    expect(pieces[0]!.at).toBe(62 * 8000);
    expect(Math.max(...pieces.map((p) => p.left.length))).toBeLessThanOrEqual(8192);
    const whole = new Float32Array(frames);
    const written = new Uint8Array(frames);
    for (const p of pieces) {
      whole.set(p.left, p.at);
      for (let i = 0; i < p.left.length; i++) written[p.at + i]!++;
    }
    expect(written.every((n) => n === 1)).toBe(true);
    const bar = renderNow(program, { sampleRate: 8000, bars: 1, tail: "wrap" });
    const per = bar.barFrames;
    for (const at of [0, 1, 40, 76, 77, 89])
      for (let i = 0; i < per; i += 37) expect(Math.abs(whole[at * per + i]! - bar.left[i]!)).toBeLessThan(1e-5);
  });

  test("what was rendered before, or is rendered at the same time, changes no bit", () => {
    const [ours, other] = [compileProject(makeProject(made)), compileProject(demoProject("another"))];
    const options = { sampleRate: RATE / 2, bars: 1, tail: "cut" } as const;
    const first = renderNow(ours, options);
    const others = renderProgram(other, options);
    const pieces = [others.next().value as Piece];
    const second = renderNow(ours, options);
    for (const piece of others) pieces.push(piece);
    const third = renderNow(ours, options);
    const whole = new Float32Array(pieces.reduce((sum, p) => sum + p.left.length, 0));
    pieces.reduce((at, p) => (whole.set(p.left, at), at + p.left.length), 0);
    expect(pieces.length).toBeGreaterThan(1);
    expectSame(whole, renderNow(other, options).left.slice(0, whole.length));
    expect(peak(first.left)).toBeGreaterThan(0.1);
    for (const again of [second, third]) {
      expectSame(again.left, first.left);
      expectSame(again.right, first.right);
    }
  });
  test.each([-80, 80])("its peak is that of the louder side, at %d %% of pan", (pan) => {
    const panned = makeProject({ notes: [note(0, 3000, 52)], values: { "amp.level": -20, "amp.pan": pan } });
    const { left, right, peakDb } = renderNow(compileProject(panned), { sampleRate: 8000, bars: 1, tail: "cut" });
    expect(peakDb).toBeCloseTo(20 * Math.log10(Math.max(peak(left), peak(right))), 3);
    expect(Math.abs(20 * Math.log10(peak(left) / peak(right)))).toBeGreaterThan(6);
  });
  test("appended releases follow the bars, cut ones do not", () => {
    const program = compileProject(short);
    const cut = renderNow(program, { sampleRate: 8000, bars: 1, tail: "cut" });
    const appended = renderNow(program, { sampleRate: 8000, bars: 1, tail: "append" });
    expect(cut.frames).toBe(cut.barFrames);
    expect(appended.frames).toBeGreaterThan(cut.barFrames + 0.3 * 8000);
    expectSame(appended.left.slice(0, cut.frames), cut.left);
    expect(peak(appended.left.subarray(cut.barFrames + 100, cut.barFrames + 1000))).toBeGreaterThan(0.01);
  });

  test("a WAV file written in pieces is the one written at once; one too large is refused with its size", () => {
    const left = Float32Array.from({ length: 1000 }, (_, i) => Math.sin(i));
    for (const bitDepth of [16, 24, 32] as const) {
      const options = { sampleRate: RATE, bitDepth };
      const whole = writeWav([left, left], { ...options, loopFrames: 1000 });
      const writer = new WavWriter(2, options);
      const parts = [[600, 1000], [0, 350], [350, 600]].map(([a, b]) => ({ at: a!, bytes: writer.frames([left.subarray(a, b), left.subarray(a, b)], a!) })); // prettier-ignore
      const { head, foot } = writer.around(1000, { loopFrames: 1000 });
      const sorted = parts.sort((a, b) => a.at - b.at).flatMap((p) => [...p.bytes]);
      expect([...head, ...sorted, ...foot]).toEqual([...whole]);
      expect(wavBytes(1000, 2, bitDepth, true)).toBe(whole.length);
    }
    const frames = Math.ceil(MAX_WAV_BYTES / 8);
    expect(() => new WavWriter(2, { sampleRate: RATE, bitDepth: 32 }).around(frames)).toThrow(/would have 4\.29 GB/);
    expect(() => new WavWriter(2, { sampleRate: RATE, bitDepth: 32 }).around(frames - 100)).not.toThrow();
  });

  test("overlapping notes of one key end where the next one starts in a MIDI file, and it is told", () => {
    const events = [0, 480, 960, 960].map((onTick, i) => ({
      onTick,
      offTick: onTick + (i === 0 ? 960 : 700),
      key: i === 3 ? 62 : 60,
      velocity: 90,
    }));
    const { notes, shortened } = withoutOverlaps(events);
    expect(shortened).toBe(2);
    expect(notes.map((n) => n.offTick)).toEqual([480, 960, 1660, 1660]);
    expect(withoutOverlaps([events[0]!, events[0]!]).notes).toHaveLength(1);
    const read = readMidi(
      midiOf({ name: "x", notes: events, tempoBpm: 120, meter: { beats: 4, unit: 4 }, endTick: 3840 }),
    );
    expect(read.ok && read.file.notes.map((n) => [n.onTick, n.offTick, n.key])).toEqual([[0, 480, 60], [480, 960, 60], [960, 1660, 60], [960, 1660, 62]]); // prettier-ignore
  });
});
