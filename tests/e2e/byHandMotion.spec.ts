import type { Page } from "@playwright/test";
import { Hands, hits, oneNote, play, scale, typeSteps } from "./counted";
import { blocks, bright, part, rises, toDb, type Heard } from "./measures";
import { expect, rms, slider, strength, test } from "./studio";

/** Motion built from an empty project with mouse and keys, each measured. Long: tried before a release (npm run soak). */

/** How strongly a line of a hundred values a second swings at a rate, against its mean. */
const swing = (line: readonly number[], hz: number): number => {
  const mean = line.reduce((sum, v) => sum + v, 0) / line.length;
  return strength(Float32Array.from(line, (v) => v / mean - 1), hz, 100); // prettier-ignore
};
/** How loud the first eight harmonics of A2 are from a time on, together one. */
const colour = (heard: Heard, from: number): number[] => {
  const all = [1, 2, 3, 4, 5, 6, 7, 8].map((k) => strength(part(heard, from, 0.15), 110 * k, heard.sampleRate));
  return all.map((v) => v / rms(Float32Array.from(all)));
};
const apart = (a: readonly number[], b: readonly number[]): number => rms(Float32Array.from(a, (v, i) => v - b[i]!));

/** Opens how the last route of a modulator moves its target. */
const how = async (page: Page, hands: Hands): Promise<void> => {
  await page.getByText("How", { exact: true }).last().click();
  hands.actions++;
};

test(
  "a rhythm on the beat under one that enters a sixteenth late: an envelope that loops itself, its pulse doubled",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await oneNote(page, "4/1", "A3");
    await hands.click(/^Oscillator/);
    await hands.choose("Wave of Oscillator", "sine");
    // An envelope whose decay is a quarter of a quarter, round and round while the note lasts.
    await hands.click("Add an envelope");
    await hands.set("Attack", "0");
    await hands.set("Decay", "25 % of 1/4");
    await hands.set("Sustain", "0");
    await hands.click("its decay", "radio");
    await hands.move("Amp: level", "-40");
    await hands.click("reversed");
    // Steps that halve its rate in the second bar: its decay is moved by an octave.
    await hands.click("Add a step sequence");
    await hands.set("Steps", "2");
    await hands.set("Rate", "1/1");
    await hands.move("Envelope 2: decay", "1");
    await typeSteps(page, hands, ["0", "100"]);
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(35);
    const heard = await play(page, 3.9);
    const [sixteenths, eighths] = [blocks(heard).slice(10, 190), blocks(heard).slice(210, 390)];
    expect(swing(sixteenths, 8)).toBeGreaterThan(3 * swing(sixteenths, 4));
    expect(swing(eighths, 4)).toBeGreaterThan(3 * swing(eighths, 2));
    // A layer an octave up that enters a sixteenth late: an eighth of a second.
    await page.getByRole("button", { name: /^Part 1 sine/ }).click({ button: "right" });
    await hands.click(/^Layer/, "menuitem");
    await hands.set("Transposed", "12");
    await hands.choose("How much later it starts", "1/16");
    hands.actions++;
    const layered = await play(page, 1);
    const octave = (from: number): number => strength(part(layered, from, 0.08), 440, layered.sampleRate);
    expect(octave(0.02)).toBeLessThan(0.1 * octave(0.14));
  },
);

test(
  "a pluck whose motion is scaled by macros: a shape in seconds, eighths on the detune, a slow one on the fine pitch",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await oneNote(page, "2/1", "A3");
    await hands.click(/^Oscillator/);
    await hands.set("Unison", "3");
    await hands.set("Detune", "0");
    await hands.click("Add a shape");
    await hands.click("once a note", "radio");
    await hands.click("ms", "radio");
    await hands.set("Rate", "400 ms");
    await hands.click("Draw fall");
    await hands.move("Cutoff", "3");
    await hands.click("Add a shape");
    await hands.set("Rate", "1/8");
    await hands.click("with the song", "radio");
    await hands.click("Draw hill");
    await hands.move("Detune", "60");
    await hands.click("Add a macro");
    await hands.click(/^Shape 2/);
    await scale(page, hands, "Shape 2 to Detune", "Macro 1");
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(40);
    // At nothing the three voices are one: its harmonics stand still.
    const still = await play(page, 3.9);
    await hands.click(/^Macro 1/);
    await hands.set("Value", "100");
    const moving = await play(page, 3.9);
    const width = (x: Heard): number => strength(part(x, 1.5, 2), 220, x.sampleRate) / rms(part(x, 1.5, 2));
    expect(width(moving)).toBeLessThan(0.8 * width(still));
    const line = bright(moving.left, moving.sampleRate, 220);
    expect(line[2]!).toBeGreaterThan(1.5 * line[60]!);
    const x = blocks(moving).slice(100, 380);
    expect(swing(x, 4)).toBeGreaterThan(3 * swing(blocks(still).slice(100, 380), 4));
  },
);

