import { writeWav } from "../../src/core/format/wav";
import type { Locator, Page } from "@playwright/test";
import {
  downloaded,
  expect,
  forget,
  openStudio,
  recording,
  rms,
  saved,
  slider,
  strength,
  test,
  typeValue,
} from "./studio";

/** What sounds now: half a second of it. */
async function heard(page: Page): Promise<(hz: number) => number> {
  await forget(page);
  const { left, sampleRate } = await recording(page, 0.5);
  return (hz) => strength(left, hz, sampleRate);
}

/** An empty project whose only note is A3 as long as the loop, its voice open and playing past the filter. */
async function openVoice(page: Page): Promise<void> {
  await openStudio(page);
  await page.getByRole("link", { name: "Shelf" }).click();
  await page.getByRole("button", { name: "New project" }).click();
  await page.getByRole("button", { name: "A note" }).click();
  await typeValue(page, "Length", "4/1");
  await page.getByRole("button", { name: "Part 1 saw" }).click();
  await expect(page.getByRole("region", { name: "Route map" })).toBeVisible();
  await page.getByRole("checkbox", { name: "Oscillator goes to Amp" }).click();
  await page.getByRole("checkbox", { name: "Oscillator goes to Filter" }).click();
  await expect(page.getByRole("checkbox", { name: "Oscillator goes to Amp" })).toHaveAttribute("aria-checked", "true");
  await page.getByRole("button", { name: "Play", exact: true }).click();
}

test("waves are stepped through, bent and turned while the loop plays, and each is heard", async ({ studio: page }) => {
  await openVoice(page);
  const saw = await heard(page);
  expect(saw(440) / saw(220)).toBeCloseTo(0.5, 1);
  const wave = page.getByLabel("Wave of Oscillator", { exact: true });
  await wave.selectOption("sine");
  await expect.poll(async () => (await heard(page))(440)).toBeLessThan(1e-3);
  // FM by its own modulator of the same pitch: harmonics come.
  await page.getByText("Turned and rung").click();
  await typeValue(page, "Turned within", "2 rad");
  await expect.poll(async () => { const at = await heard(page); return at(660) / at(220); }).toBeGreaterThan(0.1);
  await slider(page, "Turned within").press("Backspace");
  await expect.poll(async () => (await heard(page))(660)).toBeLessThan(1e-3);
  await page.getByText("Bends", { exact: true }).click();
  await page.getByLabel("First of Oscillator").selectOption("fold");
  await typeValue(page, "First bend", "40");
  await expect(page.getByRole("img", { name: "Wave of Oscillator: sine, folded" })).toBeVisible();
  await expect.poll(async () => { const at = await heard(page); return at(660) / at(220); }).toBeGreaterThan(0.2);
  await page.getByLabel("First of Oscillator").selectOption("none");
  // A table, stepped by key, from the sine of its first frame to another table.
  await wave.selectOption("table");
  const table = page.getByLabel("Table of Oscillator");
  await expect(table).toHaveValue("plain");
  await typeValue(page, "Position", "100");
  await expect.poll(async () => { const at = await heard(page); return at(660) / at(220); }).toBeGreaterThan(0.3);
  await table.focus();
  await page.keyboard.press("ArrowDown");
  await expect(table).toHaveValue("widths");
  // A needle: harmonics hardly fall.
  await expect.poll(async () => { const at = await heard(page); return at(2200) / at(220); }).toBeGreaterThan(0.5);
  await saved(page);
  await page.reload();
  await expect(page.getByLabel("Table of Oscillator")).toHaveValue("widths");
}); // prettier-ignore

