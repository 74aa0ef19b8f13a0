// One short journey in every browser there is: open, play, playhead and meter move, a dragged point is heard, WAV out,
// reload. Installs what is missing (Debian's packages, as root): npm run browsers [-- chromium firefox webkit]
import { spawnSync } from "node:child_process";
import { existsSync } from "node:fs";
import { ensureBuild, ensureChromium, ensurePackages, freePort, run, startServer } from "./run.mjs";

ensurePackages();
ensureChromium();
ensureBuild();
const PACKAGES = [
  ["/usr/bin/firefox-esr", "firefox-esr"],
  ["/usr/bin/pulseaudio", "pulseaudio"],
  ["/usr/bin/WebKitWebDriver", "webkit2gtk-driver"],
  ["/usr/bin/xvfb-run", "xvfb"],
];
const missing = PACKAGES.filter(([file]) => !existsSync(file)).map(([, name]) => name);
if (missing.length > 0) {
  console.log(`Installing ${missing.join(", ")}`);
  const quiet = { DEBIAN_FRONTEND: "noninteractive" };
  run("apt-get", ["update", "-qq"]);
  if (run("apt-get", ["install", "-y", "-qq", "--no-install-recommends", ...missing], quiet) !== 0) process.exit(1);
}
const { chromium, firefox, webkit } = await import("./browsers/drivers.mjs");

/** A sound device that nobody hears: these browsers start no sound without one. */
function startDevice() {
  const args = ["-n", "--exit-idle-time=-1", "-L", "module-null-sink", "-L", "module-native-protocol-unix"];
  spawnSync("pulseaudio", ["-D", ...args], { stdio: "ignore" });
  return () => spawnSync("pulseaudio", ["--kill"], { stdio: "ignore" });
}

/** Page code: waits until an expression holds. */
const until = (expression, ms = 15_000) => `
  const end = Date.now() + ${ms};
  while (!(${expression})) {
    if (Date.now() > end) return "not within ${ms} ms: " + ${JSON.stringify(expression)};
    await new Promise((r) => setTimeout(r, 30));
  }
  return null;`;
const centre = (selector) => `
  const all = [...document.querySelectorAll(${JSON.stringify(selector.css)})];
  const found = all.find((e) => (e.getAttribute("aria-label") ?? e.textContent).trim().match(${selector.name}));
  if (!found) return null;
  const b = found.getBoundingClientRect();
  return { x: b.x + b.width / 2, y: b.y + b.height / 2, left: b.x, top: b.y, width: b.width, height: b.height };`;

/** Page code: keeps what the worklet plays, and how bright it is: steps between samples against the samples themselves. */
const LISTEN = `
  const heard = { blocks: [] };
  window.heard = heard;
  const Original = AudioWorkletNode;
  window.AudioWorkletNode = class extends Original {
    constructor(...args) {
      super(...args);
      this.port.addEventListener("message", (e) => e.data.type === "block" && heard.blocks.push(e.data.left));
      this.port.postMessage({ type: "tap", on: true });
      heard.node = this;
    }
  };`;
/** Page code: how far the line of the playhead stands from where its tick belongs on the ruler, three times in a second. */
const BESIDE = `
  const line = document.querySelector("[data-testid=playhead]");
  const ruler = document.querySelector("[data-testid=ruler]");
  for (let i = 0; i < 3; i++) {
    const grid = ruler.getBoundingClientRect();
    const belongs = grid.left + (Number(line.dataset.tick) / Number(ruler.getAttribute("aria-valuemax"))) * grid.width;
    const beside = Math.abs(line.getBoundingClientRect().left - belongs);
    if (beside > 15) return "it stands " + beside.toFixed(0) + " px beside";
    await new Promise((r) => setTimeout(r, 300));
  }
  return null;`;
const brightness = (seconds) => `
  window.heard.blocks.length = 0;
  let last = 0;
  const wanted = (${seconds} * window.heard.node.context.sampleRate) / 128;
  const end = Date.now() + 20000;
  while (window.heard.blocks.length < wanted) {
    if (Date.now() > end) return null;
    await new Promise((r) => setTimeout(r, 50));
  }
  let steps = 0, total = 0;
  for (const b of window.heard.blocks) for (const v of b) { steps += Math.abs(v - last); total += Math.abs(v); last = v; }
  return total > 0 ? steps / total : 0;`;
/** Page code: what is stored of the shape. Parts lie beside their projects, each state of one under a key of its own. */
const STORED = `
  return new Promise((resolve, reject) => {
    const open = indexedDB.open("clovik");
    open.onerror = () => reject(open.error);
    open.onsuccess = () => {
      const all = open.result.transaction("parts").objectStore("parts").getAll();
      all.onsuccess = () => {
        open.result.close();
        resolve(JSON.stringify(all.result.map((part) => part.patch.modules.find((m) => m.id === "swell")?.data)));
      };
    };
  });`;

