import { fillTheLoop, Hands, oneNote, play, scale, typeSteps } from "./counted";
import { blocks, bright, part, rises, toDb } from "./measures";
import { downloaded, expect, fromOnset, rms, saved, slider, strength, test } from "./studio";

test("a wobble whose rate is automated in note values: from eighths to sixteenths, out of its valley with each note", async ({
  studio: page,
}) => {
  // What is typed is taken once: a key is where it was typed, not as far again.
  const hands = await oneNote(page, "2/1", "A1");
  await expect(slider(page, "Key")).toHaveAttribute("aria-valuetext", "A1");
  await slider(page, "Key").dblclick();
  await page.keyboard.type("A5");
  await page.keyboard.press("Escape");
  await expect(slider(page, "Key")).toHaveAttribute("aria-valuetext", "A1");
  await hands.click(/^Part 1/);
  await hands.click("+ oscillator");
  const second = page.getByRole("region", { name: "Oscillator 2" });
  await second.getByRole("slider", { name: "Octave", exact: true }).press("ArrowUp");
  await second.getByRole("slider", { name: "Fine", exact: true }).press("ArrowUp");
  hands.actions += 2;
  await hands.set("Cutoff", "150");
  await hands.click("Score", "link");
  await hands.click("Add a shape");
  await hands.click("each note", "radio");
  await hands.set("Starts at", "0");
  await hands.set("Rate", "1/8");
  await hands.move("Cutoff", "4");
  await slider(page, "Rate").click({ button: "right" });
  await hands.click("Automate it over the loop", "menuitem");
  hands.actions++;
  // A point in the middle of the first two bars, one above it: from there on twice as fast.
  const first = (await page.locator("[data-point='0']").boundingBox())!;
  const last = (await page.locator("[data-point='1']").boundingBox())!;
  const x = first.x + first.width / 2 + (last.x - first.x) / 4;
  const line = first.y + first.height / 2;
  await page.mouse.click(x, line);
  await page.mouse.click(x + 30, line - 30);
  hands.actions += 2;
  for (const [label, text] of [
    ["Position", "2.1"],
    ["Value", "1/16"],
  ] as const)
    await hands.set(label, text);
  await page.getByRole("button", { name: "What can be done with the whole curve" }).click();
  await hands.click("Hold each value until the next point", "menuitem");
  hands.actions++;
  const { left, sampleRate } = await play(page, 4);
  const half = 2 * sampleRate;
  // At 120 BPM eighths come four times a second, sixteenths eight times.
  const swings = (x: Float32Array): ((hz: number) => number) => {
    const line = Float32Array.from(bright(x, sampleRate, 55));
    const mean = line.reduce((sum, v) => sum + v, 0) / line.length;
    return (hz) => strength(line.map((v) => v - mean), hz, 100); // prettier-ignore
  };
  const [slow, fast] = [swings(left.subarray(0, half)), swings(left.subarray(half, 2 * half))];
  expect(slow(4)).toBeGreaterThan(2 * slow(8));
  expect(fast(8)).toBeGreaterThan(4 * fast(4));
  expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(45);
});

test(
  "a womp: a sine with harmonics turned within, a fifth above it past the comb, one note that glides",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await oneNote(page, "4/1", "A2");
    await hands.click(/^Part 1/);
    const region = (name: string) => page.getByRole("region", { name, exact: true });
    await hands.choose("Wave of Oscillator", "sine");
    await page.getByText("Turned and rung").first().click();
    hands.actions++;
    await hands.set("Turned within", "1.5 rad");
    await hands.set("Ratio", "3");
    await hands.click("+ oscillator");
    await hands.choose("Wave of Oscillator 2", "sine");
    await region("Oscillator 2").getByRole("slider", { name: "Pitch", exact: true }).dblclick();
    hands.actions++;
    await hands.type("7");
    await hands.click("+ filter");
    await hands.choose("Type of Filter", "comb");
    // The second source skips the comb and meets the first behind it.
    await page.getByRole("checkbox", { name: "Oscillator 2 goes to Filter 2" }).click();
    await page.getByRole("checkbox", { name: "Oscillator 2 goes to Filter", exact: true }).click();
    hands.actions += 2;
    await hands.click("one note", "radio");
    await hands.set("Glide", "80 ms");
    const { left, sampleRate } = await play(page, 2);
    const tail = left.subarray(sampleRate / 2);
    const at = (hz: number): number => strength(tail, hz, sampleRate);
    // 110 Hz, sidebands at 1 + 3k harmonics by Chowning's rule, a fifth at 164.8 Hz; none at 220 Hz.
    expect(at(440)).toBeGreaterThan(20 * at(275));
    expect(at(164.81)).toBeGreaterThan(0.01);
    expect(at(440)).toBeGreaterThan(5 * at(330));
    // Half of what leaves the comb goes past the second filter.
    await region("Filter").getByRole("slider", { name: "Onward", exact: true }).dblclick();
    hands.actions++;
    await hands.type("0");
    await region("Filter 2").getByRole("slider", { name: "Cutoff", exact: true }).dblclick();
    hands.actions++;
    await hands.type("60");
    const past = await play(page, 2);
    const left2 = past.left.subarray(sampleRate / 2);
    // The fifth is closed off by the second filter, the first source goes past it.
    expect(strength(left2, 164.81, sampleRate)).toBeLessThan(at(164.81) / 5);
    expect(strength(left2, 440, sampleRate)).toBeGreaterThan(at(440) / 3);
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(35);
  },
);

