import { PitchDetector } from "pitchy";
import { describe, expect, test } from "vitest";
import { makeProject, note, type Made } from "../../../tests/support/projects";
import { BINARY, HASH, madeRecording } from "../../../tests/support/recordings";
import { expectSame } from "../../../tests/support/same";
import { peak, spectrumDb, toDb } from "../../../tests/support/spectrum";
import { nextHeap } from "../../../tests/support/nextHeap";
import type { Harmonics } from "../dsp/fourier";
import { framesOf, guessFrameLength } from "../dsp/importedFrames";
import { MOST_HARMONICS, cornerTable, frameTable } from "../dsp/frameTables";
import { recordingTable } from "../dsp/recordingTable";
import { drawnHarmonics, ownFrames, tableMaker, withoutRecordings } from "../dsp/tables";
import { tableWav } from "../format/tableWav";
import { readWav, type Recording } from "../format/wavRead";
import { OSCILLATOR_DATA } from "../patch/kinds/oscillator";
import { newModule } from "../patch/kinds/kind";
import { RECORDING, type RecordingModule } from "../patch/kinds/recording";
import type { Project } from "../patch/project";
import { newOscillator } from "../patch/defaults";
import { compileProject } from "./compile";
import { Engine } from "./engine";
import { renderNow } from "./render";

const RATE = 48_000;
const N = 32_768;

type Settings = {
  readonly values?: Partial<RecordingModule["values"]>;
  readonly choices?: Partial<RecordingModule["choices"]>;
};

/** One long note of a recording alone, past the filter, at -12 dB. */
function project({ values, choices }: Settings, key: number, made: Made = {}): Project {
  const p = makeProject({
    song: { tempoBpm: 240 },
    notes: [note(0, 3840, key)],
    amp: { sustain: 100, attack: { unit: "ms", ms: 0 } },
    ...made,
    values: { "amp.level": 0, ...made.values },
  });
  const part = p.parts[0]!;
  const plain = newModule(RECORDING, "rope", "Rope", { recording: HASH });
  const rope = { ...plain, values: { ...plain.values, ...values }, choices: { ...plain.choices, ...choices } };
  const modules = [rope, ...part.patch.modules.filter((m) => m.id !== "osc")];
  const cables = [{ from: "rope", to: "amp" }];
  return { ...p, binaries: [BINARY], parts: [{ ...part, patch: { ...part.patch, modules, cables } }] };
}

const sound = (r: Recording, p: Project): { left: Float32Array; right: Float32Array } =>
  renderNow(compileProject(p), { sampleRate: RATE, bars: 1, tail: "cut", recordings: new Map([[HASH, r]]) });
const tone = (hz: number, seconds = 2, rate = RATE): Recording =>
  madeRecording(rate, seconds, (t) => 0.5 * Math.sin(2 * Math.PI * hz * t));
/** dB over full scale of the loudest bin, its frequency, and the loudest one that lies far from it. */
function lookAt(x: Float32Array): { db: number; hz: number; rest: number } {
  const db = spectrumDb(x.slice(8000, 8000 + N));
  let top = 1;
  for (let k = 1; k < N / 2; k++) if (db(k) > db(top)) top = k;
  let rest = -200;
  for (let k = 20; k < N / 2; k++) if (Math.abs(k - top) > 8) rest = Math.max(rest, db(k));
  return { db: db(top), hz: (top * RATE) / N, rest };
}
const pitchOf = (x: Float32Array): number =>
  PitchDetector.forFloat32Array(8192).findPitch(x.slice(8000, 16_192), RATE)[0];
const cents = (hz: number, of: number): number => 1200 * Math.log2(hz / of);

