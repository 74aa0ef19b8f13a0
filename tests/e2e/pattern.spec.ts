import { writeFile } from "node:fs/promises";
import { writeWav } from "@/core/format/wav";
import { midiOf } from "../support/midi";
import { parseMidi } from "midi-file";
import {
  downloaded,
  expect,
  forget,
  openStudio,
  recording,
  rms,
  saved,
  slider,
  soloRigging,
  test,
  typeValue,
} from "./studio";

test("a MIDI file comes in with its tempo and meter, and one undo brings all back", async ({ studio: page }, info) => {
  await openStudio(page);
  await page.getByRole("button", { name: /^Notes/ }).click();
  const notes = [0, 1, 2].map((i) => ({ onTick: i * 1440, offTick: i * 1440 + 700, key: 60 + i, velocity: 90 }));
  await writeFile(
    info.outputPath("quay.mid"),
    midiOf({ name: "Quay", notes, tempoBpm: 97, meter: { beats: 3, unit: 4 }, endTick: 5760 }),
  );
  await page.getByLabel("MIDI or sound file").setInputFiles(info.outputPath("quay.mid"));
  await expect(page.getByText(/quay.mid.*holds 3 notes over 2 bars/)).toBeVisible();
  await page.getByRole("button", { name: "Import", exact: true }).click();
  await expect(page.getByRole("application", { name: /^Notes: 3/ })).toBeVisible();
  await expect(slider(page, "Tempo")).toHaveAttribute("aria-valuenow", "97");
  await expect(page.getByRole("combobox", { name: "Beats in a bar" })).toHaveValue("3");
  await expect(slider(page, "Loop")).toHaveAttribute("aria-valuenow", "2");
  await page.keyboard.press("Control+z");
  await expect(page.getByRole("application", { name: /^Notes: 12/ })).toBeVisible();
  await expect(slider(page, "Tempo")).toHaveAttribute("aria-valuenow", "122");
});

test("chords by name, an arpeggio over them, and the wave: each is heard at once", async ({ studio: page }) => {
  await openStudio(page);
  await page.getByRole("link", { name: "Shelf" }).click();
  await page.getByRole("button", { name: "New project" }).click();
  await expect(page.getByRole("application", { name: /^Notes: 0/ })).toBeVisible();
  const chordField = page.getByRole("combobox", { name: "Chord", exact: true });
  await chordField.fill("Am13");
  await chordField.press("Enter");
  await expect(page.getByRole("alert").filter({ hasText: "by its name or degree" })).toBeVisible();
  for (const [i, text] of ["Am", "VI", "iv", "Em"].entries()) {
    await chordField.fill(text);
    await chordField.press("Enter");
    await expect(page.getByRole("application", { name: new RegExp(`^Notes: ${3 * (i + 1)}\\.`) })).toBeVisible();
  }
  await expect(page.getByRole("img", { name: "Notes: 12 notes, Am, F, Dm, Em" })).toBeVisible();
  await expect(page.getByText("The loop is full.")).toBeVisible();
  await page.getByRole("button", { name: "Play", exact: true }).click();
  const chord = await recording(page, 1);
  await page.getByRole("button", { name: /^Arpeggio/ }).click();
  await page.getByRole("button", { name: "Arpeggio on" }).click();
  await typeValue(page, "Gate", "20");
  await forget(page);
  const plucked = await recording(page, 1.5);
  // A held chord never falls silent; a gate of 20 % does, sixteen times a bar.
  const quietest = (x: Float32Array): number =>
    Math.min(
      ...Array.from({ length: Math.floor(x.length / 256) }, (_, i) => rms(x.subarray(i * 256, i * 256 + 256))).slice(
        20,
      ),
    );
  expect(quietest(chord.left)).toBeGreaterThan(0.01);
  expect(quietest(plucked.left)).toBeLessThan(0.002);
  await saved(page);
});

