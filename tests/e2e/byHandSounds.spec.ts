import { Hands, hits, oneNote, play } from "./counted";
import { blocks, bright, part, rises, toDb } from "./measures";
import { expect, rms, saved, slider, strength, test } from "./studio";

/** Sounds built from an empty project with mouse and keys, each measured. Long: tried before a release (npm run soak). */

test(
  "a tuned kick-bass: one shape trades body for punch, each hit drops and snaps, and every hit is alike",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await hits(page, "1/4", "A1");
    await hands.click(/^Part 1/);
    await hands.choose("Wave of Oscillator", "sine");
    await hands.click("+ oscillator");
    const second = page.getByRole("region", { name: "Oscillator 2", exact: true });
    await second.getByRole("slider", { name: "Octave", exact: true }).press("ArrowUp");
    hands.actions++;
    await hands.click("+ noise");
    await page
      .getByRole("region", { name: "Noise", exact: true })
      .getByRole("slider", { name: "Level", exact: true })
      .dblclick();
    hands.actions++;
    await hands.type("-60");
    // A resonance on a note of the key: its cutoff is typed as a note.
    await hands.set("Cutoff", "A4");
    await hands.set("Resonance", "75");
    await hands.click("Score", "link");
    await hands.click("Add a shape");
    await hands.click("each note", "radio");
    await hands.click("Draw rise");
    await hands.move("Oscillator: level", "-40");
    await hands.move("Oscillator 2: level", "-40");
    await page.getByRole("button", { name: "reversed" }).last().click();
    hands.actions++;
    await hands.click("Add an envelope");
    await hands.set("Decay", "30 ms");
    await hands.set("Sustain", "0");
    await hands.move("Oscillator: pitch", "24");
    await hands.click("Add an envelope");
    await hands.set("Decay", "12 ms");
    await hands.set("Sustain", "0");
    await hands.move("Noise: level", "56");
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(55);
    const heard = await play(page, 2.1);
    // A quarter at 120 BPM lasts half a second: the sine of 55 Hz goes as the saw above it comes.
    const low = (from: number): number => strength(part(heard, from, 0.15), 55, heard.sampleRate);
    const high = (from: number): number => strength(part(heard, from, 0.15), 440, heard.sampleRate);
    expect(toDb(low(0.1) / low(0.34))).toBeGreaterThan(12);
    expect(toDb(high(0.34) / high(0.1))).toBeGreaterThan(12);
    // The resonance lifts the fourth harmonic of the saw over its neighbours, where a saw's fall.
    const at = (hz: number): number => strength(part(heard, 0.25, 0.2), hz, heard.sampleRate);
    expect(at(440)).toBeGreaterThan(1.5 * at(220));
    // Noise at the start of the hit alone.
    const hiss = (from: number): number =>
      rms(part(heard, from, 0.008).map((v, i, x) => (i === 0 ? 0 : v - x[i - 1]!)));
    expect(toDb(hiss(0.003) / hiss(0.09))).toBeGreaterThan(6);
    // Hits differ by less than a tenth of a decibel, and not by a sample.
    const [first, third] = [part(heard, 0, 0.45), part(heard, 1, 0.45)];
    expect(Math.abs(toDb(rms(first) / rms(third)))).toBeLessThan(0.1);
  },
);

test(
  "a slap: three envelopes, a filter that is driven, a release of twenty milliseconds",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await hits(page, "1/4", "A1");
    await hands.click(/^Filter/);
    await hands.set("Cutoff", "120");
    await hands.set("Drive", "24");
    await hands.click(/^Amp level/);
    await hands.set("Decay", "300 ms");
    await hands.set("Sustain", "40");
    await hands.set("Release", "20 ms");
    await hands.click("Add an envelope");
    await hands.set("Decay", "150 ms");
    await hands.set("Sustain", "0");
    await hands.move("Cutoff", "5");
    await hands.click("Add an envelope");
    await hands.set("Attack", "0");
    await hands.set("Decay", "9 ms");
    await hands.set("Sustain", "0");
    await hands.move("Pitch", "24");
    // The note is let go after an eighth.
    await hands.click(/^Notes/);
    await page.getByRole("application", { name: /^Notes/ }).focus();
    await page.keyboard.press("Control+a");
    await hands.set("Length", "1/8");
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(45);
    const heard = await play(page, 1.1);
    const line = bright(heard.left, heard.sampleRate, 55);
    expect(toDb(line[1]! / line[17]!)).toBeGreaterThan(6);
    // From two octaves up: the first hundredth holds two cycles of 220 Hz on their way down, later one of 55 Hz takes 18 ms.
    const crossings = (x: Float32Array): number =>
      x.reduce((n, v, i) => n + (i > 0 && v >= 0 !== x[i - 1]! >= 0 ? 1 : 0), 0);
    expect(crossings(part(heard, 0.15, 0.0182 * 4))).toBeLessThanOrEqual(9);
    const loud = blocks(heard);
    // Let go after a quarter of a second: 40 dB down within 30 ms.
    expect(toDb(loud[24]! / loud[28]!)).toBeGreaterThan(40);
  },
);

