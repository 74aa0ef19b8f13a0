/** How fast what is smoothed moves, in time constants: jumps have settled to 95 % within the time that is set. */
export const SETTLE = 3;