test("notes are drawn by mouse: added, moved, stretched, deleted", async ({ studio: page }) => {
  await openStudio(page);
  await page.getByRole("button", { name: /^Notes/ }).click();
  const roll = page.getByTestId("note-editor");
  const box = (await roll.boundingBox())!;
  const count = (n: number) =>
    expect(page.getByRole("application", { name: new RegExp(`^Notes: ${n}\\.`) })).toBeVisible();
  const at = { x: box.x + 4, y: box.y + box.height - 60 };
  await page.mouse.click(at.x, at.y);
  await count(13);
  await expect(page.getByText(/at 1\.1\.1, velocity 100/).first()).toBeVisible();
  await page.mouse.move(at.x, at.y);
  await page.mouse.down();
  await page.mouse.move(at.x + box.width / 16, at.y + 3, { steps: 6 });
  await page.mouse.up();
  await expect(page.getByText(/at 1\.2\.1, velocity 100/).first()).toBeVisible();
  await roll.focus();
  await page.keyboard.press("Alt+ArrowUp");
  await expect(page.getByText(/at 1\.2\.1, velocity 105/).first()).toBeVisible();
  await page.keyboard.press("Delete");
  await count(12);
  await page.getByTestId("ruler").focus();
  await page.keyboard.press("ArrowRight");
  await expect(page.getByTestId("start-position")).toHaveText("1.2.1");
});

test("lanes of an arpeggio: hits spread by number, velocities drawn across, frozen to notes; each is heard", async ({
  studio: page,
}) => {
  await openStudio(page);
  await soloRigging(page);
  await page.getByRole("button", { name: /^Arpeggio/ }).click();
  await page.getByRole("tab", { name: /^Play/ }).click();
  await typeValue(page, "Even hits", "4");
  await expect(page.getByRole("tab", { name: "Play on" })).toBeVisible();
  await expect(page.getByRole("img", { name: "Arpeggio: 16 notes", exact: true })).toBeVisible();
  await page.getByRole("tab", { name: "Velocity" }).click();
  // The demo's has twelve.
  await typeValue(page, "Steps", "16");
  const lane = page.getByTestId("lane-editor");
  const { x, y, width, height } = (await lane.boundingBox())!;
  // Full in the first half of the bar, nearly nothing in the second.
  for (const [from, to, at] of [
    [0.002, 0.12, 0.06],
    [0.128, 0.247, 0.9],
  ] as const) {
    await page.mouse.move(x + width * from, y + height * at);
    await page.mouse.down();
    await page.mouse.move(x + width * to, y + height * at, { steps: 4 });
    await page.mouse.up();
  }
  await lane.focus();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("Shift+ArrowRight");
  await page.keyboard.press("ArrowDown");
  await expect(slider(page, "2 steps")).toHaveAttribute("aria-valuetext", /^1[89]\d %/);
  await page.keyboard.press("Control+z");
  await page.getByRole("button", { name: "Play", exact: true }).click();
  const { left, sampleRate } = await recording(page, 1.9);
  // Quarters at 122 BPM: each begins in what is left of the one before, the third and fourth at a tenth of the velocity.
  const beat = (60 / 122) * sampleRate;
  const level = (beats: number): number => rms(left.subarray(Math.round(beats * beat), Math.round((beats + 0.15) * beat))); // prettier-ignore
  for (const n of [1, 2, 3]) expect(level(n)).toBeGreaterThan(3 * level(n - 0.2));
  expect(level(2)).toBeLessThan(0.5 * level(0));
  expect(level(3)).toBeLessThan(0.5 * level(1));
  await page.keyboard.press("Space");
  await page.getByRole("button", { name: "to notes" }).click();
  await page.getByRole("button", { name: /^Notes/ }).click();
  await expect(page.getByRole("application", { name: /^Notes: 16\./ })).toBeVisible();
  await saved(page);
});

