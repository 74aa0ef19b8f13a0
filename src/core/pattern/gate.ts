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
/**
 * Behind them: the swing that the steps were placed for; then of each opening when it begins, when the last step that holds on
 * to it begins and how long that is, when it begins to close, and what is left of the one before as it begins, 0 to 1.
 */
const FOR = 6;
const ON = FOR + 1;
const LAST = ON + MAX_LANE_STEPS;
const SPAN = LAST + MAX_LANE_STEPS;
const UNTIL = SPAN + MAX_LANE_STEPS;
const LEFT = UNTIL + MAX_LANE_STEPS;

export const gateRoom = (g: CompiledGate): Float64Array => {
  const room = new Float64Array(LEFT + MAX_LANE_STEPS);
  room.set([0, g.attack, g.hold, g.tail, g.swing]);
  room[FOR] = NaN;
  return room;
};

/** Where a step begins: the second of each pair is swung; a last one without a partner is not. */
function stepStart(length: number, swing: number, step: number): number {
  const inRound = step % length;
  return step + (inRound % 2 === 1 ? 2 * swing - 1 : 0);
}

/** Places the steps of each opening in the round, as they are swung. */
function placeSteps({ length, opens, lasts }: CompiledGate, room: Float64Array): void {
  const swing = room[GATE_ROOM.swing]!;
  room[FOR] = swing;
  for (let i = 0; i < opens.length; i++) {
    room[ON + i] = stepStart(length, swing, opens[i]!);
    room[LAST + i] = stepStart(length, swing, lasts[i]!);
    room[SPAN + i] = stepStart(length, swing, lasts[i]! + 1) - room[LAST + i]!;
  }
}

/** Writes when an opening begins to close: at the next opening at the latest. */
function closeOpening(g: CompiledGate, room: Float64Array, i: number): void {
  const off = room[LAST + i]! + room[GATE_ROOM.hold]! * room[SPAN + i]!;
  const next = i + 1 < g.opens.length ? room[ON + i + 1]! : g.length + room[ON]!;
  room[UNTIL + i] = off < next ? off : next;
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
  if (room[FOR] !== room[GATE_ROOM.swing]) placeSteps(g, room);
  const attack = room[GATE_ROOM.attack]!;
  const tail = room[GATE_ROOM.tail]!;
  // The opening in which the place lies: before the first one, the last of the round before.
  const place = room[GATE_ROOM.place]!;
  const at = place < room[ON]! ? place + g.length : place;
  let here = count - 1;
  while (here > 0 && room[ON + here]! > at) here--;
  closeOpening(g, room, here);
  // Back to the opening before which the gate had closed: of what came before that nothing is heard.
  let back = 0;
  for (let i = here; back < count; back++) {
    const before = i > 0 ? i - 1 : count - 1;
    closeOpening(g, room, before);
    const falls = i > 0 ? room[UNTIL + before]! : room[UNTIL + before]! - g.length;
    room[LEFT + i] = Math.max(0, 1 - (room[ON + i]! - falls) / tail);
    if (room[LEFT + i] === 0) break;
    i = before;
  }
  // Where it never closes, how far the last opening comes depends on how far it came a round before, p: min(most, keep * p +
  // own). What comes to itself again is how far it comes.
  let peak = 0;
  if (back === count) {
    let most = 1;
    let keep = 1;
    let own = 0;
    for (let i = 0; i < count; i++) {
      const left = room[LEFT + i]!;
      const more = (room[UNTIL + i]! - room[ON + i]!) / attack;
      most = Math.min(1, left * most + more);
      keep *= left;
      own = left * own + more;
    }
    peak = keep < 1 ? Math.min(most, own / (1 - keep)) : most;
    back = here;
  }
  for (; back > 0; back--) {
    const i = here - back < 0 ? here - back + count : here - back;
    peak = Math.min(1, peak * room[LEFT + i]! + (room[UNTIL + i]! - room[ON + i]!) / attack);
  }
  const on = room[ON + here]!;
  const until = room[UNTIL + here]!;
  const from = peak * room[LEFT + here]!;
  peak = Math.min(1, from + (until - on) / attack);
  room[GATE_ROOM.value] =
    at < until ? Math.min(peak, from + (at - on) / attack) : Math.max(0, peak * (1 - (at - until) / tail));
}

/** The same of a gate that nothing moves, for drawings. */
export function gateAt(g: CompiledGate, place: number): number {
  const room = gateRoom(g);
  room[GATE_ROOM.place] = place;
  gateInto(g, room);
  return room[GATE_ROOM.value]!;
}
