import { SEGMENT, SIDE, exp2x4, flush, lanesOf } from "./common";

/**
 * Trapezoidal state-variable filters (TPT; V. Zavalishin, The Art of VA Filter Design, and A. Simper, Solving the
 * continuous SVF equations): in tune and stable while the cutoff moves. Memory: eight vectors of integrators, the
 * coefficients of two designs (nine vectors each), the cutoff and resonance of the first.
 */
const DESIGN: usize = 128;
const NEXT: usize = 128 + 144;
const DESIGNED: usize = 128 + 288;
const ASIDE: usize = 128 + 288 + 32;
export const FILTER_GROUP: usize = ASIDE + 144;
const LP24: i32 = 0;
const BP12: i32 = 2;
const HP12: i32 = 3;

/** tan(pi f / rate) of log2(f / rate), by the series of sine and cosine at half the angle, which stays below 0.77. */
// @ts-ignore: decorator
@inline
export function prewarp(log2: v128): v128 {
  const x = f32x4.min(exp2x4(log2), f32x4.splat(0.49));
  const u = f32x4.mul(x, f32x4.splat(1.5707963267948966));
  const q = f32x4.mul(u, u);
  let s = f32x4.splat(2.7557319e-6);
  s = f32x4.add(f32x4.mul(s, q), f32x4.splat(-0.00019841270));
  s = f32x4.add(f32x4.mul(s, q), f32x4.splat(0.0083333333));
  s = f32x4.add(f32x4.mul(s, q), f32x4.splat(-0.16666667));
  s = f32x4.mul(f32x4.add(f32x4.mul(s, q), f32x4.splat(1.0)), u);
  let c = f32x4.splat(2.4801587e-5);
  c = f32x4.add(f32x4.mul(c, q), f32x4.splat(-0.0013888889));
  c = f32x4.add(f32x4.mul(c, q), f32x4.splat(0.041666667));
  c = f32x4.add(f32x4.mul(c, q), f32x4.splat(-0.5));
  c = f32x4.add(f32x4.mul(c, q), f32x4.splat(1.0));
  const t = f32x4.div(s, c);
  return f32x4.div(f32x4.add(t, t), f32x4.sub(f32x4.splat(1.0), f32x4.mul(t, t)));
}

/**
 * The coefficients of a section of which only the low is asked for: s1' = (2 a1 - 1) s1 + 2 a2 v and s2' = s2 + 2 a2 s1 +
 * 2 a3 v for v = x - s2, and twice the low is s2 + s2'. From one frame to the next only three steps wait for each other.
 */
// @ts-ignore: decorator
@inline
function lowpass(out: usize, a1: v128, a2: v128, a3: v128): void {
  v128.store(out, f32x4.sub(f32x4.add(a1, a1), f32x4.splat(1.0)));
  v128.store(out, f32x4.add(a2, a2), 16);
  v128.store(out, f32x4.add(a3, a3), 32);
}

/** Writes the coefficients for a cutoff (log2 of Hz) and resonance (0 to 100 %) of each lane. */
function design(type: i32, cutoff: v128, resonance: v128, log2Rate: f32, out: usize): void {
  const one = f32x4.splat(1.0);
  const g = prewarp(f32x4.sub(cutoff, f32x4.splat(log2Rate)));
  const flat: f32 = type == LP24 ? <f32>0.7653668647301796 : <f32>1.4142135623730951;
  const k = f32x4.mul(f32x4.splat(flat), exp2x4(f32x4.mul(resonance, f32x4.splat(-0.045))));
  const a1 = f32x4.div(one, f32x4.add(one, f32x4.mul(g, f32x4.add(g, k))));
  const a2 = f32x4.mul(g, a1);
  if (type == LP24) {
    lowpass(out, a1, a2, f32x4.mul(g, a2));
    const b1 = f32x4.div(one, f32x4.add(one, f32x4.mul(g, f32x4.add(g, f32x4.splat(<f32>1.8477590650225735)))));
    const b2 = f32x4.mul(g, b1);
    lowpass(out + 48, b1, b2, f32x4.mul(g, b2));
  } else {
    v128.store(out, a1);
    v128.store(out, a2, 16);
    v128.store(out, f32x4.mul(g, a2), 32);
    // The mix of input, band and low.
    const zero = f32x4.splat(0);
    v128.store(out, type == HP12 ? one : zero, 96);
    v128.store(out, type == HP12 ? f32x4.neg(k) : type == BP12 ? k : zero, 112);
    v128.store(out, type == HP12 ? f32x4.splat(-1) : type == BP12 ? zero : one, 128);
  }
}

