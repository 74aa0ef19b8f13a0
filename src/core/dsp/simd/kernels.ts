// AssemblyScript, compiled to WebAssembly with SIMD by scripts/buildKernels.mjs. Sound of four voices at a time, one
// float32 lane a voice. Addresses are bytes in the engine's heap (src/core/engine/heap.ts). The layout of rows, segments
// and buses is described in src/core/engine/bank.ts; offsets here and there must agree.

const LANES: i32 = 4;
/** Bytes of one side of a bus: 64 frames of four lanes. */
const SIDE: usize = 1024;
/**
 * Bytes of a segment: the rows at its start and end, its first frame and the one after its last; then a bit for each lane
 * that has a corner at its end (all at the end of a sub-block), the next row at which all lanes end, and its frame.
 */
const SEGMENT: usize = 32;

// ---------------------------------------------------------------------------------------------------- elementary

/** 2^x by the series of portableMath.ts. */
function exp2(x: f64): f64 {
  const whole = Math.floor(x + 0.5);
  if (whole < -1022) return 0;
  const f = x - whole;
  let e: f64 = 4.4455382718708116e-10;
  e = e * f + 7.054911620801123e-9;
  e = e * f + 1.01780860092397e-7;
  e = e * f + 1.321548679014431e-6;
  e = e * f + 1.5252733804059841e-5;
  e = e * f + 0.0001540353039338161;
  e = e * f + 0.0013333558146428443;
  e = e * f + 0.009618129107628477;
  e = e * f + 0.05550410866482158;
  e = e * f + 0.24022650695910072;
  e = e * f + 0.6931471805599453;
  return reinterpret<f64>((<i64>whole + 1023) << 52) * (e * f + 1);
}

/** 2^x of four lanes; relative error below 3e-7. */
// @ts-ignore: decorator
@inline
function exp2x4(x: v128): v128 {
  const whole = f32x4.nearest(x);
  const f = f32x4.sub(x, whole);
  let e = f32x4.splat(0.00015403530393);
  e = f32x4.add(f32x4.mul(e, f), f32x4.splat(0.00133335581464));
  e = f32x4.add(f32x4.mul(e, f), f32x4.splat(0.00961812910763));
  e = f32x4.add(f32x4.mul(e, f), f32x4.splat(0.05550410866482));
  e = f32x4.add(f32x4.mul(e, f), f32x4.splat(0.24022650695910));
  e = f32x4.add(f32x4.mul(e, f), f32x4.splat(0.69314718055995));
  e = f32x4.add(f32x4.mul(e, f), f32x4.splat(1.0));
  const power = i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(whole), i32x4.splat(127)), 23);
  return f32x4.mul(e, power);
}

/** Four float64 of a row as float32 lanes. */
// @ts-ignore: decorator
@inline
function lanesOf(at: usize): v128 {
  return v128.shuffle<f32>(f32x4.demote_f64x2_zero(v128.load(at)), f32x4.demote_f64x2_zero(v128.load(at, 16)), 0, 1, 4, 5);
}

// ---------------------------------------------------------------------------------------------------- oscillator

/** Bytes of a lane's memory: phases i32 x 16; ratios f64 x 16 and their detune; gains f32 x 16 a side and their width. */
const LANE: usize = 64 + 2 * (128 + 8) + 2 * (128 + 8);
const RATIOS: usize = 64;
const RATIOS_END: usize = 64 + 136;
const GAINS: usize = 64 + 272;
const GAINS_END: usize = 64 + 272 + 136;

/** Frequency ratios of a stack for a detune in cents: voices spread evenly from -detune to detune. */
function setRatios(at: usize, count: i32, detune: f64): void {
  if (load<f64>(at, 128) == detune) return;
  store<f64>(at, detune, 128);
  if (count == 1) {
    store<f64>(at, 1.0);
    return;
  }
  // 2^x by its series: x stays within a twelfth, so that seven terms give twelve digits. Two voices at a time.
  const step = (detune / (600.0 * <f64>(count - 1))) * 0.6931471805599453;
  let x = f64x2.add(f64x2.splat((-detune / 1200.0) * 0.6931471805599453), f64x2.mul(f64x2.splat(step), f64x2(0, 1)));
  const next = f64x2.splat(2 * step);
  for (let u = 0; u < count; u += 2) {
    let e = f64x2.add(f64x2.splat(0.008333333333333333), f64x2.mul(x, f64x2.splat(0.001388888888888889)));
    e = f64x2.add(f64x2.splat(0.041666666666666664), f64x2.mul(x, e));
    e = f64x2.add(f64x2.splat(0.16666666666666666), f64x2.mul(x, e));
    e = f64x2.add(f64x2.splat(0.5), f64x2.mul(x, e));
    e = f64x2.add(f64x2.splat(1.0), f64x2.mul(x, e));
    v128.store(at + (<usize>u << 3), f64x2.add(f64x2.splat(1.0), f64x2.mul(x, e)));
    x = f64x2.add(x, next);
  }
}

/**
 * Gains of both sides for a width of 0 to 100 %: equal power, 1 / sqrt(count) for voices that drift apart. The lowest and
 * the highest voice stand on opposite sides, and so do the two next to them, the other way round.
 */
