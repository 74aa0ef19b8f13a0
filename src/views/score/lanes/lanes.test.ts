import { describe, expect, test } from "vitest";
import { newArpeggio } from "@/core/patch/defaults";
import { LANES, newLane, PLAY, REST, TIE, type LaneId, type StepLane } from "@/core/patch/lanes";
import { demoProject } from "@/core/patch/demo";
import { stepsOfPart } from "@/core/pattern/events";
import { beginStroke, indicesOf, stepAt, stroke, valueY, type LaneView } from "./laneDrag";
import { laneValueText } from "./laneText";

/** One bar of sixteenths, 40 pixels a step; a lane of `n` steps. */
function drawn(id: LaneId, n: number): { lane: StepLane; view: LaneView } {
  const lane = newLane(id, n);
  const { song } = demoProject("d");
  const steps = stepsOfPart(
    { notes: [], noteChord: null, arpeggio: { ...newArpeggio(), on: true } },
    { ...song, loopBars: 1 },
  );
  const timeline = { fromTick: 0, ticks: 3840, width: 640 };
  return { lane, view: { timeline, steps, indices: indicesOf(lane, id, 1, steps), height: 108 } };
}

describe("drawing in a lane", () => {
  test("a stroke sets every step that it crosses to the line between, however far the pointer jumps", () => {
    const { lane, view } = drawn("freeA", 16);
    // 100 % lies 4 pixels from the top, 0 % 4 from the bottom, of 108.
    expect([valueY(view, "freeA", 100), valueY(view, "freeA", 50), valueY(view, "freeA", 0)]).toEqual([4, 54, 104]);
    const first = beginStroke(lane, "freeA", view, { x: 20, y: 104 }, false, "g");
    const done = stroke(lane, "freeA", view, first, { x: 20 + 4 * 40, y: 4 });
    expect(done.values.slice(0, 6)).toEqual([0, 25, 50, 75, 100, 0]);
    const back = stroke(done, "freeA", view, { ...first, last: { x: 180, y: 4 } }, { x: 100, y: 4 });
    expect(back.values.slice(0, 6)).toEqual([0, 25, 100, 100, 100, 0]);
    expect(stroke(done, "freeA", view, { ...first, last: { x: 100, y: 54 } }, { x: 100, y: 54 })).toBe(done);
  });

  test("every repetition of a step draws the same one", () => {
    const { lane, view } = drawn("velocity", 3);
    const at = { x: 40 * 7 + 5, y: 4 };
    expect(stroke(lane, "velocity", view, beginStroke(lane, "velocity", view, at, false, "g"), at).values).toEqual([100, 200, 100]); // prettier-ignore
  });

  test("with Alt it opens the range of chance round the values", () => {
    const { lane, view } = drawn("transpose", 4);
    const at = { x: 50, y: valueY(view, "transpose", 12) };
    const done = stroke(lane, "transpose", view, beginStroke(lane, "transpose", view, at, true, "g"), at);
    expect(done).toMatchObject({ values: [0, 0, 0, 0], ranges: [0, 12, 0, 0] });
  });

  test("on the play lane a press takes the next of play, tie and rest, and a stroke paints it on", () => {
    const { lane, view } = drawn("play", 4);
    const press = (l: StepLane) => {
      const s = beginStroke(l, "play", view, { x: 5, y: 50 }, false, "g");
      return stroke(l, "play", view, s, { x: 5, y: 50 });
    };
    const tied = press(lane);
    const rest = press(tied);
    expect([tied.values[0], rest.values[0], press(rest).values[0]]).toEqual([TIE, REST, PLAY]);
    const s = beginStroke(lane, "play", view, { x: 5, y: 50 }, false, "g");
    expect(stroke(lane, "play", view, s, { x: 90, y: 90 }).values).toEqual([TIE, TIE, TIE, PLAY]);
  });

  test("beside the steps there is nothing to draw", () => {
    const { lane, view } = drawn("velocity", 4);
    expect([stepAt(view, -1), stepAt(view, 0), stepAt(view, 639), stepAt(view, 641)]).toEqual([-1, 0, 15, -1]);
    const at = { x: 700, y: 4 };
    expect(stroke(lane, "velocity", view, beginStroke(lane, "velocity", view, at, false, "g"), at)).toBe(lane);
  });
});

test("values of lanes read as words where they have them, signed where they count both ways", () => {
  expect([REST, PLAY, TIE].map((v) => laneValueText("play", v))).toEqual(["rest", "play", "tie"]);
  expect(laneValueText("octave", -1)).toBe("−1 oct");
  expect(laneValueText("transpose", 7)).toBe("+7");
  expect(laneValueText("velocity", LANES.velocity.row.default)).toBe("100 %");
});
