import { expect, test, vi } from "vitest";
import { makeProject, note } from "../../../tests/support/projects";
import { peak } from "../../../tests/support/spectrum";
import { withoutRecordings } from "../dsp/tables";
import { compileProject } from "./compile";
import { Engine } from "./engine";
import { warmUp } from "./warmUp";

test("before it is heard an engine has played a program: half a second at least, with its notes", () => {
  const program = compileProject(makeProject({ notes: [note(0, 3840, 60)] }));
  const spy = vi.spyOn(Engine.prototype, "process");
  warmUp(program, 48_000, { tables: withoutRecordings });
  const heard = spy.mock.calls.map(([left, , frames]) => ({ left, frames }));
  spy.mockRestore();
  expect(heard.reduce((sum, h) => sum + h.frames, 0)).toBeGreaterThan(24_000);
  expect(peak(heard.at(-1)!.left)).toBeGreaterThan(0.01);
});