/** Silences the memory of a lane, 0 to 3, for a note that starts. */
export function clearLane(memory: usize, lane: i32): void {
  for (let i: usize = 0; i < 8; i++) store<f32>(memory + (i << 4) + (<usize>lane << 2), 0);
}

/** Replaces the coefficients in `b` of lanes without a corner by those on the line from `a` to the design of a later row. */
function passBy(type: i32, corners: i32, a: usize, b: usize, aside: usize, row: usize, cutoffAt: i32, resonanceAt: i32, log2Rate: f32, part: f32): void {
  design(type, lanesOf(row + cutoffAt), lanesOf(row + resonanceAt), log2Rate, aside);
  const has = i32x4(corners & 1 ? -1 : 0, corners & 2 ? -1 : 0, corners & 4 ? -1 : 0, corners & 8 ? -1 : 0);
  const way = f32x4.splat(part);
  for (let i: usize = 0; i < 144; i += 16) {
    const from = v128.load(a + i);
    const between = f32x4.add(from, f32x4.mul(f32x4.sub(v128.load(aside + i), from), way));
    v128.store(b + i, v128.bitselect(v128.load(b + i), between, has));
  }
}

/** Filters a bus in place. `fresh` is set when a lane has just started: the design at the first row
 * is then made anew; voices that start later have a corner where they do. */
export function filter(
  type: i32, memory: usize, log2Rate: f32, rows: usize, rowBytes: i32, cutoffAt: i32, resonanceAt: i32,
  segments: usize, segmentCount: i32, fresh: i32, bus: usize,
): void {
  const a = memory + DESIGN;
  const b = memory + NEXT;
  for (let s = 0; s < segmentCount; s++) {
    const at = segments + <usize>s * SEGMENT;
    const row = rows + <usize>(load<i32>(at) * rowBytes);
    const end = rows + <usize>(load<i32>(at, 4) * rowBytes);
    if (fresh && s == 0) {
      const cutoff0 = lanesOf(row + cutoffAt);
      const resonance0 = lanesOf(row + resonanceAt);
      design(type, cutoff0, resonance0, log2Rate, a);
      v128.store(memory + DESIGNED, cutoff0);
      v128.store(memory + DESIGNED, resonance0, 16);
    }
    const cutoff = lanesOf(end + cutoffAt);
    const resonance = lanesOf(end + resonanceAt);
    // A design costs as much as a few frames of filtering: one that stands still is kept.
    const same = v128.and(f32x4.eq(cutoff, v128.load(memory + DESIGNED)), f32x4.eq(resonance, v128.load(memory + DESIGNED, 16)));
    const from = load<i32>(at, 8);
    const to = load<i32>(at, 12);
    const corners = load<i32>(at, 16);
    const kept = i32x4.all_true(same);
    if (!kept) {
      design(type, cutoff, resonance, log2Rate, b);
      // Voices without a corner here are on their way to the end of the sub-block: their coefficients go straight on.
      if (corners != 15) passBy(type, corners, a, b, memory + ASIDE, rows + <usize>(load<i32>(at, 20) * rowBytes), cutoffAt, resonanceAt, log2Rate, <f32>(to - from) / <f32>(load<i32>(at, 24) - from));
      v128.store(memory + DESIGNED, cutoff);
      v128.store(memory + DESIGNED, resonance, 16);
    }
    if (type == LP24) lowpass24(memory, a, kept ? a : b, bus, from, to);
    else stage12(memory, a, kept ? a : b, bus, from, to);
    if (!kept) memory_copy(a, b);
  }
  for (let i: usize = 0; i < 128; i += 16) flush(memory + i);
}

// @ts-ignore: decorator
@inline
function memory_copy(to: usize, from: usize): void {
  for (let i: usize = 0; i < 144; i += 16) v128.store(to + i, v128.load(from + i));
}

// @ts-ignore: decorator
@inline
function slopeOf(a: usize, b: usize, offset: usize, per: v128): v128 {
  return f32x4.mul(f32x4.sub(v128.load(b + offset), v128.load(a + offset)), per);
}

function lowpass24(memory: usize, a: usize, b: usize, bus: usize, from: i32, to: i32): void {
  // The damped stage first: the resonant one then meets a signal without its highest harmonics. Twice the low goes on, and
  // four times the low comes out.
  section(memory + 64, a + 48, b + 48, bus, from, to, false);
  section(memory, a, b, bus, from, to, true);
}