describe("a recording", () => {
  test.each([
    [44_100, 60, 0, 1000],
    [48_000, 60, 0, 1000],
    [96_000, 60, 0, 1000],
    [48_000, 67, 0, 1498.307],
    [48_000, 48, 0, 500],
    [48_000, 60, 3.5, 1224.054],
    [48_000, 84, 0, 4000],
  ])(
    "made at %i Hz and played by key %i with %f st more sounds at %f Hz (pitchy), within a cent, and clean under -85 dB",
    (rate, key, pitch, hz) => {
      // Two octaves up it is over four times as soon.
      const made = project({ values: { pitch } }, key, { song: { tempoBpm: 240 } });
      const { left, right } = sound(tone(1000, key === 84 ? 4 : 1.5, rate), made);
      expect(Math.abs(cents(pitchOf(left), hz))).toBeLessThan(1);
      expect([...left.slice(9000, 9010)]).toEqual([...right.slice(9000, 9010)]);
      const { db, rest } = lookAt(left);
      // A mono source is as loud on both sides as it is.
      expect(db).toBeCloseTo(toDb(0.5) + PAN, 0);
      expect(rest - db).toBeLessThan(-85);
    },
  );

  test("keys don't move it where it stands, and the bend of cents does", () => {
    const stands = sound(tone(1000), project({ choices: { keys: "fixed" }, values: { fine: 50 } }, 72)).left;
    expect(Math.abs(cents(pitchOf(stands), 1000) - 50)).toBeLessThan(1);
  });

  test.each([[72, 14_000], [84, 7000], [79, 13_500]])("by key %i a tone of %i Hz that would fold back is not heard, under -70 dB", (key, hz) => {
    const { left } = sound(tone(hz), project({}, key));
    expect(lookAt(left).db).toBeLessThan(-70);
  }); // prettier-ignore

  test("passes what the ear hears as it is: 15 kHz within a decibel at its own pitch", () => {
    const { left } = sound(tone(15_000, 4, 44_100), project({}, 60));
    expect(Math.abs(lookAt(left).db - (toDb(0.5) + PAN))).toBeLessThan(1);
  });

  const SEC = 2;
  /** Says where it is read: rises from 0 to 1. */
  const ramp = madeRecording(
    RATE,
    SEC,
    (t) => t / SEC,
    (t) => 1 - t / SEC,
  );
  const at = (x: Float32Array, sec: number): number => x[Math.round(sec * RATE)]! / 10 ** (PAN / 20);

  test("begins where it is told to, ends there, and keeps its sides apart", () => {
    const { left, right } = sound(ramp, project({ values: { from: 25, to: 50 } }, 60));
    expect(at(left, 0.1)).toBeCloseTo(0.25 + 0.1 / SEC, 3);
    expect(at(right, 0.1)).toBeCloseTo(0.75 - 0.1 / SEC, 3);
    expect(at(left, 0.48)).toBeCloseTo(0.25 + 0.48 / SEC, 3);
    expect(peak(left.slice(0.501 * RATE, 1.9 * RATE))).toBe(0);
    // Neither cut end is a jump.
    const jump = left.slice(1).reduce((most, v, i) => Math.max(most, Math.abs(v - left[i]!)), 0);
    expect(jump).toBeLessThan(0.02);
  });

  test("goes back as often as it is held, over a seam without a jump", () => {
    const { left } = sound(
      ramp,
      project({ values: { from: 10, to: 30, back: 20, seam: 20 }, choices: { plays: "looped" } }, 60),
    );
    // 0.4 s to the end, then rounds of 0.2 s: 0.95 s are 0.15 s into the third of them.
    expect(at(left, 0.3)).toBeCloseTo(0.25, 3);
    expect(at(left, 0.95)).toBeCloseTo(0.2 + 0.15 / SEC, 3);
    // Half-way through the seam both ends sound alike: 0.3 - 0.005 and 0.2 - 0.005.
    expect(at(left, 0.39)).toBeCloseTo(0.245, 3);
    const jump = left.slice(3000).reduce((most, v, i, a) => (i === 0 ? 0 : Math.max(most, Math.abs(v - a[i - 1]!))), 0);
    expect(jump).toBeLessThan(0.1 / (0.02 * RATE) + 0.001);
  });

  test("a drawn start is the note's own, the same in every render, and spread over what it may", () => {
    const p = project({ values: { scatter: 40 } }, 60, {
      song: { tempoBpm: 120 },
      notes: Array.from({ length: 16 }, (_, i) => note(i * 240, 120, 60)),
    });
    const { left } = sound(ramp, p);
    const starts = Array.from({ length: 16 }, (_, i) => at(left, i * 0.125 + 0.01) - 0.01 / SEC);
    expect(Math.min(...starts)).toBeGreaterThanOrEqual(-0.001);
    expect(Math.max(...starts)).toBeLessThan(0.4);
    // Of sixteen even draws the highest lies in the last fifth but for one time in forty.
    expect(Math.max(...starts)).toBeGreaterThan(0.32);
    expect(new Set(starts.map((s) => s.toFixed(3))).size).toBeGreaterThan(12);
    expect(Math.max(...starts) - Math.min(...starts)).toBeGreaterThan(0.2);
    expectSame(sound(ramp, p).left, left);
  });

  test("is silent where it is not there, and where there is no room for it; the rest sounds on", () => {
    const program = compileProject(project({}, 60));
    expect(peak(renderNow(program, { sampleRate: RATE, bars: 1, tail: "cut" }).left)).toBe(0);
    const heap = nextHeap();
    const engine = new Engine(RATE, heap, { tables: withoutRecordings });
    engine.load(program);
    const huge = tableMaker(new Map([[HASH, tone(100, 1)]]))({ kind: "recording", hash: HASH })!;
    expect(() =>
      engine.setTable("too large", { ...huge, samples: new Float32Array(heap.buffer.byteLength / 4) }),
    ).not.toThrow();
    expect(heap.tableAt("too large")).toBe(0);
  });
});

