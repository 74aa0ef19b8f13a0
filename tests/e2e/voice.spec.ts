import type { Page } from "@playwright/test";
import { expect, forget, openStudio, recording, rms, saved, slider, strength, test, typeValue } from "./studio";

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
