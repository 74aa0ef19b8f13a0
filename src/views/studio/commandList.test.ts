import { expect, test } from "vitest";
import { newShape } from "@/core/patch/defaults";
import { demoProject } from "@/core/patch/demo";
import { createProjectStore } from "@/state/projectStore";
import { findCommands, routeCommands, valueCommands } from "./commandList";

const store = createProjectStore(demoProject("d"));
const commands = () => {
  const { project } = store.getState();
  return valueCommands(project, project.parts[0]!, (label, edit) => void store.edit(label, edit), () => undefined); // prettier-ignore
};
const first = (text: string) => findCommands(commands(), text, 5)[0];

test("a name with a value sets it, in the value's own unit; one that cannot be read only finds the name", () => {
  first("cutoff 1.2k")!.set!();
  expect(first("filter cut A4+10ct")!.set).not.toBeNull();
  const filter = () => store.getState().project.parts[0]!.patch.modules.find((m) => m.kind === "filter")!;
  expect(filter().values.cutoff).toBe(1200);
  first("tempo 140")!.set!();
  expect(store.getState().project.song.tempoBpm).toBe(140);
  first("swell rate 1/8 dotted")!.set!();
  expect(store.getState().project.parts[0]!.patch.modules.find((m) => m.id === "swell")!.times).toMatchObject({
    rate: { unit: "note", num: 3, den: 16 },
  });
  expect(first("cutoff soon")).toBeUndefined();
  expect(first("resonance")).toMatchObject({ set: null, command: { name: "Filter resonance", beside: "34.0 %" } });
  expect(store.getState().history.done.map((e) => e.label)).toEqual([
    "Set cutoff of Filter",
    "Set tempo",
    "Set rate of Swell",
  ]);
});

test("values of what all parts share are found and set, too: the drums and the song's own modulators", () => {
  const project = demoProject("d");
  const tide = { ...newShape("tide", "Tide") };
  const shared = createProjectStore({ ...project, modules: [tide] });
  const list = () => valueCommands(shared.getState().project, project.parts[0]!, (label, edit) => void shared.edit(label, edit), () => undefined); // prettier-ignore
  findCommands(list(), "kick pitch A1", 5)[0]!.set!();
  expect(shared.getState().project.backing!.values.kickPitch).toBeCloseTo(55, 6);
  findCommands(list(), "backing step 1/8", 5)[0]!.set!();
  expect(shared.getState().project.backing!.times.step).toEqual({ unit: "note", num: 1, den: 8 });
  findCommands(list(), "tide starts 90", 5)[0]!.set!();
  expect(shared.getState().project.modules[0]!.values).toMatchObject({ phase: 90 });
  expect(shared.getState().project.parts).toBe(project.parts);
});

test("a source in view moves any value by name, by the amount behind it", () => {
  const { project } = store.getState();
  const part = project.parts[0]!;
  const list = routeCommands(project, part, { id: "swell", name: "Swell" }, (label, edit) => void store.edit(label, edit), () => "new", () => undefined); // prettier-ignore
  findCommands(list, "move pitch -20 cents", 5)[0]!.set!();
  expect(store.getState().project.parts[0]!.patch.routes.at(-1)).toMatchObject({
    id: "new",
    source: "swell",
    target: "osc.pitch",
    amount: -0.2,
  });
  // An amount beyond the reach is none.
  expect(findCommands(list, "move pitch 500", 5)).toEqual([]);
});
