import { COEFFICIENTS, FILTER_STATE, lowpass24 } from "./filter";
import { MAX_UNISON, addMix, addStack } from "./oscillator";
import { KERNEL_BYTES, KERNEL_PAGES } from "./simd/kernels.generated";

/**
 * The three costliest loops, in WebAssembly with SIMD where the machine has it and in TypeScript where not. Both give the
 * same samples to the last bit (kernels.test.ts), so that a render does not depend on which one ran.
 */

/** Longest stretch that a kernel is asked for. */
export const MAX_STRETCH = 64;

interface Exports {
  addStack(
    table: number, bases: number, phases: number, increments: number, gainsL: number, gainsR: number,
    count: number, left: number, right: number, from: number, to: number,
  ): void; // prettier-ignore
  addMix(
    left: number, right: number, mixL: number, mixR: number,
    gainL: number, gainR: number, stepL: number, stepR: number, from: number, to: number,
  ): void; // prettier-ignore
  lowpass24(state: number, a: number, b: number, left: number, right: number, from: number, to: number): void;
}

/** What is used of the WebAssembly interface (W3C, WebAssembly JavaScript Interface 2.0); the core has no browser types. */
interface WasmApi {
  readonly Memory: new (size: { initial: number; maximum: number }) => { readonly buffer: ArrayBuffer };
  readonly Module: new (bytes: Uint8Array) => object;
  readonly Instance: new (module: object, imports: object) => { readonly exports: unknown };
}

interface Loaded {
  readonly buffer: ArrayBuffer;
  readonly exports: Exports;
}

function load(): Loaded | null {
  const api = (globalThis as { WebAssembly?: WasmApi }).WebAssembly;
  if (!api) return null;
  try {
    const memory = new api.Memory({ initial: KERNEL_PAGES, maximum: KERNEL_PAGES });
    const module = new api.Module(Uint8Array.from(KERNEL_BYTES));
    const instance = new api.Instance(module, { env: { memory, abort: () => undefined } });
    return { buffer: memory.buffer, exports: instance.exports as Exports };
  } catch {
    // No SIMD, or a policy against WebAssembly: the TypeScript loops do the same, more slowly.
    return null;
  }
}

const loaded = load();
/** Whether the SIMD kernels run. */
export const hasSimd = loaded !== null;

/** The compiler keeps the first bytes of the memory for itself. */
let nextByte = 1024;

/** Numbers that kernels can reach. They live as long as the thread: for tables and scratch only. */
export function kernelArray(length: number): Float64Array {
  if (!loaded) return new Float64Array(length);
  const at = nextByte;
  nextByte += length * Float64Array.BYTES_PER_ELEMENT;
  if (nextByte > loaded.buffer.byteLength) throw new RangeError(`${nextByte} bytes do not fit the kernels' memory`);
  return new Float64Array(loaded.buffer, at, length);
}

/**
 * Scratch of this thread, filled before a kernel is called and read after it. Rendering is one call at a time in a
 * thread, so engines that run side by side do not meet here.
 */
export const lanes = {
  left: kernelArray(MAX_STRETCH),
  right: kernelArray(MAX_STRETCH),
  mixL: kernelArray(MAX_STRETCH),
  mixR: kernelArray(MAX_STRETCH),
  phases: kernelArray(MAX_UNISON),
  increments: kernelArray(MAX_UNISON),
  bases: kernelArray(MAX_UNISON),
  gainsL: kernelArray(MAX_UNISON),
  gainsR: kernelArray(MAX_UNISON),
  state: kernelArray(FILTER_STATE),
  before: kernelArray(COEFFICIENTS),
  after: kernelArray(COEFFICIENTS),
} as const;

type StackKernel = (table: Float64Array, count: number, from: number, to: number) => void;
type FilterKernel = (from: number, to: number) => void;
type MixKernel = (gainL: number, gainR: number, stepL: number, stepR: number, from: number, to: number) => void;

const stackInTypeScript: StackKernel = (table, count, from, to) =>
  addStack(
    table,
    lanes.bases,
    lanes.phases,
    lanes.increments,
    lanes.gainsL,
    lanes.gainsR,
    count,
    lanes.left,
    lanes.right,
    from,
    to,
  );

const filterInTypeScript: FilterKernel = (from, to) =>
  lowpass24(lanes.state, lanes.before, lanes.after, lanes.left, lanes.right, from, to);

const mixInTypeScript: MixKernel = (gainL, gainR, stepL, stepR, from, to) =>
  addMix(lanes.left, lanes.right, lanes.mixL, lanes.mixR, gainL, gainR, stepL, stepR, from, to);

function mixInWasm({ exports }: Loaded): MixKernel {
  const [left, right, mixL, mixR] = [lanes.left, lanes.right, lanes.mixL, lanes.mixR].map((a) => a.byteOffset) as [number, number, number, number]; // prettier-ignore
  return (gainL, gainR, stepL, stepR, from, to) =>
    exports.addMix(left, right, mixL, mixR, gainL, gainR, stepL, stepR, from, to);
}

function stackInWasm({ exports }: Loaded): StackKernel {
  const [bases, phases, increments, gainsL, gainsR, left, right] = [lanes.bases, lanes.phases, lanes.increments, lanes.gainsL, lanes.gainsR, lanes.left, lanes.right].map((a) => a.byteOffset) as [number, number, number, number, number, number, number]; // prettier-ignore
  return (table, count, from, to) =>
    exports.addStack(table.byteOffset, bases, phases, increments, gainsL, gainsR, count, left, right, from, to);
}

function filterInWasm({ exports }: Loaded): FilterKernel {
  const [state, before, after, left, right] = [lanes.state, lanes.before, lanes.after, lanes.left, lanes.right].map((a) => a.byteOffset) as [number, number, number, number, number]; // prettier-ignore
  return (from, to) => exports.lowpass24(state, before, after, left, right, from, to);
}

/** Adds the first `count` (even) oscillators of the lanes to left and right; `table` is a `kernelArray`. */
export const stackKernel: StackKernel = loaded ? stackInWasm(loaded) : stackInTypeScript;
/** Filters left and right through the 24 dB low-pass of the lanes' state and coefficients. */
export const filterKernel: FilterKernel = loaded ? filterInWasm(loaded) : filterInTypeScript;

/** Adds left and right to the lanes' mix, with moving gains. */
export const mixKernel: MixKernel = loaded ? mixInWasm(loaded) : mixInTypeScript;

/** The twins, for the test that holds them together. */
export const twins = { stack: stackInTypeScript, filter: filterInTypeScript, mix: mixInTypeScript } as const;
