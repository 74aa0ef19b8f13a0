import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { arbitraryProject } from "../../../tests/support/arbitraryProject";
import { makeProject } from "../../../tests/support/projects";
import { BINARY, HASH } from "../../../tests/support/recordings";
import { runs } from "../../../tests/support/runs";
import { problemOfEdit } from "./changeCheck";
import { newMacro } from "./defaults";
import { demoProject } from "./demo";
import { withSource } from "./edit";
import { newModule } from "./kinds/kind";
import { RECORDING } from "./kinds/recording";
import { openProject } from "./migrate";
import { MAX_NOTES, type Project } from "./project";

type Tree = Record<string, unknown>;
const isTree = (x: unknown): x is Tree => typeof x === "object" && x !== null;

/** Every place in a document that holds a single value, as a list of keys. */
function places(value: unknown, path: readonly string[] = []): (readonly string[])[] {
  return isTree(value) ? Object.keys(value).flatMap((key) => places(value[key], [...path, key])) : [path];
}

/** A copy that shares everything but the way to a place, as edits do. */
function withValue(value: unknown, path: readonly string[], put: unknown): unknown {
  const [key, ...rest] = path;
  if (key === undefined) return put;
  if (Array.isArray(value)) return value.map((v: unknown, i) => (String(i) === key ? withValue(v, rest, put) : v));
  return { ...(value as Tree), [key]: withValue((value as Tree)[key], rest, put) };
}

/** What edits reach. */
const EDITED = ["name", "song", "modules", "backing", "parts", "binaries", "outputTrim"] as const;

const ODD = [NaN, Infinity, -1, 0, 0.5, 7.5, 1e9, 129, 200, "", "x", "osc.pitch", null, [], {}, true] as const;

describe("checking what an edit changed", () => {
  test("agrees with the check of the whole document, whatever was put wherever", () => {
    fc.assert(
      // Drawing a project takes longer than checking it: several things are put into each.
      fc.property(arbitraryProject, fc.array(fc.tuple(fc.nat(), fc.constantFrom(...ODD)), { minLength: 5, maxLength: 8 }), (project, edits) => {
        const all = EDITED.flatMap((key) => places(project[key], [key]));
        for (const [at, put] of edits) {
          const after = withValue(project, all[at % all.length]!, put) as Project;
          expect(problemOfEdit(project, after) === null).toBe(openProject(after).ok);
        }
      }), // prettier-ignore
      runs(20),
    );
  });

  test("what is left alone is not looked at again; what is added is", () => {
    const project = demoProject("d");
    const part = project.parts[0]!;
    const note = part.notes[0]!;
    const withNotes = (notes: typeof part.notes): Project => ({ ...project, parts: [{ ...part, notes }] });
    const many = Array.from({ length: MAX_NOTES + 1 }, (_, i) => ({ ...note, id: `m${i}` }));
    expect(problemOfEdit(project, withNotes(many.slice(1)))).toBeNull();
    expect(problemOfEdit(project, withNotes(many))).toEqual({
      path: "parts.0.notes",
      reason: "a part holds 4096 notes",
    });
    expect(problemOfEdit(project, withNotes([...part.notes, note]))!.reason).toContain("same id");
    // As many as before, and another one's id; the same ones in another order are as good as they were.
    const twice = part.notes.map((n, i) => (i === 1 ? { ...n, id: note.id } : n));
    expect(problemOfEdit(project, withNotes(twice))!.reason).toContain("same id");
    expect(problemOfEdit(project, withNotes([...part.notes].reverse()))).toBeNull();
    const moved = part.notes.map((n, i) => (i === 2 ? { ...n, key: 128 } : { ...n, startTick: n.startTick + 1 }));
    expect(problemOfEdit(project, withNotes(moved))!.path).toBe("parts.0.notes.2.key");
    expect(problemOfEdit(project, withNotes([{ ...note, startTick: 7.5 }]))!.path).toBe("parts.0.notes.0.startTick");
    const wrong = withNotes([{ ...note, startTick: 7.5 }]);
    expect(problemOfEdit(wrong, { ...wrong, name: "Other" })).toBeNull();
  });

  test("whatever is set to what a document cannot hold is told with its place, in new parts too", () => {
    const base = makeProject({ notes: [] });
    const part = base.parts[0]!;
    const withPart = (change: object): Project => ({ ...base, parts: [{ ...part, ...change }] });
    const bad = {} as never;
    const edits: readonly (readonly [string, Project])[] = [
      ["name", { ...base, name: "" }],
      ["song", { ...base, song: { ...base.song, tempoBpm: 5000 } }],
      ["outputTrim", { ...base, outputTrim: 900 }],
      ["backing", { ...base, backing: bad }],
      ["modules.0", { ...base, modules: [bad] }],
      ["parts.0.name", withPart({ name: "" })],
      ["parts.0.mix", withPart({ mix: { mute: 1, solo: false } })],
      [
        "parts.0.follows",
        {
          ...base,
          parts: [
            { ...part, follows: { part: "other", semitones: 900, later: null, linked: false } },
            { ...part, id: "other" },
          ],
        },
      ],
      ["parts.0.noteChord", withPart({ noteChord: 7 })],
      ["parts.0.arpeggio", withPart({ arpeggio: { ...part.arpeggio, octaves: 90 } })],
      ["parts.1.id", { ...base, parts: [part, { ...part, id: "" }] }],
      ["parts.1.arpeggio", { ...base, parts: [part, { ...part, id: "other", arpeggio: bad }] }],
      ["parts.1.notes", { ...base, parts: [part, { ...part, id: "other", notes: [bad] }] }],
      ["parts.1.patch", { ...base, parts: [part, { ...part, id: "other", patch: bad }] }],
    ];
    for (const [path, after] of edits) {
      expect(openProject(after).ok, path).toBe(false);
      expect(problemOfEdit(base, after)?.path, path).toMatch(new RegExp(`^${path}`));
    }
    // What was so before is not looked at again.
    for (const [path, after] of edits.slice(1, 4)) expect(problemOfEdit(after, { ...after, name: "Other" }), path).toBeNull(); // prettier-ignore
    expect(problemOfEdit(base, { ...base, parts: [part, { ...part, id: "other" }] })).toBeNull();
  });

  test("a recording that is played goes with none of its binaries, whatever else stays", () => {
    const base = makeProject({});
    const part = base.parts[0]!;
    const rope = newModule(RECORDING, "rope", "Rope", { recording: HASH });
    const playing = { ...base, binaries: [BINARY], parts: [{ ...part, patch: withSource(part.patch, rope) }] };
    expect(openProject(playing).ok).toBe(true);
    expect(problemOfEdit(playing, { ...playing, binaries: [] })!.path).toBe("binaries");
    expect(problemOfEdit(playing, { ...playing, binaries: [...playing.binaries] })).toBeNull();
    expect(problemOfEdit({ ...base, binaries: [] }, { ...playing, binaries: [] })!.path).toBe("binaries");
  });

  test("what parts take from the song is looked at where the song lets it go", () => {
    const project = makeProject({ songModules: [newMacro("macro", "Macro")], routes: [{ source: "macro", target: "osc.pitch", amount: 1 }] }); // prettier-ignore
    const gone: Project = { ...project, modules: [] };
    expect(openProject(gone).ok).toBe(false);
    expect(problemOfEdit(project, gone)!.path).toMatch(/^parts\.0\.patch\.routes/);
    expect(problemOfEdit(project, { ...project, modules: [...project.modules] })).toBeNull();
  });
});