function setGains(at: usize, count: i32, width: f64): void {
  if (load<f64>(at, 128) == width) return;
  store<f64>(at, width, 128);
  const per = f32x4.splat(<f32>1.0 / <f32>count);
  const one = f32x4.splat(1.0);
  const toPlace = f32x4.splat(count == 1 ? <f32>0 : <f32>2.0 / <f32>(count - 1));
  const last = i32x4.splat(count - 1);
  const share = f32x4.splat(<f32>(width / 100.0));
  for (let u = 0; u < count; u += 4) {
    const voice = i32x4.add(i32x4.splat(u), i32x4(0, 1, 2, 3));
    const place = count == 1 ? f32x4.splat(0) : f32x4.sub(f32x4.mul(f32x4.convert_i32x4_s(voice), toPlace), one);
    // The sign of every other pair, counted from the ends, is turned.
    const turn = i32x4.shl(i32x4.min_s(voice, i32x4.sub(last, voice)), 31);
    const spread = v128.xor(f32x4.mul(place, share), turn);
    const o = <usize>u << 2;
    v128.store(at + o, f32x4.sqrt(f32x4.mul(f32x4.sub(one, spread), per)));
    v128.store(at + o, f32x4.sqrt(f32x4.mul(f32x4.add(one, spread), per)), 64);
  }
}

/** Forgets the ratios and gains of a lane, so that the next stretch works them out: the stack has another size. */
export function resetLane(lane: usize): void {
  store<f64>(lane + RATIOS, NaN, 128);
  store<f64>(lane + RATIOS_END, NaN, 128);
  store<f64>(lane + GAINS, NaN, 128);
  store<f64>(lane + GAINS_END, NaN, 128);
}

/** Four frames of a wave, by a straight line between its samples: what lies before and behind each phase. */
// @ts-ignore: decorator
@inline
function wave4(table: usize, q: v128, shift: i32, mask: v128, scale: v128): v128 {
  const index = i32x4.shl(i32x4.shr_u(q, shift), 2);
  const p01 = v128.load64_lane(table + <usize>i32x4.extract_lane(index, 1), v128.load64_zero(table + <usize>i32x4.extract_lane(index, 0)), 1);
  const p23 = v128.load64_lane(table + <usize>i32x4.extract_lane(index, 3), v128.load64_zero(table + <usize>i32x4.extract_lane(index, 2)), 1);
  const a = v128.shuffle<f32>(p01, p23, 0, 2, 4, 6);
  const b = v128.shuffle<f32>(p01, p23, 1, 3, 5, 7);
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), f32x4.mul(f32x4.convert_i32x4_s(v128.and(q, mask)), scale)));
}

/** Phases of four frames that start at `q`, with an increment that grows by `slope` a frame; all lanes alike. */
// @ts-ignore: decorator
@inline
function phases4(q: v128, increment: v128, slope: v128): v128 {
  return i32x4.add(q, i32x4.add(i32x4.mul(increment, i32x4(0, 1, 2, 3)), i32x4.mul(slope, i32x4(0, 0, 1, 3))));
}

/** What those phases move by in four frames; it grows by 16 x slope each time. */
// @ts-ignore: decorator
@inline
function steps4(increment: v128, slope: v128): v128 {
  return i32x4.add(i32x4.shl(increment, 2), i32x4.mul(slope, i32x4(6, 10, 14, 18)));
}

// @ts-ignore: decorator
@inline
function ramp4(from: v128, step: v128): v128 {
  return f32x4.add(from, f32x4.mul(step, f32x4(0, 1, 2, 3)));
}

/** The first and the second lane, spread over all four. */
// @ts-ignore: decorator
@inline
function ofA(x: v128): v128 {
  return v128.shuffle<i32>(x, x, 0, 0, 0, 0);
}

// @ts-ignore: decorator
@inline
function ofB(x: v128): v128 {
  return v128.shuffle<i32>(x, x, 1, 1, 1, 1);
}

/**
 * Adds two oscillators over `fours` frames from `from` on; 32 - `shift` is log2 of the table's size. Phases, their steps
 * and slopes, gains and their steps hold the oscillators in their first two lanes. Gains stand still unless `ramped`.
 */
