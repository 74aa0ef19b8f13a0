import { MAX_LANE_STEPS, PLAY, TIE } from "../patch/lanes";

/** A gate ready for evaluation; all of it is counted in steps, each of which is as long as the others but for the swing. */
export interface CompiledGate {
  readonly length: number;
  /** Of each opening: the step that opens it, and the last one that holds on to it, which may lie in the next round. */
  readonly opens: Int32Array;
  readonly lasts: Int32Array;
  /** How long it takes to open and to close; how much of its last step each opening is held, 0 to 1; where the second of two steps falls, 0.5 to 0.75 of both. */
  readonly attack: number;
  readonly hold: number;
  readonly tail: number;
  readonly swing: number;
}

/** What a gate's steps say: rest, open or hold on, a step each. */
export function compileGate(
  steps: readonly number[],
  values: Pick<CompiledGate, "attack" | "hold" | "tail" | "swing">,
): CompiledGate {
  const opens = steps.flatMap((step, i) => (step === PLAY ? [i] : []));
  const lasts = opens.map((open) => {
    let last = open;
    while (last + 1 < open + steps.length && steps[(last + 1) % steps.length] === TIE) last++;
    return last;
  });
  return { length: steps.length, opens: Int32Array.from(opens), lasts: Int32Array.from(lasts), ...values };
}

/** What an evaluation reads, and what it writes: an array, for numbers that are handed over may become objects on the heap. */
export const GATE_ROOM = { place: 0, attack: 1, hold: 2, tail: 3, swing: 4, value: 5 } as const;
/** Behind them: the attack, hold, tail and swing that a round was worked out for, and how far its last opening comes. */
const FOR = 6;
const PEAK = FOR + 4;
/** Then when each opening begins, and when it begins to close. */
const ON = PEAK + 1;
const UNTIL = ON + MAX_LANE_STEPS;

export const gateRoom = (g: CompiledGate): Float64Array => {
  const room = new Float64Array(UNTIL + MAX_LANE_STEPS);
  room.set([0, g.attack, g.hold, g.tail, g.swing]);
  room.fill(NaN, FOR, PEAK);
  return room;
};

/** Where a step begins: the second of each pair is swung; a last one without a partner is not. */
function stepStart(length: number, swing: number, step: number): number {
  const inRound = step % length;
  return step + (inRound % 2 === 1 ? 2 * swing - 1 : 0);
}

/** Writes when each opening begins, and when it begins to close: at the next opening at the latest. */
function writeOpenings({ length, opens, lasts }: CompiledGate, room: Float64Array): void {
  const count = opens.length;
  const swing = room[GATE_ROOM.swing]!;
  const hold = room[GATE_ROOM.hold]!;
  for (let i = 0; i < count; i++) room[ON + i] = stepStart(length, swing, opens[i]!);
  for (let i = 0; i < count; i++) {
    const start = stepStart(length, swing, lasts[i]!);
    const off = start + hold * (stepStart(length, swing, lasts[i]! + 1) - start);
    const next = i + 1 < count ? room[ON + i + 1]! : length + room[ON]!;
    room[UNTIL + i] = off < next ? off : next;
  }
}

/**
 * The value of a gate, 0 (closed) to 1 (open), at a place in steps of its round, as it is once it runs with the times that
 * it has now: the tail of the last step is heard over the first. It opens at the attack's slope from where the tail before
 * has come to, and closes in the tail from where it came to. Reads and writes `GATE_ROOM`; allocates nothing.
 */
export function gateInto(g: CompiledGate, room: Float64Array): void {
  const count = g.opens.length;
  room[GATE_ROOM.value] = 0;
  if (count === 0) return;
  prepareRound(g, room);
  const attack = room[GATE_ROOM.attack]!;
  const tail = room[GATE_ROOM.tail]!;
  let peak = room[PEAK]!;
  // The opening in which the place lies: before the first one, the last of the round before.
  const place = room[GATE_ROOM.place]!;
  const at = place < room[ON]! ? place + g.length : place;
  let falls = room[UNTIL + count - 1]! - g.length;
  for (let i = 0; i < count; i++) {
    const on = room[ON + i]!;
    const until = room[UNTIL + i]!;
    const from = peak * Math.max(0, 1 - (on - falls) / tail);
    peak = Math.min(1, from + (until - on) / attack);
    falls = until;
    if (i + 1 < count && room[ON + i + 1]! <= at) continue;
    room[GATE_ROOM.value] =
      at < until ? Math.min(peak, from + (at - on) / attack) : Math.max(0, peak * (1 - (at - until) / tail));
    return;
  }
}

/** Works out a round: its openings, and how far the last of them comes. Times that stand are a round that stands. */
function prepareRound(g: CompiledGate, room: Float64Array): void {
  let same = true;
  for (let i = 0; i < 4; i++) if (room[FOR + i] !== room[GATE_ROOM.attack + i]) same = false;
  if (same) return;
  for (let i = 0; i < 4; i++) room[FOR + i] = room[GATE_ROOM.attack + i]!;
  writeOpenings(g, room);
  const count = g.opens.length;
  const attack = room[GATE_ROOM.attack]!;
  const tail = room[GATE_ROOM.tail]!;
  // How far an opening comes depends on how far the one before came, p: min(most, keep * p + own). So does a whole round,
  // and what comes to itself again is how far the last one comes.
  let most = 1;
  let keep = 1;
  let own = 0;
  let falls = room[UNTIL + count - 1]! - g.length;
  for (let i = 0; i < count; i++) {
    const left = Math.max(0, 1 - (room[ON + i]! - falls) / tail);
    const more = (room[UNTIL + i]! - room[ON + i]!) / attack;
    most = Math.min(1, left * most + more);
    keep *= left;
    own = left * own + more;
    falls = room[UNTIL + i]!;
  }
  room[PEAK] = keep < 1 ? Math.min(most, own / (1 - keep)) : most;
}

/** The same of a gate that nothing moves, for drawings. */
export function gateAt(g: CompiledGate, place: number): number {
  const room = gateRoom(g);
  room[GATE_ROOM.place] = place;
  gateInto(g, room);
  return room[GATE_ROOM.value]!;
}
