import { delayOf } from "@/core/dsp/limiter";
import { compileProject } from "@/core/engine/compile";
import { NoteLog, renderNow } from "@/core/engine/render";
import { readMidi } from "@/core/format/midi";
import { demoProject } from "@/core/patch/demo";
import wavefile from "wavefile";
import {
  downloaded,
  expect,
  forget,
  fromOnset,
  openStudio,
  recording,
  rms,
  saved,
  slider,
  soloRigging,
  test,
  typeValue,
} from "./studio";

/** Energy above about a third of the band, by first differences: a measure of how open the filter is. */
const brightness = (x: Float32Array): number => {
  const bent = x.map((v, i) => (i < 2 ? 0 : v - 2 * x[i - 1]! + x[i - 2]!));
  return rms(bent) / rms(x);
};

test("the demo sounds in the first block after Play, and to the last sample as it is rendered in Node", async ({
  studio: page,
}) => {
  await openStudio(page);
  await expect(page.getByText("Night Crossing")).toBeVisible();
  await page.keyboard.press("Space");
  const { left, sampleRate } = await recording(page, 2.2);
  expect(20 * Math.log10(rms(left))).toBeGreaterThan(-30);

  const log = new NoteLog(["rigging", "wake", "mist"]);
  const node = renderNow(compileProject(demoProject("any")), {
    sampleRate,
    bars: 2,
    tail: "cut",
    backing: true,
    listener: log,
  });
  const count = Math.floor(2 * sampleRate);
  // The limiter looks ahead: what is played is that much later than the render, which takes the delay out.
  const delay = delayOf(sampleRate);
  expect(left.subarray(delay, delay + count)).toEqual(node.left.subarray(0, count));
  // Every sixteenth of the swung grid starts a note.
  const sixteenth = 60 / 122 / 4;
  const onsets = log.notes
    .filter((n) => n.part === "rigging")
    .slice(0, 8)
    .map((n) => n.onSample / sampleRate);
  onsets.forEach((sec, i) => expect(sec).toBeCloseTo((Math.floor(i / 2) * 2 + (i % 2 ? 1.08 : 0)) * sixteenth, 3));

  await expect.poll(() => page.getByTestId("playhead").getAttribute("data-tick").then(Number)).toBeGreaterThan(1000);
  await expect(page.getByTestId("phase")).toBeVisible();
  await expect(page.getByTestId("peak")).toHaveText(/−\d+\.\d dB/);
  await page.keyboard.press("Space");
  await expect(page.getByRole("button", { name: "Play", exact: true })).toBeVisible();
  await forget(page);
  await expect.poll(() => page.getByTestId("engine").textContent(), { timeout: 5000 }).toContain("0 voices");
});

test("the playhead runs with the song, however far the score is zoomed and whatever is repeated", async ({
  studio: page,
}) => {
  await openStudio(page);
  const ruler = page.getByTestId("ruler");
  const tick = (): Promise<number> => page.getByTestId("playhead").getAttribute("data-tick").then(Number);
  /** How far the line stands from where the position belongs on a ruler that shows so many ticks, in px. */
  const beside = (from: number, ticks: number): Promise<number> =>
    page.evaluate(
      ({ from, ticks }) => {
        const line = document.querySelector<HTMLElement>("[data-testid=playhead]")!;
        const grid = document.querySelector("[data-testid=ruler]")!.getBoundingClientRect();
        const belongs = grid.left + ((Number(line.dataset["tick"]) - from) / ticks) * grid.width;
        return Math.abs(line.getBoundingClientRect().left - belongs);
      },
      { from, ticks },
    );
  const loop = Number(await ruler.getAttribute("aria-valuemax"));
  // 100 ms of the song: the sound's clock goes by blocks, and the page asks once a frame.
  const pxOf100ms = ((960 * 122) / 600 / loop) * (await ruler.boundingBox())!.width;
  await page.keyboard.press("Space");
  await expect.poll(tick).toBeGreaterThan(700);
  expect(await beside(0, loop)).toBeLessThan(pxOf100ms);
  await page.getByRole("button", { name: "Zoom in" }).click();
  await page.getByRole("button", { name: "Zoom in" }).click();
  const overview = page.getByRole("scrollbar");
  await overview.focus();
  for (let i = 0; i < 8; i++) await page.keyboard.press("PageUp");
  await expect(overview).toHaveAttribute("aria-valuenow", "0");
  expect(await beside(0, loop / 4)).toBeLessThan(4 * pxOf100ms);
  // Of a quarter of the loop, the first beat is repeated.
  await page.keyboard.press("Home");
  await ruler.focus();
  await page.keyboard.press("[");
  let before = 0;
  let turns = 0;
  await expect
    .poll(
      async () => {
        const now = await tick();
        if (now < before) turns++;
        before = now;
        return turns;
      },
      { intervals: [60] },
    )
    .toBeGreaterThan(2);
  expect(before).toBeLessThanOrEqual(960);
  expect(await beside(0, loop / 4)).toBeLessThan(4 * pxOf100ms);
  await page.keyboard.press("Space");
  await expect.poll(() => beside(0, loop / 4)).toBeLessThan(1);
});

