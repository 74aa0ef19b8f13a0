import type { Locator, Page } from "@playwright/test";
import { Hands } from "./counted";
import { expect, forget, openStudio, recording, rms, saved, slider, strength, test, typeValue } from "./studio";

/** A held A3 as a plain sine, so that its pitch can be measured. */
async function heldSine(hands: Hands, page: Page): Promise<void> {
  await hands.begin();
  await hands.click("A note");
  await hands.set("Length", "4/1");
  await hands.click(/^Oscillator/);
  await hands.choose("Wave of Oscillator", "sine");
  await page.evaluate(() => undefined);
}

/** The strongest of some frequencies in a stretch of what was played. */
function pitchAt({ left, sampleRate }: { left: Float32Array; sampleRate: number }, from: number, sec: number, of: readonly number[]): number {
  const part = left.subarray(Math.round(from * sampleRate), Math.round((from + sec) * sampleRate));
  return of.reduce((best, hz) => (strength(part, hz, sampleRate) > strength(part, best, sampleRate) ? hz : best));
} // prettier-ignore

/** A number as the page writes it. */
const numberIn = (text: string): number => Number(text.replace("−", "-"));

const SEMITONES = Array.from({ length: 13 }, (_, i) => 220 * 2 ** (i / 12));

test("a line of steps on the pitch: drawn across, typed, held, and heard to the semitone", async ({ studio: page }) => {
  const hands = new Hands(page);
  await heldSine(hands, page);
  await hands.click("Add a step sequence");
  await hands.set("Steps", "4");
  await hands.set("Rate", "1/4");
  await hands.move("Pitch", "12");
  // The values are read as what they make of the pitch: typed for chosen steps, with their interval.
  const editor = page.getByTestId("steps-editor");
  await editor.focus();
  for (const [i, semitones] of [0, 7, 12, 3].entries()) {
    await page.keyboard.press("ArrowRight");
    await expect(page.getByRole("heading", { name: `Step ${i + 1}` })).toBeVisible();
    await typeValue(page, "Value", `${semitones}/12`);
    await editor.focus();
  }
  await forget(page);
  await hands.click("Play");
  const line = await recording(page, 2);
  expect([0, 1, 2, 3].map((i) => SEMITONES.indexOf(pitchAt(line, i * 0.5 + 0.1, 0.3, SEMITONES)))).toEqual([0, 7, 12, 3]);
  // The third step holds on to the second; one stroke draws a rise over the first bar.
  await editor.focus();
  await page.keyboard.press("ArrowLeft");
  await expect(page.getByRole("heading", { name: "Step 3" })).toBeVisible();
  await page.keyboard.press("h");
  await page.getByRole("button", { name: "Stop" }).click();
  await forget(page);
  await hands.click("Play");
  const held = await recording(page, 2);
  expect(SEMITONES.indexOf(pitchAt(held, 1.1, 0.3, SEMITONES))).toBe(7);
  await editor.focus();
  await page.keyboard.press("h");
  const box = (await editor.boundingBox())!;
  const bar = (box.width) / 4;
  await page.mouse.move(box.x + 3, box.y + box.height - 32);
  await page.mouse.down();
  await page.mouse.move(box.x + bar - 4, box.y + 8, { steps: 8 });
  await page.mouse.up();
  const values: number[] = [];
  for (let i = 0; i < 4; i++) {
    await editor.focus();
    await page.keyboard.press("Escape");
    for (let k = 0; k <= i; k++) await page.keyboard.press("ArrowRight");
    values.push(Number(await slider(page, "Value").getAttribute("aria-valuenow")));
  }
  expect([...values].sort((a, b) => a - b)).toEqual(values);
  expect(values[3]! - values[0]!).toBeGreaterThan(50);
  // Every value lies on a semitone.
  for (const v of values) expect(Math.abs((v * 12) / 100 - Math.round((v * 12) / 100))).toBeLessThan(0.01);
}); // prettier-ignore