test(
  "a growl: its turning follows an envelope that a macro scales; the fourth step leaps; restarts are alike",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await oneNote(page, "1/1", "A1");
    await hands.click(/^Oscillator/);
    await hands.choose("Wave of Oscillator", "sine");
    await hands.click("Add an envelope");
    await hands.set("Attack", "1/8");
    await hands.move("Turned within", "4");
    await hands.click("Add a macro");
    await hands.click(/^Envelope 2|^Envelope 1/);
    await scale(page, hands, "Envelope 2 to Turned within", "Macro 1");
    // Nothing at first: a plain sine.
    const plain = await play(page, 1.5);
    const rate = plain.sampleRate;
    expect(strength(part(plain, 0.5, 0.9), 110, rate)).toBeLessThan(0.01 * strength(part(plain, 0.5, 0.9), 55, rate));
    await hands.click(/^Macro 1/);
    await hands.set("Value", "100");
    const full = await play(page, 1.5);
    const overtones = (x: Float32Array): number => [110, 165, 220].reduce((s, hz) => s + strength(x, hz, rate), 0);
    expect(overtones(part(full, 0.3, 1.1))).toBeGreaterThan(20 * overtones(part(plain, 0.3, 1.1)));
    // Four steps in the bar, flat for three; the last one is an octave up.
    await hands.click("Add a step sequence");
    await hands.set("Steps", "4");
    await hands.set("Rate", "1/4");
    await hands.move("Pitch", "12");
    await typeSteps(page, hands, ["0/12", "0/12", "0/12", "12/12"]);
    const leaps = await play(page, 2);
    const base = (from: number): number => strength(part(leaps, from, 0.4), 55, rate);
    expect(base(1.56)).toBeLessThan(0.3 * base(1.06));
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(50);
    // Played again, it is the same sound to the sample: every restart alike.
    const again = await play(page, 1);
    const [one, other] = [fromOnset(again), fromOnset(leaps)];
    const n = Math.min(one.length, other.length);
    let off = 0;
    for (let i = 0; i < n; i++) off = Math.max(off, Math.abs(one[i]! - other[i]!));
    expect(off).toBeLessThan(1e-4);
  },
);

test(
  "a pad that makes way for a kick: one part follows the notes of another, and both are seen to run",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = new Hands(page);
    await hands.begin();
    await hands.click("A note");
    await hands.set("Length", "4/1");
    await hands.click("+ Add a part");
    await hands.click("Score", "link");
    // Four notes to the bar for the second part, of which the start is heard.
    await hands.click("A note");
    await hands.set("Length", "1/4");
    await fillTheLoop(page, hands);
    await hands.click(/^Part 1/);
    await hands.click("Score", "link");
    await hands.click("Add a follower");
    await page.getByLabel("Whose notes Follower hears").selectOption({ label: "Part 2" });
    hands.actions++;
    await hands.set("Hears", "60 ms");
    await hands.set("Release", "1/8");
    await hands.move("Amp: level", "-30");
    await hands.click("Mute Part 2");
    const ducked = await play(page, 1.9);
    const line = blocks(ducked);
    // Down by 30 dB while a hit is held, back before the next.
    expect(rises(line.slice(5))).toBeGreaterThanOrEqual(3);
    expect(Math.min(...line.slice(5))).toBeLessThan(0.15 * Math.max(...line));
    // The route map shows the source running while it plays.
    await hands.click(/^Part 1/);
    await page.getByRole("button", { name: "Play", exact: true }).click();
    await expect
      .poll(async () => page.locator("[data-level='0']").evaluate((e) => parseFloat((e as HTMLElement).style.width)))
      .toBeGreaterThan(50);
    await page.getByRole("button", { name: "Stop" }).click();
  },
);

