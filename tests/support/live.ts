import { compileProject } from "@/core/engine/compile";
import { Engine, type EngineOptions } from "@/core/engine/engine";
import { withoutRecordings } from "@/core/dsp/tables";
import type { Project } from "@/core/patch/project";
import { nextHeap } from "./nextHeap";

/** Engines as the page has them, at 48 kHz and without their limiter. Each takes the memory of the last one. */

export const RATE = 48_000;

export function engineWith(project: Project, options: EngineOptions = {}): Engine {
  const engine = new Engine(RATE, nextHeap(), { tables: withoutRecordings, limited: false, ...options });
  engine.load(compileProject(project));
  return engine;
}

/** One that plays, from a tick of the loop. */
export function playing(project: Project, from = 0): Engine {
  const engine = engineWith(project);
  engine.play(from);
  return engine;
}

/** Runs an engine and hands out its left side. */
export function run(engine: Engine, frames: number): Float32Array {
  const left = new Float32Array(frames);
  engine.process(left, new Float32Array(frames), frames);
  return left;
}
