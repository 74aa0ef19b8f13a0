/** The work that the benchmarks measure: projects that load the engine in known ways. */
import { MAX_POINTS } from "@/core/curve/curve";
import { projectFileText } from "@/core/format/projectFile";
import { demoProject } from "@/core/patch/demo";
import { newEnvelope, newRoute, newShape } from "@/core/patch/defaults";
import { withoutModule } from "@/core/patch/edit";
import { kindOf, type Module } from "@/core/patch/kinds";
import type { Note, Part, Project } from "@/core/patch/project";
import { adjusted } from "@/core/patch/kinds/kind";

export const VOICES = 16;
export const UNISON = 8;
export const KEYS = Array.from({ length: VOICES }, (_, i) => 40 + 2 * i);
export const DETUNE = 14;
export const REST_HZ = 420;
export const OCTAVES = 2.4;
const BAR = 3840;

const held = (bars: number): Note[] =>
  KEYS.map((key, i) => ({ id: `n${i}`, startTick: 0, lengthTicks: bars * BAR, key, velocity: 100 }));

/** Sets the sound of the demo's modules for the work at hand. */
const tuned = (m: Module, unison: number, level: number, amp: string): Module => {
  if (m.kind === "oscillator") return { ...m, values: { ...m.values, octave: 0, unison, detune: DETUNE } };
  if (m.kind === "amp") return { ...m, values: { ...m.values, level } };
  if (m.kind === "envelope" && m.id === amp) return { ...m, values: { ...m.values, sustain: 100 } };
  return m;
};

const demo = demoProject("bench");
const demoPart = demo.parts[0]!;
const ampEnvelope = demoPart.patch.modules.flatMap((m) => (m.kind === "amp" ? [m.data.envelope] : []))[0]!;
const ungated = demoPart.patch.modules.filter((m) => m.kind === "gate").reduce((p, m) => withoutModule(p, m.id), demoPart.patch); // prettier-ignore
/** The demo's part as it was when its figures were first taken: without arpeggio and gate. */
const still: Part = { ...demoPart, patch: ungated, arpeggio: { ...demoPart.arpeggio, on: false } };

/** Sixteen held notes of eight saws each through the 24 dB low-pass, an LFO and an envelope on its cutoff; with vibrato if asked. */
export function stack(vibrato = false): Project {
  const vib: Module = adjusted(newShape("vib", "Vibrato"), {
    times: { rate: { unit: "hz", hz: 5 } },
    choices: { restart: "note" },
  });
  const { patch } = still;
  return {
    ...demo,
    song: { ...demo.song, tempoBpm: 120, loopBars: 8 },
    parts: [
      {
        ...still,
        notes: held(8),
        patch: {
          ...patch,
          modules: [...patch.modules.map((m) => tuned(m, UNISON, -24, ampEnvelope)), ...(vibrato ? [vib] : [])],
          routes: [...patch.routes, ...(vibrato ? [newRoute("vibrato", "vib", "osc.pitch", 0.3)] : [])],
        },
      },
    ],
  };
}

/** Eight parts of twelve modulators, 32 routes, chords of sixteen notes and sixteen voices of unison. */
export function orchestra(): Project {
  const targets = [["filter.cutoff", 1], ["osc.pitch", 0.1], ["amp.level", -3], ["amp.pan", 20], ["filter.resonance", 10], ["osc.detune", 5], ["osc.width", 10]] as const; // prettier-ignore
  const modulators = Array.from({ length: 11 }, (_, i): Module =>
    i % 2
      ? newEnvelope(`m${i}`, `M${i}`)
      : adjusted(newShape(`m${i}`, `M${i}`), { choices: { restart: i % 4 ? "note" : "bar" } }),
  );
  const own = still.patch.modules.filter((m) => kindOf(m).role !== "modulator" || m.id === ampEnvelope);
  const patch = {
    ...still.patch,
    modules: [...own.map((m) => tuned(m, 16, -40, ampEnvelope)), ...modulators],
    routes: Array.from({ length: 32 }, (_, i) => {
      const [target, amount] = targets[i % targets.length]!;
      return newRoute(`r${i}`, i % 12 === 11 ? "velocity" : `m${i % 11}`, target, amount);
    }),
  };
  const parts = Array.from({ length: 8 }, (_, p): Part => ({ ...still, id: `part-${p}`, notes: held(4), patch }));
  return { ...demo, song: { ...demo.song, tempoBpm: 120 }, parts };
}

/** Eight parts of `notes` notes over 32 bars. */
export function longSong(notes: number, arpeggio: boolean): Project {
  const list = Array.from({ length: notes }, (_, i): Note => ({
    id: `n${i}`,
    startTick: Math.floor((i * 32 * BAR) / notes),
    lengthTicks: 480,
    key: 40 + (i % 24),
    velocity: 100,
  }));
  return {
    ...demo,
    song: { ...demo.song, loopBars: 32 },
    parts: Array.from({ length: 8 }, (_, p): Part => ({
      ...demoPart,
      id: `part-${p}`,
      arpeggio: { ...demoPart.arpeggio, on: arpeggio },
      notes: list.map((n) => ({ ...n })),
    })),
  };
}

/** Files with much to draw: a note every 1/64 of 32 bars; and a shape of as many points as it holds. */
export function manyTexts(): { notes: string; points: string } {
  const demo = demoProject("many");
  const [first, ...others] = demo.parts;
  const notes = Array.from({ length: 2048 }, (_, i) => ({
    id: `note-${i}`,
    startTick: 60 * i,
    lengthTicks: 60,
    key: 48 + ((i * 7) % 24),
    velocity: 60 + (i % 60),
  }));
  const points = Array.from({ length: MAX_POINTS }, (_, i) => ({
    x: i / (MAX_POINTS - 1),
    y: 0.5 + 0.5 * Math.sin(i / 5),
    tension: 20 * (i % 3),
  }));
  const arpeggio = { ...first!.arpeggio, on: false };
  const modules = first!.patch.modules.map((m) => (m.kind === "shape" ? adjusted(m, { data: { points } }) : m));
  return {
    notes: projectFileText({
      ...demo,
      name: "Many notes",
      song: { ...demo.song, loopBars: 32 },
      parts: [{ ...first!, notes, arpeggio }],
    }),
    points: projectFileText({
      ...demo,
      name: "Many points",
      parts: [{ ...first!, patch: { ...first!.patch, modules } }, ...others],
    }),
  };
}
