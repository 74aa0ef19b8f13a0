import { createHash } from "node:crypto";
import { demoProject } from "../patch/demo";
import { fromBase64, toBase64 } from "./base64";
import { parseProjectFile, projectFileText, recordingsOf } from "./projectFile";
import { sha256 } from "./sha256";
import JZZ from "jzz";
import SMF from "jzz-midi-smf";
import { writeMidi, type MidiData } from "midi-file";
import { describe, expect, test } from "vitest";
import wavefile from "wavefile";
import { midiOf } from "../../../tests/support/midi";
import { farthest } from "../../../tests/support/same";
import { readMidi } from "./midi";
import { writeWav, type BitDepth } from "./wav";
import { readWav } from "./wavRead";
import { harmonicsOfCycle } from "../dsp/fourier";
import { ownFrames } from "../dsp/tables";
import { FRAME_SAMPLES, tableWav } from "./tableWav";

SMF(JZZ);

const NOTES = [
  { onTick: 0, offTick: 480, key: 60, velocity: 100 },
  { onTick: 480, offTick: 900, key: 60, velocity: 64 },
  { onTick: 480, offTick: 4000, key: 67, velocity: 127 },
];
const file = () =>
  midiOf({ name: "Rigging", notes: NOTES, tempoBpm: 122, meter: { beats: 7, unit: 8 }, endTick: 3360 });

describe("MIDI files", () => {
  interface SmfEvent extends Array<number> {
    tt: number;
    ff?: number;
    dd?: string;
  }
  test("are read by another library (jzz-midi-smf) as they were meant", () => {
    const smf = new (
      JZZ as unknown as { MIDI: { SMF: new (data: string) => SmfEvent[][] & { type: number; ppqn: number } } }
    ).MIDI.SMF(String.fromCharCode(...file()));
    expect(smf.type).toBe(1);
    expect(smf.ppqn).toBe(960);
    const on = smf[1]!.filter((e) => (e[0]! & 0xf0) === 0x90 && e[2]! > 0).map((e) => [e.tt, e[1], e[2]]);
    expect(on).toEqual(NOTES.map((n) => [n.onTick, n.key, n.velocity]));
    const off = smf[1]!
      .filter((e) => (e[0]! & 0xf0) === 0x80 || ((e[0]! & 0xf0) === 0x90 && e[2] === 0))
      .map((e) => [e.tt, e[1]]);
    expect(off).toEqual([[480, 60], [900, 60], [3360, 67]]); // prettier-ignore
    const meta = (type: number): number[] =>
      Array.from(smf[0]!.find((e) => e.ff === type)!.dd!, (c) => c.charCodeAt(0));
    const [a, b, c] = meta(0x51) as [number, number, number];
    expect(60_000_000 / ((a << 16) | (b << 8) | c)).toBeCloseTo(122, 3);
    expect(meta(0x58).slice(0, 2)).toEqual([7, 3]);
  });

  test("are read back", () => {
    const opened = readMidi(file());
    expect(opened).toMatchObject({
      ok: true,
      file: { name: "Rigging", meter: { beats: 7, unit: 8 }, changesLeftOut: false },
    });
    if (!opened.ok) return;
    expect(opened.file.tempoBpm).toBeCloseTo(122, 3);
    expect(opened.file.notes).toEqual(NOTES.map((n) => ({ ...n, offTick: Math.min(n.offTick, 3360) })));
  });

  test("of format 0 and another resolution are brought to 960 ticks; hanging notes end with their track", () => {
    const data: MidiData = {
      header: { format: 0, numTracks: 1, ticksPerBeat: 96 },
      tracks: [
        [
          { deltaTime: 0, meta: true, type: "setTempo", microsecondsPerBeat: 500_000 },
          { deltaTime: 96, meta: true, type: "setTempo", microsecondsPerBeat: 400_000 },
          { deltaTime: 0, type: "noteOn", channel: 3, noteNumber: 50, velocity: 90 },
          { deltaTime: 48, type: "noteOn", channel: 3, noteNumber: 50, velocity: 0 },
          { deltaTime: 0, type: "noteOn", channel: 3, noteNumber: 52, velocity: 90 },
          { deltaTime: 96, meta: true, type: "endOfTrack" },
        ],
      ],
    };
    const opened = readMidi(Uint8Array.from(writeMidi(data)));
    expect(opened).toMatchObject({
      ok: true,
      file: {
        tempoBpm: 120,
        changesLeftOut: true,
        notes: [
          { onTick: 960, offTick: 1440, key: 50, velocity: 90 },
          { onTick: 1440, offTick: 2400, key: 52, velocity: 90 },
        ],
      },
    });
  });

  test("cut anywhere are refused with a reason", () => {
    const whole = file();
    for (let at = 0; at < whole.length; at++) {
      const opened = readMidi(whole.slice(0, at));
      expect(opened.ok, `cut at ${at} of ${whole.length}`).toBe(false);
    }
  });

  test("with a damaged byte are read or refused, never left hanging", () => {
    const whole = file();
    for (let at = 0; at < whole.length; at++) {
      for (const value of [0, 0x7f, 0xff]) {
        const opened = readMidi(whole.with(at, value));
        if (!opened.ok) expect(opened.reason).toBeTruthy();
      }
    }
  });
});