// @ts-ignore: decorator
@inline
function pair(
  shift: i32, ramped: bool, q: v128, step: v128, slope: v128, l: v128, lStep: v128, r: v128, rStep: v128,
  table: usize, left: usize, right: usize, from: i32, fours: i32,
): void {
  const mask = i32x4.splat((1 << shift) - 1);
  const scale = f32x4.splat(<f32>1.0 / <f32>(<i32>1 << shift));
  const slopeA = ofA(slope), slopeB = ofB(slope), stepA = ofA(step), stepB = ofB(step);
  let qsA = phases4(ofA(q), stepA, slopeA), qsB = phases4(ofB(q), stepB, slopeB);
  let dA = steps4(stepA, slopeA), dB = steps4(stepB, slopeB);
  const bendA = i32x4.shl(slopeA, 4), bendB = i32x4.shl(slopeB, 4);
  let glA = ofA(l), grA = ofA(r), glB = ofB(l), grB = ofB(r);
  let sl = f32x4.splat(0), sr = sl, tl = sl, tr = sl;
  if (ramped) {
    sl = ofA(lStep); sr = ofA(rStep); tl = ofB(lStep); tr = ofB(rStep);
    glA = ramp4(glA, sl); grA = ramp4(grA, sr); glB = ramp4(glB, tl); grB = ramp4(grB, tr);
    const four = f32x4.splat(4.0);
    sl = f32x4.mul(sl, four); sr = f32x4.mul(sr, four); tl = f32x4.mul(tl, four); tr = f32x4.mul(tr, four);
  }
  const end = left + (<usize>(from + fours) << 2);
  const apart = right - left;
  for (let at = left + (<usize>from << 2); at < end; at += 16) {
    const y = wave4(table, qsA, shift, mask, scale);
    const z = wave4(table, qsB, shift, mask, scale);
    v128.store(at, f32x4.add(v128.load(at), f32x4.add(f32x4.mul(y, glA), f32x4.mul(z, glB))));
    v128.store(at + apart, f32x4.add(v128.load(at + apart), f32x4.add(f32x4.mul(y, grA), f32x4.mul(z, grB))));
    qsA = i32x4.add(qsA, dA);
    qsB = i32x4.add(qsB, dB);
    dA = i32x4.add(dA, bendA);
    dB = i32x4.add(dB, bendB);
    if (ramped) {
      glA = f32x4.add(glA, sl);
      grA = f32x4.add(grA, sr);
      glB = f32x4.add(glB, tl);
      grB = f32x4.add(grB, tr);
    }
  }
}

/**
 * Adds one stack over [from, to) to `left` and `right`: two oscillators and four frames at a time, linear interpolation
 * in a table of 2^bits samples and a guard. A phase is a 32-bit integer, one cycle being 2^32; increments and gains move
 * evenly from their start to their end. The wave is read `offset` behind the phase. Phases move on when `advance` is set.
 */
