import type { Columns, Watch } from "./watch";

/** A watch whose notes lie in one array: thousands of small objects take long to be handed to another thread. */
export interface PackedWatch extends Omit<Watch, "notes"> {
  /** Of each note: part, key, first frame, how many columns, then first, count and place of each. */
  readonly packed: Int32Array<ArrayBuffer>;
}

const HEAD = 4;
const COLUMN = 3;

export function packWatch({ notes, ...rest }: Watch): PackedWatch {
  const packed = new Int32Array(notes.reduce((sum, n) => sum + HEAD + COLUMN * n.columns.length, 0));
  let at = 0;
  for (const { part, key, onFrame, columns } of notes) {
    packed.set([part, key, onFrame, columns.length], at);
    at += HEAD;
    for (const c of columns) {
      packed.set([c.first, c.count, c.at], at);
      at += COLUMN;
    }
  }
  return { ...rest, packed };
}

export function unpackWatch({ packed, ...rest }: PackedWatch): Watch {
  const notes: Watch["notes"][number][] = [];
  for (let at = 0; at < packed.length;) {
    const [part, key, onFrame, count] = [packed[at]!, packed[at + 1]!, packed[at + 2]!, packed[at + 3]!];
    at += HEAD;
    const columns: Columns[] = [];
    for (let c = 0; c < count; c++, at += COLUMN)
      columns.push({ first: packed[at]!, count: packed[at + 1]!, at: packed[at + 2]! });
    notes.push({ part, key, onFrame, columns });
  }
  return { ...rest, notes };
}