test("a point that is dragged changes the sound at its beat, and nowhere else", async ({ studio: page }) => {
  await openStudio(page);
  await soloRigging(page);
  await page.keyboard.press("Space");
  const before = await recording(page, 2.1);
  await page.keyboard.press("Space");

  // The first point lies at the bottom of the value range.
  const bottom = (await page.locator("[data-point='0']").boundingBox())!.y + 5;
  const peakPoint = page.locator("[data-point='3']");
  const at = (await peakPoint.boundingBox())!;
  await page.mouse.move(at.x + 5, at.y + 5);
  await page.mouse.down();
  await page.mouse.move(at.x + 5, at.y + 60, { steps: 4 });
  await page.mouse.move(at.x + 5, bottom, { steps: 8 });
  await expect(page.getByTestId("read-out")).toContainText("1.2.1");
  await expect(page.getByTestId("read-out")).toContainText("0.00 oct, 420 Hz");
  await page.mouse.up();
  // A drag up or down leaves the point's time alone.
  const after = (await peakPoint.boundingBox())!;
  expect(Math.abs(after.x - at.x)).toBeLessThan(0.5);

  await expect.poll(() => page.getByTestId("engine").textContent()).toContain("0 voices");
  await forget(page);
  await page.keyboard.press("Space");
  const edited = await recording(page, 2.1);
  const beat = (r: typeof before, beats: number): Float32Array => {
    const from = Math.round((beats * 60 * r.sampleRate) / 122);
    return fromOnset(r).subarray(from, from + Math.round(0.1 * r.sampleRate));
  };
  // The point stands on the second beat of each half bar.
  expect(brightness(beat(edited, 1))).toBeLessThan(0.6 * brightness(beat(before, 1)));
  expect(brightness(beat(edited, 3))).toBeLessThan(0.6 * brightness(beat(before, 3)));
  expect(brightness(beat(edited, 0.25)) / brightness(beat(before, 0.25))).toBeCloseTo(1, 6);

  await page.keyboard.press("Control+z");
  await expect.poll(async () => Math.abs((await peakPoint.boundingBox())!.y - at.y)).toBeLessThan(0.5);
  await page.keyboard.press("Control+Shift+z");
  await expect.poll(async () => (await peakPoint.boundingBox())!.y).toBeCloseTo(after.y, 0);
});

test("the tempo changes while it plays, without a click and without a new start", async ({ studio: page }) => {
  await openStudio(page);
  await typeValue(page, "Tempo", "90");
  await expect(slider(page, "Tempo")).toHaveAttribute("aria-valuenow", "90");
  await page.keyboard.press("Space");
  await recording(page, 0.8);
  await forget(page);
  await typeValue(page, "Tempo", "180");
  const { left } = await recording(page, 1.2);
  const steps = left.map((v, i) => (i === 0 ? 0 : Math.abs(v - left[i - 1]!)));
  // A click is a step far above what the sound itself does.
  const sorted = [...steps].sort((a, b) => a - b);
  expect(sorted.at(-1)!).toBeLessThan(12 * sorted[Math.floor(sorted.length * 0.99)]!);
  await expect(page.getByTestId("playhead")).toHaveAttribute("data-tick", /^[1-9]\d{2,}/);
});

