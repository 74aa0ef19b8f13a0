import { Engine, type EngineOptions } from "./engine";
import { Heap } from "./heap";
import type { Program } from "./program";

const WARM_UP_BLOCKS = 200;
const BLOCK = 128;

/**
 * Runs a program on an engine of its own until the compiler has seen every path of it: the first block of cold code takes
 * longer than a block lasts. Returns a heap as good as new for the engine that is to be heard, in memory that the machine
 * has handed out already: to touch it for the first time takes long, too.
 */
export function warmUp(program: Program, sampleRate: number, options: EngineOptions): Heap {
  const heap = new Heap();
  const engine = new Engine(sampleRate, heap, options);
  const left = new Float32Array(BLOCK);
  const right = new Float32Array(BLOCK);
  engine.load(program);
  engine.play(0);
  for (let b = 0; b < WARM_UP_BLOCKS; b++) engine.process(left, right, BLOCK);
  return new Heap(heap);
}