function addStack(
  lane: usize, ratios0: usize, ratios1: usize, gains0: usize, gains1: usize, count: i32,
  inc0: f64, inc1: f64, table: usize, bits: i32, offset0: i32, offset1: i32, scale0: f32, scale1: f32, advance: bool,
  left: usize, right: usize, from: i32, to: i32,
): void {
  const length = to - from;
  const per = f32x4.splat(<f32>1.0 / <f32>length);
  const shift = 32 - bits;
  const perFrame = f64x2.splat(1.0 / <f64>length);
  const offsets = i32x4.splat(offset0);
  const offsetStep = i32x4.splat(offset0 == offset1 ? 0 : (offset1 - offset0) / length);
  const fours = length & ~3;
  const ramped = gains0 != gains1 || scale0 != scale1;
  const start = f64x2.splat(inc0), stop = f64x2.splat(inc1);
  const glide = ratios0 != ratios1 || inc0 != inc1;
  for (let u = 0; u < count; u += 2) {
    const o8 = <usize>u << 3;
    const o4 = <usize>u << 2;
    // The last of an odd stack is played beside a silent twin.
    const second = u + 1 < count;
    const both = i32x4(-1, second ? -1 : 0, 0, 0);
    const phases = v128.load64_zero(lane + o4);
    const first = f64x2.mul(start, v128.load(ratios0 + o8));
    const inc = i32x4.trunc_sat_f64x2_s_zero(first);
    const slope = glide ? i32x4.trunc_sat_f64x2_s_zero(f64x2.mul(f64x2.sub(f64x2.mul(stop, v128.load(ratios1 + o8)), first), perFrame)) : i32x4.splat(0);
    const step = i32x4.sub(inc, offsetStep);
    const q = i32x4.sub(phases, offsets);
    const l = v128.and(f32x4.mul(v128.load64_zero(gains0 + o4), f32x4.splat(scale0)), both);
    const r = v128.and(f32x4.mul(v128.load64_zero(gains0 + o4, 64), f32x4.splat(scale0)), both);
    let lStep = f32x4.splat(0), rStep = lStep;
    if (ramped) {
      lStep = f32x4.mul(f32x4.sub(v128.and(f32x4.mul(v128.load64_zero(gains1 + o4), f32x4.splat(scale1)), both), l), per);
      rStep = f32x4.mul(f32x4.sub(v128.and(f32x4.mul(v128.load64_zero(gains1 + o4, 64), f32x4.splat(scale1)), both), r), per);
    }
    if (fours > 0) {
      // Shifts by a figure that the compiler knows are much faster, and most stacks have gains that stand still.
      if (ramped) {
        if (bits == 12) pair(20, true, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else if (bits == 13) pair(19, true, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else pair(18, true, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
      } else if (bits == 12) pair(20, false, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
      else if (bits == 13) pair(19, false, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
      else pair(18, false, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
    }
    // What is left of a segment that is no multiple of four frames long.
    for (let n = fours; n < length; n++) {
      const grown = (n * (n - 1)) >> 1;
      const at = i32x4.add(q, i32x4.add(i32x4.mul(step, i32x4.splat(n)), i32x4.mul(slope, i32x4.splat(grown))));
      const y = wave1(table, i32x4.extract_lane(at, 0), shift);
      const z = wave1(table, i32x4.extract_lane(at, 1), shift);
      const frame = <usize>(from + n) << 2;
      const m = f32x4.splat(<f32>n);
      const gl = f32x4.add(l, f32x4.mul(lStep, m)), gr = f32x4.add(r, f32x4.mul(rStep, m));
      store<f32>(left + frame, load<f32>(left + frame) + y * f32x4.extract_lane(gl, 0) + z * f32x4.extract_lane(gl, 1));
      store<f32>(right + frame, load<f32>(right + frame) + y * f32x4.extract_lane(gr, 0) + z * f32x4.extract_lane(gr, 1));
    }
    if (advance) {
      const grown = (length * (length - 1)) >> 1;
      const moved = i32x4.add(phases, i32x4.add(i32x4.mul(inc, i32x4.splat(length)), i32x4.mul(slope, i32x4.splat(grown))));
      if (second) v128.store64_lane(lane + o4, moved, 0);
      else v128.store32_lane(lane + o4, moved, 0);
    }
  }
}

// @ts-ignore: decorator
@inline
function wave1(table: usize, q: i32, shift: i32): f32 {
  const at = table + (<usize>(<u32>q >> <u32>shift) << 2);
  const a = load<f32>(at);
  return a + (load<f32>(at, 4) - a) * (<f32>(q & ((1 << shift) - 1)) / <f32>(<i32>1 << shift));
}

/**
 * Keeps the loudness of a pulse at that of a square: its power is 4 d (1 - d), with the mean taken out; narrow ones, whose
 * power lies where ears are keen, get a little less.
 */
// @ts-ignore: decorator
@inline
function pulseScale(width: f64): f32 {
  const d = width / 100.0;
  const power = 4.0 * d * (1.0 - d);
  const lack = 1.0 - power;
  return <f32>((1.0 - 0.35 * lack * lack * lack) / Math.sqrt(power));
}

/**
 * Plays the stacks of up to four voices into `scratch`, 64 frames of the left side and 64 of the right one a voice.
 * `levels` holds an address and log2 of the size for each of 31 tables,
 * each with the harmonics of a third of an octave more than the one before; `starts` the first frame of each lane, -1
 * where none sounds. Rows give MIDI key, detune (cents), width (%) and pulse width (%).
 */
export function oscillate(
  lanes: usize, count: i32, pulse: i32, gain: f32, levels: usize, log2Tuning: f64,
  rows: usize, rowBytes: i32, pitchAt: i32, detuneAt: i32, widthAt: i32, pulseAt: i32,
  segments: usize, segmentCount: i32, starts: usize, scratch: usize,
): void {
  memory.fill(scratch, 0, 2048);
  for (let v = 0; v < LANES; v++) {
    const start = load<i32>(starts + (<usize>v << 2));
    if (start < 0) continue;
    const lane = lanes + <usize>v * LANE;
    const left = scratch + (<usize>v << 9);
    const right = left + 256;
    // Where one segment ends the next one starts.
    let knownLog2: f64 = NaN, knownInc: f64 = 0;
    let s = 0;
    while (s < segmentCount) {
      let at = segments + <usize>s * SEGMENT;
      if (load<i32>(at, 12) <= start) {
        s++;
        continue;
      }
      const from = max(start, load<i32>(at, 8));
      // A corner of another voice is none of this one's.
      const first = at;
      while (!(load<i32>(at, 16) & (1 << v)) && s + 1 < segmentCount) {
        s++;
        at += SEGMENT;
      }
      const row = rows + <usize>(load<i32>(first) * rowBytes + (v << 3));
      let end = rows + <usize>(load<i32>(at, 4) * rowBytes + (v << 3));
      const pitch = load<f64>(row + pitchAt);
      const detune = load<f64>(row + detuneAt);
      const width = load<f64>(row + widthAt);
      const hole = load<f64>(row + pulseAt);
      let steady = load<f64>(end + pitchAt) == pitch && load<f64>(end + detuneAt) == detune && load<f64>(end + widthAt) == width && load<f64>(end + pulseAt) == hole;
      // Segments in which nothing moves are played in one go.
      while (steady && s + 1 < segmentCount) {
        const next = rows + <usize>(load<i32>(at + SEGMENT, 4) * rowBytes + (v << 3));
        if (load<f64>(next + pitchAt) != pitch || load<f64>(next + detuneAt) != detune || load<f64>(next + widthAt) != width || load<f64>(next + pulseAt) != hole) break;
        s++;
        at += SEGMENT;
        end = next;
      }
      s++;
      const to = load<i32>(at, 12);
      // Above half the sample rate there is nothing to hear.
      const log2a = Math.min(-1.0, pitch / 12.0 + log2Tuning);
      const log2b = Math.min(-1.0, load<f64>(end + pitchAt) / 12.0 + log2Tuning);
      const detune1 = load<f64>(end + detuneAt);
      const width1 = load<f64>(end + widthAt);
      setRatios(lane + RATIOS, count, detune);
      setGains(lane + GAINS, count, width);
      let ratios1 = lane + RATIOS;
      let gains1 = lane + GAINS;
      if (detune1 != detune) {
        ratios1 = lane + RATIOS_END;
        setRatios(ratios1, count, detune1);
      }
      if (width1 != width) {
        gains1 = lane + GAINS_END;
        setGains(gains1, count, width1);
      }
      const top = Math.max(log2a, log2b) + (count == 1 ? 0 : Math.max(detune, detune1) / 1200.0);
      const level = <i32>Math.max(0, Math.min(30, Math.ceil(30.0 + 3.0 * (top + 1.0))));
      const table = <usize>load<i32>(levels + (<usize>level << 3));
      const bits = load<i32>(levels + (<usize>level << 3), 4);
      const inc0 = log2a == knownLog2 ? knownInc : exp2(log2a) * 4294967296.0;
      const inc1 = log2a == log2b ? inc0 : exp2(log2b) * 4294967296.0;
      knownLog2 = log2b;
      knownInc = inc1;
      if (pulse) {
        // The difference of two saws that are a pulse width apart.
        const hole1 = load<f64>(end + pulseAt);
        const scale0 = gain * pulseScale(hole);
        const scale1 = gain * pulseScale(hole1);
        const w0 = <i32>(<i64>(hole * 42949672.96));
        const w1 = <i32>(<i64>(hole1 * 42949672.96));
        addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, table, bits, w0, w1, scale0, scale1, false, left, right, from, to);
        addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, table, bits, 0, 0, -scale0, -scale1, true, left, right, from, to);
      } else {
        addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, table, bits, 0, 0, gain, gain, true, left, right, from, to);
      }
      if (detune1 != detune) memory.copy(lane + RATIOS, lane + RATIOS_END, 136);
      if (width1 != width) memory.copy(lane + GAINS, lane + GAINS_END, 136);
    }
  }
}

/** Bytes of a lane's noise: two states of chance; the values that are held and how much of a draw has gone by; filters. */
const NOISE_LANE: usize = 8 + 16 + 8 + 64;

/** Starts a lane's noise from a seed that is not 0, with everything at rest. */
export function seedNoise(lane: usize, seedL: i32, seedR: i32): void {
  memory.fill(lane, 0, NOISE_LANE);
  store<i32>(lane, seedL);
  store<i32>(lane, seedR, 4);
  // The first value is drawn at once.
  store<f64>(lane, 1.0, 24);
}

/** The next of 2^32 - 1 numbers (Marsaglia, "Xorshift RNGs", 2003). */
// @ts-ignore: decorator
@inline
function draw(x: i32): i32 {
  x ^= x << 13;
  x ^= <i32>(<u32>x >> 17);
  return x ^ (x << 5);
}

/** One value of coloured noise from a white one; `at` holds seven float32 of memory. */
// @ts-ignore: decorator
@inline
function coloured(at: usize, colour: i32, white: f32): f32 {
  if (colour == 0) return white;
  if (colour == 2) {
    // A leaky sum: 6 dB an octave above some 20 Hz.
    const y = load<f32>(at) * <f32>0.9975 + white * <f32>0.0706;
    store<f32>(at, y);
    return y;
  }
  // Six one-poles that follow 3 dB an octave within a tenth of a decibel (P. Kellet's filter, from memory).
  const b0 = load<f32>(at) * <f32>0.99886 + white * <f32>0.0555179;
  const b1 = load<f32>(at, 4) * <f32>0.99332 + white * <f32>0.0750759;
  const b2 = load<f32>(at, 8) * <f32>0.969 + white * <f32>0.153852;
  const b3 = load<f32>(at, 12) * <f32>0.8665 + white * <f32>0.3104856;
  const b4 = load<f32>(at, 16) * <f32>0.55 + white * <f32>0.5329522;
  const b5 = load<f32>(at, 20) * <f32>-0.7616 - white * <f32>0.016898;
  const b6 = load<f32>(at, 24);
  store<f32>(at, b0); store<f32>(at, b1, 4); store<f32>(at, b2, 8); store<f32>(at, b3, 12); store<f32>(at, b4, 16); store<f32>(at, b5, 20);
  store<f32>(at, white * <f32>0.115926, 24);
  return b0 + b1 + b2 + b3 + b4 + b5 + b6 + white * <f32>0.5362;
}

/**
 * Plays noise for up to four voices into `scratch`, as `oscillate` does. Rows give width (0 to 100 %) and log2 of the draws
 * a second; `perSample` is log2 of the sample rate. A draw at that rate or above is one at every sample.
 */
export function noise(
  lanes: usize, colour: i32, gain: f32, perSample: f64,
  rows: usize, rowBytes: i32, widthAt: i32, rateAt: i32, segments: usize, segmentCount: i32, starts: usize, scratch: usize,
): void {
  memory.fill(scratch, 0, 2048);
  for (let v = 0; v < LANES; v++) {
    const start = load<i32>(starts + (<usize>v << 2));
    if (start < 0) continue;
    const lane = lanes + <usize>v * NOISE_LANE;
    const left = scratch + (<usize>v << 9);
    const right = left + 256;
    let a = load<i32>(lane), b = load<i32>(lane, 4);
    let heldA = load<f32>(lane, 8), heldB = load<f32>(lane, 12);
    let gone = load<f64>(lane, 24);
    for (let s = 0; s < segmentCount; s++) {
      const at = segments + <usize>s * SEGMENT;
      const to = load<i32>(at, 12);
      if (to <= start) continue;
      const from = max(start, load<i32>(at, 8));
      const end = rows + <usize>(load<i32>(at, 4) * rowBytes + (v << 3));
      const step = exp2(Math.min(0.0, load<f64>(end + rateAt) - perSample));
      // Half of the width each way between the middle and two noises of their own, with equal power.
      const angle = f32x4.splat(<f32>load<f64>(end + widthAt));
      const mid = f32x4.extract_lane(panCosine(angle), 0) * gain, side = f32x4.extract_lane(panSine(angle), 0) * gain;
      for (let i = from; i < to; i++) {
        gone += step;
        if (gone >= 1.0) {
          gone -= 1.0;
          a = draw(a);
          b = draw(b);
          heldA = <f32>a * <f32>4.656612873077393e-10;
          heldB = <f32>b * <f32>4.656612873077393e-10;
        }
        const m = coloured(lane + 32, colour, heldA), w = coloured(lane + 64, colour, heldB);
        const o = <usize>i << 2;
        store<f32>(left + o, mid * m + side * w);
        store<f32>(right + o, mid * m - side * w);
      }
    }
    store<i32>(lane, a);
    store<i32>(lane, b, 4);
    store<f32>(lane, heldA, 8);
    store<f32>(lane, heldB, 12);
    store<f64>(lane, gone, 24);
  }
}

/**
 * Adds what up to four voices of a source played into `scratch` to a bus, with gains and places (-100 to 100 %, equal
 * power, 0 dB in the middle) that move from row to row.
 */
export function pour(
  scratch: usize, starts: usize, rows: usize, rowBytes: i32, gainAt: i32, panAt: i32, segments: usize, segmentCount: i32, bus: usize,
): void {
  for (let v = 0; v < LANES; v++) {
    if (load<i32>(starts + (<usize>v << 2)) < 0) continue;
    const left = scratch + (<usize>v << 9);
    const right = left + 256;
    for (let s = 0; s < segmentCount; s++) {
      const at = segments + <usize>s * SEGMENT;
      const row = rows + <usize>(load<i32>(at) * rowBytes + (v << 3));
      const end = rows + <usize>(load<i32>(at, 4) * rowBytes + (v << 3));
      const gain0 = load<f64>(row + gainAt), gain1 = load<f64>(end + gainAt);
      const pan0 = load<f64>(row + panAt), pan1 = load<f64>(end + panAt);
      // Most sources stand as they are.
      if (gain0 == 1.0 && gain1 == 1.0 && pan0 == 0.0 && pan1 == 0.0) continue;
      const from = load<i32>(at, 8), to = load<i32>(at, 12);
      const pans = v128.replace_lane<f32>(f32x4.splat(<f32>pan0), 1, <f32>pan1);
      const sines = panSine(pans), cosines = panCosine(pans);
      const gains = v128.replace_lane<f32>(f32x4.splat(<f32>gain0), 1, <f32>gain1);
      const l = f32x4.mul(gains, f32x4.sub(cosines, sines)), r = f32x4.mul(gains, f32x4.add(cosines, sines));
      let gl = f32x4.extract_lane(l, 0), gr = f32x4.extract_lane(r, 0);
      const per = <f32>1.0 / <f32>(to - from);
      const dl = (f32x4.extract_lane(l, 1) - gl) * per, dr = (f32x4.extract_lane(r, 1) - gr) * per;
      for (let i = from; i < to; i++) {
        const o = <usize>i << 2;
        gl += dl;
        gr += dr;
        store<f32>(left + o, load<f32>(left + o) * gl);
        store<f32>(right + o, load<f32>(right + o) * gr);
      }
    }
  }
  for (let i: usize = 0; i < 64; i += 4) {
    transpose(scratch + (i << 2), bus + (i << 4));
    transpose(scratch + 256 + (i << 2), bus + SIDE + (i << 4));
  }
}

/** Four frames of four voices, 512 bytes apart, added to four frames of a bus. */
// @ts-ignore: decorator
@inline
function transpose(from: usize, to: usize): void {
  const a = v128.load(from), b = v128.load(from, 512), c = v128.load(from, 1024), d = v128.load(from, 1536);
  const ab0 = v128.shuffle<f32>(a, b, 0, 4, 1, 5), ab1 = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
  const cd0 = v128.shuffle<f32>(c, d, 0, 4, 1, 5), cd1 = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
  v128.store(to, f32x4.add(v128.load(to), v128.shuffle<f32>(ab0, cd0, 0, 1, 4, 5)));
  v128.store(to, f32x4.add(v128.load(to, 16), v128.shuffle<f32>(ab0, cd0, 2, 3, 6, 7)), 16);
  v128.store(to, f32x4.add(v128.load(to, 32), v128.shuffle<f32>(ab1, cd1, 0, 1, 4, 5)), 32);
  v128.store(to, f32x4.add(v128.load(to, 48), v128.shuffle<f32>(ab1, cd1, 2, 3, 6, 7)), 48);
}

// ---------------------------------------------------------------------------------------------------- filter

/**
 * Trapezoidal state-variable filters (TPT; V. Zavalishin, The Art of VA Filter Design, and A. Simper, Solving the
 * continuous SVF equations): in tune and stable while the cutoff moves. Memory: eight vectors of integrators, the
 * coefficients of two designs (nine vectors each), the cutoff and resonance of the first.
 */
const DESIGN: usize = 128;
const NEXT: usize = 128 + 144;
const DESIGNED: usize = 128 + 288;
const ASIDE: usize = 128 + 288 + 32;
const LP24: i32 = 0;
const BP12: i32 = 2;
const HP12: i32 = 3;

/** Writes the coefficients for a cutoff (log2 of Hz) and resonance (0 to 100 %) of each lane. */
function design(type: i32, cutoff: v128, resonance: v128, log2Rate: f32, out: usize): void {
  const x = f32x4.min(exp2x4(f32x4.sub(cutoff, f32x4.splat(log2Rate))), f32x4.splat(0.49));
  // tan(pi x) from the series of sine and cosine at half the angle, which stays below 0.77.
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
  const one = f32x4.splat(1.0);
  const g = f32x4.div(f32x4.add(t, t), f32x4.sub(one, f32x4.mul(t, t)));
  const flat: f32 = type == LP24 ? <f32>0.7653668647301796 : <f32>1.4142135623730951;
  const k = f32x4.mul(f32x4.splat(flat), exp2x4(f32x4.mul(resonance, f32x4.splat(-0.045))));
  const a1 = f32x4.div(one, f32x4.add(one, f32x4.mul(g, f32x4.add(g, k))));
  const a2 = f32x4.mul(g, a1);
  v128.store(out, a1);
  v128.store(out, a2, 16);
  v128.store(out, f32x4.mul(g, a2), 32);
  if (type == LP24) {
    const b1 = f32x4.div(one, f32x4.add(one, f32x4.mul(g, f32x4.add(g, f32x4.splat(<f32>1.8477590650225735)))));
    const b2 = f32x4.mul(g, b1);
    v128.store(out, b1, 48);
    v128.store(out, b2, 64);
    v128.store(out, f32x4.mul(g, b2), 80);
  } else {
    // The mix of input, band and low.
    const zero = f32x4.splat(0);
    v128.store(out, type == HP12 ? one : zero, 96);
    v128.store(out, type == HP12 ? f32x4.neg(k) : type == BP12 ? k : zero, 112);
    v128.store(out, type == HP12 ? f32x4.splat(-1) : type == BP12 ? zero : one, 128);
  }
}

// @ts-ignore: decorator
@inline
function flush(at: usize): void {
  const x = v128.load(at);
  // Below this a state is silence; denormals run many times slower.
  v128.store(at, v128.and(x, f32x4.gt(f32x4.abs(x), f32x4.splat(<f32>1e-15))));
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
  const per = f32x4.splat(<f32>1.0 / <f32>(to - from));
  let a1 = v128.load(a), a2 = v128.load(a, 16), a3 = v128.load(a, 32);
  let b1 = v128.load(a, 48), b2 = v128.load(a, 64), b3 = v128.load(a, 80);
  const d1 = slopeOf(a, b, 0, per), d2 = slopeOf(a, b, 16, per), d3 = slopeOf(a, b, 32, per);
  const e1 = slopeOf(a, b, 48, per), e2 = slopeOf(a, b, 64, per), e3 = slopeOf(a, b, 80, per);
  let l1 = v128.load(memory), l2 = v128.load(memory, 16), r1 = v128.load(memory, 32), r2 = v128.load(memory, 48);
  let l3 = v128.load(memory, 64), l4 = v128.load(memory, 80), r3 = v128.load(memory, 96), r4 = v128.load(memory, 112);
  for (let i = from; i < to; i++) {
    const at = bus + (<usize>i << 4);
    a1 = f32x4.add(a1, d1); a2 = f32x4.add(a2, d2); a3 = f32x4.add(a3, d3);
    b1 = f32x4.add(b1, e1); b2 = f32x4.add(b2, e2); b3 = f32x4.add(b3, e3);
    // The damped stage first: the resonant one then meets a signal without its highest harmonics.
    let v3 = f32x4.sub(v128.load(at), l4);
    let v1 = f32x4.add(f32x4.mul(b1, l3), f32x4.mul(b2, v3));
    let v2 = f32x4.add(f32x4.add(l4, f32x4.mul(b2, l3)), f32x4.mul(b3, v3));
    l3 = f32x4.sub(f32x4.add(v1, v1), l3); l4 = f32x4.sub(f32x4.add(v2, v2), l4);
    v3 = f32x4.sub(v2, l2);
    v1 = f32x4.add(f32x4.mul(a1, l1), f32x4.mul(a2, v3));
    v2 = f32x4.add(f32x4.add(l2, f32x4.mul(a2, l1)), f32x4.mul(a3, v3));
    l1 = f32x4.sub(f32x4.add(v1, v1), l1); l2 = f32x4.sub(f32x4.add(v2, v2), l2);
    v128.store(at, v2);
    let w3 = f32x4.sub(v128.load(at, SIDE), r4);
    let w1 = f32x4.add(f32x4.mul(b1, r3), f32x4.mul(b2, w3));
    let w2 = f32x4.add(f32x4.add(r4, f32x4.mul(b2, r3)), f32x4.mul(b3, w3));
    r3 = f32x4.sub(f32x4.add(w1, w1), r3); r4 = f32x4.sub(f32x4.add(w2, w2), r4);
    w3 = f32x4.sub(w2, r2);
    w1 = f32x4.add(f32x4.mul(a1, r1), f32x4.mul(a2, w3));
    w2 = f32x4.add(f32x4.add(r2, f32x4.mul(a2, r1)), f32x4.mul(a3, w3));
    r1 = f32x4.sub(f32x4.add(w1, w1), r1); r2 = f32x4.sub(f32x4.add(w2, w2), r2);
    v128.store(at, w2, SIDE);
  }
  v128.store(memory, l1); v128.store(memory, l2, 16); v128.store(memory, r1, 32); v128.store(memory, r2, 48);
  v128.store(memory, l3, 64); v128.store(memory, l4, 80); v128.store(memory, r3, 96); v128.store(memory, r4, 112);
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

// ---------------------------------------------------------------------------------------------------- amp and buses

/** Adds the lanes of a bus to a mix (64 frames of float32 a side), with gains and places that move from row to row. */
export function amp(
  rows: usize, rowBytes: i32, gainAt: i32, panAt: i32, segments: usize, segmentCount: i32, bus: usize, left: usize, right: usize,
): void {
  for (let s = 0; s < segmentCount; s++) {
    const at = segments + <usize>s * SEGMENT;
    const row = rows + <usize>(load<i32>(at) * rowBytes);
    const end = rows + <usize>(load<i32>(at, 4) * rowBytes);
    const from = load<i32>(at, 8);
    const to = load<i32>(at, 12);
    const per = f32x4.splat(<f32>1.0 / <f32>(to - from));
    const gain0 = lanesOf(row + gainAt);
    const gain1 = lanesOf(end + gainAt);
    if (!v128.any_true(gain0) && !v128.any_true(gain1)) continue;
    const pan0 = lanesOf(row + panAt);
    const pan1 = lanesOf(end + panAt);
    const s0 = panSine(pan0), c0 = panCosine(pan0);
    const moves = !i32x4.all_true(f32x4.eq(pan0, pan1));
    const s1 = moves ? panSine(pan1) : s0;
    const c1 = moves ? panCosine(pan1) : c0;
    // Equal power, 0 dB in the middle: cos(45° + x) and sin(45° + x), times sqrt 2.
    let gl = f32x4.mul(gain0, f32x4.sub(c0, s0));
    let gr = f32x4.mul(gain0, f32x4.add(c0, s0));
    const dl = f32x4.mul(f32x4.sub(f32x4.mul(gain1, f32x4.sub(c1, s1)), gl), per);
    const dr = f32x4.mul(f32x4.sub(f32x4.mul(gain1, f32x4.add(c1, s1)), gr), per);
    for (let i = from; i < to; i++) {
      gl = f32x4.add(gl, dl);
      gr = f32x4.add(gr, dr);
      const o = bus + (<usize>i << 4);
      // Left and right side by side: both sums of four lanes in one go.
      const l = f32x4.mul(v128.load(o), gl);
      const r = f32x4.mul(v128.load(o, SIDE), gr);
      const sum = f32x4.add(v128.shuffle<f32>(l, r, 0, 1, 4, 5), v128.shuffle<f32>(l, r, 2, 3, 6, 7));
      const f = <usize>i << 2;
      store<f32>(left + f, load<f32>(left + f) + (f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1)));
      store<f32>(right + f, load<f32>(right + f) + (f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3)));
    }
  }
}

/** Sine of a pan of -100 to 100 %, which is -45° to 45°, by its series. */
// @ts-ignore: decorator
@inline
function panSine(pan: v128): v128 {
  const x = f32x4.mul(pan, f32x4.splat(<f32>0.007853981633974483));
  const q = f32x4.mul(x, x);
  let s = f32x4.splat(2.7557319e-6);
  s = f32x4.add(f32x4.mul(s, q), f32x4.splat(-0.00019841270));
  s = f32x4.add(f32x4.mul(s, q), f32x4.splat(0.0083333333));
  s = f32x4.add(f32x4.mul(s, q), f32x4.splat(-0.16666667));
  return f32x4.mul(f32x4.add(f32x4.mul(s, q), f32x4.splat(1.0)), x);
}

// @ts-ignore: decorator
@inline
function panCosine(pan: v128): v128 {
  const x = f32x4.mul(pan, f32x4.splat(<f32>0.007853981633974483));
  const q = f32x4.mul(x, x);
  let c = f32x4.splat(2.4801587e-5);
  c = f32x4.add(f32x4.mul(c, q), f32x4.splat(-0.0013888889));
  c = f32x4.add(f32x4.mul(c, q), f32x4.splat(0.041666667));
  c = f32x4.add(f32x4.mul(c, q), f32x4.splat(-0.5));
  return f32x4.add(f32x4.mul(c, q), f32x4.splat(1.0));
}

/** Adds one bus to another. */
export function addBus(from: usize, to: usize): void {
  for (let i: usize = 0; i < 2 * SIDE; i += 16) v128.store(to + i, f32x4.add(v128.load(to + i), v128.load(from + i)));
}

/** Silences `bytes` bytes. */
export function clear(at: usize, bytes: i32): void {
  memory.fill(at, 0, bytes);
}
