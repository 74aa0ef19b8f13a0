import { gzipSync } from "node:zlib";
import type { Request } from "@playwright/test";
import { Hands } from "./counted";
import { downloaded, expect, forget, openStudio, recording, rms, seriousIn, slider, strength, test } from "./studio";

/** Share of what is above some 4 kHz in each hundredth of a second: a first difference weighs high frequencies. */
function brightness({ left, sampleRate }: { left: Float32Array; sampleRate: number }): number[] {
  const size = Math.round(sampleRate / 100);
  return Array.from({ length: Math.floor(left.length / size) }, (_, i) => {
    const part = left.subarray(i * size, (i + 1) * size);
    const steps = part.subarray(1).map((v, k) => v - part[k]!);
    return rms(steps) / Math.max(1e-6, rms(part));
  });
}

test("a wobble from nothing by mouse", async ({ studio: page }) => {
  const hands = new Hands(page);
  await hands.begin();
  await hands.chords("A5");
  await hands.click("Add a shape");
  await hands.set("Rate", "1/8");
  await hands.click("each note", "radio");
  await hands.move("Cutoff", "4");
  await hands.click(/^Filter/);
  await hands.set("Cutoff", "150");
  await hands.click("Play");
  expect(hands.actions).toBeLessThanOrEqual(25);
  // The chord lasts two seconds.
  const heard = brightness(await recording(page, 1.9)).slice(0, 180);
  // An eighth at 120 BPM lasts 250 ms: the brightness is most like itself 25 hundredths later.
  const mean = heard.reduce((t, v) => t + v, 0) / heard.length;
  const alike = (lag: number): number =>
    heard.slice(lag).reduce((t, v, i) => t + (v - mean) * (heard[i]! - mean), 0) / (heard.length - lag);
  const lags = Array.from({ length: 30 }, (_, i) => i + 12);
  expect(Math.abs(lags.reduce((best, l) => (alike(l) > alike(best) ? l : best)) - 25)).toBeLessThanOrEqual(1);
  expect(Math.max(...heard)).toBeGreaterThan(3 * Math.min(...heard));
});

test("a hypnotic line on two notes, with pluck, vibrato and a WAV, by mouse", async ({ studio: page }) => {
  const hands = new Hands(page);
  await hands.begin();
  await hands.click("A note");
  const roll = page.getByTestId("note-editor");
  const { width, height } = (await roll.boundingBox())!;
  const rows = 22;
  // Root and six semitones above, in groups of 3 + 3 + 4 + 3 + 3 sixteenths, repeated over the four bars.
  const rowOf = async (name: string): Promise<number> => {
    for (let row = 0; row < rows; row++) {
      await roll.hover({ position: { x: 300, y: ((row + 0.5) * (height - 44)) / rows } });
      if ((await page.getByTestId("read-out").textContent())?.endsWith(name))
        return ((row + 0.5) * (height - 44)) / rows;
    }
    throw new Error(`no row ${name}`);
  };
  const high = await rowOf("D♯4");
  const low = await rowOf("A3");
  for (const [step, y] of [
    [3, high],
    [6, low],
    [10, high],
    [13, low],
  ] as const) {
    hands.actions++;
    await roll.click({ position: { x: (width * (step + 0.5)) / 64, y } });
  }
  await expect(page.getByRole("application", { name: /^Notes: 5/ })).toBeVisible();
  hands.actions++;
  await page.keyboard.press("Control+a");
  await hands.click("Repeat to fill the loop");
  await expect(page.getByRole("application", { name: /^Notes: 20/ })).toBeVisible();
  await hands.set("Tempo", "138");
  await hands.click("Add an envelope");
  await hands.set("Decay", "200 ms");
  await hands.move("Cutoff", "3 oct");
  await hands.click("Add a shape");
  await hands.click("Draw hill");
  await hands.set("Rate", "8 Hz");
  await hands.click("each note", "radio");
  await hands.move("Pitch", "20 cents");
  await hands.click("Send out", "link");
  const file = page.waitForEvent("download");
  await hands.click("Export WAV");
  const wav = await downloaded(file);
  expect(hands.actions).toBeLessThanOrEqual(30);
  // 24 bit stereo at 48 kHz after a head of 44 bytes: the left side.
  const head = wav.indexOf("data") + 8;
  const left = Float32Array.from({ length: 200_000 }, (_, i) => wav.readIntLE(head + i * 6, 3) / 2 ** 23);
  const sixteenth = (60 / 138 / 4) * 48_000;
  const at = (step: number): Float32Array => left.subarray(Math.round(step * sixteenth), Math.round(step * sixteenth) + 5000); // prettier-ignore
  // A3 is 220 Hz; six semitones above it 220 * 2^(1/2) = 311.13 Hz.
  expect(strength(at(0), 220, 48_000)).toBeGreaterThan(10 * strength(at(0), 311.13, 48_000));
  expect(strength(at(3), 311.13, 48_000)).toBeGreaterThan(10 * strength(at(3), 220, 48_000));
  // The second bar is the first again.
  expect(strength(at(16 + 10), 311.13, 48_000)).toBeGreaterThan(10 * strength(at(16 + 10), 220, 48_000));
});

