import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { demoProject } from "@/core/patch/demo";
import { keepView, keptView } from "./keptView";
import { createViewStore, type ViewState } from "./viewStore";

const project = demoProject("p");
const part = project.parts[1]!;
const seen: ViewState = {
  ...createViewStore().getState(),
  partId: part.id,
  strip: { kind: "heard", address: "amp.level" },
  zoom: 4,
  scrollTick: 2000,
  startTick: 960,
  heardStrips: { [part.id]: ["osc.width"], other: ["osc.detune"] },
};

beforeEach(() => {
  const kept = new Map<string, string>();
  vi.stubGlobal("sessionStorage", { getItem: (k: string) => kept.get(k) ?? null, setItem: (k: string, v: string) => void kept.set(k, v) }); // prettier-ignore
});
afterEach(() => void vi.unstubAllGlobals());

test("a page that is loaded anew finds the eyes where they were", () => {
  expect(keptView(project)).toEqual({});
  keepView(project, seen);
  expect(keptView(project)).toEqual({
    partId: part.id,
    strip: { kind: "heard", address: "amp.level" },
    zoom: 4,
    scrollTick: 2000,
    startTick: 960,
    heardStrips: { [part.id]: ["osc.width"] },
  });
});

test("another project, or a part that is gone, begins at its start; a strip that is gone alone is not looked for", () => {
  keepView(project, seen);
  expect(keptView({ ...project, id: "another" })).toEqual({});
  expect(keptView({ ...project, parts: project.parts.filter((p) => p.id !== part.id) })).toEqual({});
  keepView(project, { ...seen, strip: { kind: "module", id: "gone" } });
  expect(keptView(project)).not.toHaveProperty("strip");
});

test("a loop that became shorter is scrolled to its end, and what was tampered with counts for nothing", () => {
  keepView(project, { ...seen, scrollTick: 9000, startTick: 15_000 });
  const short = { ...project, song: { ...project.song, loopBars: 1 } };
  expect(keptView(short)).toMatchObject({ scrollTick: 2880, startTick: 3839 });
  for (const text of ["{", "null", '{"project":"p","zoom":1e9}', '{"project":"p","partId":5}']) {
    sessionStorage.setItem("clovik-view", text);
    expect(keptView(project)).toEqual({});
  }
});
