/** What voices and their modules cost: projects of sixteen held notes, and the browser's own nodes at the nearest work. */
import { newOscillator, newRoute, newShape } from "@/core/patch/defaults";
import type { Module } from "@/core/patch/kinds";
import { FILTER } from "@/core/patch/kinds/filter";
import { adjusted, newModule } from "@/core/patch/kinds/kind";
import type { Recordings } from "@/core/dsp/tableSpec";
import { RECORDING } from "@/core/patch/kinds/recording";
import { NOISE } from "@/core/patch/kinds/noise";
import type { Oscillator } from "@/core/patch/kinds/oscillator";
import type { Patch, Project } from "@/core/patch/project";
import { DETUNE, KEYS, OCTAVES, REST_HZ, stack } from "./benchWork";

const RATE = 48_000;
const LAYERS = 3;
const WIDE = 7;
const SEMITONES = [0, 12, 7] as const;

type Change = { values?: Record<string, number>; choices?: Record<string, string>; data?: Partial<Oscillator["data"]> };
const changed = <M extends Module>(m: M, { values, choices, data }: Change): M => ({
  ...m,
  values: { ...m.values, ...values },
  choices: { ...m.choices, ...choices },
  data: { ...m.data, ...data },
});

const base = stack();
const basePart = base.parts[0]!;
const kept = basePart.patch.modules.filter((m) => m.kind === "amp" || m.kind === "envelope" || m.kind === "playing");
const slow = adjusted(newShape("slow", "Slow"), { times: { rate: { unit: "hz", hz: 1 } } });

/** Sixteen held notes of these sources and filters, filters in a row; `moved` addresses go with a slow shape. */
function voices(
  sources: readonly Module[],
  filters: readonly Module[],
  moved: readonly (readonly [string, number])[] = [],
): Project {
  const amp = kept.find((m) => m.kind === "amp")!.id;
  const first = filters[0]?.id ?? amp;
  const patch: Patch = {
    modules: [...sources, ...filters, ...kept, slow],
    cables: [
      ...sources.map((s) => ({ from: s.id, to: first })),
      ...filters.map((f, i) => ({ from: f.id, to: filters[i + 1]?.id ?? amp })),
    ],
    routes: moved.map(([target, amount], i) => newRoute(`r${i}`, "slow", target as never, amount)),
  };
  return { ...base, parts: [{ ...basePart, patch }] };
}

const oscillator = (id: string, change: Change): Oscillator => changed(newOscillator(id, id), change);
const filter = (change: Change): Module => changed(newModule(FILTER, "filter", "Filter", {}), change);

/** Three oscillators of seven saws, an octave and a fifth apart, through two low-passes whose cutoffs move. */
export const layered = (): Project =>
  voices(
    SEMITONES.map((pitch, i) => oscillator(`osc${i}`, { values: { pitch, unison: WIDE, detune: DETUNE } })),
    ["f1", "f2"].map((id) => ({ ...filter({ values: { cutoff: REST_HZ } }), id })),
    [["f1.cutoff", OCTAVES], ["f2.cutoff", OCTAVES]],
  ); // prettier-ignore