test("four chords and an arpeggio with lanes in a few actions by mouse; by keyboard alone in 40 keys", async ({
  studio: page,
}) => {
  const hands = new Hands(page);
  await hands.begin();
  const before = hands.actions;
  await page.getByRole("combobox", { name: "Progression" }).selectOption({ label: "i VI III VII  Night crossing" });
  hands.actions++;
  await expect(page.getByRole("img", { name: "Notes: 12 notes, Am, F, C, G" })).toBeVisible();
  await hands.click("Nearest");
  expect(hands.actions - before).toBeLessThanOrEqual(8);
  const chosen = page.getByRole("img", { name: "Notes: 12 notes, Am, F, C, G" });
  await expect(chosen).toBeVisible();

  await page.getByRole("link", { name: "Shelf" }).click();
  await page.getByRole("button", { name: "New project" }).click();
  await expect(page.getByRole("application", { name: /^Notes: 0/ })).toBeVisible();
  await page.getByTestId("note-editor").focus();
  // Six notes: each key that is pressed counts.
  const keys = ["Enter", ...["ArrowUp", "ArrowUp", "ArrowUp"], "Enter", "PageUp", "Enter", "Control+a", "Control+d", "Control+a", "Control+d", "q", "l"]; // prettier-ignore
  for (const key of keys) await page.keyboard.press(key);
  expect(keys.length).toBeLessThanOrEqual(40);
  await expect(page.getByRole("application", { name: /^Notes: 12/ })).toBeVisible();
  await page.keyboard.press("Control+c");
  await page.getByTestId("ruler").focus();
  await page.keyboard.press("PageUp");
  await page.getByTestId("note-editor").focus();
  await page.keyboard.press("Control+v");
  await expect(page.getByRole("application", { name: /^Notes: 18/ })).toBeVisible();
  await expect(slider(page, "First at")).toHaveAttribute("aria-valuetext", "2.1.1");
  await page.keyboard.press("Home");
  const { left } = await recording(page, 1);
  expect(rms(left)).toBeGreaterThan(0.01);
});

test("a wide pluck over chords by name, by mouse", async ({ studio: page }) => {
  const hands = new Hands(page);
  await hands.begin();
  // Who types without a pause is not held up by frames that come late.
  await page.evaluate(() => {
    const soon = window.requestAnimationFrame.bind(window);
    window.requestAnimationFrame = (then) => soon(() => soon(() => soon(then)));
  });
  await hands.chords("Am", "F", "VII", "iv");
  await expect(page.getByRole("img", { name: "Notes: 12 notes, Am, F, G, Dm" })).toBeVisible();
  await hands.click(/^Oscillator/);
  await hands.choose("Wave of Oscillator", "pulse");
  await hands.set("Unison", "5");
  await hands.set("Width", "90");
  await hands.click(/^Filter/);
  await hands.set("Cutoff", "300");
  await hands.click("Add a shape");
  await hands.click("Draw pluck");
  await hands.set("Rate", "400 ms");
  await hands.click("once a note", "radio");
  await hands.move("Cutoff", "4 oct");
  await hands.click(/^Amp level/);
  await hands.set("Release", "120 ms");
  await hands.click("Play");
  expect(hands.actions).toBeLessThanOrEqual(35);
  const heard = brightness(await recording(page, 1.8)).slice(0, 170);
  // Bright at first, closed half a second later.
  const mean = (from: number, to: number): number => heard.slice(from, to).reduce((s, v) => s + v, 0) / (to - from);
  expect(mean(1, 6)).toBeGreaterThan(2 * mean(60, 90));
});

