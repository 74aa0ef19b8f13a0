import { OSCILLATOR_DATA, type Bend, type Oscillator } from "../patch/kinds/oscillator";
import { keyToHz } from "../pitch/note";
import { cycleOf, type Harmonics } from "./fourier";
import { drawnHarmonics, harmonicsAt, ownFrames, tableHarmonics, weightedAt } from "./tables";

type WaveValues = Oscillator["values"];

/** Samples of a cycle that is looked at. */
const SIZE = 512;
/** Harmonics of a cycle that is looked at. */
const SEEN = 96;
/** Where a key matters, it is middle C. */
const KEY_SEEN = 60;

const fraction = (x: number): number => x - Math.floor(x);

/** A bend of the phase, 0 to 1 in and out, by an amount of 0 to 1. */
function bentPhase(bend: Bend, p: number, a: number): number {
  if (bend === "sync") return fraction(p * 16 ** a);
  if (bend === "squeeze") {
    const d = 0.5 * (1 - 0.95 * a);
    return p < d ? (0.5 * p) / d : 0.5 + (0.5 * (p - d)) / (1 - d);
  }
  if (bend !== "pulse") return p;
  const length = 1 - 0.9 * a;
  const x = Math.min(1, Math.max(0, (p - (1 - length) / 2) / length));
  return x + a * (x * x * (3 - 2 * x) - x);
}

/** A bend of the value by an amount of 0 to 1. */
function bentValue(bend: Bend, y: number, a: number): number {
  if (bend === "fold") {
    const v = fraction((y * (1 + 7 * a) + 1) / 4) * 4;
    return 1 - Math.abs(v - 2);
  }
  return bend === "quantise" && a > 0 ? a * a * Math.round(y / (a * a)) : y;
}

/** Waves of an oscillator's own modulator, each with the power of a sine. */
const MODULATORS: Readonly<Record<Oscillator["choices"]["inner"], (p: number) => number>> = {
  sine: (p) => Math.sin(2 * Math.PI * p),
  triangle: (p) => Math.sqrt(1.5) * (1 - Math.abs(fraction(p + 0.25) * 4 - 2)),
  saw: (p) => Math.sqrt(1.5) * (1 - 2 * fraction(p)),
  square: (p) => (fraction(p) < 0.5 ? Math.SQRT1_2 : -Math.SQRT1_2),
};

/** Cycles of the modulator to one of the wave; where one of them keeps its frequency, by the key that is looked at. */
function ratioOf({ choices }: Oscillator, v: WaveValues): number {
  if (choices.innerPitch === "ratio") return v.ratio;
  const hz = choices.keys === "fixed" ? v.fixed : keyToHz(KEY_SEEN + 12 * v.octave);
  return v.innerHz / (hz * 2 ** ((v.pitch + v.fine / 100) / 12));
}

/** Loudest value 1: what is looked at, not what is heard. */
function levelled(cycle: Float64Array): Float64Array {
  const top = cycle.reduce((m, v) => Math.max(m, Math.abs(v)), 1e-9);
  return cycle.map((v) => v / top);
}

const cycle = (h: Harmonics): Float64Array => levelled(cycleOf(h, SEEN, SIZE, () => 1));

/** What an oscillator sounds like whose recording is not there yet. */
const NO_CYCLES = OSCILLATOR_DATA.drawn.map(drawnHarmonics);

/** The cycle that is read, before it is bent. */
function readCycle(o: Oscillator, v: WaveValues, cycles: readonly Harmonics[] | null): Float64Array {
  const plain = (of: (p: number) => number): Float64Array =>
    Float64Array.from({ length: SIZE }, (_, i) => of(i / SIZE));
  switch (o.choices.wave) {
    case "sine":
      return plain((p) => Math.sin(2 * Math.PI * p));
    case "triangle":
      return plain((p) => 1 - Math.abs(fraction(p + 0.25) * 4 - 2));
    case "saw":
      return plain((p) => 2 * p - 1);
    case "pulse":
      return plain((p) => (p < v.pulseWidth / 100 ? 1 : -1));
    case "table":
      return cycle(harmonicsAt(ownFrames(o.data.table), v.position));
    case "drawn":
      return cycle(harmonicsAt(o.data.drawn.map(drawnHarmonics), v.position));
    case "cycles":
      return cycle(harmonicsAt(cycles ?? NO_CYCLES, v.position));
    case "harmonics":
      return cycle(weightedAt(o.data.weights, v.weighting));
    default:
      return cycle(tableHarmonics(o.data.corners, v.position, v.upward));
  }
}

/**
 * One cycle of an oscillator's wave as it is bent and turned by its own modulator, -1 to 1 about. Values in `moved` stand for
 * its own; `cycles` are the frames of one whose recording is cut into cycles.
 */
export function waveShape(
  o: Oscillator,
  moved: Partial<WaveValues> = {},
  cycles: readonly Harmonics[] | null = null,
): Float64Array {
  const v = { ...o.values, ...moved };
  const read = readCycle(o, v, cycles);
  const [b1, b2] = [o.choices.bend1, o.choices.bend2];
  const [a1, a2] = [v.bend1 / 100, v.bend2 / 100];
  const modulator = MODULATORS[o.choices.inner];
  const ratio = ratioOf(o, v);
  const at = (p: number): number => {
    const x = fraction(p) * SIZE;
    const i = Math.floor(x);
    // A jump stays a jump.
    const [a, b] = [read[i % SIZE]!, read[(i + 1) % SIZE]!];
    return Math.abs(b - a) > 0.5 ? a : a + (b - a) * (x - i);
  };
  return Float64Array.from({ length: SIZE }, (_, i) => {
    const p = i / SIZE;
    const turned = v.inner > 0 ? p + (v.inner / (2 * Math.PI)) * modulator(ratio * p) : p;
    const bent = bentPhase(b2, bentPhase(b1, fraction(turned), a1), a2);
    const mirrored = b1 === "mirror" ? a1 : b2 === "mirror" ? a2 : 0;
    const y = at(bent) + mirrored * (at(1 - Math.abs(2 * bent - 1)) - at(bent));
    return bentValue(b2, bentValue(b1, y, a1), a2);
  });
}

/** Cycles of the frames of a table, for as many as are looked at. */
export function framesShown(frames: readonly Harmonics[], count: number): Float64Array[] {
  const n = Math.min(count, frames.length);
  return Array.from({ length: n }, (_, i) =>
    cycle(frames[n === 1 ? 0 : Math.round((i * (frames.length - 1)) / (n - 1))]!),
  );
}
