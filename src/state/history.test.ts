import { isDeepStrictEqual } from "node:util";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { emptyHistory, holdsSame, record, redo, undo, type History } from "./history";

describe("whether two values hold the same", () => {
  test("agrees with Node's comparison, for values alike, unlike, and alike but for one place", () => {
    fc.assert(
      fc.property(fc.jsonValue(), fc.jsonValue(), (a, b) => {
        expect(holdsSame(a, b)).toBe(isDeepStrictEqual(a, b));
        expect(holdsSame(a, structuredClone(a))).toBe(true);
        expect(holdsSame([a, b], [b, a])).toBe(isDeepStrictEqual([a, b], [b, a]));
        expect(holdsSame({ a, b }, { a: structuredClone(a), b, more: 1 })).toBe(false);
        expect(holdsSame([a, b], [a, b, null])).toBe(false);
      }),
      { numRuns: 300 },
    );
  });

  test("tells a list from an object, nothing from no key, and does not look into what is the same object", () => {
    expect(holdsSame([], {})).toBe(false);
    expect(holdsSame([1], { 0: 1 })).toBe(false);
    expect(holdsSame({ a: undefined }, { b: undefined })).toBe(false);
    expect(holdsSame(null, {})).toBe(false);
    expect(holdsSame(NaN, NaN)).toBe(true);
    const closed = Object.defineProperty({}, "inside", {
      enumerable: true,
      get: () => {
        throw new Error("looked into");
      },
    });
    expect(holdsSame({ closed }, { closed })).toBe(true);
  });
});

interface Doc {
  readonly at: number;
  readonly text?: string;
}
const edit = (before: Doc, after: Doc, gesture: string | null = null) => ({
  label: `to ${after.at}`,
  gesture,
  before,
  after,
});

describe("a history of edits", () => {
  const docs = Array.from({ length: 6 }, (_, at): Doc => ({ at }));

  test("joins the edits of one gesture, and no others", () => {
    let history: History<Doc> = emptyHistory();
    history = record(history, edit(docs[0]!, docs[1]!, "a"));
    history = record(history, edit(docs[1]!, docs[2]!, "a"));
    expect(history.done.map((e) => [e.before, e.after, e.label])).toEqual([[docs[0], docs[2], "to 2"]]);
    history = record(history, edit(docs[2]!, docs[3]!, "b"));
    history = record(history, edit(docs[3]!, docs[4]!));
    history = record(history, edit(docs[4]!, docs[5]!));
    expect(history.done.map((e) => e.after.at)).toEqual([2, 3, 4, 5]);
  });

  test("keeps nothing of a gesture that ends where it began", () => {
    let history: History<Doc> = emptyHistory();
    history = record(history, edit(docs[0]!, docs[1]!));
    history = record(history, edit(docs[1]!, docs[2]!, "a"));
    history = record(history, edit(docs[2]!, { at: 1 }, "a"));
    expect(history.done.map((e) => e.after)).toEqual([docs[1]]);
  });

  test("does not add to a gesture that was undone", () => {
    let history: History<Doc> = record(emptyHistory(), edit(docs[0]!, docs[1]!, "a"));
    history = record(history, edit(docs[1]!, docs[2]!, "b"));
    history = undo(history)!.history;
    history = record(history, edit(docs[1]!, docs[3]!, "a"));
    expect(history.done.map((e) => [e.before.at, e.after.at])).toEqual([[0, 1], [1, 3]]); // prettier-ignore
    expect(history.undone).toEqual([]);
    expect(redo(history)).toBeNull();
    expect(undo(emptyHistory())).toBeNull();
  });

  test("goes back and forth as a list with a place in it does, whatever was done", () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom("edit", "undo", "redo"), { maxLength: 40 }), (acts) => {
        let history: History<Doc> = emptyHistory();
        const model: Doc[] = [{ at: 0 }];
        let place = 0;
        for (const [i, act] of acts.entries()) {
          if (act === "edit") {
            const after = { at: i + 1 };
            history = record(history, edit(model[place]!, after));
            model.splice(++place, Infinity, after);
          } else {
            const gone = act === "undo" ? undo(history) : redo(history);
            const to = place + (act === "undo" ? -1 : 1);
            expect(gone === null).toBe(model[to] === undefined);
            if (!gone) continue;
            expect(act === "undo" ? gone.entry.before : gone.entry.after).toBe(model[to]);
            history = gone.history;
            place = to;
          }
          expect(history.done).toHaveLength(place);
          expect(history.undone).toHaveLength(model.length - 1 - place);
        }
      }),
      { numRuns: 200 },
    );
  });

  test("counts what an edit adds, not what it shares with the document before", () => {
    const text = "x".repeat(100_000);
    const list = Array.from({ length: 1000 }, (_, at) => ({ at }));
    const bytes = (before: object, after: object) => record(emptyHistory<object>(), { label: "", gesture: null, before, after }).done[0]!.bytes; // prettier-ignore
    const one = bytes({ list, text }, { list: list.map((d, i) => (i === 7 ? { at: -1 } : d)), text });
    const all = bytes({ list, text }, { list: list.map((d) => ({ ...d })), text });
    const written = bytes({ list, text }, { list, text: text + "y" });
    // A place in a list is some bytes, an object of one number some more, a text two a letter.
    expect(one).toBeGreaterThan(1000 * 8);
    expect(one).toBeLessThan(1000 * 24);
    expect(all).toBeGreaterThan(2 * one);
    expect(written).toBeGreaterThanOrEqual(200_002);
    expect(written).toBeLessThan(201_000);
    expect(bytes([1, 2], [1, 2])).toBeGreaterThan(0);
  });

  test("lets the oldest edits go when they take too much memory, never the newest", () => {
    // Two megabytes each: 32 of them are 64.
    const text = (at: number): Doc => ({ at, text: String.fromCharCode(65 + (at % 26)).repeat(1_000_000) });
    let history: History<Doc> = emptyHistory();
    for (let i = 0; i < 40; i++) history = record(history, edit(text(i), text(i + 1)));
    expect(history.done).toHaveLength(31);
    expect(history.done.at(-1)!.after.at).toBe(40);
    const huge = { at: 41, text: "z".repeat(40_000_000) };
    history = record(history, edit(text(40), huge));
    expect(history.done.map((e) => e.after)).toEqual([huge]);
  });
});
