import { Hands, fillTheLoop, oneNote, play, scale, typeSteps } from "./counted";
import { blocks, bright, part, rises, toDb, type Heard } from "./measures";
import { expect, rms, slider, strength, test } from "./studio";

/** Sequences and what they move, built from an empty project with mouse and keys, each measured. Long: tried before a release (npm run soak). */

/** When notes begin, in seconds: the level rises to twice what it was within two blocks. */
const onsets = (heard: Heard): number[] => {
  const line = blocks(heard);
  const loud = Math.max(...line);
  return line.flatMap((v, i) => {
    const before = Math.min(line[i - 1] ?? 0, line[i - 2] ?? 0);
    return v > 0.3 * loud && v > 2 * before && !((line[i - 1] ?? 0) > 0.3 * loud && (line[i - 1] ?? 0) > 0.6 * v)
      ? [i / 100]
      : [];
  });
};

test(
  "an arpeggio that falls and never quite repeats: lengths drawn anew each bar, a sub that skips the filter",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = new Hands(page);
    await hands.begin();
    await hands.chords("Am7");
    await fillTheLoop(page, hands);
    await hands.click(/^Arpeggio/);
    await hands.click("Arpeggio on");
    await hands.choose("Order", "down");
    await hands.set("Rate", "1/16");
    await hands.click(/^own, on/, "radio");
    await hands.set("Own swing", "62");
    await page.getByRole("tab", { name: /^Gate/ }).click();
    hands.actions++;
    await hands.click("Gate lane on");
    await hands.set("All steps", "45");
    await hands.set("Chance ±", "35");
    await hands.choose("Drawn anew", "each bar");
    await hands.click(/^Amp level/);
    await hands.set("Sustain", "100");
    await hands.set("Release", "5 ms");
    await hands.click("noise");
    await hands.click(/^Noise white/);
    await hands.set("Level", "-24");
    await hands.click("sub");
    await hands.click(/^Part 1/);
    // A sub goes past the filter by itself.
    await expect(page.getByRole("checkbox", { name: "Sub goes to Amp" })).toBeChecked();
    await expect(page.getByRole("checkbox", { name: "Sub goes to Filter" })).not.toBeChecked();
    await hands.set("Cutoff", "900");
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(40);
    const heard = await play(page, 8);
    // Sixteenths of an eighth of a second, the second of each pair late: 62 % of a pair comes before it.
    const played = onsets(heard).filter((t) => t < 1.95);
    const pair = 0.25;
    for (let k = 0; k < 8; k++) {
      expect(
        played.some((t) => Math.abs(t - k * pair) < 0.025),
        `at ${k * pair} s of ${played.join()}`,
      ).toBe(true);
      expect(played.some((t) => Math.abs(t - (k + 0.62) * pair) < 0.025), `at ${(k + 0.62) * pair} s of ${played.join()}`).toBe(true); // prettier-ignore
    }
    // The lowest octave is the sub's: it does not care what the filter does.
    const share = (x: Heard): number => strength(part(x, 0.01, 0.05), 110, x.sampleRate);
    // How long each note of a bar sounds: not one bar like another, and the same when it is played again.
    const shares = (x: Heard, bar: number): number[] =>
      Array.from({ length: 8 }, (_, k) => rms(part(x, 2 * bar + k * pair, 0.62 * pair)));
    const apart = (a: readonly number[], b: readonly number[]): number =>
      rms(Float32Array.from(a, (v, i) => v - b[i]!)) / rms(Float32Array.from(a));
    for (const bar of [1, 2]) expect(apart(shares(heard, 0), shares(heard, bar))).toBeGreaterThan(0.08);
    const again = await play(page, 3);
    expect(apart(shares(heard, 0), shares(again, 0))).toBeLessThan(0.02);
    await hands.set("Cutoff", "60");
    const closed = await play(page, 2);
    expect(Math.abs(toDb(share(closed) / share(again)))).toBeLessThan(3);
    expect(rms(part(closed, 0, 1.9))).toBeLessThan(0.9 * rms(part(again, 0, 1.9)));
  },
);