test("sources side by side: heard alone, compared with how they were, copied, evened, sent elsewhere, removed", async ({
  studio: page,
}) => {
  await openVoice(page);
  await page.getByLabel("Wave of Oscillator", { exact: true }).selectOption("sine");
  await page.getByRole("button", { name: "+ oscillator" }).click();
  const second = page.getByRole("region", { name: "Oscillator 2" });
  await second.getByLabel("Wave of Oscillator 2", { exact: true }).selectOption("sine");
  await second.getByRole("slider", { name: "Octave", exact: true }).press("ArrowUp");
  await expect.poll(async () => (await heard(page))(440)).toBeGreaterThan(0.02);
  await page.getByRole("button", { name: "Hear Oscillator alone" }).click();
  await expect.poll(async () => (await heard(page))(440)).toBeLessThan(1e-3);
  await page.getByRole("button", { name: "Hear Oscillator alone" }).click();
  await expect.poll(async () => (await heard(page))(440)).toBeGreaterThan(0.02);
  // How it was kept is heard as long as the key is held; the project stays as it is.
  await second.getByRole("button", { name: "keep" }).click();
  await second.getByRole("slider", { name: "Octave", exact: true }).press("ArrowUp");
  await expect.poll(async () => (await heard(page))(880)).toBeGreaterThan(0.02);
  await second.getByRole("button", { name: "as kept" }).focus();
  await page.keyboard.down("Enter");
  await expect.poll(async () => (await heard(page))(880)).toBeLessThan(1e-3);
  await page.keyboard.up("Enter");
  await expect.poll(async () => (await heard(page))(880)).toBeGreaterThan(0.02);
  // Its values go to the first one.
  await second.getByRole("button", { name: "What can be done with Oscillator 2" }).click();
  await page.getByRole("menuitem", { name: "Copy" }).click();
  await page.getByRole("button", { name: "What can be done with Oscillator", exact: true }).click();
  await page.getByRole("menuitem", { name: "Paste the values of Oscillator 2" }).click();
  await expect.poll(async () => (await heard(page))(220)).toBeLessThan(1e-3);
  await page.keyboard.press("Control+z");
  // One value on all of them.
  await second.getByRole("slider", { name: "Level", exact: true }).click({ button: "right" });
  await page.getByRole("menuitem", { name: "Set on all oscillators" }).click();
  // Values that are chosen together: typed they are one, by keys they go by the same step; one undo takes both back.
  const levels = [page.getByRole("region", { name: "Oscillator", exact: true }), second].map((r) => r.getByRole("slider", { name: "Level", exact: true })); // prettier-ignore
  const [firstLevel, secondLevel] = levels as [Locator, Locator];
  await firstLevel.dblclick();
  await page.keyboard.type("-6");
  await page.keyboard.press("Enter");
  for (const l of levels) await l.click({ modifiers: ["Control"], position: { x: 20, y: 10 } });
  await secondLevel.press("ArrowDown");
  await expect(firstLevel).toHaveAttribute("aria-valuenow", "-7");
  await expect(secondLevel).toHaveAttribute("aria-valuenow", "-1");
  await page.keyboard.press("Control+z");
  await expect(firstLevel).toHaveAttribute("aria-valuenow", "-6");
  await expect(secondLevel).toHaveAttribute("aria-valuenow", "0");
  await secondLevel.press("Enter");
  await page.keyboard.type("-12");
  await page.keyboard.press("Enter");
  for (const l of levels) await expect(l).toHaveAttribute("aria-valuenow", "-12");
  await secondLevel.press("Escape");
  await secondLevel.press("ArrowUp");
  await expect(firstLevel).toHaveAttribute("aria-valuenow", "-12");
  await expect(secondLevel).toHaveAttribute("aria-valuenow", "-11");
  // By keyboard alone: another way, and gone.
  await page.getByRole("checkbox", { name: "Oscillator 2 goes to Filter" }).focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("checkbox", { name: "Oscillator 2 goes to Filter" })).toHaveAttribute(
    "aria-checked",
    "true",
  );
  await second.getByRole("button", { name: "What can be done with Oscillator 2" }).focus();
  await page.keyboard.press("Delete");
  await expect(second).toBeHidden();
  await expect.poll(async () => (await heard(page))(880)).toBeLessThan(1e-3);
});