test("a drag on the ruler loops a stretch; a bar is counted in with clicks", async ({ studio: page }) => {
  await openStudio(page);
  const ruler = page.getByTestId("ruler");
  const { x, y, width } = (await ruler.boundingBox())!;
  // From the second bar to its third beat, in four bars.
  await page.mouse.move(x + width * 0.252, y + 10);
  await page.mouse.down();
  await page.mouse.move(x + width * 0.37, y + 10, { steps: 5 });
  await page.mouse.up();
  await page.getByRole("button", { name: "Play", exact: true }).click();
  const seen = await page.evaluate(async () => {
    const texts = new Set<string>();
    for (let began = performance.now(); performance.now() < began + 3000;) {
      texts.add(document.querySelector("[data-testid=start-position]")!.textContent.slice(0, 3));
      await new Promise(requestAnimationFrame);
    }
    return [...texts];
  });
  // Two beats at 122 BPM last a second: they came round more than twice.
  expect(seen.sort()).toEqual(["2.1", "2.2"]);
  await page.keyboard.press("Space");
  await ruler.focus();
  await page.keyboard.press("Escape");
  await ruler.click({ button: "right", position: { x: 4, y: 10 } });
  await page.getByRole("menuitem", { name: "Count in one bar" }).click();
  await page.getByRole("button", { name: /^Notes/ }).click();
  await page.getByTestId("note-editor").focus();
  await page.keyboard.press("Control+a");
  await page.keyboard.press("Delete");
  await expect(page.getByRole("application", { name: /^Notes: 0/ })).toBeVisible();
  await forget(page);
  await page.keyboard.press("Space");
  const { left, sampleRate } = await recording(page, 1.9);
  const beat = (60 / 122) * sampleRate;
  for (const n of [0, 1, 2, 3]) {
    expect(rms(left.subarray(Math.round(n * beat), Math.round(n * beat) + 1000))).toBeGreaterThan(0.02);
    if (n < 3)
      expect(rms(left.subarray(Math.round((n + 0.5) * beat), Math.round((n + 0.9) * beat)))).toBeLessThan(1e-3);
  }
});

test("a gate over the level: added with one press, its steps drawn, heard as they are", async ({ studio: page }) => {
  await openStudio(page);
  await page.getByRole("link", { name: "Shelf" }).click();
  await page.getByRole("button", { name: "New project" }).click();
  await expect(page.getByRole("application", { name: /^Notes: 0/ })).toBeVisible();
  await page.getByRole("combobox", { name: "Progression" }).selectOption({ index: 1 });
  await page.getByRole("button", { name: "Add a gate" }).click();
  await typeValue(page, "Even hits", "4");
  await typeValue(page, "Hold", "90");
  const editor = page.getByTestId("gate-editor");
  await editor.focus();
  // The second step holds on to the first.
  for (const key of ["ArrowRight", "ArrowRight", "Enter", "Enter"]) await page.keyboard.press(key);
  await expect(slider(page, "Amount")).toHaveAttribute("aria-valuetext", "−100.0 %");
  await page.getByRole("button", { name: "Play", exact: true }).click();
  const { left, sampleRate } = await recording(page, 1.9);
  // Sixteenths of 125 ms at 120 BPM: open on every fourth, the first of them for two.
  const step = 0.125 * sampleRate;
  const level = (n: number): number => rms(left.subarray(Math.round((n + 0.35) * step), Math.round((n + 0.8) * step)));
  for (const n of [0, 1, 4, 8, 12]) expect(level(n)).toBeGreaterThan(0.02);
  for (const n of [2, 3, 5, 6, 7, 9, 10, 11, 13, 14]) expect(level(n)).toBeLessThan(1e-3);

  // Its hold is moved from its own row, by keys alone: softer notes would leave it open longer.
  await page.getByRole("button", { name: "Stop", exact: true }).click();
  await expect(page.getByText("0 voices")).toBeVisible();
  await slider(page, "Hold").focus();
  await page.keyboard.press("ContextMenu");
  await page.getByRole("menuitem", { name: "Move it with…" }).press("Enter");
  await expect(page.getByRole("combobox", { name: "Add a source" })).toBeFocused();
  await page.keyboard.type("Velocity");
  await page.keyboard.press("Enter");
  await page.keyboard.type("-70");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { name: "Hold: moved by 1" })).toBeVisible();
  await forget(page);
  await page.getByRole("button", { name: "Play", exact: true }).click();
  const moved = await recording(page, 1.9);
  const between = (n: number, from: number, to: number): number =>
    rms(moved.left.subarray(Math.round((n + from) * step), Math.round((n + to) * step)));
  for (const n of [4, 8, 12]) {
    // 90 % less 70 % of 100 in 127 are 35 % of a step.
    expect(between(n, 0.1, 0.3)).toBeGreaterThan(0.02);
    expect(between(n, 0.55, 0.85)).toBeLessThan(1e-3);
  }
});

