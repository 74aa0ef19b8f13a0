import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { demoProject } from "@/core/patch/demo";
import { SaveConflict } from "./database";
import { setTrim } from "./edits";
import { createProjectStore, type ProjectStore } from "./projectStore";
import { Saver } from "./saver";

let store: ProjectStore;
let saver: Saver;
let written: number[];
let failing: Error | null;
let told: string[];
/** Ends the write that is under way, where writes take time. */
let finish: () => void;
let slow: boolean;

beforeEach(() => {
  vi.useFakeTimers({ now: 1_000_000 });
  store = createProjectStore(demoProject("d"));
  written = [];
  told = [];
  failing = null;
  slow = false;
  finish = () => undefined;
  saver = new Saver(
    store,
    () => (project) => {
      if (failing) return Promise.reject(failing);
      written.push(project.outputTrim);
      return slow ? new Promise((resolve) => (finish = resolve)) : Promise.resolve();
    },
    (reason) => told.push(reason),
  );
});
afterEach(() => vi.useRealTimers());

const trim = (db: number): boolean => store.edit("Set trim", setTrim(db), "drag");

describe("saving", () => {
  test("waits for the hand to rest, and not for long", async () => {
    for (let i = 1; i <= 8; i++) {
      trim(-i);
      await vi.advanceTimersByTimeAsync(100);
    }
    // While it moves, what is 0.3 s old is saved; the last two edits follow 0.2 s after the hand has come to rest.
    expect(written).toEqual([-3, -6]);
    await vi.advanceTimersByTimeAsync(400);
    expect(written).toEqual([-3, -6, -8]);
    expect(store.getState().save).toEqual({ kind: "saved", at: Date.now() - 300 });
    expect(saver.isDirty()).toBe(false);
  });

  test("what is edited while a save is written is written next, as soon as that is over", async () => {
    slow = true;
    trim(-1);
    await vi.advanceTimersByTimeAsync(200);
    expect(written).toEqual([-1]);
    for (let i = 2; i <= 6; i++) {
      trim(-i);
      await vi.advanceTimersByTimeAsync(100);
    }
    expect(written).toEqual([-1]);
    finish();
    await vi.advanceTimersByTimeAsync(0);
    expect(written).toEqual([-1, -6]);
    finish();
    await vi.advanceTimersByTimeAsync(1000);
    expect(written).toEqual([-1, -6]);
    expect(store.getState().save.kind).toBe("saved");
  });

  test("undone to what is stored, nothing is written", async () => {
    trim(-3);
    store.undo();
    await vi.advanceTimersByTimeAsync(2000);
    expect(written).toEqual([]);
    expect(store.getState().save.kind).toBe("saved");
  });

  test("a failure stays in sight, is tried again with growing pauses, and is over when there is room", async () => {
    failing = new Error("the disk is full");
    trim(-1);
    const since = Date.now();
    await vi.advanceTimersByTimeAsync(300);
    expect(store.getState().save).toEqual({ kind: "failed", since, reason: "the disk is full", conflict: false });
    trim(-2);
    await vi.advanceTimersByTimeAsync(1000);
    expect(store.getState().save.kind).toBe("failed");
    expect(await saver.flush()).toBe(false);
    expect(saver.isAtRisk()).toBe(true);
    saver.savedAsFile();
    expect([saver.isAtRisk(), saver.isDirty()]).toEqual([false, true]);
    trim(-3);
    expect(saver.isAtRisk()).toBe(true);
    failing = null;
    await vi.advanceTimersByTimeAsync(9000);
    expect(written).toEqual([-3]);
    expect(store.getState().save.kind).toBe("saved");
    // It was told once, however often it was tried.
    expect(told).toEqual(["the disk is full"]);
  });

  test("another tab's work is not overwritten by trying again", async () => {
    failing = new SaveConflict();
    trim(-1);
    await vi.advanceTimersByTimeAsync(300);
    failing = null;
    await vi.advanceTimersByTimeAsync(120_000);
    expect(written).toEqual([]);
    expect(store.getState().save).toMatchObject({ kind: "failed", conflict: true });
  });

  test("an edit made while a save is under way is saved after it", async () => {
    let finish = (): void => undefined;
    const slow = new Saver(
      store,
      () => (project) =>
        new Promise<void>((resolve) => {
          finish = () => {
            written.push(project.outputTrim);
            resolve();
          };
        }),
      () => undefined,
    );
    trim(-1);
    const first = slow.flush();
    await vi.advanceTimersByTimeAsync(0);
    trim(-2);
    finish();
    expect(await first).toBe(false);
    await vi.advanceTimersByTimeAsync(300);
    finish();
    await vi.advanceTimersByTimeAsync(0);
    expect(written.filter((t) => t < 0)).toContain(-2);
    expect(slow.isDirty()).toBe(false);
  });
});