test(
  "a talking bass: the filter's envelope in note lengths over saw and noise, kept and opened again",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await oneNote(page, "1/2", "A1");
    await hands.click("noise");
    await hands.click(/^Noise white/);
    await hands.set("Level", "-18");
    await hands.click(/^Filter/);
    await hands.set("Cutoff", "180");
    await hands.set("Resonance", "60");
    await hands.click("Add an envelope");
    await hands.click("note values", "radio");
    await hands.set("Attack", "1/8");
    await hands.set("Decay", "1/8");
    await hands.set("Sustain", "20");
    await hands.set("Release", "1/16");
    await hands.move("Cutoff", "3.5");
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(30);
    const heard = await play(page, 1.2);
    const line = bright(heard.left, heard.sampleRate, 55);
    const loudest = line.indexOf(Math.max(...line.slice(0, 90)));
    // The word is widest after an eighth: 250 ms at 120 BPM.
    expect(loudest).toBeGreaterThan(19);
    expect(loudest).toBeLessThan(29);
    expect(line[60]!).toBeLessThan(0.5 * line[loudest]!);
    await saved(page);
    await page.reload();
    const again = await play(page, 1.2);
    const other = bright(again.left, again.sampleRate, 55);
    for (const i of [10, 25, 40, 60]) expect(other[i]! / line[i]!).toBeCloseTo(1, 3);
  },
);

test(
  "a classic wide pluck: chords of single notes in the key, a once-going shape, the cutoff opened over the bars",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = await hits(page, "1/4", "A3");
    await hands.choose("What each note plays", "triad of the key");
    await hands.click(/^Part 1/);
    await hands.choose("Wave of Oscillator", "pulse");
    await hands.set("Unison", "5");
    await hands.set("Width", "100");
    await hands.click("+ oscillator");
    const second = page.getByRole("region", { name: "Oscillator 2", exact: true });
    await second.getByRole("slider", { name: "Octave", exact: true }).press("ArrowUp");
    hands.actions++;
    await second.getByRole("slider", { name: "Level", exact: true }).dblclick();
    hands.actions++;
    await hands.type("-9");
    await hands.set("Cutoff", "300");
    await hands.click("Score", "link");
    await hands.click("Add a shape");
    await hands.click("once a note", "radio");
    await hands.click("ms", "radio");
    await hands.set("Rate", "300 ms");
    await hands.click("Draw pluck");
    await hands.move("Cutoff", "2");
    await hands.click(/^Filter/);
    await slider(page, "Cutoff").click({ button: "right" });
    await hands.click("Automate it over the loop", "menuitem");
    const last = (await page.locator("[data-point='1']").boundingBox())!;
    await page.mouse.move(last.x + last.width / 2, last.y + last.height / 2);
    await page.mouse.down();
    await page.mouse.move(last.x + last.width / 2, last.y - 60, { steps: 6 });
    await page.mouse.up();
    hands.actions += 2;
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(50);
    const heard = await play(page, 7.9);
    // A minor, C, E: 220, 261.6 and 329.6 Hz.
    const tones = (hz: number): number => strength(part(heard, 6, 1.9), hz, heard.sampleRate);
    for (const hz of [220, 261.63, 329.63]) expect(tones(hz), `${hz}`).toBeGreaterThan(4 * tones(hz * 2 ** (1 / 24)));
    // Each bar is brighter than the one before.
    const bars = [0, 1, 2, 3].map((bar) => {
      const x = part(heard, 2 * bar, 1.9);
      return rms(x.map((v, i) => (i === 0 ? 0 : v - x[i - 1]!))) / rms(x);
    });
    expect(bars).toEqual([...bars].sort((a, b) => a - b));
    expect(bars[3]!).toBeGreaterThan(1.3 * bars[0]!);
  },
);

test(
  "a wide lead: an envelope as long as the bar over an arpeggio with a shorter gate, and vibrato",
  { tag: "@long" },
  async ({ studio: page }) => {
    const hands = new Hands(page);
    await hands.begin();
    await hands.chords("Am");
    await hands.set("Length", "4/1");
    await hands.click(/^Arpeggio/);
    await hands.click("Arpeggio on");
    await hands.set("Gate", "45");
    await hands.click(/^Filter/);
    await hands.set("Cutoff", "250");
    await hands.click("Add an envelope");
    await hands.click("note values", "radio");
    await hands.set("Attack", "1/2");
    await hands.set("Decay", "1/2");
    await hands.set("Sustain", "0");
    await hands.click("each bar", "radio");
    await hands.move("Cutoff", "4");
    await hands.click("Add a vibrato");
    // Both oscillators as wide as the first.
    await hands.click(/^Part 1/);
    await hands.click("+ oscillator");
    const first = page
      .getByRole("region", { name: "Oscillator", exact: true })
      .getByRole("slider", { name: "Unison", exact: true });
    await first.dblclick();
    hands.actions++;
    await hands.type("3");
    await first.click({ button: "right" });
    await hands.click("Set on all oscillators", "menuitem");
    hands.actions++;
    for (const name of ["Oscillator", "Oscillator 2"])
      await expect(
        page.getByRole("region", { name, exact: true }).getByRole("slider", { name: "Unison", exact: true }),
      ).toHaveAttribute("aria-valuenow", "3");
    expect(hands.actions, `${hands.actions} actions`).toBeLessThanOrEqual(40);
    const heard = await play(page, 4.1);
    const line = bright(heard.left, heard.sampleRate, 220);
    const near = (sec: number): number => Math.max(...line.slice(Math.round(sec * 100), Math.round(sec * 100) + 25));
    // It opens for a second and closes for another, in each bar: sixteenths do not start it again.
    expect(near(0.9)).toBeGreaterThan(1.5 * near(0.05));
    expect(near(0.9)).toBeGreaterThan(1.5 * near(1.7));
    expect(near(2.9)).toBeGreaterThan(1.5 * near(2.05));
    // Sixteenths, eight a second, with gaps between them.
    const loud = blocks(heard).slice(60, 160);
    expect(rises(loud)).toBeGreaterThanOrEqual(7);
  },
);
