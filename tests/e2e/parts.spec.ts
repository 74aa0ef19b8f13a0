import { writeFile } from "node:fs/promises";
import type { Page } from "@playwright/test";
import { oneNote, play } from "./counted";
import { expect, forget, openStudio, recording, rms, slider, strength, test, typeValue } from "./studio";

/** The loudest sample of what was played in the last fifth of a second. */
const lastPeak = (page: Page): Promise<number> =>
  page.evaluate(() => {
    const { blocks } = (window as unknown as { tapped: { blocks: { left: Float32Array }[] } }).tapped;
    return blocks.slice(-70).reduce((most, b) => b.left.reduce((m, v) => Math.max(m, Math.abs(v)), most), 0);
  });

/** Plays from silence: what was heard of a note as it was drawn is over. */
async function playFromSilence(page: Page): Promise<void> {
  await expect.poll(() => lastPeak(page)).toBe(0);
  await forget(page);
  await page.getByRole("button", { name: "Play", exact: true }).click();
}

async function newProject(page: Page): Promise<void> {
  await openStudio(page);
  await page.getByRole("link", { name: "Shelf" }).click();
  await page.getByRole("button", { name: "New project" }).click();
  await expect(page.getByRole("application", { name: /^Notes: 0/ })).toBeVisible();
}

test("a layer follows a part, transposed; parts are muted and soloed; what followed keeps its pattern", async ({
  studio: page,
}) => {
  await openStudio(page);
  for (const other of ["Wake", "Mist", "the backing"])
    await page.getByRole("button", { name: `Mute ${other}`, exact: true }).click();
  await page.getByRole("button", { name: "Rigging saw" }).click({ button: "right" });
  await page.getByRole("menuitem", { name: /^Layer/ }).click();
  await expect(page.getByText("Rigging 2 plays the notes and the arpeggio of Rigging.")).toBeVisible();
  await typeValue(page, "Transposed", "12");
  await page.getByRole("button", { name: "Play", exact: true }).click();
  await recording(page, 0.5);
  await page.getByRole("button", { name: "Mute Rigging", exact: true }).click();
  await expect.poll(() => lastPeak(page)).toBeGreaterThan(0.01);
  await page.getByRole("button", { name: "Mute Rigging 2" }).first().click();
  await expect.poll(() => lastPeak(page)).toBeLessThan(1e-4);
  // A solo is heard alone, but not through its own mute.
  await page.getByRole("button", { name: "Mute Rigging", exact: true }).click();
  await page.getByRole("button", { name: "Solo Rigging 2" }).first().click();
  await expect.poll(() => lastPeak(page)).toBeLessThan(1e-4);
  await page.getByRole("button", { name: "Mute Rigging 2" }).first().click();
  await expect.poll(() => lastPeak(page)).toBeGreaterThan(0.01);
  await page.getByRole("button", { name: "Rigging saw arpeggio" }).focus();
  await page.keyboard.press("Delete");
  await expect(page.getByRole("button", { name: "Rigging saw arpeggio" })).toBeHidden();
  await expect(page.getByRole("img", { name: "Notes: 12 notes, Dm, B♭, F, C" })).toBeVisible();
  await page.keyboard.press("Control+z");
  await expect(page.getByRole("button", { name: "Rigging saw arpeggio" })).toBeVisible();
});

test("a part as a whole goes down and up with a shape; its voice is emptied, its level stays", async ({
  studio: page,
}) => {
  const hands = await oneNote(page, "4/1", "A3");
  await hands.click(/^Oscillator/);
  await hands.choose("Wave of Oscillator", "sine");
  await hands.click("Add a shape");
  await hands.set("Rate", "1 bar");
  await hands.move("the part: level", "-40");
  // What moves it is seen on the grid without being asked for.
  await expect(page.getByRole("img", { name: /^Level, as heard: lowest −40\.0 dB, highest −?0\.\d dB/ })).toBeVisible();
  const { left, sampleRate } = await play(page, 2.1);
  const first = left.findIndex((v) => Math.abs(v) > 1e-3);
  const level = (sec: number): number => {
    const at = first + Math.round(sec * sampleRate);
    return 20 * Math.log10(rms(left.subarray(at, at + 960)));
  };
  // Two seconds down and up: a new shape's rise is bowed, so that it is past half-way after half a second.
  expect(level(0.5) - level(0)).toBeLessThan(-20);
  expect(level(0.5) - level(1)).toBeGreaterThan(3);
  expect(level(1) - level(0)).toBeLessThan(-37);
  expect(level(1.9) - level(0)).toBeGreaterThan(-8);
  // In the voice the part's own values stay in sight while they are set, with what moves them below.
  await page.getByRole("button", { name: /^Part 1/ }).first().click(); // prettier-ignore
  const panel = page.getByRole("complementary", { name: "What moves it" });
  await expect(panel.getByRole("heading", { name: "Level: moved by 1" })).toBeVisible();
  await panel.getByRole("slider", { name: "Level", exact: true }).first().dblclick();
  await page.keyboard.type("-9");
  await page.keyboard.press("Enter");
  const own = panel.getByRole("slider", { name: "Level", exact: true }).first();
  await expect(own).toHaveAttribute("aria-valuetext", "−9.0 dB");
  await page.getByRole("button", { name: "What can be done with the whole voice" }).click();
  await page.getByRole("menuitem", { name: "Empty the voice, keep the pattern" }).click();
  await expect(panel.getByRole("heading", { name: "Level: moved by 1" })).toHaveCount(0);
  await expect(own).toHaveAttribute("aria-valuetext", "−9.0 dB");
});