describe("WAV files", () => {
  const left = Float32Array.from({ length: 1001 }, (_, i) => Math.sin(i / 9));
  const right = Float32Array.from({ length: 1001 }, (_, i) => Math.cos(i / 5) * 0.5);

  test.each([
    [16, 2.2 / 32767],
    [24, 0.6 / 8388607],
    [32, 0],
  ] as [BitDepth, number][])("of %d bits are read by another library (wavefile)", (bitDepth, tolerance) => {
    const read = new wavefile.WaveFile(writeWav([left, right], { sampleRate: 44_100, bitDepth, loopFrames: 900 }));
    const fmt = read.fmt as { numChannels: number; sampleRate: number; bitsPerSample: number; audioFormat: number };
    expect(fmt).toMatchObject({
      numChannels: 2,
      sampleRate: 44_100,
      bitsPerSample: bitDepth,
      audioFormat: bitDepth === 32 ? 3 : 1,
      // Microsoft's WAVE format: nAvgBytesPerSec and nBlockAlign.
      byteRate: (44_100 * 2 * bitDepth) / 8,
      blockAlign: (2 * bitDepth) / 8,
    });
    const scale = bitDepth === 32 ? 1 : 2 ** (bitDepth - 1) - 1;
    const [l, r] = read.getSamples(false, Float64Array) as unknown as [Float64Array, Float64Array];
    expect(
      farthest(
        l.map((x) => x / scale),
        left,
      ),
    ).toBeLessThanOrEqual(tolerance);
    expect(
      farthest(
        r.map((x) => x / scale),
        right,
      ),
    ).toBeLessThanOrEqual(tolerance);
    const loops = (read.smpl as { loops: { dwStart: number; dwEnd: number }[] }).loops;
    expect(loops).toMatchObject([{ dwStart: 0, dwEnd: 899 }]);
    // A file of middle C, as the RIFF standard's sampler chunk names it.
    expect((read.smpl as { dwMIDIUnityNote: number }).dwMIDIUnityNote).toBe(60);
    // Nanoseconds a frame.
    expect((read.smpl as { dwSamplePeriod: number }).dwSamplePeriod).toBe(Math.round(1e9 / 44_100));
  });

  test("dither of two steps' triangle leaves a mean error of nothing and a power of a quarter of a step's, each side its own", () => {
    // Lipshitz, Wannamaker and Vanderkooy, "Quantization and Dither" (1992), from memory.
    const [a, b] = [0.3001, -0.1234].map((v) => new Float32Array(20_000).fill(v)) as [Float32Array, Float32Array];
    const errors = (ditherSeed: number): number[][] => {
      const read = readWav(writeWav([a, b], { sampleRate: 44_100, bitDepth: 16, ditherSeed }));
      return [a, b].map((side, c) => [...side].map((v, i) => read.channels[c]![i]! * 32_768 - v * 32_767));
    };
    const mean = (list: readonly number[]): number => list.reduce((s, v) => s + v, 0) / list.length;
    const [l, r] = errors(1) as [number[], number[]];
    for (const side of [l, r]) {
      expect(mean(side)).toBeCloseTo(0, 1);
      expect(mean(side.map((v) => v * v))).toBeCloseTo(0.25, 1);
      expect(mean(side.slice(1).map((v, i) => v * side[i]!))).toBeCloseTo(0, 1);
    }
    expect(mean(l.map((v, i) => v * r[i]!))).toBeCloseTo(0, 1);
    expect(errors(2)).not.toEqual(errors(1));
    expect(errors(1)).toEqual([l, r]);
  });
  test("of unlike channels are an error; silence stays silent through the dither", () => {
    expect(() => writeWav([left, right.slice(1)], { sampleRate: 44_100, bitDepth: 16 })).toThrow(RangeError);
    const silent = new wavefile.WaveFile(writeWav([new Float32Array(99)], { sampleRate: 44_100, bitDepth: 16 }));
    expect([...silent.getSamples(false, Float64Array)].every((s) => s === 0)).toBe(true);
  });
});