test(
  "four waves that go round: one shape of four beats across, read a quarter of the way on, up and down",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await oneNote(page, "4/1", "A3");
    await hands.click(/^Oscillator/);
    await hands.choose("Wave of Oscillator", "four waves");
    await hands.click("Add a shape");
    await hands.set("Rate", "1/1");
    await hands.click("with the song", "radio");
    await hands.click("Draw hill");
    await hands.set("Smoothing", "0");
    await hands.move("Position", "100");
    await hands.move("Up", "100");
    await how(page, hands);
    await slider(page, "Ahead").dblclick();
    hands.actions++;
    await hands.type("90");
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(25);
    const heard = await play(page, 4.1);
    // A bar of two seconds: the same again, and not the same half-way.
    const colour = (from: number): number[] => [1, 2, 3, 4, 5, 6].map((k) => strength(part(heard, from, 0.1), 220 * k, heard.sampleRate)); // prettier-ignore
    const apart = (a: number[], b: number[]): number =>
      rms(Float32Array.from(a, (v, i) => v - b[i]!)) / rms(Float32Array.from(a));
    expect(apart(colour(0.3), colour(2.3))).toBeLessThan(0.05);
    for (const ahead of [0.5, 1]) expect(apart(colour(0.3), colour(0.3 + ahead))).toBeGreaterThan(0.15);
  },
);

test(
  "a line of steps on the pitch of three sources, moved by one in one action",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await oneNote(page, "4/1", "A2");
    for (let i = 0; i < 2; i++) await hands.click("oscillator");
    await hands.click("Add a step sequence");
    await hands.set("Steps", "4");
    await hands.set("Rate", "1/4");
    await hands.click("Moves", "link");
    await hands.click("Add routes");
    const dialog = page.getByRole("dialog", { name: "Move values with a source" });
    await dialog.getByLabel("Source").selectOption({ label: "Steps" });
    await dialog.getByLabel("Find a value").fill("pitch");
    for (const name of ["Oscillator: pitch", "Oscillator 2: pitch", "Oscillator 3: pitch"])
      await dialog.getByRole("checkbox", { name, exact: true }).check();
    await dialog.getByRole("button", { name: "Move 3 values" }).click();
    hands.actions += 6;
    await hands.click("Score", "link");
    await hands.click(/^Steps 4/);
    await typeSteps(page, hands, ["0 st", "7 st", "0 st", "12 st"]);
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(50);
    const heard = await play(page, 2);
    const expected = [0, 7, 0, 12];
    for (const [i, semitones] of expected.entries()) {
      const hz = 110 * 2 ** (semitones / 12);
      const x = part(heard, i * 0.5 + 0.1, 0.35);
      for (const other of [110, 110 * 2 ** (7 / 12), 220].filter((o) => Math.abs(o - hz) > 1))
        expect(strength(x, hz, heard.sampleRate), `step ${i + 1} at ${hz}`).toBeGreaterThan(
          1.5 * strength(x, other, heard.sampleRate),
        );
    }
  },
);