test("played by hand: typed keys and a MIDI instrument are heard, and recorded on the grid", async ({
  studio: page,
}) => {
  // A browser without instruments gets one that the test plays.
  await page.addInitScript(() => {
    const input = { name: "Harbour keys", state: "connected", onmidimessage: null as ((e: object) => void) | null };
    const access = { inputs: new Map([["1", input]]), onstatechange: null };
    Object.defineProperty(navigator, "requestMIDIAccess", { value: () => Promise.resolve(access) });
    Object.assign(window, { sendMidi: (...data: number[]) => input.onmidimessage?.({ data: Uint8Array.from(data) }) });
  });
  const send = (...data: number[]) => page.evaluate((d) => (window as unknown as { sendMidi: (...b: number[]) => void }).sendMidi(...d), data); // prettier-ignore
  await openStudio(page);
  await page.getByRole("link", { name: "Shelf" }).click();
  await page.getByRole("button", { name: "New project" }).click();
  await expect(page.getByRole("application", { name: /^Notes: 0/ })).toBeVisible();
  await page.keyboard.press("k");
  await page.getByRole("button", { name: "MIDI…" }).click();
  await expect(page.getByText("Harbour keys")).toBeVisible();
  // Heard without a recording: nothing is written.
  await send(0x90, 60, 100);
  const { left } = await recording(page, 0.2);
  expect(rms(left)).toBeGreaterThan(0.01);
  await expect(page.locator("[data-key='60']")).toHaveAttribute("data-held", "true");
  await send(0x80, 60, 0);
  await expect(page.locator("[data-key='60']")).toHaveAttribute("data-held", "false");
  await page.getByRole("button", { name: "Record", exact: true }).click();
  await expect(page.getByTestId("start-position")).not.toHaveText("1.1.1");
  await page.keyboard.down("z");
  await expect(page.locator("[data-key='48']")).toHaveAttribute("data-held", "true");
  await page.keyboard.up("z");
  await expect(page.getByRole("application", { name: /^Notes: 1\./ })).toBeVisible();
  await send(0x93, 67, 55);
  await expect(page.locator("[data-key='67']")).toHaveAttribute("data-held", "true");
  await send(0x93, 67, 0);
  await expect(page.getByRole("application", { name: /^Notes: 2\./ })).toBeVisible();
  await page.keyboard.press("Space");
  await expect(page.getByRole("button", { name: "Record", exact: true })).toHaveAttribute("aria-pressed", "false");
  await page.getByTestId("note-editor").focus();
  for (const text of [/^C3 at \d\.\d\.\d, velocity 100$/, /^G4 at \d\.\d\.\d, velocity 55$/]) {
    await page.keyboard.press("]");
    await expect(page.getByText(text).first()).toBeVisible();
  }
  // One undo takes back the whole recording.
  await page.keyboard.press("Control+z");
  await expect(page.getByRole("application", { name: /^Notes: 0/ })).toBeVisible();
});