/** The nearest graph of native nodes: 336 saws with panners, four biquads a voice with the cutoff moved, a gain. */
export async function nativeLayered(rate: "a-rate" | "k-rate", seconds: number): Promise<number> {
  const context = new OfflineAudioContext(2, seconds * RATE, RATE);
  const depth = new GainNode(context, { gain: OCTAVES * 1200 });
  const lfo = new OscillatorNode(context, { frequency: 1 });
  lfo.connect(depth);
  lfo.start();
  for (const key of KEYS) {
    const filters = [0, 1, 2, 3].map(() => {
      const biquad = new BiquadFilterNode(context, { type: "lowpass", frequency: REST_HZ });
      biquad.detune.automationRate = rate;
      biquad.frequency.automationRate = rate;
      depth.connect(biquad.detune);
      return biquad;
    });
    filters.reduce((a, b) => (a.connect(b), b));
    filters[3]!.connect(new GainNode(context, { gain: 0.02 })).connect(context.destination);
    for (let layer = 0; layer < LAYERS; layer++)
      for (let u = 0; u < WIDE; u++) {
        const place = (2 * u) / (WIDE - 1) - 1;
        const frequency = 440 * 2 ** ((key + SEMITONES[layer]! - 69) / 12);
        const saw = new OscillatorNode(context, { type: "sawtooth", frequency, detune: place * DETUNE });
        saw.connect(new StereoPannerNode(context, { pan: place * 0.7 })).connect(filters[0]!);
        saw.start();
      }
  }
  const from = performance.now();
  await context.startRendering();
  return seconds / ((performance.now() - from) / 1000);
}

const sine = (change: Change = {}): Oscillator =>
  oscillator("osc", { ...change, choices: { wave: "sine", ...change.choices } });
const noise = newModule(NOISE, "noise", "Noise", {});
/** Stands for the hash of two seconds of a stereo sound. */
const HASH = "b".repeat(64);
const looped = newModule(RECORDING, "rope", "Rope", { recording: HASH });
const recording = {
  ...looped,
  choices: { ...looped.choices, plays: "looped" as const },
  values: { ...looped.values, back: 10 },
};
const side = (hz: number): Float32Array<ArrayBuffer> =>
  Float32Array.from({ length: 2 * RATE }, (_, i) => Math.sin((2 * Math.PI * hz * i) / RATE));
/** What the engine of the benchmarks has at hand. */
export const RECORDINGS: Recordings = new Map([[HASH, { sampleRate: RATE, channels: [side(220), side(331)] }]]);

/** Modules by what they add to a lone sine without a filter: the project with them, and what it is measured against. */
export function modules(): { name: string; with: Project; without: Project }[] {
  const plain = voices([sine()], []);
  const source = (name: string, more: readonly Module[], moved: readonly (readonly [string, number])[] = []) => ({ name, with: voices([sine(), ...more], [], moved), without: plain });
  const instead = (name: string, change: Change, moved: readonly (readonly [string, number])[] = []) => ({ name, with: voices([sine(change)], [], moved), without: plain });
  const filtered = (name: string, change: Change, moved: readonly (readonly [string, number])[] = []) => ({ name, with: voices([sine()], [filter(change)], moved), without: plain });
  return [
    source("an oscillator, plain", [oscillator("o2", {})]),
    source("an oscillator, plain, seven of unison", [oscillator("o2", { values: { unison: 7 } })]),
    source("an oscillator, wave table", [oscillator("o2", { choices: { wave: "table" }, data: { table: "vowels" } })]),
    source("an oscillator, wave table whose position moves", [oscillator("o2", { choices: { wave: "table" }, data: { table: "vowels" } })], [["o2.position", 100]]),
    source("an oscillator, wave table, seven of unison", [oscillator("o2", { values: { unison: 7 }, choices: { wave: "table" }, data: { table: "vowels" } })]),
    source("noise", [noise]),
    source("a recording, stereo, looped", [recording]),
    instead("a sine that is folded", { values: { bend1: 50 }, choices: { bend1: "fold" } }),
    instead("a sine in hard sync", { values: { bend1: 50 }, choices: { bend1: "sync" } }),
    instead("a sine turned by its own modulator", { values: { inner: 2 } }),
    ...(["lp12", "lp24", "hp24", "bp24", "notch24", "ladder", "combUp", "vowel", "allpass"] as const).map((type) => filtered(`filter ${type}, cutoff moved`, { choices: { type }, values: { cutoff: REST_HZ } }, [["filter.cutoff", OCTAVES]])),
    filtered("filter lp24, still, driven", { values: { drive: 12 } }),
    filtered("filter lp24, still", {}),
  ];
} // prettier-ignore
