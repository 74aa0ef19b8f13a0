// The driven four-pole low-pass.
import { SEGMENT, SIDE, exp2x4, flush, tanh4, valueAt } from "./common";
import { prewarp } from "./filter";
import { down, upFirst, upSecond } from "./halfband";

/** A side's memory: four poles, then what doubles the sample rate and what halves it. */
const LADDER_SIDE: usize = 64 + 128 + 128;
export const LADDER_GROUP: usize = 2 * LADDER_SIDE;
/** At this loop gain four poles at the cutoff, each 45 degrees behind, go on by themselves. */
const LOOP: f32 = <f32>4.4;
/** Sound of full scale meets the bend of the curve half-way up. */
const ROOM: f32 = <f32>0.5;

export function clearLadderLane(memory: usize, lane: i32): void {
  for (let i: usize = 0; i < 2 * LADDER_SIDE; i += 16) store<f32>(memory + i + (<usize>lane << 2), 0);
}

/**
 * A low-pass of four equal poles with resonance around all of them (the transistor ladder; trapezoidal as in V. Zavalishin,
 * The Art of VA Filter Design), at twice the sample rate. The loop is solved as if it were linear, and what goes into the
 * poles is bent by tanh: that has no phase of its own, so it oscillates in tune. Rows give log2 of the cutoff, resonance (%),
 * drive (dB) and how far apart the sides are (semitones); -1 leaves one out.
 */