test("MIDI goes out with a curve as a controller, read back by a library", async ({ studio: page }) => {
  await openStudio(page);
  await page.getByRole("link", { name: "Send out" }).click();
  await page.getByRole("button", { name: "Add a curve" }).click();
  await page
    .getByRole("combobox", { name: "Curve 1", exact: true })
    .selectOption({ label: "Cutoff of Filter, as heard" });
  const download = page.waitForEvent("download");
  await page.getByRole("button", { name: "Export MIDI" }).click();
  const data = parseMidi(await downloaded(download));
  expect(data.header).toMatchObject({ format: 1, numTracks: 2, ticksPerBeat: 960 });
  const sent = data.tracks[1]!.flatMap((e) => (e.type === "controller" && e.controllerType === 74 ? [e.value] : []));
  // The cutoff of the demo moves between 0.3 and 5 kHz: by a good part of the filter's range, on its log scale.
  expect(sent.length).toBeGreaterThan(100);
  expect(Math.max(...sent) - Math.min(...sent)).toBeGreaterThan(25);
  expect(data.tracks[1]!.filter((e) => e.type === "noteOn").length).toBeGreaterThan(40);
});

test("a recording is dropped on the score: its tempo is offered, its beginnings become a gate", async ({
  studio: page,
}) => {
  await openStudio(page);
  await page.getByRole("link", { name: "Shelf" }).click();
  await page.getByRole("button", { name: "New project" }).click();
  await expect(page.getByRole("application", { name: /^Notes: 0/ })).toBeVisible();
  await page.getByRole("combobox", { name: "Progression" }).selectOption({ index: 1 });
  // One bar of 4/4 at 130 BPM: bursts on the sixteenths 1, 4, 7, 11 and 13.
  const rate = 44_100;
  const step = 60 / 130 / 4;
  const hits = [0, 3, 6, 10, 12];
  const x = new Float32Array(Math.round(16 * step * rate));
  for (const h of hits)
    for (let i = 0; i < 9000; i++) {
      const at = Math.round(h * step * rate) + i;
      if (at < x.length) x[at] = 0.5 * Math.exp(-i / 700) * Math.sin(i / 9);
    }
  const wav = writeWav([x], { sampleRate: rate, bitDepth: 16 });
  const data = await page.evaluateHandle(
    (bytes) => {
      const transfer = new DataTransfer();
      transfer.items.add(new File([Uint8Array.from(bytes)], "Oar strokes.wav", { type: "audio/wav" }));
      return transfer;
    },
    [...wav],
  );
  await page.getByTestId("note-editor").dispatchEvent("dragover", { dataTransfer: data });
  await page.getByTestId("note-editor").dispatchEvent("drop", { dataTransfer: data });
  await expect(page.getByText("5 beginnings were heard")).toBeVisible();
  await expect(page.getByText("130.00 BPM: a loop of 4 beats")).toBeVisible();
  await page.getByRole("button", { name: "Take", exact: true }).click();
  await expect(page.getByTestId("gate-editor")).toBeVisible();
  await expect(slider(page, "Tempo")).toHaveAttribute("aria-valuenow", "130");
  await typeValue(page, "Hold", "60");
  await page.getByRole("button", { name: "Play", exact: true }).click();
  const { left, sampleRate } = await recording(page, 1.8);
  const level = (n: number): number => rms(left.subarray(Math.round((n + 0.15) * step * sampleRate), Math.round((n + 0.5) * step * sampleRate))); // prettier-ignore
  for (let n = 0; n < 16; n++)
    if (hits.includes(n)) expect(level(n), `step ${n}`).toBeGreaterThan(0.02);
    else expect(level(n), `step ${n}`).toBeLessThan(2e-3);
  await page.keyboard.press("Control+z");
  await page.keyboard.press("Control+z");
  await expect(slider(page, "Tempo")).toHaveAttribute("aria-valuenow", "120");
});