/** A voice in the middle stands on both sides at once: level of each side, see mix.ts. */
const PAN = 0;

describe("a recording that is cut into cycles", () => {
  test("gives the frames back that a table was exported with, each free of its mean", () => {
    const frames = ownFrames("vowels");
    const wav = readWav(tableWav(frames));
    const shifted: Recording = { ...wav, channels: wav.channels.map((c) => c.map((v) => v + 0.2)) };
    expect(guessFrameLength(shifted.channels[0]!.length)).toBe(2048);
    const back = framesOf(shifted, 2048);
    expect(back).toHaveLength(frames.length);
    const loudest = Math.max(...wav.channels[0]!.map(Math.abs));
    expect(loudest).toBeCloseTo(1, 6);
    const scale = frames[3]!.sin[0]! / back[3]!.sin[0]!;
    for (const h of [0, 1, 7, 30]) expect(back[5]!.sin[h]! * scale).toBeCloseTo(frames[5]!.sin[h]!, 5);
  });

  test("cycles of any length keep their harmonics (Fourier's sums of a saw: 2 / (pi h))", () => {
    const saw = madeRecording(RATE, 600 / RATE, (t) => 2 * ((t * RATE) / 600) - 1 + 1 / 600);
    expect(guessFrameLength(600)).toBe(600);
    // Five frames of 256; more frames than a table holds are none, and a single cycle is what it is.
    expect([5 * 256, 3 * 512, 400 * 256 + 1, 1024].map(guessFrameLength)).toEqual([256, 512, 2048, 1024]);
    const [frame] = framesOf(saw, 600);
    for (const h of [1, 2, 5])
      expect(Math.hypot(frame!.cos[h - 1]!, frame!.sin[h - 1]!)).toBeCloseTo(2 / (Math.PI * h), 3);
    const mixed = madeRecording(RATE, 100 / RATE, (t) => 0.3 * Math.cos((2 * Math.PI * t * RATE) / 100) - 0.4 * Math.sin((6 * Math.PI * t * RATE) / 100) + 0.1); // prettier-ignore
    const [{ cos, sin }] = framesOf(mixed, 100) as [Harmonics];
    expect([...cos.subarray(0, 4)]).toEqual([0.3, 0, 0, 0].map((v) => expect.closeTo(v, 6) as number));
    expect([...sin.subarray(0, 4)]).toEqual([0, 0, -0.4, 0].map((v) => expect.closeTo(v, 6) as number));
    expect(() => framesOf(saw, 601)).toThrow(/shorter than one cycle/);
    // Half of a cycle's samples is as far as harmonics go: what lies past it would only be their mirror.
    for (const length of [100, 256, 300]) {
      const alone = madeRecording(RATE, length / RATE, (t) => Math.sin((6 * Math.PI * t * RATE) / length));
      const [f] = framesOf(alone, length) as [Harmonics];
      const levels = [...f.cos].map((c, i) => Math.hypot(c, f.sin[i]!));
      expect(levels[2]).toBeCloseTo(1, 5);
      expect(Math.max(...levels.filter((_, i) => i !== 2))).toBeLessThan(1e-6);
    }
    // As far as a table goes, the last one included, of a length that is no power of two.
    const top = madeRecording(
      RATE,
      1500 / RATE,
      (t) => 0.5 * Math.cos((2 * Math.PI * MOST_HARMONICS * t * RATE) / 1500),
    );
    expect(framesOf(top, 1500)[0]!.cos[MOST_HARMONICS - 1]).toBeCloseTo(0.5, 5);
  });

  test("both sides are added up, frame by frame; what is left at the end is left out", () => {
    const wave =
      (h: number, level: number) =>
      (t: number): number =>
        level * Math.cos((2 * Math.PI * h * t * RATE) / 256);
    const two = madeRecording(RATE, 700 / RATE, wave(2, 0.4), wave(5, 0.3));
    const frames = framesOf(two, 256);
    expect(frames).toHaveLength(2);
    for (const { cos } of frames)
      expect([cos[1], cos[4], cos[2]].map((v) => Number(v!.toFixed(5)))).toEqual([0.4, 0.3, 0]);
  });

  test("evened out or not: each as loud as a saw, or as they are to each other, the loudest as loud as a saw", () => {
    const frames = [0.2, 0.8, 0].map((level) => drawnHarmonics({ levels: [level], phases: [] }));
    const powers = (even: boolean): number[] => {
      const { samples, frameLength, levels } = frameTable(frames, even);
      const [offset, bits] = levels[0]!;
      return frames.map((_, f) => {
        const x = samples.subarray(f * frameLength + offset, f * frameLength + offset + 2 ** bits);
        return Math.sqrt(x.reduce((s, v) => s + v * v, 0) / x.length);
      });
    };
    const saw = 1 / Math.sqrt(3);
    powers(true).forEach((v, i) => expect(v).toBeCloseTo(i < 2 ? saw : 0, 4));
    powers(false).forEach((v, i) => expect(v).toBeCloseTo([saw / 4, saw, 0][i]!, 4));
    // Silence is like nothing, and like itself.
    expect([...frameTable(frames).alike]).toEqual([1, 0, 1]);
    const silent = frames[2]!;
    expect(
      [...cornerTable([silent, silent, frames[0]!, frames[1]!], [1, 1, 1, 1]).alike].map(
        (v) => Math.round(v * 1e6) / 1e6,
      ),
    ).toEqual([1, 1, 0, 0, 1, 1, 0, 0, 0, 0, 1, 1, 0, 0, 1, 1]);
    expect(() => frameTable([])).toThrow(/1 to 256 frames, not 0/);
    expect(() => cornerTable(frames, [1, 1, 1])).toThrow(/four corners, not 3/);
  });

  test("sounds as the oscillator's wave, by key", () => {
    const organ = madeRecording(RATE, 2048 / RATE, (t) => {
      const x = (2 * Math.PI * t * RATE) / 2048;
      return 0.5 * Math.sin(x) + 0.25 * Math.sin(3 * x);
    });
    const p = project({}, 69);
    const part = p.parts[0]!;
    const o = newOscillator("osc", "Osc");
    const cycles = { ...OSCILLATOR_DATA, cycles: { recording: HASH, length: 2048, even: true } };
    const osc = {
      ...o,
      choices: { ...o.choices, wave: "cycles" as const },
      values: { ...o.values, unison: 1 },
      data: cycles,
    };
    const modules = [osc, ...part.patch.modules.filter((m) => m.id !== "rope")];
    const patch = { ...part.patch, modules, cables: [{ from: "osc", to: "amp" }] };
    const { left } = sound(organ, { ...p, parts: [{ ...part, patch }] });
    expect(Math.abs(cents(pitchOf(left), 440))).toBeLessThan(1);
    const db = spectrumDb(left.slice(8000, 8000 + N));
    const near = (hz: number): number => Math.max(...[-1, 0, 1].map((d) => db(Math.round((hz * N) / RATE) + d)));
    expect(near(1320) - near(440)).toBeCloseTo(toDb(0.5), 0);
    expect(near(880) - near(440)).toBeLessThan(-60);
  });
});