/** One section over both sides; all of both in one loop would be more than the processor has registers for. */
// @ts-ignore: decorator
@inline
function section(memory: usize, a: usize, b: usize, bus: usize, from: i32, to: i32, last: bool): void {
  const per = f32x4.splat(<f32>1.0 / <f32>(to - from));
  let a1 = v128.load(a), a2 = v128.load(a, 16), a3 = v128.load(a, 32);
  const d1 = slopeOf(a, b, 0, per), d2 = slopeOf(a, b, 16, per), d3 = slopeOf(a, b, 32, per);
  let l1 = v128.load(memory), l2 = v128.load(memory, 16), r1 = v128.load(memory, 32), r2 = v128.load(memory, 48);
  const quarter = f32x4.splat(0.25);
  const end = bus + (<usize>to << 4);
  for (let at = bus + (<usize>from << 4); at < end; at += 16) {
    a1 = f32x4.add(a1, d1); a2 = f32x4.add(a2, d2); a3 = f32x4.add(a3, d3);
    const v = f32x4.sub(v128.load(at), l2), w = f32x4.sub(v128.load(at, SIDE), r2);
    const next = f32x4.add(f32x4.add(l2, f32x4.mul(a2, l1)), f32x4.mul(a3, v));
    const after = f32x4.add(f32x4.add(r2, f32x4.mul(a2, r1)), f32x4.mul(a3, w));
    l1 = f32x4.add(f32x4.mul(a1, l1), f32x4.mul(a2, v));
    r1 = f32x4.add(f32x4.mul(a1, r1), f32x4.mul(a2, w));
    const low = f32x4.add(l2, next), deep = f32x4.add(r2, after);
    v128.store(at, last ? f32x4.mul(low, quarter) : low);
    v128.store(at, last ? f32x4.mul(deep, quarter) : deep, SIDE);
    l2 = next;
    r2 = after;
  }
  v128.store(memory, l1); v128.store(memory, l2, 16); v128.store(memory, r1, 32); v128.store(memory, r2, 48);
}

function stage12(memory: usize, a: usize, b: usize, bus: usize, from: i32, to: i32): void {
  const per = f32x4.splat(<f32>1.0 / <f32>(to - from));
  let a1 = v128.load(a), a2 = v128.load(a, 16), a3 = v128.load(a, 32);
  let m0 = v128.load(a, 96), m1 = v128.load(a, 112), m2 = v128.load(a, 128);
  const d1 = slopeOf(a, b, 0, per), d2 = slopeOf(a, b, 16, per), d3 = slopeOf(a, b, 32, per);
  const e0 = slopeOf(a, b, 96, per), e1 = slopeOf(a, b, 112, per), e2 = slopeOf(a, b, 128, per);
  let l1 = v128.load(memory), l2 = v128.load(memory, 16), r1 = v128.load(memory, 32), r2 = v128.load(memory, 48);
  for (let i = from; i < to; i++) {
    const at = bus + (<usize>i << 4);
    a1 = f32x4.add(a1, d1); a2 = f32x4.add(a2, d2); a3 = f32x4.add(a3, d3);
    m0 = f32x4.add(m0, e0); m1 = f32x4.add(m1, e1); m2 = f32x4.add(m2, e2);
    const x = v128.load(at);
    const v3 = f32x4.sub(x, l2);
    const v1 = f32x4.add(f32x4.mul(a1, l1), f32x4.mul(a2, v3));
    const v2 = f32x4.add(f32x4.add(l2, f32x4.mul(a2, l1)), f32x4.mul(a3, v3));
    l1 = f32x4.sub(f32x4.add(v1, v1), l1); l2 = f32x4.sub(f32x4.add(v2, v2), l2);
    v128.store(at, f32x4.add(f32x4.add(f32x4.mul(m0, x), f32x4.mul(m1, v1)), f32x4.mul(m2, v2)));
    const y = v128.load(at, SIDE);
    const w3 = f32x4.sub(y, r2);
    const w1 = f32x4.add(f32x4.mul(a1, r1), f32x4.mul(a2, w3));
    const w2 = f32x4.add(f32x4.add(r2, f32x4.mul(a2, r1)), f32x4.mul(a3, w3));
    r1 = f32x4.sub(f32x4.add(w1, w1), r1); r2 = f32x4.sub(f32x4.add(w2, w2), r2);
    v128.store(at, f32x4.add(f32x4.add(f32x4.mul(m0, y), f32x4.mul(m1, w1)), f32x4.mul(m2, w2)), SIDE);
  }
  v128.store(memory, l1); v128.store(memory, l2, 16); v128.store(memory, r1, 32); v128.store(memory, r2, 48);
}