test("from nothing to a shape that is heard, by keyboard alone in 40 keys", async ({ studio: page }) => {
  await openStudio(page);
  let keys = 0;
  const press = async (...list: string[]): Promise<void> => {
    for (const key of list) {
      keys++;
      await page.keyboard.press(key);
    }
  };
  const find = async (text: string): Promise<void> => {
    await press("Control+k");
    await expect(page.getByRole("combobox", { name: "An action, a value or a view" })).toBeFocused();
    await press(...Array.from(text), "Enter");
  };
  await find("new");
  await expect(page.getByRole("application", { name: /^Notes: 0/ })).toBeVisible();
  await find("chord");
  await expect(page.getByRole("combobox", { name: "Chord", exact: true })).toBeFocused();
  await press("Enter");
  await expect(page.getByRole("application", { name: /^Notes: 3/ })).toBeVisible();
  await find("shape");
  await expect(page.getByRole("heading", { name: "Moves nothing yet" })).toBeVisible();
  await find("mov cu 4");
  await expect(slider(page, "Amount")).toHaveAttribute("aria-valuenow", "4");
  await press("Space");
  expect(keys).toBeLessThanOrEqual(40);
  const heard = brightness(await recording(page, 1.2)).slice(0, 110);
  expect(Math.max(...heard)).toBeGreaterThan(2 * Math.min(...heard));
});

test("keys of the song work whatever has the focus; copies go where they are pasted", async ({ studio: page }) => {
  await openStudio(page);
  const tempo = slider(page, "Tempo");
  await tempo.focus();
  await page.keyboard.press("ArrowUp");
  await expect(tempo).toHaveAttribute("aria-valuenow", "123");
  await page.keyboard.press("Home");
  await expect(page.getByRole("button", { name: "Stop" })).toBeVisible();
  await expect(tempo).toHaveAttribute("aria-valuenow", "123");
  const snap = page.getByRole("combobox", { name: "Snap in time" });
  await snap.focus();
  await page.keyboard.press("Control+z");
  await expect(tempo).toHaveAttribute("aria-valuenow", "122");
  await page.keyboard.press("Space");
  await expect(page.getByRole("button", { name: "Play", exact: true })).toBeVisible();

  // A shape is duplicated with what it moves, renamed where it stands, and removed.
  const strips = page.getByRole("list", { name: "Strips of the score" });
  const strip = strips.getByRole("button", { name: /^Swell/ }).first();
  await strip.focus();
  await page.keyboard.press("Control+d");
  await expect(strips.getByRole("button", { name: /^Swell 2/ })).toBeVisible();
  await expect(page.getByRole("heading", { name: "Moves 3 values" })).toBeVisible();
  await strips.getByRole("button", { name: /^Swell 2/ }).focus();
  await page.keyboard.press("F2");
  await page.keyboard.type("Tide");
  await page.keyboard.press("Enter");
  const tide = strips.getByRole("button", { name: /^Tide/ });
  await tide.click({ button: "right" });
  await page.keyboard.type("rem");
  await expect(page.getByRole("menuitem", { name: "Remove" })).toBeFocused();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("menu")).toBeHidden();
  await tide.focus();
  await page.keyboard.press("Delete");
  await expect(tide).toBeHidden();

  // Points are copied into another shape.
  await strip.click();
  const curve = page.getByRole("application", { name: /^Swell: 6 points/ });
  await curve.focus();
  await page.keyboard.press("Control+a");
  await page.keyboard.press("Control+c");
  await page.getByRole("button", { name: "Add a shape" }).click();
  const other = page.getByRole("application", { name: /^Shape 2: 3 points/ });
  await other.focus();
  await page.keyboard.press("]");
  await page.keyboard.press("Control+v");
  await expect(page.getByRole("application", { name: /^Shape 2: [78] points/ })).toBeVisible();
  // A position and a value are typed.
  await page.keyboard.press("Escape");
  await page.keyboard.press("]");
  await page.keyboard.press("]");
  await slider(page, "Value").dblclick();
  await page.keyboard.type("25 %");
  await page.keyboard.press("Enter");
  await expect(slider(page, "Value")).toHaveAttribute("aria-valuenow", "0.25");
  await forget(page);
});