test("sound and MIDI are exported as they are heard", async ({ studio: page }) => {
  await openStudio(page);
  await page.getByRole("link", { name: "Send out" }).click();
  const wavFile = page.waitForEvent("download");
  await page.getByRole("button", { name: "Export WAV" }).click();
  const wav = new wavefile.WaveFile(await downloaded(wavFile));
  expect((await wavFile).suggestedFilename()).toBe("Night Crossing 122 BPM.wav");
  const [left] = wav.getSamples(false, Float64Array) as unknown as [Float64Array];
  expect(left).toHaveLength(Math.round((16 * 60 * 48_000) / 122));
  const node = renderNow(compileProject(demoProject("any")), { sampleRate: 48_000, bars: 4, tail: "wrap" });
  const furthest = left.reduce((worst, v, i) => Math.max(worst, Math.abs(v / 8388607 - node.left[i]!)), 0);
  expect(furthest).toBeLessThan(1e-6);
  await expect(page.getByRole("status").filter({ hasText: "frames" })).toContainText("peak");

  const midiFile = page.waitForEvent("download");
  await page.getByRole("button", { name: "Export MIDI" }).click();
  const midi = readMidi(await downloaded(midiFile));
  expect(midi).toMatchObject({ ok: true, file: { meter: { beats: 4, unit: 4 } } });
  if (midi.ok) {
    expect(midi.file.notes).toHaveLength(64);
    expect(midi.file.tempoBpm).toBeCloseTo(122, 3);
    expect(midi.file.notes.slice(0, 2).map((n) => n.onTick)).toEqual([0, 259]);
  }

  await page.getByRole("spinbutton", { name: "Bars" }).fill("256");
  await page.getByRole("button", { name: "Export WAV" }).click();
  await page.getByRole("button", { name: "Cancel" }).click();
  await expect(page.getByText("Cancelled. No file was made.")).toBeVisible();
});

test("from an empty project to a wobble, by keyboard alone", async ({ studio: page }) => {
  await openStudio(page);
  await page.getByRole("link", { name: "Shelf" }).focus();
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "New project" }).focus();
  await page.keyboard.press("Enter");
  // The shelf may still be in sight, with the same name in its list.
  await expect(page.locator("header")).toContainText("Untitled");
  await page.getByRole("application", { name: /^Notes: 0/ }).focus();
  for (const key of ["Enter", "ArrowDown", "ArrowDown", "Alt+ArrowRight", "Alt+ArrowRight"])
    await page.keyboard.press(key);
  await expect(page.getByRole("application", { name: /^Notes: 1/ })).toBeVisible();
  await page.getByRole("button", { name: "Add a shape" }).focus();
  await page.keyboard.press("Enter");
  await typeValue(page, "Rate", "1/8T");
  await expect(slider(page, "Rate")).toHaveAttribute("aria-valuetext", /1\/8T/);
  await page.getByRole("combobox", { name: "Add a target" }).focus();
  await page.getByRole("combobox", { name: "Add a target" }).selectOption("filter.cutoff");
  await page.keyboard.press("Enter");
  await expect(slider(page, "Amount")).toBeFocused();
  await typeValue(page, "Amount", "3");
  await expect(page.getByText("at rest 1.20 kHz, reaches 9.60 kHz")).toBeVisible();
  await page.keyboard.press("Space");
  const { left } = await recording(page, 0.5);
  expect(rms(left)).toBeGreaterThan(0.001);
  await saved(page);
});

test("a browser without SIMD is told so, and keeps its project", async ({ studio: page }) => {
  await page.addInitScript(() => {
    WebAssembly.validate = () => false;
  });
  await openStudio(page);
  await page.keyboard.press("Space");
  await expect(page.getByText(/could not be started: this browser lacks WebAssembly SIMD/)).toBeVisible();
  await typeValue(page, "Tempo", "101");
  await saved(page);
});
