/** Modulation is evaluated this often, counted from the start of a pass, and ramped between. */
export const SUB_BLOCK = 16;
/** Frames that a voice renders in one go, at the most. */
export const STRETCH = 64;
/** Sub-blocks of a stretch. */
export const SUBS = STRETCH / SUB_BLOCK;
