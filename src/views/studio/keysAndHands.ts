interface Shortcut {
  readonly keys: string;
  readonly shown: string;
  readonly what: string;
}

/** Everywhere; the list that "?" opens reads this table. */
export const SHORTCUTS = [
  { keys: "Space", shown: "Space", what: "Play or stop" },
  { keys: "Home", shown: "Home", what: "Play from the start of the loop" },
  { keys: "$mod+KeyZ", shown: "Ctrl Z", what: "Undo" },
  { keys: "$mod+Shift+KeyZ", shown: "Ctrl Shift Z", what: "Redo" },
  { keys: "$mod+KeyY", shown: "Ctrl Y", what: "Redo" },
  { keys: "KeyT", shown: "T", what: "Tap the tempo" },
  { keys: "KeyG", shown: "G", what: "Let the chosen shape or sequence start again, where that is done by hand" },
  { keys: "+", shown: "+", what: "Zoom in" },
  { keys: "=", shown: "=", what: "Zoom in" },
  { keys: "-", shown: "−", what: "Zoom out" },
  { keys: "0", shown: "0", what: "Zoom to fit" },
  {
    keys: "KeyK",
    shown: "K",
    what: "Keys to play and record by hand; letters play while they are open, Escape closes them",
  },
  { keys: "$mod+KeyK", shown: "Ctrl K", what: "Find an action, a value or a view by its name" },
  { keys: "Shift+?", shown: "?", what: "This list" },
] as const satisfies readonly Shortcut[];

type Hand = Omit<Shortcut, "keys">;

/** What each kind of thing does with hands and keys, for the list. */
export const HANDS: Readonly<Record<string, readonly Hand[]>> = {
  Values: [
    { shown: "Drag, Shift drag", what: "Change a value, finely; those on top go by the wheel, too" },
    { shown: "Ctrl click", what: "Choose values that then change together; Escape ends it" },
    { shown: "Double-click, Enter, a digit", what: 'Type a value: "1.2k", "A3+10ct", "1/8T", "-6dB", "250ms"' },
    { shown: "Arrows, Shift arrows", what: "A step, a fine step" },
    { shown: "Page keys", what: "Ten steps" },
    { shown: "Backspace", what: "A value's default" },
  ],
  "Notes and curves": [
    { shown: "Click", what: "Add a note or a point" },
    { shown: "Drag, Ctrl drag", what: "Move it; along the first axis moved" },
    { shown: "[ and ]", what: "Choose the one before or after" },
    { shown: "Arrows, Shift arrows", what: "Move by one snap, by a fine step" },
    { shown: "Delete", what: "Remove what is chosen" },
    { shown: "Ctrl A, Escape", what: "Choose all, none" },
    { shown: "Ctrl wheel, Shift wheel", what: "Zoom, scroll in time" },
  ],
  Notes: [
    { shown: "Drag, Shift drag, Alt drag", what: "Draw one with its length; choose with a frame; copy" },
    { shown: "Page keys", what: "Move by an octave" },
    { shown: "Ctrl C, X, V, D", what: "Copy, cut, paste where Play starts, duplicate behind" },
    { shown: "Q, L, S, J, R", what: "Quantise, legato, split, join, backwards" },
    { shown: "Alt arrows", what: "Stretch; set the velocity" },
    { shown: "Enter", what: "Add one after the chosen one" },
  ],
  "Lanes of an arpeggio": [
    { shown: "Drag, Alt drag", what: "Draw values across; open them to chance" },
    { shown: "Shift drag, Shift arrows", what: "Choose a run of steps" },
    { shown: "Arrows, Alt arrows", what: "Choose and set a step; its chance" },
    { shown: "Ctrl arrows, R", what: "Move the steps; turn them round" },
  ],
  "Step sequences": [
    { shown: "Drag, Shift drag", what: "Draw values across on the snap, off it" },
    { shown: "Drag in the row below", what: "Choose a run of steps; their values are typed beside" },
    { shown: "Arrows, Shift arrows", what: "Choose a step and move it; choose more, move finely" },
    { shown: "H, Delete", what: "Hold on to the step before; clear" },
  ],
  "Gates and the backing": [
    { shown: "Press, drag", what: "Set a step, paint it on; a drum softly with Shift" },
    { shown: "Alt drag, Shift up and down", what: "How hard a drum is struck" },
    { shown: "Arrows, Enter", what: "Choose a step and a drum, set it; of a gate up opens, down closes" },
  ],
  "Amounts and the book of moves": [
    { shown: "Type", what: 'An amount, or its ends: "13 to 95 %", "to 2k", "whole range"' },
    { shown: "Arrows, Ctrl click, Shift click", what: "Choose a route, more of them, a run" },
    { shown: "Enter, Delete", what: "Its amount; remove what is chosen" },
  ],
  Ruler: [
    { shown: "Drag, double-click", what: "Loop a stretch, the whole" },
    { shown: "[ and ], Escape", what: "Begin and end the stretch where Play starts; loop the whole" },
  ],
  Curves: [
    { shown: "Alt drag, or the middle mark", what: "Bend a segment" },
    { shown: "Alt arrows", what: "Bend the segment after the chosen point" },
    { shown: "Enter", what: "Add a point after the chosen one" },
    { shown: "Ctrl C, X, V, D", what: "Copy, cut, paste, duplicate points" },
  ],
  "Strips and modulations": [
    { shown: "F2, Alt up and down", what: "Rename what moves values; change its place" },
    { shown: "Delete", what: "Remove it" },
    { shown: "Ctrl C, X, V, D", what: "Copy, cut, paste, duplicate it" },
    { shown: "Right-click, Menu key", what: "What can be done with it" },
  ],
};
