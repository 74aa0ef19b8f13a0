// Measures the engine against the browser's own nodes, and the application as it runs. Every line is a ratio or was
// taken in this run: npm run bench [-- --rounds 5]
import { gzipSync } from "node:zlib";
import { chromium } from "@playwright/test";
import { build } from "esbuild";
import { launchOptions } from "./browser.mjs";
import { framesOfDrag, openText, play } from "./benchFrames.mjs";
import { garbageOfBlock } from "./benchGarbage.mjs";
import { ensureBuild, ensureChromium, ensurePackages, freePort, startServer } from "./run.mjs";

ensurePackages();
ensureChromium();
ensureBuild();
const at = process.argv.indexOf("--rounds");
const rounds = at === -1 ? 5 : Number(process.argv[at + 1]);
const bundle = await build({
  entryPoints: ["scripts/benchEngine.ts"],
  bundle: true,
  write: false,
  format: "iife",
  minify: true,
  target: "es2022",
});
const browser = await chromium.launch(launchOptions);
const server = await startServer(await freePort());
const line = (name, text) => console.log(`${name.padEnd(58)} ${text}`);

try {
  const page = await browser.newPage();
  await page.addScriptTag({ content: bundle.outputFiles[0].text });
  const r = await page.evaluate((n) => globalThis.clovikBench(n), rounds);
  const alone = await browser.newPage();
  await alone.addScriptTag({ content: bundle.outputFiles[0].text });
  const curvesMs = await alone.evaluate(() => globalThis.clovikCurves());
  await alone.close();
  console.log(
    `16 voices x 8 unison saws, stereo 24 dB low-pass with LFO and envelope on the cutoff, 48 kHz, median of ${rounds} rounds`,
  );
  line("  ours, seconds of sound per second", r.ours.toFixed(1));
  line("  native nodes, cutoff per block / per sample", `${r.perBlock.toFixed(1)} / ${r.perSample.toFixed(1)}`);
  line("  ours against native per block", `${r.ratioPerBlock.toFixed(1)} x`);
  line("  ours against native per sample", `${r.ratioPerSample.toFixed(1)} x`);
  line("  the same with vibrato, against steady pitch", `${r.vibrato.toFixed(2)} of the speed`);
  line("8 parts x 12 modulators x 32 routes x 16 notes x 16 unison", `${r.orchestra.toFixed(2)} s of sound a second`);
  line(
    "16 voices x 3 oscillators x 7 unison, two moving low-passes",
    `${r.layered.ours.toFixed(1)} s of sound a second`,
  );
  line(
    "  against native per block / per sample",
    `${r.layered.perBlock.toFixed(1)} x / ${r.layered.perSample.toFixed(1)} x`,
  );
  for (const m of r.modules) line(`  ${m.name}`, `${m.ns.toFixed(1)} ns a voice and sample`);
  line(
    "24 modulators and 48 routes on 16 voices: share of the time / of the engine",
    `${(100 * r.motion.ofTime).toFixed(1)} % / ${(100 * r.motion.ofEngine).toFixed(0)} %`,
  );
  line("  48 as-heard curves of four bars", `${r.motion.curvesMs.toFixed(0)} ms`);
  line("the demo, seconds of sound per second", r.demoSpeed.toFixed(0));
  line("as-heard curves of the demo's four bars", `${curvesMs.toFixed(1)} ms`);
  line("the same of 8 parts x 512 notes x 32 bars, five values", `${(r.longMs / 1000).toFixed(2)} s`);
  line(
    "one value edited with 8 x 4096 notes, arpeggios on: compile and copy",
    `${r.edit.ms.toFixed(2)} ms, ${r.edit.noteBytes} lists of notes`,
  );
  line(
    "a wave changed while the stack plays: load and worst block (budget 2.67)",
    `${r.wave.ms.toFixed(2)} ms, a usual block ${r.wave.usual.toFixed(2)} ms`,
  );
  line(
    "first audible block after a warm-up (budget 2.67 ms)",
    `${r.warmFirst.toFixed(2)} ms, cold ${r.coldFirst.toFixed(2)} ms`,
  );
  line("a block in the silence after notes against one with them", `${r.silence.toFixed(3)} x`);

  line("left for the garbage collector by a block of the demo", `${(await garbageOfBlock(page)).toFixed(0)} bytes`);

  const app = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  // By address: what the page and its worker share comes once.
  const scripts = new Map();
  app.on("response", (res) => {
    if (res.request().resourceType() === "script")
      scripts.set(
        res.url(),
        res.body().then(
          (b) => gzipSync(b).length,
          () => 0,
        ),
      );
  });
  await app.goto(server.address);
  await app.getByRole("button", { name: "Play", exact: true }).waitFor();
  await app.waitForLoadState("networkidle");
  const bytes = (await Promise.all(scripts.values())).reduce((a, b) => a + b, 0);
  line("scripts of the first page, gzipped", `${(bytes / 1000).toFixed(0)} kB`);

  await app.getByRole("slider", { name: "Smoothing" }).focus();
  const redraws = [];
  for (let i = 0; i < 12; i++) {
    await app.evaluate(() => performance.clearMarks());
    await app.keyboard.press(i % 2 ? "ArrowDown" : "ArrowUp");
    // Asked for in every frame, frames would come that nobody else asks for, and what the worker answers waits for them.
    await app.waitForFunction(() => performance.getEntriesByName("clovik:painted").length > 0, null, { polling: 150 });
    redraws.push(
      await app.evaluate(() => {
        const time = (name) => performance.getEntriesByName(name)[0].startTime;
        return [time("clovik:heard") - time("clovik:edit"), time("clovik:painted") - time("clovik:edit")];
      }),
    );
  }
  const median = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];
  line(
    "from an edit to its curves: worked out, drawn",
    `${median(redraws.slice(2).map((x) => x[0])).toFixed(0)} ms, ${median(redraws.slice(2).map((x) => x[1])).toFixed(0)} ms`,
  );

  await play(app);
  const box = await app.locator("[data-point='2']").boundingBox();
  const centre = { x: box.x + box.width / 2, y: box.y + box.height / 2 + 5 };
  line("frames while playing and dragging a point", await framesOfDrag(browser, app, centre, 10));

  const loads = [];
  for (let i = 0; i < 4; i++) {
    const before = await app.getByTestId("engine").textContent();
    await app.waitForTimeout(4500);
    loads.push(Number(/engine (\d+) %/.exec((await app.getByTestId("engine").textContent()) ?? before)?.[1] ?? NaN));
  }
  line("worklet load while the demo plays", `${(loads.reduce((a, b) => a + b, 0) / loads.length).toFixed(1)} %`);

  const texts = await page.evaluate(() => globalThis.clovikProjects());
  await openText(app, texts.notes, "Many notes", /^Notes/);
  await play(app);
  const grid = await app.getByRole("application", { name: /^Notes/ }).boundingBox();
  const among = { x: grid.x + 0.3 * grid.width, y: grid.y + grid.height / 2 };
  line("the same, a note of 2048 over 32 bars", await framesOfDrag(browser, app, among, 10, { x: 80, y: 25 }));
  await openText(app, texts.points, "Many points", /^Swell/);
  await play(app);
  const point = await app.locator("[data-point='64']").boundingBox();
  line("the same, a point of a shape of 128", await framesOfDrag(browser, app, { x: point.x + 4, y: point.y + 4 }, 10));
} finally {
  await browser.close();
  server.stop();
}
