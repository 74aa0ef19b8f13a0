import { windowedSinc } from "./windowedSinc";

/** Frames to either side that a band-limited step reaches. */
const STEP_HALF = 14;
/** Places between two frames at which a step is known; between those it is read on a straight line. */
const STEP_PLACES = 256;
/** Zeros before and behind a row, so that four frames can be read across its ends. */
const STEP_PAD = 4;
const STEP_LENGTH = 2 * STEP_HALF + 2 * STEP_PAD;
/** A row: the rests at a place, and by how much those at the next one differ. */
const STEP_ROW = 2 * STEP_LENGTH;
/** Of the sample rate: half of it lies 74 dB down, while 16 kHz at 44.1 kHz lose a fifth of a decibel. */
const CUTOFF = 0.42;
const BETA = 7;
/** Points a place at which the impulse is added up. */
const FINER = 4;

/**
 * What a step of one, low-passed, lacks against a step between two frames (as in Stilson and Smith, "Alias-free digital
 * synthesis of classic analog waveforms", 1996): rows for a step that came 0, 1/256, ... 256/256 of a frame before the frame
 * in their middle. A wave that jumps is its straight parts and as much of this at each jump.
 */
export function stepRests(): Float32Array<ArrayBuffer> {
  // The integral of the impulse, by Simpson's rule over each two of its points.
  const per = STEP_PLACES * FINER;
  const count = 2 * STEP_HALF * per;
  const impulse = (i: number): number => windowedSinc(i / per - STEP_HALF, CUTOFF, STEP_HALF, BETA);
  const risen = new Float64Array(2 * STEP_HALF * STEP_PLACES + 1);
  let sum = 0;
  let before = impulse(0);
  for (let i = 0; i < count; i += 2) {
    const after = impulse(i + 2);
    sum += (before + 4 * impulse(i + 1) + after) / (3 * per);
    before = after;
    if ((i + 2) % FINER === 0) risen[(i + 2) / FINER] = sum;
  }
  const rest = (tap: number, place: number): number =>
    (tap >= STEP_HALF ? 1 : 0) - risen[tap * STEP_PLACES + place]! / sum;
  const rows = new Float32Array((STEP_PLACES + 1) * STEP_ROW);
  for (let place = 0; place <= STEP_PLACES; place++)
    for (let tap = 0; tap < 2 * STEP_HALF; tap++) {
      const at = place * STEP_ROW + STEP_PAD + tap;
      rows[at] = rest(tap, place);
      if (place < STEP_PLACES) rows[at + STEP_LENGTH] = rest(tap, place + 1) - rest(tap, place);
    }
  return rows;
}
