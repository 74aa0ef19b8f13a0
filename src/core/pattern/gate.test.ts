import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { evenly } from "../../../tests/support/evenly";
import { runs } from "../../../tests/support/runs";
import { expectSame } from "../../../tests/support/same";
import { PLAY, REST, TIE } from "../patch/lanes";
import { GATE_ROOM, compileGate, gateAt, gateInto, gateRoom } from "./gate";

const base = { steps: [PLAY, REST, PLAY, REST], stepLength: 100, attack: 10, hold: 0.5, tail: 20, swing: 0.5 };
type GateShape = typeof base;
/** At a place of the gate's own round, all lengths in one unit. */
function at({ steps, stepLength, attack, hold, tail, swing }: GateShape, place: number): number {
  const gate = compileGate(steps, { attack: attack / stepLength, hold, tail: tail / stepLength, swing });
  return gateAt(gate, (place / stepLength) % steps.length);
}
const values = (g: Partial<GateShape>, places: readonly number[]): number[] =>
  places.map((p) => Number(at({ ...base, ...g }, p).toFixed(6)));

describe("a gate", () => {
  test("opens in its attack, stays open for its hold, and closes in its tail", () => {
    expect(values({}, [0, 5, 10, 49, 50, 60, 70, 71, 150, 205])).toEqual([0, 0.5, 1, 1, 1, 0.5, 0, 0, 0, 0.5]);
  });
  test("a tie holds it open through its own step; one round the end holds on to the last", () => {
    expect(values({ steps: [PLAY, TIE, REST, REST] }, [100, 149, 160, 171])).toEqual([1, 1, 0.5, 0]);
    expect(values({ steps: [TIE, REST, REST, PLAY] }, [300, 310, 399, 0, 49, 60, 75])).toEqual([0, 1, 1, 1, 1, 0.5, 0]);
    expect(values({ steps: [TIE, REST] }, [0, 50, 150])).toEqual([0, 0, 0]);
  });
  test("steps that fill it all keep it open when held to their end", () => {
    expect(values({ steps: [PLAY, PLAY, PLAY], hold: 1 }, [0, 99, 100, 105, 250])).toEqual([1, 1, 1, 1, 1]);
    expect(values({ steps: [REST, REST] }, [0, 20, 120])).toEqual([0, 0, 0]);
  });
  test("a tail that is longer than the pause is cut by the next step, from where it has come to", () => {
    // From 50 the tail falls over 400; at 200 it stands at 1 - 150 / 400 and rises by a tenth a unit.
    expect(values({ tail: 400 }, [199.999, 200, 201])).toEqual([0.625003, 0.625, 0.725]);
    // As it runs, the tail of the last step is heard over the first.
    expect(values({ tail: 400 }, [0])[0]).toBeCloseTo(0.625, 6);
  });
  test("swing moves every second step", () => {
    expect(values({ steps: [PLAY, PLAY], swing: 2 / 3 }, [133.2, 133.4, 138.4, 200 - 0.001])[0]).toBe(0);
    expect(at({ ...base, steps: [PLAY, PLAY], swing: 2 / 3 }, 400 / 3 + 5)).toBeCloseTo(0.5, 6);
  });
  const number = (min: number, max: number) => evenly(min, max);
  const rows = { stepLength: number(1, 2000), attack: number(0.5, 500), hold: number(0.01, 1), tail: number(1, 4000), swing: number(0.5, 0.75) }; // prettier-ignore
  const gates = (most: number) =>
    fc.record({ ...rows, steps: fc.array(fc.integer({ min: 0, max: 2 }), { minLength: 1, maxLength: most }) });

  /**
   * Another way to the same: it is opened and closed by hand, round after round, until a round is as the one before. Steps
   * of a pair share twice their length as the swing says.
   */
  function byHand(
    { steps, stepLength, attack, hold, tail, swing }: GateShape,
    rounds: number,
  ): (place: number) => number {
    const n = steps.length;
    const start = (k: number): number => {
      const [round, of] = [Math.floor(k / n), ((k % n) + n) % n];
      return stepLength * (round * n + (of % 2 === 1 ? of - 1 + 2 * swing : of));
    };
    const lines: { at: number; value: number; slope: number }[] = [{ at: 0, value: 0, slope: 0 }];
    const now = (t: number): number => {
      const line = lines.findLast((l) => l.at <= t)!;
      return Math.min(1, Math.max(0, line.value + line.slope * (t - line.at)));
    };
    for (let k = 0; k < n * rounds; k++) {
      if (steps[k % n] !== PLAY) continue;
      let last = k;
      while (last + 1 < k + n && steps[(last + 1) % n] === TIE) last++;
      let next = k + 1;
      while (steps[next % n] !== PLAY) next++;
      const on = start(k);
      const off = Math.min(start(next), start(last) + hold * (start(last + 1) - start(last)));
      lines.push({ at: on, value: now(on), slope: 1 / attack });
      const peak = now(off);
      lines.push({ at: off, value: peak, slope: -peak / tail });
    }
    return (place) => now(n * stepLength * (rounds - 1) + place);
  }

  test("whatever it is made of, it is what opening and closing it round after round comes to", () => {
    fc.assert(
      fc.property(gates(7), number(0, 1), number(0.001, 2), number(0.001, 1), (given, x, attack, tail) => {
        const period = given.steps.length * given.stepLength;
        // Times of that size have come round after as many rounds.
        const g = { ...given, attack: attack * period, tail: tail * period };
        const place = x * period * 0.999999;
        expect(at(g, place)).toBeCloseTo(byHand(g, 200)(place), 5);
      }),
      runs(60),
    );
  });

  test("whose times are moved one by one, it is at each place what one with those times is", () => {
    const move = fc.oneof(
      ...(["attack", "hold", "tail", "swing"] as const).map((key) => fc.record({ [key]: rows[key] })),
    );
    fc.assert(
      fc.property(gates(7), fc.array(move, { maxLength: 8 }), (g, moves) => {
        const compiled = ({ attack, hold, tail, swing }: GateShape) =>
          compileGate(g.steps, { attack: attack / g.stepLength, hold, tail: tail / g.stepLength, swing });
        const room = gateRoom(compiled(g));
        let now = g;
        for (const moved of moves) {
          now = { ...now, ...moved };
          room.set([now.attack / g.stepLength, now.hold, now.tail / g.stepLength, now.swing], GATE_ROOM.attack);
          const places = Array.from({ length: 16 }, (_, k) => (k / 16) * g.steps.length);
          const of = (place: number): number => {
            room[GATE_ROOM.place] = place;
            gateInto(compiled(g), room);
            return room[GATE_ROOM.value]!;
          };
          expectSame(
            places.map(of),
            places.map((place) => gateAt(compiled(now), place)),
          );
        }
      }),
      runs(40),
    );
  });
  test("it stays between closed and open, is nowhere steeper than its attack and its tail, and joins its own start", () => {
    fc.assert(
      fc.property(gates(64), (g) => {
        const period = g.steps.length * g.stepLength;
        const count = 997;
        const line = Array.from({ length: count }, (_, i) => at(g, (i * period) / count));
        const rises = line.map((y, i) => line[(i + 1) % count]! - y);
        expect(Math.min(...line)).toBeGreaterThanOrEqual(0);
        expect(Math.max(...line)).toBeLessThanOrEqual(1);
        expect(Math.max(...rises)).toBeLessThanOrEqual(period / count / g.attack + 1e-6);
        expect(Math.min(...rises)).toBeGreaterThanOrEqual(-period / count / g.tail - 1e-6);
      }),
      runs(40),
    );
  });
});
