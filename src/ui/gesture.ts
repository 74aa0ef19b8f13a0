let count = 0;

/** A new id for one gesture of the hand: everything edited under it is one step of undo. */
export const newGesture = (): string => `gesture-${++count}`;
