// Takes one picture of each main view with the demo project, for docs/screenshots.
import { mkdirSync } from "node:fs";
import path from "node:path";
import { chromium } from "@playwright/test";
import { launchOptions } from "./browser.mjs";
import { ensureBuild, ensureChromium, ensurePackages, freePort, root, startServer } from "./run.mjs";

ensurePackages();
ensureChromium();
ensureBuild();
const folder = path.join(root, "docs", "screenshots");
mkdirSync(folder, { recursive: true });
const server = await startServer(await freePort());
const browser = await chromium.launch(launchOptions);

/** Opens the demo in a browser of its own and plays it until the second bar. */
async function studio(scheme) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: scheme });
  await page.goto(server.address);
  await page.getByRole("button", { name: "Play", exact: true }).waitFor();
  await page.locator("[data-save=saved]").waitFor();
  return page;
}

async function playing(page) {
  await page.getByRole("button", { name: "Play", exact: true }).click();
  await page.waitForFunction(() => Number(document.querySelector("[data-testid=playhead]")?.dataset.tick) > 4600);
}

async function strip(page, name) {
  await page.getByRole("list", { name: "Strips of the score" }).getByRole("button", { name }).click();
}

/** Editors and inspectors are loaded when they are first shown. */
async function loaded(page) {
  await page.locator("section[aria-label^='Editor:']").waitFor();
  await page.locator("aside fieldset > *").first().waitFor();
}

const take = (page, name) => page.screenshot({ path: path.join(folder, `${name}.png`) });

try {
  const day = await studio("light");
  await playing(day);
  await loaded(day);
  await take(day, "score-shape");
  for (const [name, file] of [
    [/^Backing/, "score-backing"],
    [/^Notes/, "score-notes"],
    [/^Arpeggio/, "score-arpeggio"],
    [/^Pluck/, "score-envelope"],
    [/^Oars/, "score-gate"],
    [/^Cutoff/, "score-cutoff"],
    [/^Pitch/, "score-oscillator"],
  ]) {
    await strip(day, name);
    await loaded(day);
    await take(day, file);
  }
  await day.getByRole("button", { name: "Wake sine" }).click();
  await day.getByRole("region", { name: "Route map" }).waitFor();
  await day.getByRole("slider", { name: "Cutoff" }).focus();
  await day.getByText("moved by 2").waitFor();
  await take(day, "voice");
  await day.getByRole("link", { name: "Moves" }).click();
  await day.getByRole("listitem", { name: "Thump to Turned within" }).click();
  await day.getByRole("img", { name: /^Cutoff, as heard: .* to / }).waitFor();
  await take(day, "moves");
  await day.getByRole("link", { name: "Score" }).click();
  for (const [name, file] of [
    [/^Chop/, "score-steps"],
    [/^Growl rises/, "score-automation"],
  ]) {
    await strip(day, name);
    await loaded(day);
    await take(day, file);
  }
  // A part as a whole, with a layer that follows it, and keys to play by hand.
  await day.getByRole("button", { name: "Rigging saw" }).click({ button: "right" });
  await day.getByRole("menuitem", { name: /^Layer/ }).click();
  await day.getByRole("button", { name: "Play by hand" }).click();
  await day.getByTestId("piano").waitFor();
  await day.keyboard.down("z");
  await day.keyboard.down("b");
  await day.locator("[data-key='55'][data-held=true]").waitFor();
  await loaded(day);
  await take(day, "part-by-hand");
  await day.keyboard.up("z");
  await day.keyboard.up("b");
  await day.keyboard.press("Escape");
  await day.keyboard.press("Control+z");
  await day.getByRole("link", { name: "Shelf" }).click();
  await day.getByRole("table").waitFor();
  await take(day, "shelf");
  await day.getByRole("link", { name: "Send out" }).click();
  await day.getByRole("heading", { name: "Send out" }).waitFor();
  await day.getByRole("button", { name: "Add a curve" }).click();
  await take(day, "send-out");
  const night = await studio("dark");
  await playing(night);
  await loaded(night);
  await take(night, "score-night");
  await strip(night, /^Arpeggio/);
  await night.getByRole("tab", { name: /^Gate/ }).click();
  await loaded(night);
  await take(night, "score-lane-night");
  await night.getByRole("link", { name: "Moves" }).click();
  await night.getByRole("radio", { name: "by what moves it" }).click();
  await night.getByRole("img", { name: "Swell over the loop" }).first().waitFor();
  await night.getByRole("listitem", { name: "Swell to Cutoff" }).click();
  await take(night, "moves-night");
  // Four sources side by side: added here, for the picture.
  await night.getByRole("button", { name: "Mist wave" }).click({ button: "right" });
  await night.getByRole("menuitem", { name: "Its voice" }).click();
  for (const source of ["oscillator", "noise", "sub"])
    await night.getByRole("button", { name: `+ ${source}`, exact: true }).click();
  await night.getByRole("combobox", { name: "Wave of Oscillator", exact: true }).selectOption("corners");
  await night.getByRole("slider", { name: "Position" }).first().focus();
  await night.getByText("moved by 1").waitFor();
  await take(night, "voice-night");
} finally {
  await browser.close();
  server.stop();
}
