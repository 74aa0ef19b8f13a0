import { expect, test } from "vitest";
import { createStore } from "zustand/vanilla";
import { InTurn } from "./inTurn";

test("readers are told one by one, in their order, and who waits keeps its place, has what it had, and finds the newest", () => {
  const store = createStore(() => ({ n: 0 }));
  const tasks: (() => void)[] = [];
  const turns = new InTurn(store, (run) => tasks.push(run));
  const told: string[] = [];
  const listen = (name: string, first = false) => {
    const reader = turns.reader(first);
    return { ...reader, leave: reader.subscribe(() => told.push(`${name}${reader.get().n}`)) };
  };
  const [a, b, c] = [listen("a"), listen("b"), listen("c")];
  const run = (): void => tasks.shift()?.();
  store.setState({ n: 1 });
  // The first one at once.
  expect(told).toEqual(["a1"]);
  expect(tasks).toHaveLength(1);
  expect([a, b, c].map((r) => r.get().n)).toEqual([1, 0, 0]);
  // One goes, one comes; those that were not told yet come first.
  b.leave();
  const d = listen("d");
  expect(d.get().n).toBe(1);
  store.setState({ n: 2 });
  while (tasks.length > 0) run();
  expect(told).toEqual(["a1", "c2", "a2", "d2"]);
  store.setState({ n: 3 });
  for (const r of [a, c]) r.leave();
  while (tasks.length > 0) run();
  expect(told.slice(4)).toEqual(["a3", "d3"]);
  listen("e", true);
  store.setState({ n: 3 });
  while (tasks.length > 0) run();
  expect(told.slice(6)).toEqual(["e3", "d3"]);
  // Made before a change and subscribed after it, one misses nothing.
  const late = turns.reader();
  store.setState({ n: 4 });
  late.subscribe(() => undefined);
  expect(late.get().n).toBe(4);
});

test("those that are quickly told are told in one task, as many as take six milliseconds; one that grows is told alone again", async () => {
  const store = createStore(() => ({ n: 0 }));
  const tasks: (() => void)[] = [];
  let now = 0;
  const turns = new InTurn(
    store,
    (run) => tasks.push(run),
    () => now,
  );
  const took: Record<string, number> = { a: 2, b: 3, c: 2, d: 20, e: 0 };
  let task: string[] = [];
  for (const name of Object.keys(took))
    turns.reader().subscribe(() => {
      task.push(name);
      now += took[name]!;
    });
  const round = async (n: number): Promise<string[]> => {
    const told: string[] = [];
    task = [];
    store.setState({ n });
    for (;;) {
      // What is drawn at the end of a task is counted.
      await Promise.resolve();
      told.push(task.join(""));
      task = [];
      const run = tasks.shift();
      if (!run) return told;
      run();
    }
  };
  expect(await round(1)).toEqual(["a", "b", "c", "d", "e"]);
  expect(await round(2)).toEqual(["ab", "c", "d", "e"]);
  took["d"] = 1;
  expect(await round(3)).toEqual(["ab", "c", "d", "e"]);
  expect(await round(4)).toEqual(["ab", "cde"]);
  for (const name of Object.keys(took)) took[name] = took[name]! * 4;
  expect(await round(5)).toEqual(["ab", "cde"]);
  expect(await round(6)).toEqual(["a", "b", "c", "de"]);
});

test("by itself each but the first is told in a task of its own", async () => {
  const store = createStore(() => ({ n: 0 }));
  const turns = new InTurn(store);
  const order: string[] = [];
  const done = new Promise<void>((resolve) => {
    turns.reader().subscribe(() => {
      order.push("first");
      // What is ready at once comes before the next turn.
      void Promise.resolve().then(() => order.push("between"));
    });
    turns.reader().subscribe(() => {
      order.push("second");
      resolve();
    });
  });
  store.setState({ n: 1 });
  expect(order).toEqual(["first"]);
  await done;
  expect(order).toEqual(["first", "between", "second"]);
});
