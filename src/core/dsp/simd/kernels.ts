// AssemblyScript, compiled to WebAssembly with SIMD by scripts/buildKernels.mjs. Sound of four voices at a time, one
// float32 lane a voice. Addresses are bytes in the engine's heap (src/core/engine/heap.ts). The layout of rows, segments
// and buses is described in src/core/engine/bank.ts; offsets here and there must agree.

export { oscillate } from "./oscillator";
export { resetLane } from "./unison";
export { noise, seedNoise } from "./noise";
export { clearLane, filter } from "./filter";
export { clearBankLane, filterBank } from "./filterBank";
export { clearLadderLane, ladder } from "./ladder";
export { clearCombLane, comb } from "./comb";
export { blend, clearSaturateLane, copyBus, saturate } from "./drive";
export { addBus, addShare, amp, clear, peakOf, pour } from "./mix";
export { clearFeedbackLane, feedbackIn, feedbackOut } from "./feedback";
export { clearBentLane, oscillateBent, resetBent } from "./bent";
export { beginRecording, playRecording } from "./recording";
export { clearHalves, oscillateFrames, tapSource } from "./frames";
export { truePeaks } from "./truePeak";

// Bytes of memory that they keep: of a lane, of a group of four, or room that all groups share.
export { LANE as STACK_LANE } from "./unison";
export { FRAMES_ROOM, HALVES_GROUP } from "./frames";
export { BENT_ROOM, BENT_SPEC, GROUP as BENT_GROUP } from "./bent";
export { NOISE_LANE } from "./noise";
export { LANE as RECORDING_LANE } from "./recording";
export { FILTER_GROUP } from "./filter";
export { BANK_GROUP } from "./filterBank";
export { LADDER_GROUP } from "./ladder";
export { FRAME as COMB_FRAME, RING as COMB_HEAD } from "./comb";
export { SATURATE_GROUP } from "./drive";
export { FEEDBACK_GROUP } from "./feedback";

/** The first byte of the memory that the compiler does not keep for itself. */
export function firstByte(): usize {
  return __heap_base;
}
