import type { Page } from "@playwright/test";
import { expect, forget, openStudio, recording, rms, test } from "./studio";

interface Spied {
  tapped: { node: Omit<AudioWorkletNode, "context"> & { context: AudioContext } };
  contexts: AudioContext[];
}

/** Remembers every context that the page makes. */
const spyContexts = (): void => {
  const spied = window as unknown as Spied;
  spied.contexts = [];
  const Original = AudioContext;
  window.AudioContext = class extends Original {
    constructor(options?: AudioContextOptions) {
      super(options);
      spied.contexts.push(this);
    }
  };
};

const play = (page: Page) => page.getByRole("button", { name: "Play", exact: true }).click();
const sounds = async (page: Page): Promise<void> => {
  await forget(page);
  expect(rms((await recording(page, 0.3)).left)).toBeGreaterThan(0.001);
};
const running = (page: Page): Promise<string[]> =>
  page.evaluate(() => (window as unknown as Spied).contexts.map((c) => c.state));

test("a sound that stops by itself is told within a second, and one button brings it back", async ({
  studio: page,
}) => {
  await page.addInitScript(spyContexts);
  await openStudio(page);
  await play(page);
  await sounds(page);
  await page.evaluate(() => {
    // The browser calls this when the processor has thrown; no event that a page makes does.
    const { node } = (window as unknown as Spied).tapped;
    node.onprocessorerror?.call(node, new ErrorEvent("processorerror"));
  });
  await expect(page.getByText(/^The sound has stopped: the engine stopped by itself/)).toBeVisible({ timeout: 1000 });
  await expect(page.getByRole("button", { name: "Play", exact: true })).toBeVisible();
  await page.getByRole("button", { name: "Start the sound again" }).click();
  await expect(page.getByText(/^The sound has/)).toBeHidden();
  await play(page);
  await sounds(page);

  await page.evaluate(() => (window as unknown as Spied).tapped.node.context.close());
  await expect(page.getByText(/^The sound has stopped: the browser closed it/)).toBeVisible({ timeout: 1000 });
  await play(page);
  await sounds(page);

  await page.evaluate(() => (window as unknown as Spied).tapped.node.context.suspend());
  await expect(page.getByText(/^The sound has paused: the browser has paused it/)).toBeVisible({ timeout: 1000 });
  await page.getByRole("button", { name: "Go on" }).click();
  await sounds(page);
  await expect(page.getByText(/^The sound has/)).toBeHidden();
  // Those that failed were closed: one is left.
  expect((await running(page)).filter((state) => state !== "closed")).toEqual(["running"]);
});

test("a device that does not start is told, and leaves no context behind", async ({ studio: page }) => {
  await page.addInitScript(spyContexts);
  await page.addInitScript(() => {
    AudioContext.prototype.resume = () => new Promise(() => undefined);
  });
  await openStudio(page);
  await page.getByRole("button", { name: /^Notes/ }).click();
  await page.getByRole("button", { name: "Play", exact: true }).click();
  await expect(page.getByRole("button", { name: "Starting" })).toBeVisible();
  await expect(page.getByText(/The sound could not be started: the browser does not start its sound/)).toBeVisible();
  await expect(page.getByRole("button", { name: "Play", exact: true })).toBeVisible();
  expect(await running(page)).toEqual(["closed"]);
});

test("without shared memory the playhead runs, the meter moves and the sound is the same", async ({ studio: page }) => {
  await page.addInitScript(() => Reflect.deleteProperty(window, "SharedArrayBuffer"));
  await openStudio(page);
  await play(page);
  await sounds(page);
  await page.waitForFunction(
    () => Number(document.querySelector<HTMLElement>("[data-testid=playhead]")?.dataset["tick"]) > 480,
  );
  await expect(page.getByTestId("engine")).toContainText(/[1-9]\d* voices?/);
  await expect(page.getByLabel("Output level")).not.toContainText("silent");
  // A worklet that hangs reports nothing any more.
  const listen = (on: boolean): Promise<void> =>
    page.evaluate((to) => {
      const { port } = (window as unknown as Spied).tapped.node;
      const spied = window as unknown as { kept: typeof port.onmessage };
      if (!to) spied.kept = port.onmessage;
      port.onmessage = to ? spied.kept : null;
    }, on);
  const stopped = page.getByText(/^The sound has stopped: the engine does not answer/);
  /** Told within two seconds: asked in every frame, where an expectation pauses for one of them. */
  const told = (): Promise<unknown> =>
    page.waitForFunction(
      () => document.body.innerText.includes("The sound has stopped: the engine does not answer"),
      null,
      { timeout: 2000, polling: "raf" },
    );
  await listen(false);
  await told();
  // One that was only late goes on by itself.
  await listen(true);
  await expect(stopped).toBeHidden();
  await expect(page.getByRole("button", { name: "Stop", exact: true })).toBeVisible();
  await listen(false);
  await told();
  await play(page);
  await sounds(page);
});
