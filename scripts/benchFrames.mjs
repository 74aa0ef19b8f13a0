// Frames of the application while something is dragged in circles and the song plays, by the browser's own trace.

const CATEGORIES = ["disabled-by-default-devtools.timeline.frame", "devtools.timeline.frame"];
const median = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];

/** The gaps between the events of a name, told. */
function gapsOf(trace, name, seconds) {
  const times = trace.traceEvents
    .filter((e) => e.name === name)
    .map((e) => e.ts / 1000)
    .sort((a, b) => a - b);
  const gaps = times.slice(1).map((t, i) => t - times[i]);
  const above = gaps.filter((g) => g > 33.4).length;
  return `${times.length} in ${seconds} s, longest ${Math.max(...gaps).toFixed(0)} ms, ${above} above 33 ms, median ${median(gaps).toFixed(1)} ms`;
}

/**
 * Presses at a point, goes round it for some seconds, and tells of the frames meanwhile: those that were drawn, and those in
 * which the page had its turn. The browser moves the playhead by itself; what is dragged waits for the page.
 */
export async function framesOfDrag(browser, app, { x, y }, seconds, reach = { x: 40, y: 25 }) {
  await app.mouse.move(x, y);
  await app.mouse.down();
  await browser.startTracing(app, { categories: CATEGORIES });
  for (let i = 0, end = Date.now() + 1000 * seconds; Date.now() < end; i++)
    await app.mouse.move(x + reach.x * Math.sin(i / 12), y + reach.y * Math.cos(i / 12));
  const trace = JSON.parse((await browser.stopTracing()).toString("utf8"));
  await app.mouse.up();
  return `${gapsOf(trace, "DrawFrame", seconds)}; of the page ${gapsOf(trace, "BeginMainThreadFrame", seconds)}`;
}

/** Plays from the start, so far that the playhead moves. */
export async function play(app) {
  await app.keyboard.press("Space");
  await app.waitForFunction(() => Number(document.querySelector("[data-testid=playhead]")?.dataset.tick) > 100);
}

/** Opens a project from its text and shows one of its strips. */
export async function openText(app, text, name, strip) {
  await app.getByRole("link", { name: "Shelf" }).click();
  await app
    .getByLabel("Project file")
    .setInputFiles({ name: "bench.json", mimeType: "application/json", buffer: Buffer.from(text) });
  await app.getByRole("banner").getByText(name).waitFor();
  await app.getByRole("list", { name: "Strips of the score" }).getByRole("button", { name: strip }).click();
  await app.locator("section[aria-label^='Editor:']").waitFor();
  await app.getByRole("img", { name: /^Cutoff, as heard: lowest/ }).waitFor();
}
