import type { Recordings } from "../dsp/tableSpec";
import { loudness } from "../measure/loudness";
import { kindOf, type Module } from "../patch/kinds";
import { SOURCE_ROWS } from "../patch/kinds/source";
import { clampToParameter } from "../patch/row";
import type { Project } from "../patch/project";
import { compileProject } from "./compile";
import { renderNow } from "./render";

/** The rate that the loudness filters are for. */
const RATE = 48_000;
const MOST_BARS = 2;

/**
 * Levels that make the sources of a part that are on equally loud, at the mean of what they were in power: each is rendered
 * alone over the first bars of the loop and measured by ITU-R BS.1770. Silent sources keep their levels. Takes some tenths of
 * a second. Levels in dB by the modules' ids.
 */
export function evenLevels(project: Project, partId: string, recordings: Recordings): ReadonlyMap<string, number> {
  const part = project.parts.find((p) => p.id === partId);
  const sources = part?.patch.modules.filter((m) => m.on && kindOf(m).role === "source") ?? [];
  const measured = sources.flatMap((m) => {
    const level = (m.values as { readonly level: number }).level;
    const found = loudnessOf(project, partId, m, recordings);
    return Number.isFinite(found) ? [{ id: m.id, level, loudness: found }] : [];
  });
  const mean = 10 * Math.log10(measured.reduce((s, m) => s + 10 ** (m.loudness / 10), 0) / measured.length);
  return new Map(
    measured.map((m) => [m.id, Math.round(clampToParameter(SOURCE_ROWS.level, m.level + mean - m.loudness) * 10) / 10]),
  );
}

/** LUFS of a part with one of its sources alone; -Infinity where it is silent. */
function loudnessOf(project: Project, partId: string, only: Module, recordings: Recordings): number {
  const parts = project.parts.map((p) =>
    p.id === partId
      ? {
          ...p,
          mix: { ...p.mix, mute: false, solo: false },
          patch: {
            ...p.patch,
            modules: p.patch.modules.map((m) =>
              m.id !== only.id && kindOf(m).role === "source" ? { ...m, on: false } : m,
            ),
          },
        }
      : { ...p, mix: { ...p.mix, solo: false } },
  );
  const program = compileProject({ ...project, parts, outputTrim: 0 }, partId);
  const bars = Math.min(MOST_BARS, project.song.loopBars);
  const { left, right } = renderNow(program, { sampleRate: RATE, bars, tail: "cut", recordings });
  return loudness(left, right);
}