export function ladder(
  memory: usize, log2Rate: f32, rows: usize, rowBytes: i32, cutoffAt: i32, resonanceAt: i32, driveAt: i32, apartAt: i32,
  segments: usize, segmentCount: i32, bus: usize,
): void {
  const right = memory + LADDER_SIDE;
  const one = f32x4.splat(1), half = f32x4.splat(0.5);
  let l1 = v128.load(memory), l2 = v128.load(memory, 16), l3 = v128.load(memory, 32), l4 = v128.load(memory, 48);
  let r1 = v128.load(right), r2 = v128.load(right, 16), r3 = v128.load(right, 32), r4 = v128.load(right, 48);
  for (let s = 0; s < segmentCount; s++) {
    const at = segments + <usize>s * SEGMENT;
    const start = rows + <usize>(load<i32>(at) * rowBytes);
    const end = rows + <usize>(load<i32>(at, 4) * rowBytes);
    const from = load<i32>(at, 8), to = load<i32>(at, 12);
    const per = f32x4.splat(<f32>1.0 / <f32>(to - from));
    const away0 = f32x4.mul(valueAt(start, apartAt, 0), f32x4.splat(<f32>1.0 / <f32>24.0));
    const away1 = f32x4.mul(valueAt(end, apartAt, 0), f32x4.splat(<f32>1.0 / <f32>24.0));
    const c0 = f32x4.sub(valueAt(start, cutoffAt, 0), f32x4.splat(log2Rate + 1));
    const c1 = f32x4.sub(valueAt(end, cutoffAt, 0), f32x4.splat(log2Rate + 1));
    let gl = pole(f32x4.sub(c0, away0)), gr = pole(f32x4.add(c0, away0));
    const dl = f32x4.mul(f32x4.sub(pole(f32x4.sub(c1, away1)), gl), per), dr = f32x4.mul(f32x4.sub(pole(f32x4.add(c1, away1)), gr), per);
    const scale = f32x4.splat(LOOP * <f32>0.01);
    let k = f32x4.mul(scale, valueAt(start, resonanceAt, 0));
    const dk = f32x4.mul(f32x4.sub(f32x4.mul(scale, valueAt(end, resonanceAt, 0)), k), per);
    const perDb = f32x4.splat(<f32>0.16609640474436813);
    const gain1 = exp2x4(f32x4.mul(perDb, valueAt(end, driveAt, 0)));
    let gain = exp2x4(f32x4.mul(perDb, valueAt(start, driveAt, 0)));
    const dGain = f32x4.mul(f32x4.sub(gain1, gain), per);
    // Louder by drive is made softer behind the poles by its root: as loud as it was, about.
    const back = f32x4.splat(<f32>1.0 / ROOM);
    let lower = f32x4.div(back, f32x4.sqrt(gain));
    const dLower = f32x4.mul(f32x4.sub(f32x4.div(back, f32x4.sqrt(gain1)), lower), per);
    for (let i = from; i < to; i++) {
      gl = f32x4.add(gl, dl);
      gr = f32x4.add(gr, dr);
      k = f32x4.add(k, dk);
      gain = f32x4.add(gain, dGain);
      lower = f32x4.add(lower, dLower);
      const frame = bus + (<usize>i << 4);
      const x = v128.load(frame), y = v128.load(frame, SIDE);
      const kl = f32x4.sub(one, gl), kr = f32x4.sub(one, gr);
      const ql = f32x4.mul(gl, gl), qr = f32x4.mul(gr, gr);
      const solvedL = f32x4.div(one, f32x4.add(one, f32x4.mul(k, f32x4.mul(ql, ql))));
      const solvedR = f32x4.div(one, f32x4.add(one, f32x4.mul(k, f32x4.mul(qr, qr))));
      // Half of what resonance takes from the lows is given back.
      const lift = f32x4.mul(f32x4.mul(gain, f32x4.splat(ROOM)), f32x4.add(one, f32x4.mul(k, half)));
      let firstL = one, firstR = one, secondL = one, secondR = one;
      for (let n = 0; n < 2; n++) {
        const inL = f32x4.mul(n == 0 ? upFirst(memory + 64, x) : upSecond(memory + 64, x), lift);
        const inR = f32x4.mul(n == 0 ? upFirst(right + 64, y) : upSecond(right + 64, y), lift);
        const sumL = f32x4.mul(kl, f32x4.add(l4, f32x4.mul(gl, f32x4.add(l3, f32x4.mul(gl, f32x4.add(l2, f32x4.mul(gl, l1)))))));
        const sumR = f32x4.mul(kr, f32x4.add(r4, f32x4.mul(gr, f32x4.add(r3, f32x4.mul(gr, f32x4.add(r2, f32x4.mul(gr, r1)))))));
        const ul = tanh4(f32x4.mul(f32x4.sub(inL, f32x4.mul(k, sumL)), solvedL));
        const ur = tanh4(f32x4.mul(f32x4.sub(inR, f32x4.mul(k, sumR)), solvedR));
        let vl = f32x4.mul(gl, f32x4.sub(ul, l1)), vr = f32x4.mul(gr, f32x4.sub(ur, r1));
        const al = f32x4.add(vl, l1), ar = f32x4.add(vr, r1);
        l1 = f32x4.add(al, vl); r1 = f32x4.add(ar, vr);
        vl = f32x4.mul(gl, f32x4.sub(al, l2)); vr = f32x4.mul(gr, f32x4.sub(ar, r2));
        const bl = f32x4.add(vl, l2), br = f32x4.add(vr, r2);
        l2 = f32x4.add(bl, vl); r2 = f32x4.add(br, vr);
        vl = f32x4.mul(gl, f32x4.sub(bl, l3)); vr = f32x4.mul(gr, f32x4.sub(br, r3));
        const cl = f32x4.add(vl, l3), cr = f32x4.add(vr, r3);
        l3 = f32x4.add(cl, vl); r3 = f32x4.add(cr, vr);
        vl = f32x4.mul(gl, f32x4.sub(cl, l4)); vr = f32x4.mul(gr, f32x4.sub(cr, r4));
        const el = f32x4.add(vl, l4), er = f32x4.add(vr, r4);
        l4 = f32x4.add(el, vl); r4 = f32x4.add(er, vr);
        if (n == 0) { firstL = el; firstR = er; }
        else { secondL = el; secondR = er; }
      }
      v128.store(frame, f32x4.mul(lower, down(memory + 192, firstL, secondL)));
      v128.store(frame, f32x4.mul(lower, down(right + 192, firstR, secondR)), SIDE);
    }
  }
  v128.store(memory, l1); v128.store(memory, l2, 16); v128.store(memory, l3, 32); v128.store(memory, l4, 48);
  v128.store(right, r1); v128.store(right, r2, 16); v128.store(right, r3, 32); v128.store(right, r4, 48);
  for (let i: usize = 0; i < 2 * LADDER_SIDE; i += 16) flush(memory + i);
}

/** What of the way to its input a pole goes at once. */
// @ts-ignore: decorator
@inline
function pole(log2: v128): v128 {
  const g = prewarp(log2);
  return f32x4.div(g, f32x4.add(f32x4.splat(1), g));
}
