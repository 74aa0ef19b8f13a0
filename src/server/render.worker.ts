import { closeSync, openSync } from "node:fs";
import { compileProject } from "@/core/engine/compile";
import { parseProjectFile, recordingsOf } from "@/core/format/projectFile";
import { LIMITS, type RenderAnswer, type RenderJob } from "./renderJob";
import { writeSoundFile } from "./soundFile";

const refuse = (status: number, reason: string): RenderAnswer => ({ ok: false, status, reason });

/** Parses, compiles and renders in a thread of its own, so that the server's own answers others meanwhile. */
export default function render({ body, query, path }: RenderJob): RenderAnswer {
  const opened = parseProjectFile(new TextDecoder().decode(body));
  if (!opened.ok) return refuse(422, `${opened.path}: ${opened.reason}`);
  const { project } = opened;
  if (query.part !== undefined && !project.parts.some((p) => p.id === query.part))
    return refuse(400, `part: there is no part "${query.part}"`);
  const program = compileProject(project, query.part);
  const bars = query.bars ?? project.song.loopBars;
  const seconds = (bars * program.song.barTicks) / program.song.ticksPerSec;
  if (seconds > LIMITS.audioSeconds)
    return refuse(400, `${bars} bars last ${Math.round(seconds)} s; at most ${LIMITS.audioSeconds} s are rendered`);
  const file = openSync(path, "w");
  try {
    const { sampleRate, tail, backing } = query;
    const options = { sampleRate, bars, tail, backing, recordings: recordingsOf(opened.content) };
    return { ok: true, summary: writeSoundFile(file, program, options, query.bitDepth) };
  } finally {
    closeSync(file);
  }
}