test("chance moves each note, a macro scales it from none to full, and the book of moves tells it all", async ({ studio: page }) => {
  const hands = new Hands(page);
  await heldSine(hands, page);
  await hands.click("Add a random");
  await hands.set("Rate", "1/4");
  await hands.move("Pitch", "12");
  await hands.click("Add a macro");
  await page.getByRole("link", { name: "Moves" }).click();
  const pitch = page.getByRole("region", { name: "Pitch, Oscillator" });
  await expect(pitch.getByText("at rest as played")).toBeVisible();
  const heard = pitch.getByRole("img", { name: /^Pitch, as heard: / });
  await expect(heard).toHaveAttribute("aria-label", /as heard: A3 to|as heard: .*[34] to .*[34]/);
  // Scaled by a macro at nothing, it stands; the line itself says so.
  await pitch.getByLabel("What scales Random to Pitch").selectOption({ label: "Macro 1" });
  await expect(heard).toHaveAttribute("aria-label", "Pitch, as heard: A3");
  await forget(page);
  await page.getByRole("button", { name: "Play", exact: true }).click();
  const still = await recording(page, 1);
  expect(SEMITONES.indexOf(pitchAt(still, 0.2, 0.7, SEMITONES))).toBe(0);
  expect(rms(still.left)).toBeGreaterThan(0.01);
  await page.getByRole("link", { name: "Score" }).click();
  await page.getByRole("button", { name: /^Macro 1 0/ }).click();
  const pad = page.getByTestId("macro-pad");
  const box = (await pad.boundingBox())!;
  await page.mouse.click(box.x + box.width - 3, box.y + box.height / 2);
  await expect(slider(page, "Value")).toHaveAttribute("aria-valuenow", "100");
  // Below the curve stands what is added, in semitones: as far from A3 as the note that is heard there.
  await page.getByRole("button", { name: /^Pitch, as heard/ }).click();
  await page.getByRole("button", { name: "what adds to it" }).click();
  const added = page.getByRole("list", { name: "What adds to it" });
  const curve = added.getByRole("img", { name: /^What Random adds: from \+?0\.0 st to \+12\.0 st/ });
  const keys = "A3 A♯3 B3 C4 C♯4 D4 D♯4 E4 F4 F♯4 G4 G♯4 A4".split(" ");
  /** What stands at a share of the curve's width once it has such a form: what adds is told when it was worked out, its line stands before. */
  const toldAt = async (share: number, below: number, readOut: Locator, form: RegExp): Promise<RegExpExecArray> => {
    await expect(async () => {
      const place = (await curve.boundingBox())!;
      await page.mouse.move(place.x + share * place.width, place.y + below);
      expect(await readOut.textContent()).toMatch(form);
    }).toPass();
    return form.exec((await readOut.textContent())!)!;
  };
  for (const share of [0.1, 0.4, 0.6, 0.9]) {
    const [, adds] = await toldAt(share, 17, added.getByTestId("strip-read-out"), /([+−]?[\d.]+) st$/);
    const semitones = numberIn(adds!);
    const heardThere = page.getByTestId("strip-read-out").filter({ visible: true });
    const [told, key, cents = "0"] = await toldAt(share, -40, heardThere, /  ([A-G]♯?\d)(?: ([+−]\d+) ct)?$/);
    // One is told to a tenth of a semitone, the other to a cent.
    expect(Math.abs(keys.indexOf(key!) + numberIn(cents) / 100 - semitones), told).toBeLessThan(0.056);
  }
  await page.getByRole("link", { name: "Moves" }).click();
  await expect(heard).not.toHaveAttribute("aria-label", "Pitch, as heard: A3");
  // One source onto two values in one action, then both amounts at once, then one from where to where.
  await page.getByRole("button", { name: "Add routes" }).click();
  const dialog = page.getByRole("dialog", { name: "Move values with a source" });
  await dialog.getByLabel("Source").selectOption({ label: "Macro 1" });
  await dialog.getByLabel("Find a value").fill("filter");
  await dialog.getByRole("checkbox", { name: "Filter: cutoff" }).check();
  await dialog.getByRole("checkbox", { name: "Filter: resonance" }).check();
  await dialog.getByRole("button", { name: "Move 2 values" }).click();
  const chosen = page.getByRole("complementary", { name: "Chosen routes" });
  await expect(chosen.getByRole("heading", { name: "2 routes" })).toBeVisible();
  const cutoff = page.getByRole("slider", { name: "Amount of Macro 1 to Cutoff" });
  const before = Number(await cutoff.getAttribute("aria-valuenow"));
  await chosen.getByRole("slider", { name: "All amounts" }).dblclick();
  await page.keyboard.type("50");
  await page.keyboard.press("Enter");
  await expect(cutoff).toHaveAttribute("aria-valuenow", String(before / 2));
  await cutoff.dblclick();
  await page.keyboard.type("200 to 1.6k");
  await page.keyboard.press("Enter");
  await expect(cutoff).toHaveAttribute("aria-valuetext", "+3.00 oct");
  const book = page.getByRole("region", { name: "Cutoff, Filter" });
  await expect(book.getByText("at rest 200 Hz")).toBeVisible();
  await expect(book.getByText("1.60 kHz", { exact: true })).toBeVisible();
  // Any value that is moved can stand on the grid, in its unit; it goes again without a step of the history.
  await page.getByRole("region", { name: "Resonance, Filter" }).getByRole("link", { name: "on the grid" }).click();
  const strip = page.getByRole("listitem").filter({ hasText: "Resonance, as heard" });
  await expect(strip.getByRole("img", { name: /^Resonance, as heard: lowest [\d.]+ %, highest [\d.]+ %/ })).toBeVisible();
  await expect(page.getByRole("button", { name: "what adds to it" })).toBeVisible();
  await strip.hover();
  await strip.getByRole("button", { name: "Remove Resonance, as heard" }).click();
  await expect(strip).toHaveCount(0);
  await page.getByRole("link", { name: "Moves" }).click();
  // By what moves it; found by a word; taken away by key; brought back.
  await page.getByRole("radio", { name: "by what moves it" }).click();
  await expect(page.getByRole("region", { name: "Macro 1, macro" }).getByRole("listitem")).toHaveCount(2);
  await page.getByLabel("Find a source or a value").fill("cutoff");
  const line = page.getByRole("group", { name: /^Moves of/ }).getByRole("listitem");
  await expect(line).toHaveCount(1);
  await line.focus();
  await page.keyboard.press("Delete");
  await expect(page.getByText("No source and no value has such a name.")).toBeVisible();
  await page.keyboard.press("Control+z");
  await expect(line).toBeVisible();
  await saved(page);
}); // prettier-ignore