test("a pad makes way for the kick of the backing, which is drawn, heard beside it, and in a file where it is asked for", async ({
  studio: page,
}) => {
  const hands = await oneNote(page, "4/1", "C4");
  await hands.click("+ Add a backing");
  await hands.click("Kick alone");
  // The second beat's is taken away by hand, and one comes an eighth after the third, by keys.
  const drums = page.getByTestId("kit-editor");
  const box = (await drums.boundingBox())!;
  const stepX = (step: number): number => box.x + ((step + 0.5) / 64) * box.width;
  await page.mouse.move(stepX(4), box.y + box.height - 12);
  await expect(drums.getByTestId("read-out")).toHaveText("1.2.1  step 5  kick 110");
  await page.mouse.click(stepX(4), box.y + box.height - 12);
  await expect(drums.getByTestId("read-out")).toHaveText("1.2.1  step 5  kick not struck");
  await page.keyboard.press("ArrowRight");
  for (let i = 0; i < 5; i++) await page.keyboard.press("ArrowRight");
  await page.keyboard.press("Enter");
  await expect(page.getByText("step 11, kick 110")).toBeAttached();
  await expect(page.getByRole("img", { name: "Backing: 16 kicks, 0 claps, 0 hats in one pass" })).toBeVisible();
  // Alt-drag sets how hard; one step of undo.
  await page.keyboard.down("Alt");
  await page.mouse.move(stepX(10), box.y + box.height - 12);
  await page.mouse.down();
  await page.mouse.move(stepX(10), box.y + box.height - 32, { steps: 4 });
  await page.mouse.up();
  await page.keyboard.up("Alt");
  await expect(slider(page, "Velocity")).toHaveAttribute("aria-valuetext", "127");
  await page.keyboard.press("Control+z");
  await expect(slider(page, "Velocity")).toHaveAttribute("aria-valuetext", "110");
  await hands.click("Mute Part 1");
  // A note that is held is faded out; below 100 Hz lies the kick alone, at 120 BPM a sixteenth in 0.125 s.
  const kicks = await play(page, 2.2);
  const from = kicks.left.findIndex((v) => Math.abs(v) > 1e-3);
  const loud = (sixteenth: number): number => {
    const at = from + Math.round(sixteenth * 0.125 * kicks.sampleRate);
    return rms(kicks.left.subarray(at, at + Math.round(0.06 * kicks.sampleRate)));
  };
  for (const struck of [0, 8, 10, 12]) expect(loud(struck)).toBeGreaterThan(0.05);
  for (const still of [4, 6, 14.5]) expect(loud(still)).toBeLessThan(0.01);
  await page.getByRole("button", { name: "Mute Part 1", exact: true }).click();
  await page.getByRole("button", { name: "Mute the backing", exact: true }).click();
  // Muted, it is followed all the same.
  await page.getByRole("list", { name: "Strips of the score" }).getByRole("button", { name: /^Notes/ }).click();
  await hands.click("Add a follower");
  await page.getByLabel("Whose notes Follower hears").selectOption({ label: "kick of the backing" });
  await hands.set("Release", "1/16");
  await hands.move("Amp: level", "-30");
  const ducked = await play(page, 2.1);
  const start = ducked.left.findIndex((v) => Math.abs(v) > 1e-4);
  const level = (sixteenth: number): number => {
    const at = start + Math.round(sixteenth * 0.125 * ducked.sampleRate);
    return toDb(rms(ducked.left.subarray(at, at + Math.round(0.03 * ducked.sampleRate))));
  };
  for (const struck of [8.4, 10.4, 12.4]) expect(level(6) - level(struck)).toBeGreaterThan(20);
  expect(Math.abs(level(6) - level(15.5))).toBeLessThan(1.5);
  await page.getByRole("button", { name: "Mute the backing", exact: true }).click();
  await page.getByRole("link", { name: "Send out" }).click();
  await page.getByRole("radio", { name: "with its drums" }).click();
  await page.getByRole("spinbutton", { name: "Bars" }).fill("1");
  const download = page.waitForEvent("download");
  await page.getByRole("button", { name: "Export WAV" }).click();
  const wav = await downloaded(download);
  // 24-bit stereo at 48 kHz: the kick of the third beat is louder than the pad that makes way for it.
  const heard = new Float32Array(2400).map((_, i) => wav.readIntLE(wav.indexOf("data") + 8 + 6 * (48_000 + i), 3) / 0x800000);
  expect(rms(heard)).toBeGreaterThan(0.05);
  // A tab that is loaded anew is at the drums again.
  await page.getByRole("button", { name: "Backing stands in" }).click();
  await expect(page.getByTestId("kit-editor")).toBeVisible();
  await saved(page);
  await page.reload();
  await expect(page.getByTestId("kit-editor")).toBeVisible();
  await page.getByRole("button", { name: "Backing stands in" }).focus();
  await page.keyboard.press("Delete");
  await expect(page.getByRole("button", { name: "+ Add a backing" })).toBeVisible();
}); // prettier-ignore