test("a start that is chosen by Enter does what it says, and adds no note beside it", async ({ studio: page }) => {
  await new Hands(page).begin();
  const chord = page.getByRole("button", { name: "A chord" });
  await chord.focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("combobox", { name: "Chord", exact: true })).toBeFocused();
  await expect(page.getByRole("application", { name: /^Notes: 0/ })).toBeVisible();
  await page.getByRole("button", { name: "A note" }).focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("application", { name: /^Notes: 1\./ })).toBeVisible();
});

test("a double-click on an empty place adds one point; a drag goes both ways", async ({ studio: page }) => {
  await openStudio(page);
  await page.getByRole("button", { name: "Add a shape" }).click();
  const curve = page.getByRole("application", { name: /^Shape 2: 3 points/ });
  const box = (await curve.boundingBox())!;
  const at = { x: box.x + box.width * 0.3, y: box.y + box.height * 0.2 };
  await page.mouse.dblclick(at.x, at.y);
  await expect(page.getByRole("application", { name: /^Shape 2: 4 points/ })).toBeVisible();
  const before = [await slider(page, "Position").getAttribute("aria-valuenow"), await slider(page, "Value").getAttribute("aria-valuenow")]; // prettier-ignore
  const point = (await page.locator("[data-point='1']").boundingBox())!;
  await page.mouse.move(point.x + 5, point.y + 5);
  await page.mouse.down();
  await page.mouse.move(point.x + 105, point.y + 65, { steps: 8 });
  await page.mouse.up();
  await expect(slider(page, "Position")).not.toHaveAttribute("aria-valuenow", before[0]!);
  await expect(slider(page, "Value")).not.toHaveAttribute("aria-valuenow", before[1]!);
});

test("a value that cannot be read says why, and stays selected", async ({ studio: page }) => {
  await openStudio(page);
  await slider(page, "Rate").dblclick();
  await page.keyboard.type("1");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("alert").filter({ hasText: '"1" of what?' })).toBeVisible();
  await page.keyboard.type("1/8 dotted");
  await page.keyboard.press("Enter");
  await expect(slider(page, "Rate")).toHaveAttribute("aria-valuetext", /^1\/8D/);
});

for (const [width, height] of [
  [1024, 768],
  [1920, 1080],
] as const)
  // prettier-ignore
  test(`nothing serious for axe at ${width} x ${height}, with a menu and the list that finds open`, async ({
    studio: page,
  }) => {
    await page.setViewportSize({ width, height });
    await openStudio(page);
    const check = async (): Promise<void> => expect(await seriousIn(page)).toEqual([]);
    await page.keyboard.press("+");
    await page.keyboard.press("+");
    await check();
    await page
      .getByRole("list", { name: "Strips of the score" })
      .getByRole("button", { name: /^Swell/ })
      .click({ button: "right" });
    await check();
    await page.keyboard.press("Escape");
    await page.keyboard.press("Control+k");
    await expect(page.getByRole("combobox", { name: "An action, a value or a view" })).toBeVisible();
    await check();
  });