test(
  "a line of steps held on intervals, a second one on level and cutoff, a macro, a layer above without its lows",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await oneNote(page, "4/1", "A2");
    await hands.click("Add a step sequence");
    await hands.set("Steps", "4");
    await hands.set("Rate", "1/4");
    await hands.move("Pitch", "12");
    await typeSteps(page, hands, ["0 st", "0 st", "7 st", "12 st"]);
    // The second one goes by eighths, each step falling in a curve of its own.
    await hands.click("Add a step sequence");
    await hands.set("Steps", "2");
    await hands.set("Rate", "1/8");
    await page.getByTestId("steps-editor").focus();
    await page.keyboard.press("Control+a");
    await hands.choose("How all steps run", "falls");
    await hands.set("Value", "100");
    await hands.move("Amp: level", "-30");
    await page.getByRole("button", { name: "reversed" }).last().click();
    hands.actions++;
    await hands.move("Cutoff", "2");
    await hands.click("Add a macro");
    await hands.move("Cutoff", "2");
    const heard = await play(page, 2);
    // A quarter each: the interval is where it was set, in tune.
    for (const [i, semitones] of [0, 0, 7, 12].entries()) {
      const hz = 110 * 2 ** (semitones / 12);
      const at = (f: number): number => strength(part(heard, i * 0.5 + 0.02, 0.2), f, heard.sampleRate);
      for (const other of [110, 164.8, 220].filter((o) => Math.abs(o - hz) > 2 && o < hz)) expect(at(hz)).toBeGreaterThan(1.5 * at(other)); // prettier-ignore
    }
    // Eight times in two seconds up at once and down.
    expect(rises(blocks(heard).slice(5, 195))).toBe(7);
    const line = bright(heard.left, heard.sampleRate, 110);
    expect(line[3]!).toBeGreaterThan(1.3 * line[20]!);
    await hands.click(/^Macro 1/);
    await hands.set("Value", "100");
    const opened = await play(page, 2);
    const top = (x: Heard): number => bright(x.left, x.sampleRate, 110).reduce((s, v) => s + v, 0) / rms(x.left);
    expect(top(opened)).toBeGreaterThan(1.1 * top(heard));
    await page.getByRole("button", { name: /^Part 1 saw/ }).click({ button: "right" });
    await hands.click(/^Layer/, "menuitem");
    await hands.set("Transposed", "12");
    await hands.click("Score", "link");
    await hands.click(/^Filter/);
    await hands.choose("Type of Filter", "high-pass 12 dB");
    hands.actions++;
    // Alone: an octave above, its fundamental held down under what lies higher. A saw's fourth harmonic is at -12 dB.
    await page.getByRole("button", { name: /^Solo/ }).last().click();
    hands.actions++;
    const layer = await play(page, 2);
    const at = (hz: number): number => strength(part(layer, 0.02, 0.2), hz, layer.sampleRate);
    expect(at(220)).toBeGreaterThan(10 * at(110));
    expect(toDb(at(880) / at(220))).toBeGreaterThan(-8);
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(60);
  },
);

test(
  "a growl's motion: one envelope on turning and table, a slower copy on a band-pass in the mix, a pluck of the pitch",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await oneNote(page, "1/1", "A1");
    await hands.click(/^Oscillator/);
    await hands.choose("Wave of Oscillator", "wave table");
    await hands.click(/^Filter/);
    await hands.choose("Type of Filter", "band-pass 12 dB");
    await hands.set("Cutoff", "200");
    await hands.set("Mix", "50");
    await hands.click("Add an envelope");
    await hands.set("Attack", "1/8");
    await hands.set("Sustain", "100");
    await hands.move("Turned within", "3");
    await hands.click("Add a macro");
    await hands.set("Value", "100");
    await hands.click(/^Envelope 2/);
    await scale(page, hands, "Envelope 2 to Turned within", "Macro 1");
    await hands.move("Position", "100");
    // A copy of it, four times as slow, moves the cutoff.
    await page
      .getByRole("button", { name: /^Envelope 2/ })
      .first()
      .click({ button: "right" });
    await hands.click(/^Duplicate/, "menuitem");
    hands.actions++;
    await hands.set("Attack", "1/2");
    await hands.move("Cutoff", "4");
    await hands.click("Add an envelope");
    await hands.set("Attack", "0");
    await hands.set("Decay", "40 ms");
    await hands.set("Sustain", "0");
    await hands.move("Pitch", "24");
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(60);
    const heard = await play(page, 1.9);
    // What the copy brings along is heard, too: it goes on moving the table and the turning.
    const line = bright(heard.left, heard.sampleRate, 55);
    expect(Math.max(...line.slice(20, 60))).toBeGreaterThan(1.5 * line[6]!);
    await hands.click(/^Macro 1/);
    await hands.set("Value", "0");
    const plain = await play(page, 1.9);
    // Without its turning it is seen to fall into its pitch: two octaves up at first.
    const crossings = (from: number): number =>
      part(plain, from, 0.037).reduce((n, v, i, x) => n + (i > 0 && v >= 0 !== x[i - 1]! >= 0 ? 1 : 0), 0);
    expect(crossings(0)).toBeGreaterThan(1.4 * crossings(0.3));
    const overtones = (x: Heard): number => {
      const y = part(x, 0.5, 1);
      return bright(y, x.sampleRate, 55).reduce((s, v) => s + v, 0) / rms(y);
    };
    expect(overtones(heard)).toBeGreaterThan(1.1 * overtones(plain));
    await expect(slider(page, "Value")).toHaveAttribute("aria-valuetext", /^0/);
  },
);
