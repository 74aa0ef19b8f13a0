import { compileProject } from "@/core/engine/compile";
import { renderNow } from "@/core/engine/render";
import type { Oscillator } from "@/core/patch/kinds/oscillator";
import type { Patch, Project } from "@/core/patch/project";
import { makeProject, note, type Made } from "./projects";
import { spectrumDb } from "./spectrum";

/** One oscillator as it sounds alone. */

export const RATE = 48_000;
export const N = 16_384;
const PLAIN = { "amp.level": -12, "filter.cutoff": 20_000, "filter.resonance": 0, "osc.unison": 1 };

const withData = (patch: Patch, data: Partial<Oscillator["data"]>): Patch => ({
  ...patch,
  modules: patch.modules.map((m) => (m.kind === "oscillator" && m.id === "osc" ? { ...m, data: { ...m.data, ...data } } : m)),
}); // prettier-ignore

/** One long note past the filter, its oscillator as given; other sources come before it. */
export function project(
  made: Made,
  data: Partial<Oscillator["data"]> = {},
  change: (p: Patch) => Patch = (p) => p,
): Project {
  const p = makeProject({
    // A bar of little more than is looked at.
    song: { tempoBpm: 330 },
    notes: [note(0, 3840, 69)],
    amp: { sustain: 100 },
    ...made,
    values: { ...PLAIN, ...made.values },
  });
  const part = p.parts[0]!;
  const straight = part.patch.cables.filter((c) => c.to !== "filter" && c.from !== "filter");
  const patch = { ...part.patch, cables: [...straight, { from: "osc", to: "amp" }] };
  return { ...p, parts: [{ ...part, patch: change(withData(patch, data)) }] };
}

export const sound = (p: Project, bars = 1): Float32Array =>
  renderNow(compileProject(p), { sampleRate: RATE, bars, tail: "cut" }).left;
/** Spectrum of a stretch of `n` frames that begins after a quarter of a second. */
export const spectrum = (p: Project, n = N): ((hz: number) => number) => {
  const db = spectrumDb(sound(p).slice(12_000, 12_000 + n));
  return (hz) => {
    const k = Math.round((hz * n) / RATE);
    return Math.max(db(k - 1), db(k), db(k + 1));
  };
};

/** A pitch near a key whose cycles fit the stretch that is looked at, and how far off it is in semitones. */
export function fitting(hz: number): { hz: number; off: number } {
  const fits = (Math.round((hz * N) / RATE) * RATE) / N;
  return { hz: fits, off: 12 * Math.log2(fits / 440) };
}
