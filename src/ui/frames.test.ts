import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { MARKS, READINGS, keepMoving, nextFrame, onFrame } from "./frames";

/** A browser's frames, one at a time, and its clock. */
let asked: FrameRequestCallback[] = [];
let now = 0;
const frame = (ms: number): void => {
  const due = asked;
  asked = [];
  now = ms;
  for (const draw of due) draw(ms);
};
/** Long after whatever moved before. */
let start = 0;

beforeEach(() => {
  asked = [];
  start += 1e6;
  now = start;
  vi.stubGlobal("requestAnimationFrame", (draw: FrameRequestCallback) => asked.push(draw));
  vi.spyOn(performance, "now").mockImplementation(() => now);
});
afterEach(() => {
  // The last frame that was asked for.
  frame(now);
  expect(asked).toHaveLength(0);
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

describe("what moves with the sound", () => {
  test("is called in every frame, or every second or fourth one, and all the slower ones together", () => {
    const called: Record<string, number[]> = { every: [], marks: [], other: [], readings: [] };
    let at = 0;
    const ends = [
      onFrame(() => called["every"]!.push(at)),
      onFrame(() => called["marks"]!.push(at), MARKS),
      onFrame(() => called["readings"]!.push(at), READINGS),
    ];
    keepMoving();
    for (at = 1; at <= 3; at++) frame(start + at);
    // One that comes later falls into the same frames.
    ends.push(onFrame(() => called["other"]!.push(at), MARKS));
    for (at = 4; at <= 24; at++) frame(start + at);
    expect(called["every"]).toHaveLength(24);
    expect(called["marks"]).toHaveLength(12);
    expect(called["readings"]).toHaveLength(6);
    expect(called["marks"]!.every((t, i, all) => i === 0 || t - all[i - 1]! === 2)).toBe(true);
    expect(called["readings"]!.every((t) => called["marks"]!.includes(t))).toBe(true);
    expect(called["marks"]!.filter((t) => t >= 4)).toEqual(called["other"]);
    for (const end of ends) end();
  });

  test("rests where nothing moves: one frame shows all what has changed, and no other is asked for", () => {
    const called: string[] = [];
    const ends = [onFrame(() => called.push("every")), onFrame(() => called.push("reading"), READINGS)];
    for (const round of [1, 2]) {
      called.length = 0;
      frame(start + 100 * round);
      expect(called).toEqual(["every", "reading"]);
      expect(asked).toHaveLength(0);
      nextFrame();
      nextFrame();
      expect(asked).toHaveLength(1);
    }
    for (const end of ends) end();
  });

  test("goes on for six seconds after the last movement, so that a meter falls", () => {
    let moves = true;
    const times: number[] = [];
    const ends = [onFrame((ms) => times.push(ms)), onFrame(() => (moves ? keepMoving() : undefined))];
    for (let ms = 0; ms < 20_000; ms += 16) {
      moves = ms < 10_000;
      frame(start + ms);
    }
    const gaps = times.slice(1).map((t, i) => t - times[i]!);
    expect(Math.max(...gaps)).toBe(16);
    expect(times.at(-1)! - start).toBeGreaterThan(15_950);
    expect(times.at(-1)! - start).toBeLessThan(16_050);
    for (const end of ends) end();
  });

  test("gets the frame's time, and frames are asked for only while somebody listens", () => {
    keepMoving();
    expect(asked).toHaveLength(0);
    const times: number[] = [];
    const end = onFrame((ms) => times.push(ms - start));
    const second = onFrame(() => undefined);
    expect(asked).toHaveLength(1);
    frame(start + 16.5);
    frame(start + 33);
    expect(times).toEqual([16.5, 33]);
    second();
    end();
    frame(start + 50);
    expect(times).toHaveLength(2);
    expect(asked).toHaveLength(0);
    const again = onFrame((ms) => times.push(ms - start));
    frame(start + 70);
    expect(times).toEqual([16.5, 33, 70]);
    again();
  });

  test("may end itself, or begin another, in its own turn", () => {
    const seen: string[] = [];
    const end = onFrame(() => {
      seen.push("once");
      end();
      const later = onFrame(() => {
        seen.push("later");
        later();
      });
    });
    for (const ms of [1, 2, 3]) frame(start + ms);
    expect(seen).toEqual(["once", "later"]);
    expect(asked).toHaveLength(0);
  });
});
