import { writeSync } from "node:fs";
import type { Program } from "@/core/engine/program";
import { renderProgram, type RenderOptions, type RenderSummary } from "@/core/engine/render";
import { WavWriter, type BitDepth } from "@/core/format/wav";

/** Renders a program into an open WAV file, piece by piece and in whatever order they come: it needs no memory for the whole. */
export function writeSoundFile(
  file: number,
  program: Program,
  options: RenderOptions,
  bitDepth: BitDepth,
): RenderSummary {
  const writer = new WavWriter(2, { sampleRate: options.sampleRate, bitDepth });
  const headBytes = writer.around(0).head.length;
  const frameBytes = (2 * bitDepth) / 8;
  const steps = renderProgram(program, options);
  for (;;) {
    const step = steps.next();
    if (step.done) {
      const { frames, barFrames } = step.value;
      const { head, foot } = writer.around(frames, options.tail === "wrap" ? { loopFrames: barFrames } : {});
      writeSync(file, head, 0, head.length, 0);
      writeSync(file, foot, 0, foot.length, headBytes + frames * frameBytes);
      return step.value;
    }
    const { at, left, right } = step.value;
    if (left.length === 0) continue;
    const bytes = writer.frames([left, right], at);
    writeSync(file, bytes, 0, bytes.length, headBytes + at * frameBytes);
  }
}