test("a value is automated in two actions, drawn, and written by hand while it plays", async ({ studio: page }) => {
  const hands = new Hands(page);
  await heldSine(hands, page);
  await hands.click(/^Filter low-pass/);
  const cutoff = slider(page, "Cutoff");
  await cutoff.click({ button: "right" });
  await page.getByRole("menuitem", { name: "Automate it over the loop" }).click();
  const strip = page.getByRole("button", { name: /^Cutoff of Filter automation/ });
  await expect(strip).toHaveAttribute("aria-pressed", "true");
  // The last point is typed: the cutoff then falls from where it was to 100 Hz, in octaves.
  const editor = page.getByRole("application", { name: /^Cutoff of Filter/ });
  await editor.focus();
  await page.keyboard.press("[");
  await expect(page.getByText("Point 2 of 2")).toBeVisible();
  await typeValue(page, "Value", "100");
  await expect(page.getByRole("img", { name: /^Cutoff, as heard: lowest 10\d Hz/ })).toBeVisible();
  await forget(page);
  await page.getByRole("button", { name: "Play", exact: true }).click();
  const falling = await recording(page, 7.5);
  const loud = (from: number): number => rms(falling.left.subarray(from * falling.sampleRate, (from + 0.4) * falling.sampleRate));
  expect(loud(7)).toBeLessThan(0.5 * loud(0.2));
  // What a hand does now is written where it is heard.
  await page.getByRole("button", { name: "Write while it plays" }).click();
  await hands.click(/^Filter low-pass/);
  const box = (await cutoff.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  for (let i = 0; i < 6; i++) await page.mouse.move(box.x + box.width / 2 + 8 * i, box.y + box.height / 2, { steps: 3 });
  await page.mouse.up();
  await strip.click();
  await expect(page.getByText(/automation, .*, ([4-9]|\d\d) points/)).toBeVisible();
  // One step of undo takes the whole stroke back.
  await page.keyboard.press("Control+z");
  await expect(page.getByText(/automation, .*, 2 points/)).toBeVisible();
}); // prettier-ignore

test("the stretch that repeats while a note is held is dragged by its ends, on the snap or off it", async ({
  studio: page,
}) => {
  await openStudio(page);
  await page
    .getByRole("list", { name: "Strips of the score" })
    .getByRole("button", { name: /^Swell/ })
    .click();
  await page.getByRole("radio", { name: "once a note" }).click();
  await page.getByRole("radio", { name: "repeats" }).click();
  const from = slider(page, "Held from");
  await expect(from).toHaveAttribute("aria-valuetext", "25.0 %");
  const points = await page.locator("[data-point]").count();
  const drag = async (name: string, by: number): Promise<void> => {
    const { x, y, width, height } = (await page.locator(`[data-grip="${name}"]`).boundingBox())!;
    await page.mouse.move(x + width / 2, y + height / 2);
    await page.mouse.down();
    await page.mouse.move(x + width / 2 + by, y + height / 2, { steps: 4 });
    await page.mouse.up();
  };
  // A cycle of half a note is eight snaps of a sixteenth.
  await drag("Held from", -100);
  await expect(from).toHaveAttribute("aria-valuetext", "12.5 %");
  await page.keyboard.down("Shift");
  await drag("Held to", 37);
  await page.keyboard.up("Shift");
  await expect(slider(page, "Held to")).not.toHaveAttribute("aria-valuetext", /^(50|62\.5)/);
  await page.keyboard.press("Control+z");
  await expect(slider(page, "Held to")).toHaveAttribute("aria-valuetext", "50.0 %");
  await page.keyboard.press("Control+z");
  await expect(from).toHaveAttribute("aria-valuetext", "25.0 %");
  expect(await page.locator("[data-point]").count()).toBe(points);
});