describe("binary things in project files", () => {
  const bytes = Uint8Array.from({ length: 1000 }, (_, i) => (i * 37) & 255);
  test("SHA-256 and base 64 are what Node makes of the same bytes", () => {
    for (const length of [0, 1, 2, 3, 55, 56, 63, 64, 65, 119, 120, 1000]) {
      const part = bytes.subarray(0, length);
      expect(sha256(part)).toBe(createHash("sha256").update(part).digest("hex"));
      expect(toBase64(part)).toBe(Buffer.from(part).toString("base64"));
      expect(fromBase64(toBase64(part))).toEqual(part.slice());
    }
    // FIPS 180-4, the standard's example "abc".
    expect(sha256(new TextEncoder().encode("abc"))).toBe(
      "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad",
    );
    for (const bad of ["abc", "ab*=", "=abc"]) expect(fromBase64(bad)).toBeNull();
  });

  test("a file carries what it refers to; what is missing, changed or named twice is refused with its path", () => {
    const hash = sha256(bytes);
    const project = { ...demoProject("d"), binaries: [{ hash, name: "Fog horn", bytes: bytes.length }] };
    const text = projectFileText(project, new Map([[hash, bytes]]));
    expect(parseProjectFile(text)).toEqual({ ok: true, project, content: new Map([[hash, bytes]]) });
    expect(() => projectFileText(project)).toThrow(/"Fog horn" is not there/);
    const path = `content.${hash}`;
    const file = JSON.parse(text) as { content: Record<string, string>; binaries: object[] };
    expect(parseProjectFile(JSON.stringify({ ...file, content: {} }))).toMatchObject({
      ok: false,
      path,
      reason: 'the file lacks "Fog horn"',
    });
    expect(
      parseProjectFile(JSON.stringify({ ...file, content: { [hash]: toBase64(bytes.subarray(1)) } })),
    ).toMatchObject({ ok: false, path, reason: '"Fog horn" is damaged' });
    expect(parseProjectFile(JSON.stringify({ ...file, binaries: [...file.binaries, ...file.binaries] }))).toMatchObject(
      { ok: false, path: "binaries" },
    );
  });
});

test("a wave table goes out as frames of 2048 samples, read back by another reader with its harmonics", () => {
  const frames = ownFrames("plain");
  const wav = new wavefile.WaveFile(tableWav(frames));
  expect((wav.fmt as { numChannels: number }).numChannels).toBe(1);
  const samples = wav.getSamples(false, Float64Array);
  expect(samples.length).toBe(4 * FRAME_SAMPLES);
  expect(samples.reduce((top, v) => Math.max(top, Math.abs(v)), 0)).toBeCloseTo(1, 6);
  // The third frame is a saw: its harmonics fall with their number (Fourier).
  const saw = harmonicsOfCycle(samples.slice(2 * FRAME_SAMPLES, 3 * FRAME_SAMPLES), 20);
  for (const h of [2, 5, 20]) expect(saw.sin[h - 1]! / saw.sin[0]!).toBeCloseTo(1 / h, 5);
  // Soft frames come out at full scale, at the usual rate; without harmonics there is nothing.
  const frame = (level: number) => ({ sin: Float64Array.of(level), cos: Float64Array.of(0) });
  const soft = readWav(tableWav([frame(0.2), frame(0.1)]));
  expect(soft.sampleRate).toBe(44_100);
  expect(soft.channels[0]!.reduce((top, v) => Math.max(top, Math.abs(v)), 0)).toBeCloseTo(1, 6);
  expect(soft.channels[0]!.slice(FRAME_SAMPLES).reduce((top, v) => Math.max(top, Math.abs(v)), 0)).toBeCloseTo(0.5, 6);
  expect(readWav(tableWav([frame(0)])).channels[0]!.every((v) => v === 0)).toBe(true);
});