test(
  "squelches: a silent oscillator follows the keys, a random value bent so that most notes get nothing",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await hits(page, "1/16", "C4");
    await hands.click(/^Oscillator/);
    await hands.choose("Wave of Oscillator", "sine");
    await hands.click("Add a random");
    await hands.click("each note", "radio");
    await hands.move("Pitch", "12");
    await how(page, hands);
    await slider(page, "Bent").dblclick();
    hands.actions++;
    await hands.type("-90");
    await hands.click("Add a silent oscillator");
    await hands.move("Cutoff", "1");
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(30);
    const heard = await play(page, 7.9);
    // 64 sixteenths of an eighth of a second: how many stand within a semitone of middle C, and how many go further.
    const pitches = Array.from({ length: 62 }, (_, i) => {
      const x = part(heard, i * 0.125 + 0.02, 0.08);
      const candidates = Array.from({ length: 13 }, (_, s) => 261.63 * 2 ** (s / 12));
      const best = candidates.reduce((b, hz) =>
        strength(x, hz, heard.sampleRate) > strength(x, b, heard.sampleRate) ? hz : b,
      );
      return Math.round(12 * Math.log2(best / 261.63));
    });
    const near = pitches.filter((p) => p <= 1).length;
    expect(near).toBeGreaterThan(35);
    expect(pitches.filter((p) => p >= 3).length).toBeGreaterThan(2);
  },
);

test(
  "a gated pad: a gate that is filled, filter and resonance on a pad with limits, a long rise",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = new Hands(page);
    await hands.begin();
    await hands.chords("Am", "F", "C", "G");
    await hands.click(/^Amp level/);
    await hands.set("Attack", "300 ms");
    await hands.set("Release", "600 ms");
    await hands.click("Add a gate");
    await hands.click(/^Filter/);
    await hands.set("Cutoff", "300");
    for (const [macro, target, amount] of [
      ["Macro 1", "Cutoff", "4"],
      ["Macro 2", "Resonance", "60"],
    ] as const) {
      await hands.click("Add a macro");
      await hands.set("Upper limit", "80");
      await hands.move(target, amount);
      await expect(page.getByRole("button", { name: new RegExp(`^${macro}`) }).first()).toBeVisible();
    }
    await hands.click(/^Macro 1/);
    await slider(page, "Value").click({ button: "right" });
    await hands.click("Automate it over the loop", "menuitem");
    const last = (await page.locator("[data-point='1']").boundingBox())!;
    const firstPoint = (await page.locator("[data-point='0']").boundingBox())!;
    await page.mouse.move(last.x + last.width / 2, last.y + last.height / 2);
    await page.mouse.down();
    await page.mouse.move(last.x + last.width / 2, last.y - 400, { steps: 8 });
    await page.mouse.up();
    expect(firstPoint.y).toBeGreaterThan(last.y - 1);
    hands.actions += 2;
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(40);
    const heard = await play(page, 7.9);
    const loud = blocks(heard);
    // The gate chops each chord, and the rise opens the filter bar by bar.
    expect(rises(loud.slice(50, 200))).toBeGreaterThanOrEqual(3);
    const bars = [0, 1, 2, 3].map((bar) => {
      const x = part(heard, 2 * bar + 0.5, 1.4);
      return rms(x.map((v, i) => (i === 0 ? 0 : v - x[i - 1]!))) / rms(x);
    });
    expect(bars).toEqual([...bars].sort((a, b) => a - b));
    expect(toDb(bars[3]! / bars[0]!)).toBeGreaterThan(3);
  },
);

test(
  "a hypnotic line: decay and fold moved over the track, a vibrato that each note starts again",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await hits(page, "1/4", "A2");
    await hands.click(/^Oscillator/);
    await hands.choose("Wave of Oscillator", "sine");
    await hands.click("Add a vibrato");
    await hands.click("each note", "radio");
    // The decay of the level is automated over the loop: from short to long.
    await hands.click(/^Amp level/);
    await hands.set("Sustain", "0");
    await hands.set("Decay", "60 ms");
    await slider(page, "Decay").click({ button: "right" });
    await hands.click("Automate it over the loop", "menuitem");
    await page.locator("[data-point='1']").click();
    await hands.set("Value", "600 ms");
    hands.actions += 2;
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(25);
    const heard = await play(page, 7.9);
    // How loud each note still is after a fifth of a second, against its start.
    const left = [0, 4, 8, 12].map(
      (n) => rms(part(heard, n * 0.5 + 0.2, 0.03)) / rms(part(heard, n * 0.5 + 0.01, 0.03)),
    );
    expect(left).toEqual([...left].sort((a, b) => a - b));
    expect(toDb(left[3]! / Math.max(1e-4, left[0]!))).toBeGreaterThan(20);
  },
);

