import { describe, expect, test } from "vitest";
import { waveTable } from "../dsp/waveTables";
import { hash01 } from "../pattern/chance";
import { Bench, LANES, RATE, ROW, errorDb } from "../../../tests/support/kernelBench";
import { stackReference } from "../../../tests/support/stackReference";

describe("the oscillator", () => {
  const whole: [number, number, number, number][] = [[0, 1, 0, 64]];
  const four: [number, number, number, number][] = [[0, 1, 0, 16], [1, 2, 16, 27], [2, 3, 27, 32], [3, 4, 32, 64]]; // prettier-ignore
  test.each([
    {
      name: "one saw",
      wave: "saw",
      count: 1,
      ends: whole,
      keys: [57, 57],
      detune: [0, 0],
      width: [60, 60],
      from: 0,
    },
    {
      name: "a stack of eight",
      wave: "saw",
      count: 8,
      ends: whole,
      keys: [40, 40],
      detune: [14, 14],
      width: [70, 70],
      from: 0,
      jumps: true,
    },
    {
      name: "an odd stack that starts late",
      wave: "saw",
      count: 5,
      ends: four,
      keys: [50, 50, 50, 50, 50],
      detune: [9, 9, 9, 9, 9],
      width: [100, 100, 100, 100, 100],
      from: 13,
      jumps: true,
    },
    {
      name: "a pitch that moves",
      wave: "saw",
      count: 3,
      ends: four,
      keys: [60, 60.5, 61.7, 61, 58],
      detune: [5, 5, 5, 5, 5],
      width: [0, 0, 0, 0, 0],
      from: 0,
    },
    {
      name: "a pitch and a detune that bend as a vibrato does",
      wave: "saw",
      count: 6,
      ends: four,
      keys: [66, 66.006, 66.01, 66.011, 66],
      detune: [10, 10.1, 10.2, 10.2, 10.4],
      width: [50, 50, 50, 50, 50],
      from: 0,
      jumps: true,
    },
    {
      name: "a pitch that goes straight on over segments of all lengths, to where it turns",
      wave: "saw",
      count: 8,
      ends: four,
      keys: [66, 66.0016, 66.0027, 66.0032, 65.998],
      detune: [10, 10, 10, 10, 10],
      width: [50, 50, 50, 50, 50],
      from: 0,
      jumps: true,
    },
    {
      name: "the same, to where it rises fast",
      wave: "saw",
      count: 8,
      ends: four,
      keys: [66, 66.0016, 66.0027, 66.0032, 66.02],
      detune: [10, 10, 10, 10, 10],
      width: [50, 50, 50, 50, 50],
      from: 0,
      jumps: true,
    },
    {
      name: "the same, to where the detune moves",
      wave: "saw",
      count: 8,
      ends: four,
      keys: [66, 66.0016, 66.0027, 66.0032, 66.0064],
      detune: [10, 10, 11, 11, 11],
      width: [50, 50, 50, 50, 50],
      from: 0,
      jumps: true,
    },
    {
      name: "the same, to where the width drifts",
      wave: "saw",
      count: 8,
      ends: four,
      keys: [66, 66.0016, 66.0027, 66.0032, 66.0064],
      detune: [10, 10, 10, 10, 10],
      width: [50, 50, 50, 50, 50.6],
      from: 0,
      jumps: true,
    },
    {
      name: "what stands still for two segments, to where the detune moves",
      wave: "saw",
      count: 8,
      ends: four,
      keys: [66, 66, 66, 66, 66],
      detune: [10, 10, 10, 11, 11],
      width: [50, 50, 50, 50, 50],
      from: 0,
      jumps: true,
    },
    {
      name: "the same, to where the width drifts at last",
      wave: "saw",
      count: 8,
      ends: four,
      keys: [66, 66, 66, 66, 66],
      detune: [10, 10, 10, 10, 10],
      width: [50, 50, 50, 50, 50.6],
      from: 0,
      jumps: true,
    },
    {
      name: "the highest saw of jumps, after a late start",
      wave: "saw",
      count: 16,
      ends: four,
      keys: [73.5, 73.5, 73.5, 73.5, 73.5],
      detune: [2, 2, 2, 2, 2],
      width: [30, 30, 30, 30, 30],
      from: 30,
      jumps: true,
    },
    {
      name: "a stack of pulses whose width stands",
      wave: "pulse",
      count: 5,
      ends: four,
      keys: [64, 64, 64.01, 64.01, 64],
      detune: [7, 7, 7, 7, 7],
      width: [80, 80, 80, 80, 80],
      hole: [23, 23, 23, 23, 23],
      from: 0,
      jumps: true,
    },
    {
      name: "a width that drifts under a pitch that bends, the outer voices soft",
      wave: "saw",
      count: 7,
      ends: four,
      keys: [66, 66.006, 66.01, 66.011, 66],
      detune: [10, 10.1, 10.2, 10.2, 10.4],
      width: [50, 50.1, 50.1, 50.05, 50.5],
      from: 5,
      stack: 60 << 8,
      law: (x: number) => x,
      outer: 0.4,
      jumps: true,
    },
    {
      name: "pulses whose width of the stack drifts",
      wave: "pulse",
      count: 2,
      ends: whole,
      keys: [72, 72],
      detune: [9, 9],
      width: [20, 21],
      hole: [30, 30],
      from: 0,
      jumps: true,
    },
    {
      name: "detune and width that move",
      wave: "saw",
      count: 4,
      ends: four,
      keys: [45, 45, 45, 45, 45],
      detune: [5, 20, 25, 30, 80],
      width: [0, 50, 90, 100, 20],
      from: 0,
    },
    ...([5, 6] as const).flatMap((count) => [
      {
        name: `${count} voices towards the middle, the outer ones soft`,
        wave: "saw" as const,
        count,
        ends: four,
        keys: [45, 45, 46, 45, 45],
        detune: [40, 40, 40, 30, 30],
        width: [50, 50, 60, 60, 60],
        from: 3,
        stack: 16 | (70 << 8),
        law: (x: number) => x * Math.abs(x),
        outer: 0.3,
      },
      {
        name: `${count} voices towards the ends, the middle alone`,
        wave: "saw" as const,
        count,
        ends: whole,
        keys: [50, 50],
        detune: [25, 25],
        width: [100, 100],
        from: 0,
        jumps: true,
        stack: 32 | (100 << 8),
        law: (x: number) => Math.sign(x) * Math.sqrt(Math.abs(x)),
        outer: 0,
      },
    ]),
    {
      name: "a sine",
      wave: "sine",
      count: 2,
      ends: four,
      keys: [80, 81, 82, 83, 84],
      detune: [3, 3, 3, 3, 3],
      width: [50, 50, 50, 50, 50],
      from: 5,
    },
    {
      name: "a pulse whose width moves",
      wave: "pulse",
      count: 1,
      ends: four,
      keys: [52, 52, 52, 52, 52],
      detune: [0, 0, 0, 0, 0],
      width: [0, 0, 0, 0, 0],
      hole: [50, 40, 38, 36, 20],
      from: 0,
    },
  ] as const)("$name: every sample", ({ wave, count, ends, keys, detune, width, from, ...rest }) => {
    const hole = "hole" in rest ? rest.hole : keys.map(() => 50);
    const b = new Bench();
    const table = wave === "pulse" ? "saw" : wave;
    b.heap.setTable(table, waveTable(table));
    const memory = b.heap.take(4 * 608);
    for (let v = 0; v < 4; v++) b.heap.kernels.resetLane(memory + v * 608);
    const phases = Array.from({ length: count }, (_, u) => hash01(1, u));
    // The second lane sounds, the others are silent.
    phases.forEach((p, u) => (b.heap.int32(memory + 608, 16)[u] = (p * 2 ** 32) | 0));
    const columns = [keys, detune, width, hole, keys.map(() => 1), keys.map(() => 0)];
    columns.forEach((c, use) => c.forEach((v, row) => b.set(row, use, [0, v, 0, 0])));
    b.segments(ends);
    b.heap.int32(b.startsAt, 4).set([-1, from, -1, -1]);
    const log2Tuning = Math.log2(440) - Math.log2(RATE) - 69 / 12;
    b.fill(() => 0);
    b.heap.kernels.oscillate(memory, count, "stack" in rest ? rest.stack : 0, wave === "pulse" ? 1 : 0, 1, b.heap.tableAt(table), log2Tuning, b.rowsAt, ROW * 8, 0, LANES * 8, 2 * LANES * 8, 3 * LANES * 8, b.segmentsAt, ends.length, b.startsAt, b.scratch); // prettier-ignore
    b.heap.kernels.pour(b.scratch, b.startsAt, b.rowsAt, ROW * 8, 4 * LANES * 8, 5 * LANES * 8, b.segmentsAt, ends.length, b.bus); // prettier-ignore
    const expected = stackReference({
      wave,
      phases,
      from,
      ends: [...ends] as [number, number, number, number][],
      keys,
      detune,
      width,
      hole,
      jumps: "jumps" in rest,
      ...("law" in rest ? { law: rest.law, outer: rest.outer } : {}),
    });
    // The loudness of a pulse is kept; the reference is of amplitude 1.
    const scale = (k: number): number => {
      const d = hole[k]! / 100;
      const power = 4 * d * (1 - d);
      return wave === "pulse" ? (1 - 0.35 * (1 - power) ** 3) / Math.sqrt(power) : 1;
    };
    const scaled = (x: readonly number[]): number[] =>
      x.map((v, i) => {
        const [a, e, start, end] = ends.find((s) => i >= s[2] && i < s[3])!;
        const at = (i - Math.max(start, from)) / (end - Math.max(start, from));
        return v * (scale(a) + (scale(e) - scale(a)) * Math.max(0, at));
      });
    // What is left of tables is their straight lines between samples, under -60 dB on single samples of a full saw.
    const most = "jumps" in rest ? -90 : -58;
    expect(errorDb(b.lane(0, 1), scaled(expected.left))).toBeLessThan(most);
    expect(errorDb(b.lane(1, 1), scaled(expected.right))).toBeLessThan(most);
    for (const silent of [0, 2, 3]) expect(b.lane(0, silent).every((y) => y === 0)).toBe(true);
    if (from > 0)
      expect(
        b
          .lane(0, 1)
          .slice(0, from)
          .every((y) => y === 0),
      ).toBe(true);
  });

  // What the harmonics are at a moment is not well told of pitches that move by a thousand semitones a second.
  test.each([
    [1, -75],
    [12, -48],
  ])("saws of jumps, whatever the stack and its segments, %d times a hundred semitones a second", (speed, most) => {
    const b = new Bench();
    b.heap.setTable("saw", waveTable("saw"));
    const memory = b.heap.take(4 * 608);
    const log2Tuning = Math.log2(440) - Math.log2(RATE) - 69 / 12;
    let worst = -200;
    for (let k = 0; k < 40; k++) {
      const draw = (i: number): number => hash01(k, i);
      const pulse = draw(0) < 0.3;
      const count = pulse ? 2 + Math.floor(draw(1) * 7) : 3 + Math.floor(draw(1) * 14);
      const from = draw(2) < 0.5 ? 0 : Math.floor(draw(2) * 60);
      const borders = [0, ...new Set([10, 11, 12, 13].map((i) => 1 + Math.floor(draw(i) * 63)))].sort((x, y) => x - y);
      const ends = borders.map((at, i): [number, number, number, number] => [i, i + 1, at, borders[i + 1] ?? 64]);
      const walk = (start: number, perFrame: number, salt: number): number[] =>
        ends.reduce<number[]>(
          (rows, [, , f, t], i) => {
            const frames = Math.max(0, t - Math.max(f, from));
            const moved = draw(salt) < 0.4 ? 0 : (2 * draw(salt + 1 + i) - 1) * speed * perFrame * frames;
            return [...rows, rows.at(-1)! + moved];
          },
          [start],
        );
      const keys = walk(12 + 61 * draw(3), 0.002, 20);
      const detune = walk(8 + 10 * draw(4), 0.002, 30);
      const width = walk(10 + 80 * draw(5), 0.0015, 40);
      const hole = keys.map(() => 5 + Math.floor(90 * draw(6)));
      const phases = Array.from({ length: count }, (_, u) => draw(50 + u));
      b.heap.kernels.resetLane(memory);
      phases.forEach((p, u) => (b.heap.int32(memory, 16)[u] = (p * 2 ** 32) | 0));
      [keys, detune, width, hole, keys.map(() => 1), keys.map(() => 0)].forEach((c, use) =>
        c.forEach((v, row) => b.set(row, use, [v, 0, 0, 0])),
      );
      b.segments(ends);
      b.heap.int32(b.startsAt, 4).set([from, -1, -1, -1]);
      b.fill(() => 0);
      b.heap.kernels.oscillate(memory, count, 0, pulse ? 1 : 0, 1, b.heap.tableAt("saw"), log2Tuning, b.rowsAt, ROW * 8, 0, LANES * 8, 2 * LANES * 8, 3 * LANES * 8, b.segmentsAt, ends.length, b.startsAt, b.scratch); // prettier-ignore
      b.heap.kernels.pour(b.scratch, b.startsAt, b.rowsAt, ROW * 8, 4 * LANES * 8, 5 * LANES * 8, b.segmentsAt, ends.length, b.bus); // prettier-ignore
      const expected = stackReference({ wave: pulse ? "pulse" : "saw", phases, from, ends, keys, detune, width, hole, jumps: true }); // prettier-ignore
      const power = pulse ? 4 * (hole[0]! / 100) * (1 - hole[0]! / 100) : 1;
      const scale = (1 - 0.35 * (1 - power) ** 3) / Math.sqrt(power);
      const off = errorDb(b.lane(0, 0), expected.left.map((v) => v * scale)); // prettier-ignore
      worst = Math.max(worst, off);
    }
    expect(worst).toBeLessThan(most);
  });

  test("a vibrato from block to block: a jump beside the border sounds on both of its sides", () => {
    const b = new Bench();
    b.heap.setTable("saw", waveTable("saw"));
    const memory = b.heap.take(4 * 608);
    b.heap.kernels.resetLane(memory);
    const phases = b.heap.int32(memory, 16);
    for (let u = 0; u < 3; u++) phases[u] = (hash01(2, u) * 2 ** 32) | 0;
    const ends: [number, number, number, number][] = [[0, 1, 0, 16], [1, 2, 16, 32], [2, 3, 32, 48], [3, 4, 48, 64]]; // prettier-ignore
    b.segments(ends);
    b.heap.int32(b.startsAt, 4).set([0, -1, -1, -1]);
    const log2Tuning = Math.log2(440) - Math.log2(RATE) - 69 / 12;
    const still = (v: number): number[] => new Array<number>(5).fill(v);
    let worst = -200;
    for (let block = 0; block < 40; block++) {
      const frame = block * 64;
      // Half a semitone to either side, 5.5 times a second.
      const keys = [0, 16, 32, 48, 64].map((i) => 62 + 0.5 * Math.sin((2 * Math.PI * 5.5 * (frame + i)) / RATE));
      [keys, still(8), still(40), still(50), still(1), still(0)].forEach((c, use) =>
        c.forEach((v, row) => b.set(row, use, [v, 0, 0, 0])),
      );
      const expected = stackReference({
        wave: "saw", phases: [0, 1, 2].map((u) => (phases[u]! >>> 0) / 2 ** 32), from: 0, ends, keys, detune: still(8),
        width: still(40), hole: still(50), jumps: true,
      }); // prettier-ignore
      b.fill(() => 0);
      b.heap.kernels.oscillate(memory, 3, 0, 0, 1, b.heap.tableAt("saw"), log2Tuning, b.rowsAt, ROW * 8, 0, LANES * 8, 2 * LANES * 8, 3 * LANES * 8, b.segmentsAt, 4, b.startsAt, b.scratch); // prettier-ignore
      b.heap.kernels.pour(
        b.scratch,
        b.startsAt,
        b.rowsAt,
        ROW * 8,
        4 * LANES * 8,
        5 * LANES * 8,
        b.segmentsAt,
        4,
        b.bus,
      );
      worst = Math.max(worst, errorDb(b.lane(0, 0), expected.left), errorDb(b.lane(1, 0), expected.right));
    }
    expect(worst).toBeLessThan(-85);
  });
});