describe("reading WAV files", () => {
  const sides = [Float32Array.of(0, 0.5, -1, 0.25, 0.999), Float32Array.of(1, -0.5, 0, 0.125, -0.999)];
  test.each(["8", "16", "24", "32", "32f", "64"])("of %s bits, as another library (wavefile) writes them", (depth) => {
    const file = new wavefile.WaveFile();
    const scale = { "8": 127, "16": 32767, "24": 8388607, "32": 2147483647 }[depth];
    const whole =
      depth === "8" ? (x: number) => Math.round(128 + x * 127) : (x: number) => Math.round(x * (scale ?? 1));
    file.fromScratch(2, 32_000, depth, sides.map((s) => Array.from(s, (x) => (scale ? whole(x) : x)))); // prettier-ignore
    const read = readWav(file.toBuffer());
    expect(read.sampleRate).toBe(32_000);
    expect(read.channels).toHaveLength(2);
    read.channels.forEach((c, i) =>
      c.forEach((x, k) => expect(Math.abs(x - sides[i]![k]!)).toBeLessThan(depth === "8" ? 0.012 : 1e-4)),
    );
  });

  test("of one sample, at the file's very end; what is no number is silence, what is too much is cut", () => {
    const one = writeWav([Float32Array.of(0.5)], { sampleRate: 48_000, bitDepth: 16 });
    expect(one).toHaveLength(46);
    expect(readWav(one).channels[0]![0]).toBeCloseTo(0.5, 3);
    const wild = writeWav([Float32Array.of(NaN, Infinity, 20, -20, 7)], { sampleRate: 48_000, bitDepth: 32 });
    expect([...readWav(wild).channels[0]!]).toEqual([0, 0, 8, -8, 7]);
    expect(() => readWav(one.slice(0, 44))).toThrow("there is no sound in it");
  });

  test("by its real format where it is extensible, and past chunks that it does not know", () => {
    const file = new wavefile.WaveFile();
    file.fromScratch(1, 48_000, "24", [Array.from(sides[0]!, (x) => Math.round(x * 8388607))]);
    file.setTag("ICMT", "rope");
    const bytes = file.toBuffer();
    const data = readWav(bytes).channels[0]!;
    expect(data[1]).toBeCloseTo(0.5, 6);
    // The header of an extensible file, as Microsoft's Multiple Channel Audio Data and WAVE Files (2001) lays it out.
    const samples = new Int16Array([0, 16_384, -32_768]);
    const head = new DataView(new ArrayBuffer(68));
    const write = (at: number, s: string): void =>
      s.split(/(?:)/).forEach((c, i) => head.setUint8(at + i, c.charCodeAt(0)));
    write(0, "RIFF");
    write(8, "WAVE");
    write(12, "fmt ");
    write(60, "data"); // prettier-ignore
    head.setUint32(16, 40, true);
    head.setUint16(20, 0xfffe, true);
    head.setUint16(22, 1, true);
    head.setUint32(24, 44_100, true);
    head.setUint16(34, 16, true);
    head.setUint16(44, 1, true);
    head.setUint32(64, 6, true);
    const whole = new Uint8Array([...new Uint8Array(head.buffer), ...new Uint8Array(samples.buffer)]);
    expect([...readWav(whole).channels[0]!]).toEqual([0, 0.5, -1]);
    // A format chunk may be as long without being extensible; chunks of odd length are padded.
    const plain = whole.slice();
    plain.set([1, 0], 20);
    plain.set([3, 0], 44);
    expect([...readWav(plain).channels[0]!]).toEqual([0, 0.5, -1]);
    const odd = [...whole.slice(0, 12), 0x6a, 0x75, 0x6e, 0x6b, 5, 0, 0, 0, 1, 2, 3, 4, 5, 0, ...whole.slice(12)];
    expect([...readWav(Uint8Array.from(odd)).channels[0]!]).toEqual([0, 0.5, -1]);
    // Cut off in the middle, it gives what is there.
    for (const cut of [1, 2]) expect(readWav(whole.subarray(0, whole.length - cut)).channels[0]).toHaveLength(2);
  });

  test("of the lowest and the highest rate; of what a file carries, what is no sound is left out", () => {
    for (const rate of [1000, 384_000]) expect(readWav(writeWav([Float32Array.of(0.5, 0)], { sampleRate: rate, bitDepth: 16 })).sampleRate).toBe(rate); // prettier-ignore
    const wav = writeWav([Float32Array.of(0.5)], { sampleRate: 48_000, bitDepth: 32 });
    const sounds = recordingsOf(new Map([["a", wav], ["b", new Uint8Array(9)]])); // prettier-ignore
    expect([...sounds].map(([hash, r]) => [hash, r.sampleRate, ...r.channels[0]!])).toEqual([["a", 48_000, 0.5]]);
  });

  test.each([
    ["it is no WAV file", new Uint8Array(40)],
    ["it is no WAV file", withBytes(8, 0x41, 0x56, 0x49)],
    ["it is no WAV file", withBytes(0, 0x58)],
    ["samples of 20 bits", withBytes(34, 20)],
    ["0 channels", withBytes(22, 0)],
    ["its sample rate is 44 Hz", withBytes(24, 44, 0, 0, 0)],
    ["its sample rate is 999 Hz", withBytes(24, 0xe7, 3, 0, 0)],
    ["its sample rate is 384001 Hz", withBytes(24, 1, 0xdc, 5, 0)],
    ["0 bits in format 1", withBytes(34, 0)],
    ["9 channels", withBytes(22, 9)],
    ["there is no sound in it", writeWav([new Float32Array(0)], { sampleRate: 44_100, bitDepth: 16 })],
    ["there is no sound in it", writeWav([new Float32Array(9)], { sampleRate: 44_100, bitDepth: 16 }).subarray(0, 36)],
  ])("says why not: %s", (reason, bytes) => {
    expect(() => readWav(bytes)).toThrow(reason);
  });

  function withBytes(at: number, ...values: number[]): Uint8Array {
    const file = writeWav([new Float32Array(9)], { sampleRate: 44_100, bitDepth: 16 });
    file.set(values, at);
    return file;
  }
});