test(
  "a broken rhythm: one shape on level and detune at once, another on the place in the wave table",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await oneNote(page, "4/1", "A2");
    await hands.click(/^Oscillator/);
    await hands.choose("Wave of Oscillator", "wave table");
    await hands.set("Unison", "7");
    await hands.set("Detune", "0");
    await page.getByText("Start of each note", { exact: true }).click();
    hands.actions++;
    await hands.click("random", "radio");
    await hands.click("Add a shape");
    await hands.set("Rate", "1/4");
    await hands.click("Draw gate");
    await hands.move("Amp: level", "-30");
    await hands.click("Add a shape");
    await hands.set("Rate", "1/2");
    await hands.click("Draw rise");
    await hands.move("Position", "100");
    const plain = await play(page, 3.9);
    // Half of each quarter is down by 30 dB.
    const loud = blocks(plain);
    const mean = (from: number, to: number): number =>
      loud.slice(from, to).reduce((sum, v) => sum + v, 0) / (to - from);
    for (const beat of [0, 50, 100])
      expect(toDb(mean(beat + 30, beat + 48) / mean(beat + 5, beat + 22))).toBeGreaterThan(20);
    // The table goes once through in a second: the loud halves differ from beat to beat, and come again.
    expect(apart(colour(plain, 0.3), colour(plain, 0.8))).toBeGreaterThan(
      5 * apart(colour(plain, 0.3), colour(plain, 2.3)),
    );
    // The same shape spreads the quiet halves: less of them lies on the harmonic itself.
    await hands.click(/^Shape 1/);
    await hands.move("Detune", "50");
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(34);
    const spread = await play(page, 3.9);
    const onPitch = (x: Heard): number => {
      const quiet = part(x, 1.02, 0.22);
      return strength(quiet, 550, x.sampleRate) / rms(quiet);
    };
    expect(onPitch(spread)).toBeLessThan(0.8 * onPitch(plain));
  },
);

test("a lead whose softened envelope moves two filters at once", { tag: "@long" }, async ({ studio: page }) => {
  const hands = await oneNote(page, "1/1", "A3");
  await hands.click("filter");
  await hands.click(/^Part 1/);
  await hands.choose("Type of Filter 2", "high-pass 12 dB");
  await page
    .getByRole("region", { name: "Filter 2", exact: true })
    .getByRole("slider", { name: "Cutoff", exact: true })
    .dblclick();
  hands.actions++;
  await hands.type("60");
  await page
    .getByRole("region", { name: "Filter", exact: true })
    .getByRole("slider", { name: "Cutoff", exact: true })
    .dblclick();
  hands.actions++;
  await hands.type("300");
  await hands.click("Score", "link");
  await hands.click("Add an envelope");
  await hands.set("Attack", "600 ms");
  await hands.set("Attack curve", "-60");
  await hands.set("Decay", "1 s");
  await hands.move("Filter: cutoff", "4");
  await hands.move("Filter 2: cutoff", "3.5");
  expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(30);
  const heard = await play(page, 1.6);
  const at = (hz: number, from: number): number => strength(part(heard, from, 0.2), hz, heard.sampleRate);
  // As the low-pass opens the high-pass follows: the fundamental goes down while the tenth harmonic comes.
  expect(toDb(at(2200, 0.6) / at(2200, 0))).toBeGreaterThan(20);
  expect(toDb(at(220, 0) / at(220, 0.6))).toBeGreaterThan(3);
});

test(
  "a texture: a wave that an envelope moves, noise beside it, a triangle on the cutoff",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await oneNote(page, "2/1", "A2");
    await hands.click("noise");
    await hands.click(/^Noise white/);
    await hands.set("Level", "-20");
    await hands.click(/^Oscillator/);
    await hands.choose("Wave of Oscillator", "wave table");
    await hands.click(/^Filter/);
    await hands.set("Cutoff", "300");
    await hands.click("Add an envelope");
    await hands.set("Attack", "800 ms");
    await hands.set("Sustain", "100");
    await hands.move("Position", "100");
    await hands.click("Add a shape");
    await hands.set("Rate", "1/2");
    await hands.click("Draw hill");
    await hands.move("Cutoff", "3");
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(32);
    const heard = await play(page, 3.9);
    const line = bright(heard.left, heard.sampleRate, 110).slice(100, 300);
    // Once a second, up and down.
    expect(swing(line, 1)).toBeGreaterThan(2 * swing(line, 3));
    expect(apart(colour(heard, 0.02), colour(heard, 2.02))).toBeGreaterThan(0.05);
  },
);
