/** Runs in a Chromium page: our engine and the browser's own nodes at the same work, in turn, so that ratios hold. */
import { Engine, warmUp } from "@/core/engine/engine";
import { heardLoop } from "@/core/engine/heard";
import { compileProject, type Program } from "@/core/engine/program";
import { demoProject } from "@/core/patch/demo";
import type { Project } from "@/core/patch/project";

const RATE = 48_000;
const BLOCK = 128;
const VOICES = 16;
const UNISON = 8;
const KEYS = Array.from({ length: VOICES }, (_, i) => 40 + 2 * i);
const DETUNE = 14;
const REST_HZ = 420;
const OCTAVES = 2.4;

/** Sixteen held notes of eight saws each through the 24 dB low-pass, an LFO and an envelope on its cutoff. */
function workload(): Project {
  const demo = demoProject("bench");
  const part = demo.parts[0]!;
  return {
    ...demo,
    song: { ...demo.song, tempoBpm: 120, loopBars: 8 },
    parts: [
      {
        ...part,
        arpeggio: { ...part.arpeggio, on: false },
        notes: KEYS.map((key, i) => ({ id: `n${i}`, startTick: 0, lengthTicks: 8 * 3840, key, velocity: 100 })),
        patch: {
          ...part.patch,
          values: {
            ...part.patch.values,
            "osc.octave": 0,
            "osc.unison": UNISON,
            "osc.detune": DETUNE,
            "amp.level": -24,
          },
          modulators: part.patch.modulators.map((m) =>
            m.id === "amp" && m.kind === "envelope" ? { ...m, sustain: 100 } : m,
          ),
        },
      },
    ],
  };
}

/** Seconds of sound per second for a program. */
function ourSpeed(program: Program, seconds: number): number {
  const engine = new Engine(RATE);
  const left = new Float32Array(BLOCK);
  const right = new Float32Array(BLOCK);
  engine.load(program);
  engine.play(0);
  const blocks = Math.round((seconds * RATE) / BLOCK);
  const from = performance.now();
  for (let b = 0; b < blocks; b++) engine.process(left, right, BLOCK);
  return seconds / ((performance.now() - from) / 1000);
}

/** The same with native nodes: 128 saws with panners, two biquads a voice with the cutoff moved, a gain. */
async function nativeSpeed(rate: "a-rate" | "k-rate", seconds: number): Promise<number> {
  const context = new OfflineAudioContext(2, seconds * RATE, RATE);
  const lfo = new OscillatorNode(context, { frequency: 1 });
  const depth = new GainNode(context, { gain: OCTAVES * 1200 });
  lfo.connect(depth);
  lfo.start();
  KEYS.forEach((key) => {
    const filters = [0, 1].map(() => {
      const filter = new BiquadFilterNode(context, { type: "lowpass", frequency: REST_HZ });
      filter.detune.automationRate = rate;
      filter.frequency.automationRate = rate;
      depth.connect(filter.detune);
      return filter;
    });
    const pluck = new ConstantSourceNode(context, { offset: 0 });
    pluck.offset.setValueAtTime(1800, 0);
    pluck.offset.setTargetAtTime(0, 0, 0.1);
    filters.forEach((f) => pluck.connect(f.detune));
    pluck.start();
    const amp = new GainNode(context, { gain: 0 });
    amp.gain.linearRampToValueAtTime(0.02, 0.002);
    filters[0]!.connect(filters[1]!).connect(amp).connect(context.destination);
    for (let u = 0; u < UNISON; u++) {
      const place = (2 * u) / (UNISON - 1) - 1;
      const saw = new OscillatorNode(context, {
        type: "sawtooth",
        frequency: 440 * 2 ** ((key - 69) / 12),
        detune: place * DETUNE,
      });
      saw.connect(new StereoPannerNode(context, { pan: place * 0.7 })).connect(filters[0]!);
      saw.start();
    }
  });
  const from = performance.now();
  await context.startRendering();
  return seconds / ((performance.now() - from) / 1000);
}

const median = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;

/** Milliseconds of the first block that sounds, after a warm-up and without one. */
function firstBlockMs(program: Program, warm: boolean): number {
  if (warm) warmUp(program, RATE);
  const engine = new Engine(RATE);
  const out = new Float32Array(BLOCK);
  engine.load(program);
  engine.play(0);
  const from = performance.now();
  engine.process(out, new Float32Array(BLOCK), BLOCK);
  return performance.now() - from;
}

/** How much longer a block takes in the silence after notes than while they sound. */
function silenceRatio(program: Program): number {
  const engine = new Engine(RATE);
  const out = new Float32Array(BLOCK);
  const time = (blocks: number): number => {
    const from = performance.now();
    for (let b = 0; b < blocks; b++) engine.process(out, out, BLOCK);
    return performance.now() - from;
  };
  engine.load(program);
  engine.play(0);
  time(400);
  const sounding = time(1500);
  engine.stop();
  time(20);
  return time(1500) / sounding;
}

async function bench(rounds: number) {
  const coldFirst = firstBlockMs(compileProject(demoProject("cold")), false);
  const program = compileProject(workload());
  const demo = compileProject(demoProject("demo"));
  warmUp(program, RATE);
  const ours: number[] = [];
  const perBlock: number[] = [];
  const perSample: number[] = [];
  for (let r = 0; r < rounds; r++) {
    ours.push(ourSpeed(program, 4));
    perBlock.push(await nativeSpeed("k-rate", 4));
    perSample.push(await nativeSpeed("a-rate", 4));
  }
  const heard: number[] = [];
  for (let r = 0; r < 15; r++) {
    const from = performance.now();
    heardLoop(demo, RATE);
    heard.push(performance.now() - from);
  }
  const demoSpeed = median(Array.from({ length: 5 }, () => ourSpeed(demo, 8)));
  return {
    ours: median(ours),
    perBlock: median(perBlock),
    perSample: median(perSample),
    ratioPerBlock: median(ours.map((o, i) => o / perBlock[i]!)),
    ratioPerSample: median(ours.map((o, i) => o / perSample[i]!)),
    demoSpeed,
    heardMs: median(heard.slice(3)),
    coldFirst,
    warmFirst: firstBlockMs(demo, true),
    silence: silenceRatio(program),
  };
}

Object.assign(globalThis, { clovikBench: bench });
