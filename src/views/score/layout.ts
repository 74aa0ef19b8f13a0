/** Left of what is drawn over the song: room for names. */
export const LABEL_WIDTH = 126;
/** Right of the strips: room for the figures of their scales. */
export const GUTTER = 42;