test("a sub goes past the filter: it stays when that is closed, and goes with its switch", async ({ studio: page }) => {
  await newProject(page);
  await page.getByRole("button", { name: "A note" }).click();
  // A3, for as long as the loop.
  await typeValue(page, "Length", "4/1");
  await page.getByRole("button", { name: "sub", exact: true }).click();
  await expect(page.getByRole("button", { name: "Sub goes to Amp" })).toHaveAttribute("aria-pressed", "true");
  await page.getByRole("button", { name: /^Filter/ }).first().click(); // prettier-ignore
  await typeValue(page, "Cutoff", "20");
  await playFromSilence(page);
  const { left, sampleRate } = await recording(page, 1.2);
  const settled = left.subarray(Math.round(0.4 * sampleRate));
  expect(strength(settled, 110, sampleRate)).toBeGreaterThan(20 * strength(settled, 220, sampleRate));
  await page.getByRole("button", { name: /^Sub/ }).first().click(); // prettier-ignore
  await page.getByRole("button", { name: "Sub on" }).click();
  await expect.poll(() => lastPeak(page)).toBeLessThan(0.1 * strength(settled, 110, sampleRate));
});

test("one note at a time in a tuning from a file: heard at its pitch, tied and gliding", async ({
  studio: page,
}, info) => {
  await newProject(page);
  await page.getByRole("button", { name: "A note" }).click();
  await typeValue(page, "Length", "1/1");
  await writeFile(info.outputPath("five.scl"), "Five equal steps\n5\n240.\n480.\n720.\n960.\n2/1\n");
  await page.getByLabel("Scala tuning").setInputFiles(info.outputPath("five.scl"));
  await expect(page.getByText("Five equal steps, 5 steps")).toBeVisible();
  await page.getByRole("button", { name: /^Oscillator/ }).first().click(); // prettier-ignore
  await page.getByLabel("Wave of Oscillator", { exact: true }).selectOption("sine");
  await playFromSilence(page);
  const { left, sampleRate } = await recording(page, 1);
  // Twelve steps of 240 cents under A4, which stays at 440 Hz.
  const tuned = 440 * 2 ** ((-12 * 240) / 1200);
  expect(strength(left, tuned, sampleRate)).toBeGreaterThan(20 * strength(left, 220, sampleRate));
  await page.keyboard.press("Space");
  await writeFile(info.outputPath("bad.scl"), "No scale\nfive\n");
  await page.getByRole("button", { name: /^Notes/ }).first().click(); // prettier-ignore
  await page.getByLabel("Scala tuning").setInputFiles(info.outputPath("bad.scl"));
  await expect(page.getByText('Line 2: "five" is no number of notes.')).toBeVisible();
  await page.getByRole("button", { name: "Equal", exact: true }).click();
  // Two notes that overlap: one voice glides from one to the other.
  await page.getByRole("button", { name: "Part 1 sine" }).click();
  // The score has such a choice, too, until the voice has come.
  const playing = page.getByRole("region", { name: "Playing and level" });
  await playing.getByRole("radio", { name: "one note" }).click();
  await page.getByRole("radio", { name: "tied" }).click();
  await typeValue(page, "Glide", "400 ms");
  await page.keyboard.press("k");
  await forget(page);
  await page.keyboard.down("z");
  await recording(page, 0.2);
  await page.keyboard.down("q");
  await forget(page);
  const gliding = await recording(page, 1);
  await page.keyboard.up("q");
  await page.keyboard.up("z");
  const early = gliding.left.subarray(0, Math.round(0.05 * sampleRate));
  const late = gliding.left.subarray(Math.round(0.6 * sampleRate));
  const [c3, c4] = [440 * 2 ** (-21 / 12), 440 * 2 ** (-9 / 12)];
  expect(strength(late, c4, sampleRate)).toBeGreaterThan(20 * strength(late, c3, sampleRate));
  expect(strength(early, c4, sampleRate)).toBeLessThan(0.7 * strength(late, c4, sampleRate));
  // It never fell silent between.
  for (let at = 0; at + 2000 < gliding.left.length; at += 2000)
    expect(rms(gliding.left.subarray(at, at + 2000))).toBeGreaterThan(0.3 * rms(late));
  await expect(slider(page, "Bend")).toBeVisible();
});
