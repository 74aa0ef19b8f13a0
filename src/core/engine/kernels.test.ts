import { describe, expect, test } from "vitest";
import { hash01 } from "../pattern/chance";
import { Heap } from "./heap";
import { Bench, LANES, ROW, errorDb } from "../../../tests/support/kernelBench";
import { expectSame } from "../../../tests/support/same";
import { hasSimd } from "./simd";

describe("what a source is worth", () => {
  test("gain and place go straight from row to row, with equal power: cos and sin of 45 degrees and half the place", () => {
    const b = new Bench();
    const [gains, pans] = [[1, 0.5, 0, 2], [0, 100, -100, 30]] as const; // prettier-ignore
    gains.forEach((v, row) => b.set(row, 4, [0, v, 0, 0]));
    pans.forEach((v, row) => b.set(row, 5, [0, v, 0, 0]));
    b.segments([[0, 1, 0, 16], [1, 2, 16, 27], [2, 3, 27, 64]]); // prettier-ignore
    b.heap.int32(b.startsAt, 4).set([-1, 0, -1, -1]);
    b.fill(() => 0);
    const scratch = b.heap.float32(b.scratch, 512).fill(0);
    for (let i = 0; i < 64; i++) [scratch[128 + i], scratch[192 + i]] = [0.8, -0.6];
    b.heap.kernels.pour(b.scratch, b.startsAt, b.rowsAt, ROW * 8, 4 * LANES * 8, 5 * LANES * 8, b.segmentsAt, 3, b.bus);
    const side = (row: number, right: boolean): number => {
      const angle = (Math.PI / 4) * (1 + pans[row]! / 100);
      return gains[row]! * Math.SQRT2 * (right ? Math.sin(angle) : Math.cos(angle));
    };
    for (const [row, from, to] of [
      [0, 0, 16],
      [1, 16, 27],
      [2, 27, 64],
    ] as const)
      // prettier-ignore
      for (let i = from; i < to; i++) {
        // The gain of a frame is that at its end.
        const t = (i + 1 - from) / (to - from);
        const at = (right: boolean): number => side(row, right) + (side(row + 1, right) - side(row, right)) * t;
        expect(b.lane(0, 1)[i]).toBeCloseTo(0.8 * at(false), 5);
        expect(b.lane(1, 1)[i]).toBeCloseTo(-0.6 * at(true), 5);
      }
  });
});

test("the amp: gains and places run straight between rows, equal power, lanes add up", () => {
  const b = new Bench();
  const gains = [[0.5, 0, 0.2, 1], [1, 0.3, 0.2, 0], [0.7, 0.1, 0.4, 0]]; // prettier-ignore
  const pans = [[-100, 0, 30, 100], [0, 0, 30, 100], [100, 50, 30, -100]]; // prettier-ignore
  gains.forEach((g, row) => b.set(row, 0, g));
  pans.forEach((p, row) => b.set(row, 1, p));
  const ends = [[0, 1, 0, 16], [1, 2, 16, 41]] as const; // prettier-ignore
  b.segments(ends);
  const input = (s: number, l: number, i: number): number => hash01(s, l, i) - 0.5;
  b.fill(input);
  const mix = b.heap.take(512);
  b.heap.kernels.amp(b.rowsAt, ROW * 8, 0, LANES * 8, -1, b.segmentsAt, 2, b.bus, mix, mix + 256);
  const of = (row: number, lane: number, side: number): number => {
    const angle = ((pans[row]![lane]! + 100) / 200) * (Math.PI / 2);
    return gains[row]![lane]! * Math.SQRT2 * (side === 0 ? Math.cos(angle) : Math.sin(angle));
  };
  for (const side of [0, 1]) {
    const expected = Array.from({ length: 41 }, (_, i) => {
      const [a, e, from, to] = ends.find((s) => i >= s[2] && i < s[3])!;
      const t = (i - from + 1) / (to - from);
      return [0, 1, 2, 3].reduce(
        (sum, l) => sum + input(side, l, i) * (of(a, l, side) + (of(e, l, side) - of(a, l, side)) * t),
        0,
      );
    });
    const found = [...b.heap.float32(mix + side * 256, 41)];
    expect(errorDb(found, expected)).toBeLessThan(-120);
  }
});

test("the heap gives blocks that are zero and apart, takes them back, and says when it is full", () => {
  const heap = new Heap();
  const a = heap.take(100);
  const b = heap.take(100);
  expect(b - a).toBeGreaterThanOrEqual(100);
  expect(a % 16).toBe(0);
  heap.float32(a, 25).fill(7);
  heap.give(a, 100);
  expect(heap.take(100)).toBe(a);
  expect(heap.float32(a, 25).every((v) => v === 0)).toBe(true);
  // Any number of one size comes again, the last one first, and none twice.
  const three = [1, 2, 3].map(() => heap.take(48));
  for (const at of three) heap.give(at, 48);
  expect([1, 2, 3].map(() => heap.take(48))).toEqual(three.toReversed());
  expect(heap.take(48)).toBeGreaterThan(Math.max(...three));
  expect(() => heap.take(2 ** 31)).toThrow(/heap of 268435456 bytes is full/);
});

test("a heap in the memory of another one is as good as new, unless that has used much of it", () => {
  const used = new Heap();
  const at = used.take(400);
  used.float32(at, 100).fill(3);
  const again = new Heap(used);
  expect(again.buffer).toBe(used.buffer);
  expect(again.take(400)).toBe(at);
  const fresh = new Heap();
  const words = 2 ** 16;
  expectSame(again.int32(0, words).slice(), fresh.int32(0, words).slice());
  const full = new Heap();
  full.take(2 ** 26);
  // Asked of 256 MB, `not.toBe` looks at each byte.
  expect(new Heap(full).buffer === full.buffer).toBe(false);
});

test("SIMD is found where it is, and missed where it is not", () => {
  expect(hasSimd()).toBe(true);
  expect(hasSimd({ validate: () => false })).toBe(false);
  // Without its SIMD instruction the probe is not valid: it is really looked at.
  const seen: Uint8Array[] = [];
  hasSimd({ validate: (bytes) => seen.push(bytes) > 0 });
  const wasm = (globalThis as unknown as { WebAssembly: { validate: (b: Uint8Array) => boolean } }).WebAssembly;
  expect(wasm.validate(seen[0]!)).toBe(true);
  expect(wasm.validate(seen[0]!.map((b) => (b === 253 ? 255 : b)))).toBe(false);
});
