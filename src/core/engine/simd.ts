/**
 * The smallest module with a SIMD instruction: a function that splats a byte and counts its bits (WebAssembly Core
 * Specification 2.0, sections 5.4 and 5.5).
 */
const PROBE = [
  0, 97, 115, 109, 1, 0, 0, 0, 1, 5, 1, 96, 0, 1, 123, 3, 2, 1, 0, 10, 10, 1, 8, 0, 65, 0, 253, 15, 253, 98, 11,
];

interface Validator {
  readonly validate: (bytes: Uint8Array) => boolean;
}

/** What people are told where the engine cannot run. */
export const NO_SIMD = "this browser lacks WebAssembly SIMD, which the sound engine needs; a current version has it";

/** Whether this machine can run the engine's kernels. */
export function hasSimd(api = (globalThis as { WebAssembly?: Validator }).WebAssembly): boolean {
  return api !== undefined && api.validate(Uint8Array.from(PROBE));
}