async function journey(make, address) {
  const steps = [];
  const b = await make();
  const step = async (name, work) => {
    const value = await work();
    if (typeof value === "string" && value.startsWith("not ")) throw new Error(`${name}: ${value}`);
    steps.push(name);
    return value;
  };
  const click = async (css, name) => {
    const at = await b.evaluate(centre({ css, name }));
    if (!at) throw new Error(`there is no ${css} that reads ${name}`);
    await b.click(at);
  };
  const button = (name) => click("button, a", name);
  try {
    const version = await b.version();
    await b.goto(address);
    await step("opened", () => b.evaluate(until(`document.querySelector("[data-save=saved]")`)));
    await b.evaluate(LISTEN);
    await button(/^Play$/);
    const tick = `Number(document.querySelector("[data-testid=playhead]").dataset.tick)`;
    await step("the playhead moves", () => b.evaluate(until(`${tick} > 300`)));
    await step("its line is where the song is", () => b.evaluate(BESIDE));
    await step("the meter moves", () =>
      b.evaluate(until(`document.querySelector("[data-testid=peak]").textContent.includes("dB")`)),
    );
    const loop = (16 * 60) / 122;
    // Over a whole loop, so that it does not matter where the song stands.
    const before = await b.evaluate(brightness(loop));
    const stored = await b.evaluate(STORED);
    const middle = (point) => `const r = document.querySelector("[data-point='${point}']").getBoundingClientRect();
      return { x: r.x + r.width / 2, y: r.y + r.height / 2 };`;
    const [from, ground] = [await b.evaluate(middle(3)), await b.evaluate(middle(0))];
    await b.drag(from, { x: from.x, y: ground.y });
    await step("the drag is stored", () =>
      b.evaluate(`
        const end = Date.now() + 5000;
        for (;;) {
          const now = await (async () => { ${STORED} })();
          if (now !== ${JSON.stringify(stored)}) return null;
          if (Date.now() > end) return "not stored";
          await new Promise((r) => setTimeout(r, 50));
        }`),
    );
    const after = await b.evaluate(brightness(loop));
    await step(`the dragged point is heard (${before.toFixed(3)} to ${after.toFixed(3)})`, () =>
      Promise.resolve(after < 0.97 * before ? null : "not heard"),
    );
    const load = await b.evaluate(
      until(`/engine \\d/.test(document.querySelector("[data-testid=engine]").textContent)`),
    );
    if (load) throw new Error(load);
    await button(/^Send out$/);
    await b.evaluate(`
      const make = URL.createObjectURL;
      URL.createObjectURL = (blob) => { window.made = blob; return make.call(URL, blob); };`);
    await step("the view to send out opens", () =>
      b.evaluate(until(`[...document.querySelectorAll("button")].some((x) => /^Export WAV/.test(x.textContent))`)),
    );
    const start = Date.now();
    await button(/^Export WAV/);
    await step("a WAV file is made", () => b.evaluate(until(`window.made && window.made.size > 100000`, 60_000)));
    const seconds = (Date.now() - start) / 1000;
    const head = await b.evaluate(
      `return new TextDecoder().decode(new Uint8Array(await window.made.slice(0, 12).arrayBuffer()).filter((c) => c > 31))`,
    );
    await step("it is RIFF/WAVE", () => Promise.resolve(/^RIFF.*WAVE$/.test(head) ? null : `not a WAV: ${head}`));
    await b.reload();
    await step("opened again", () => b.evaluate(until(`document.querySelector("[data-save=saved]")`)));
    await step("the point is where it was left", async () =>
      (await b.evaluate(STORED)) !== stored ? null : "not kept",
    );
    if (b.problems.length > 0) throw new Error(b.problems.join("; "));
    const speed = loop / seconds;
    return { version, steps, speed };
  } catch (error) {
    error.message += ` (after: ${steps.join(", ") || "nothing"})`;
    throw error;
  } finally {
    await b.close();
  }
}

const ALL = [
  ["chromium", chromium],
  ["firefox", firefox],
  ["webkit", () => webkit(false)],
  ["webkit", () => webkit(true)],
];
const asked = process.argv.slice(2).filter((a) => !a.startsWith("-"));
const stopDevice = startDevice();
const server = await startServer(await freePort());
let failed = 0;
try {
  for (const [name, make] of ALL) {
    if (asked.length > 0 && !asked.includes(name)) continue;
    try {
      const { version, steps, speed } = await journey(make, server.address);
      console.log(
        `${version}: ${steps.join(", ")}. The WAV of four bars was made at ${speed.toFixed(0)} times real time.`,
      );
    } catch (error) {
      failed++;
      console.error(`${name}: ${error.message}`);
    }
  }
} finally {
  server.stop();
  stopDevice();
}
process.exit(failed > 0 ? 1 : 0);