test("filters of every type, and a value that is moved from where it stands", async ({ studio: page }) => {
  await openVoice(page);
  await page.getByRole("checkbox", { name: "Oscillator goes to Filter" }).click();
  await page.getByRole("checkbox", { name: "Oscillator goes to Amp" }).click();
  const type = page.getByLabel("Type of Filter");
  for (const of of await type.locator("option").all()) {
    const value = (await of.getAttribute("value"))!;
    await type.selectOption(value);
    await expect.poll(async () => { await forget(page); return rms((await recording(page, 0.2)).left); }, value).toBeGreaterThan(1e-3);
  }
  await type.selectOption("hp24");
  await typeValue(page, "Cutoff", "A5");
  await expect.poll(async () => { const at = await heard(page); return at(220) / at(880); }).toBeLessThan(0.05);
  await typeValue(page, "Mix", "0");
  await expect.poll(async () => { const at = await heard(page); return at(220) / at(880); }).toBeGreaterThan(2);
  // The value with the focus is moved from the panel beside it.
  await slider(page, "Drive").focus();
  const panel = page.getByRole("complementary", { name: "What moves it" });
  await expect(panel.getByRole("heading", { name: "Filter, drive" })).toBeVisible();
  await expect(panel.getByText("moved by nothing")).toBeVisible();
  await panel.getByLabel("Add a source").selectOption("velocity");
  await panel.getByRole("button", { name: "Add", exact: true }).click();
  await expect(panel.getByText("moved by 1")).toBeVisible();
}); // prettier-ignore

test("a recording is brought in, played by the keys, looped, cut into cycles, and goes along in the file", async ({ studio: page }) => {
  await openVoice(page);
  await page.getByRole("button", { name: "recording" }).click();
  const file = page.getByLabel("Sound file of Recording");
  await file.setInputFiles({ name: "notes.wav", mimeType: "audio/wav", buffer: Buffer.from("no sound at all") });
  await expect(page.getByText(/"notes.wav" could not be taken as a recording/)).toBeVisible();
  // Half a second of 330 Hz: at its root key, C4, as it is; the note is A3, three semitones lower.
  const rate = 32_000;
  const tone = Float32Array.from({ length: rate / 2 }, (_, i) => 0.5 * Math.sin((2 * Math.PI * 330 * i) / rate));
  await file.setInputFiles({ name: "Rope.wav", mimeType: "audio/wav", buffer: Buffer.from(writeWav([tone], { sampleRate: rate, bitDepth: 16 })) });
  await expect(page.getByText("Rope, 0.50 s, mono")).toBeVisible();
  await page.getByRole("button", { name: "Oscillator on", exact: true }).click();
  const panel = page.getByRole("region", { name: "Recording", exact: true });
  await panel.getByRole("radio", { name: "looped" }).click();
  const low = 330 * 2 ** (-3 / 12);
  await expect.poll(async () => (await heard(page))(low)).toBeGreaterThan(0.02);
  const root = panel.getByRole("slider", { name: "Root key" });
  await root.focus();
  await page.keyboard.press("Enter");
  await page.keyboard.type("A3");
  await page.keyboard.press("Enter");
  await expect(root).toHaveAttribute("aria-valuetext", "A3");
  await expect.poll(async () => { const at = await heard(page); return at(330) / at(low); }).toBeGreaterThan(5);
  // The same sound as cycles of an oscillator: 100 samples hold a little over one of its waves, heard at the note's own pitch.
  await page.getByRole("button", { name: "Recording on", exact: true }).click();
  await page.getByRole("button", { name: "Oscillator on", exact: true }).click();
  await page.getByLabel("Wave of Oscillator", { exact: true }).selectOption("cycles");
  await page.getByLabel("Cycles of Oscillator").setInputFiles({ name: "Rope.wav", mimeType: "audio/wav", buffer: Buffer.from(writeWav([tone], { sampleRate: rate, bitDepth: 16 })) });
  await typeValue(page, "Cycle", "97");
  await expect(page.getByText("164 cycles")).toBeVisible();
  await expect.poll(async () => { const at = await heard(page); return at(220) / at(330); }).toBeGreaterThan(5);
  await saved(page);
  await page.reload();
  await expect(page.getByText("Rope, 0.50 s, mono")).toHaveCount(2);
  await page.getByRole("link", { name: "Send out" }).click();
  const download = page.waitForEvent("download");
  await page.getByRole("button", { name: "Export project" }).click();
  const project = JSON.parse(String(await downloaded(download))) as { binaries: { hash: string }[]; content: Record<string, string> };
  expect(Object.keys(project.content)).toEqual(project.binaries.map((b) => b.hash));
  expect(project.binaries).toHaveLength(1);
}); // prettier-ignore
