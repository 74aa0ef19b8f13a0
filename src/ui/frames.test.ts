import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { MARKS, READINGS, onFrame } from "./frames";

/** A browser's frames, one at a time. */
let asked: FrameRequestCallback[] = [];
const frame = (ms: number): void => {
  const now = asked;
  asked = [];
  for (const draw of now) draw(ms);
};

beforeEach(() => {
  asked = [];
  vi.stubGlobal("requestAnimationFrame", (draw: FrameRequestCallback) => asked.push(draw));
});
afterEach(() => {
  // The last frame that was asked for.
  frame(0);
  expect(asked).toHaveLength(0);
  vi.unstubAllGlobals();
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
    for (at = 1; at <= 3; at++) frame(at);
    // One that comes later falls into the same frames.
    ends.push(onFrame(() => called["other"]!.push(at), MARKS));
    for (at = 4; at <= 24; at++) frame(at);
    expect(called["every"]).toHaveLength(24);
    expect(called["marks"]).toHaveLength(12);
    expect(called["readings"]).toHaveLength(6);
    expect(called["marks"]!.every((t, i, all) => i === 0 || t - all[i - 1]! === 2)).toBe(true);
    expect(called["readings"]!.every((t) => called["marks"]!.includes(t))).toBe(true);
    expect(called["marks"]!.filter((t) => t >= 4)).toEqual(called["other"]);
    for (const end of ends) end();
  });

  test("gets the frame's time, and frames are asked for only while somebody listens", () => {
    const times: number[] = [];
    const end = onFrame((ms) => times.push(ms));
    const second = onFrame(() => undefined);
    expect(asked).toHaveLength(1);
    frame(16.5);
    frame(33);
    expect(times).toEqual([16.5, 33]);
    second();
    end();
    frame(50);
    expect(times).toHaveLength(2);
    expect(asked).toHaveLength(0);
    const again = onFrame((ms) => times.push(ms));
    frame(70);
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
    for (const ms of [1, 2, 3]) frame(ms);
    expect(seen).toEqual(["once", "later"]);
    expect(asked).toHaveLength(0);
  });
});
