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
