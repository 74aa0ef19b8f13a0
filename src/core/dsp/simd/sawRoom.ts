// Where the kernels of saws.ts and jumps.ts keep what they work on.

/** As src/core/dsp/bandLimitedStep.ts writes them. */
export const HALF: i32 = 14;
export const PLACES: f32 = 256.0;
export const PAD: i32 = 16;
export const ROW: i32 = 288;
export const NEXT: i32 = 144;

/** Half a cycle: a phase less that, read as signed, is the saw. */
export const HALF_CYCLE: i32 = <i32>0x80000000;
export const TO_UNIT: f32 = 4.656612873077393e-10;

/** A voice's sound, a side each: 32 frames, 64 of a block, 32 frames. What lies outside of the block is never read. */
export const SUM: usize = memory.data(1024, 16);
export const SUM_SIDE: usize = 512;
export const MARGIN: i32 = 32;
export const BLOCK: usize = 128;
/** By how much the lines fall at each frame, a side each, and a place for what falls elsewhere. Zero between two voices. */
export const FALL: usize = memory.data(576, 16);
export const FALL_SIDE: usize = 288;
export const ELSEWHERE: i32 = 64;
/** The same, by how much more they fall a frame from there on: where gains move. */
export const SINK: usize = memory.data(576, 16);
/**
 * Of up to 32 saws, sixteen and as many a pulse width apart: gains of the left side and of the right one where the block
 * starts; where they move, at the start of each segment and at the end of the last one, and by how much a frame.
 */
export const GAINS: usize = memory.data(2304, 16);
export const GAINS_SIDE: usize = 128;
export const GAIN_STEPS: usize = memory.data(2048, 16);
/** The same of each segment: phases where it starts, steps, slopes. */
export const PHASES: usize = memory.data(1024, 16);
export const STEPS: usize = memory.data(1024, 16);
export const SLOPES: usize = memory.data(1024, 16);
/** Frame at which each segment starts, and at which the last one ends. */
export const STARTS: usize = memory.data(48, 16);
/** Jumps of the block: which saw (five bits), whether it lies before the block (one bit), and the segment. */
export const LIST: usize = memory.data(288, 16);
export const BEFORE: i32 = 32;
export const SEGMENT_BIT: i32 = 6;
/** Where they are: frame, and places since then. */
export const FOUND: usize = memory.data(576, 16);
/** Segments that fit. */
export const MOST_SEGMENTS: i32 = 8;