test("the first page is light; what can be done with a thing comes when it is asked for, or says why it does not", async ({
  page,
  request,
}) => {
  // By address: what the page and its worker share comes once.
  const scripts = new Set<string>();
  const note = (r: Request): unknown => r.resourceType() === "script" && scripts.add(r.url());
  page.on("request", note);
  await openStudio(page);
  await page.waitForLoadState("networkidle");
  page.off("request", note);
  expect(scripts.size).toBeGreaterThan(5);
  const sizes = await Promise.all(
    [...scripts].map(async (url) => gzipSync(await (await request.get(url)).body()).length),
  );
  expect(sizes.reduce((a, b) => a + b, 0)).toBeLessThan(220_000);

  // What is heard comes when it is worked out: before that nobody is told that notes are missing.
  let letGo = (): void => undefined;
  const held = new Promise<void>((resolve) => (letGo = resolve));
  await page.route(/watch\.worker/, (route) => held.then(() => route.continue()));
  await openStudio(page);
  const cutoff = page.getByRole("img", { name: /^Cutoff, as heard/ });
  await expect(cutoff).toHaveAccessibleName(/being worked out/);
  await expect(page.getByText(/Add notes/)).toHaveCount(0);
  letGo();
  await expect(cutoff).toHaveAccessibleName(/lowest .* Hz, highest/);

  const swell = page.getByRole("list", { name: "Strips of the score" }).getByRole("button", { name: /^Swell/ });
  await page.route(/everyAction/, (route) => route.abort());
  await swell.click({ button: "right" });
  await expect(page.getByText(/This could not be loaded/)).toBeVisible();
  await page.unroute(/everyAction/);
  await openStudio(page);
  await swell.click({ button: "right" });
  await expect(page.getByRole("menuitem", { name: /^Duplicate/ })).toBeVisible();
  await page.keyboard.press("Escape");
  await openStudio(page);
  await swell.focus();
  await page.keyboard.press("Delete");
  await expect(swell).toHaveCount(0);
});

test("views are shown without the server, and the way back leads through them; nothing asks for frames while nothing moves", async ({
  studio: page,
}) => {
  await openStudio(page);
  const strips = page.getByRole("list", { name: "Strips of the score" });
  await expect(strips).toBeVisible();
  const frames = (): Promise<number> =>
    page.evaluate(
      () =>
        new Promise((resolve) => {
          const asked = window.requestAnimationFrame.bind(window);
          let count = 0;
          window.requestAnimationFrame = (draw) => {
            count++;
            return asked(draw);
          };
          setTimeout(() => {
            window.requestAnimationFrame = asked;
            resolve(count);
          }, 500);
        }),
    );
  await expect.poll(frames).toBe(0);
  // Every view once, so that its script is there.
  const heading = page.getByRole("heading", { level: 1 });
  const link = (name: string) => page.getByRole("navigation").getByRole("link", { name, exact: true });
  const map = page.getByRole("region", { name: "Route map" });
  for (const name of ["Voice", "Moves", "Shelf", "Send out"]) await link(name).click();
  await expect(heading).toHaveText("Send out");
  const asked: string[] = [];
  // What has a hash in its name, and the browser's own icon, may come at any time.
  page.on("request", (r) => (/fetch|document/.test(r.resourceType()) ? asked.push(r.url()) : undefined));
  await link("Voice").click();
  await expect(map).toBeVisible();
  await expect(link("Voice")).toHaveAttribute("aria-current", "page");
  await link("Shelf").click();
  await expect(heading).toHaveText("Projects");
  await page.goBack();
  await expect(map).toBeVisible();
  await page.goForward();
  await expect(heading).toHaveText("Projects");
  await link("Score").click();
  await expect(strips).toBeVisible();
  expect(asked).toEqual([]);
  // Elsewhere, and where it is loaded anew, a view has its own address.
  expect(await link("Voice").getAttribute("href")).toBe("/voice");
  await link("Voice").click();
  await page.reload();
  await expect(map).toBeVisible();
  await link("Score").click();
  await expect(strips).toBeVisible();
  await page.getByRole("button", { name: "Play", exact: true }).click();
  await expect.poll(frames).toBeGreaterThan(10);
});
