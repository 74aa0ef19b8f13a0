import { newOscillator } from "./defaults";
import { mixOf, withMix } from "./edit";
import { kindOf, modulesOf, type Module } from "./kinds";
import { AMP } from "./kinds/amp";
import { FILTER } from "./kinds/filter";
import { newModule } from "./kinds/kind";
import { OSCILLATOR } from "./kinds/oscillator";
import { levelEnvelope } from "./layers";
import { MAX_PARTS, type Part, type Project } from "./project";

/** Where a clean sub is split off, and by how much both are lowered: unlike sounds of one level add 3.01 dB (10 log 2). */
const SPLIT_HZ = 150;
const TRIM_DB = -3;

/** Why a part can be given no clean sub; null when it can. */
export function whyNoSub(project: Project, partId: string): string | null {
  const part = project.parts.find((p) => p.id === partId);
  if (!part) return "There is no such part";
  if (project.parts.length >= MAX_PARTS) return `A project holds ${MAX_PARTS} parts`;
  if (part.follows) return "It follows another part: give the sub to that one";
  return modulesOf(part.patch.modules, FILTER).length >= FILTER.most
    ? "It has two filters, and needs one more for the split"
    : null;
}

/**
 * Gives a part a clean sub: a layer behind it that plays the same notes as a sine under the split, linked to its envelope
 * and its way of playing; the part itself keeps what lies above. Both are trimmed, so that together they are no louder.
 * Returns the same project where that is not possible. `ids` name the layer and the part's new filter.
 */
export function withCleanSub(
  project: Project,
  partId: string,
  ids: { readonly part: string; readonly filter: string },
): Project {
  if (whyNoSub(project, partId) !== null) return project;
  const index = project.parts.findIndex((p) => p.id === partId);
  const part = project.parts[index]!;
  const amp = modulesOf(part.patch.modules, AMP)[0]!;
  const split = newModule(FILTER, ids.filter, "Lows out", {});
  const high: Module = {
    ...split,
    values: { ...split.values, cutoff: SPLIT_HZ, resonance: 0 },
    choices: { type: "hp24" },
  };
  const lowest = Math.min(
    0,
    ...modulesOf(part.patch.modules, OSCILLATOR)
      .filter((o) => o.on)
      .map((o) => o.values.octave),
  );
  const sine = newOscillator("osc", "Sub");
  const low: Module = { ...split, id: "filter", name: "Split", values: { ...high.values }, choices: { type: "lp24" } };
  const envelope = levelEnvelope(part.patch)!;
  const { level = 0 } = mixOf(part.patch)?.values ?? {};
  const trimmed = withMix(part.patch, { level: level + TRIM_DB });
  const kept = trimmed.modules.filter(
    (m) => m.id === amp.id || m.id === envelope.id || ["rule", "mix"].includes(kindOf(m).role),
  );
  const layer: Part = {
    ...part,
    id: ids.part,
    name: `${part.name.slice(0, 74)} sub`,
    notes: [],
    noteChord: null,
    follows: { part: part.id, semitones: 0, later: null, linked: true },
    patch: {
      modules: [
        {
          ...sine,
          values: { ...sine.values, octave: Math.max(OSCILLATOR.rows.octave.min, lowest) },
          choices: { ...sine.choices, wave: "sine" },
        },
        low,
        ...kept,
      ],
      cables: [
        { from: "osc", to: "filter" },
        { from: "filter", to: amp.id },
      ],
      routes: part.patch.routes.filter((r) => r.source === "velocity" && r.target === `${amp.id}.level`),
    },
  };
  const above: Part = {
    ...part,
    patch: {
      ...part.patch,
      modules: trimmed.modules.toSpliced(trimmed.modules.indexOf(amp), 0, high),
      cables: [
        ...part.patch.cables.map((c) => (c.to === amp.id ? { ...c, to: high.id } : c)),
        { from: high.id, to: amp.id },
      ],
    },
  };
  return { ...project, parts: project.parts.toSpliced(index, 1, above, layer) };
}
