/** Left of what is drawn over the song: room for names. */
export const LABEL_WIDTH = 126;
/** Right of the strips: room for the figures of their scales. */
export const GUTTER = 42;

/**
 * The canvas of a strip. All canvases of the score lie in one plane above what is written between them: else the browser
 * keeps a layer as wide as the score for the words after each, and puts them all together again in every frame.
 */
export const STRIP_CANVAS = "absolute inset-0 z-1 h-full w-full";