test("a level stays what it is between samples: the weights of every place add up to one", () => {
  const { taps } = recordingTable({ sampleRate: RATE, channels: [new Float32Array(64).fill(1)] });
  // Rows of 16 weights and what the next row differs by.
  const sums = Array.from({ length: 256 }, (_, p) => [0, 16].map((from) => taps.subarray(p * 32 + from, p * 32 + from + 16).reduce((a, b) => a + b))); // prettier-ignore
  for (const [weights, steps] of sums) {
    expect(weights).toBeCloseTo(1, 6);
    expect(steps).toBeCloseTo(0, 6);
  }
});

test("turns the phase of an oscillator, silent itself, as a sine of its pitch does: sidebands are Bessel's (Chowning 1973)", () => {
  // The recording is half of full scale: a depth of 2 turns by one radian.
  const [hz, by] = [(683 * RATE) / N, (137 * RATE) / N];
  const p = makeProject({
    song: { tempoBpm: 120 }, notes: [note(0, 3840, 69)], amp: { sustain: 100, attack: { unit: "ms", ms: 0 } },
    choices: { "osc.wave": "sine" }, values: { "amp.level": 0, "osc.unison": 1, "osc.pm": 2, "osc.pitch": 12 * Math.log2(hz / 440) },
  }); // prettier-ignore
  const part = p.parts[0]!;
  const plain = newModule(RECORDING, "rope", "Rope", { recording: HASH });
  const rope = {
    ...plain,
    values: { ...plain.values, level: -60 },
    choices: { ...plain.choices, keys: "fixed" as const },
  };
  const modules = [rope, ...part.patch.modules.map((m) => (m.kind === "oscillator" ? { ...m, data: { ...m.data, pmFrom: "rope" } } : m))]; // prettier-ignore
  const cables = [{ from: "osc", to: "amp" }, { from: "rope", to: "amp" }]; // prettier-ignore
  const turned: Project = { ...p, binaries: [BINARY], parts: [{ ...part, patch: { ...part.patch, modules, cables } }] };
  const db = spectrumDb(sound(tone(by), turned).left.slice(8000, 8000 + N));
  // Abramowitz and Stegun, table 9.1: J0(1), J1(1), J2(1).
  const lines = [0.765198, 0.440051, 0.114903];
  lines.forEach((level, n) =>
    expect(db(683 + 137 * n) - db(683) - 20 * Math.log10(level / lines[0]!)).toBeCloseTo(0, 1),
  );
});
