// One small set of hands for three browsers: puppeteer-core drives Chromium and Firefox, plain WebDriver (W3C) WebKit.
import { spawn } from "node:child_process";
import puppeteer from "puppeteer-core";
import { launchOptions } from "../browser.mjs";
import { freePort } from "../run.mjs";

const VIEW = { width: 1280, height: 800 };

async function withPuppeteer(options) {
  const browser = await puppeteer.launch({ headless: true, defaultViewport: VIEW, ...options });
  const page = await browser.newPage();
  const problems = [];
  page.on("pageerror", (e) => problems.push(e.message));
  return {
    problems,
    version: () => browser.version(),
    goto: (url) => page.goto(url),
    evaluate: (body) => page.evaluate(`(async () => { ${body} })()`),
    click: async ({ x, y }) => page.mouse.click(x, y),
    drag: async (from, to) => {
      await page.mouse.move(from.x, from.y);
      await page.mouse.down();
      await page.mouse.move((from.x + to.x) / 2, (from.y + to.y) / 2);
      await page.mouse.move(to.x, to.y);
      await page.mouse.up();
    },
    reload: () => page.reload(),
    close: () => browser.close(),
  };
}

export const chromium = () => withPuppeteer(launchOptions);

export const firefox = () =>
  withPuppeteer({
    browser: "firefox",
    executablePath: "/usr/bin/firefox-esr",
    extraPrefsFirefox: { "media.autoplay.default": 0 },
  });

/** WebKit's own browser over WebDriver; `shared` switches memory shared by threads on. */
export async function webkit(shared) {
  const port = await freePort();
  const env = { ...process.env, WEBKIT_DISABLE_SANDBOX_THIS_IS_DANGEROUS: "1", ...(shared ? { JSC_useSharedArrayBuffer: "1" } : {}) }; // prettier-ignore
  const driver = spawn("xvfb-run", ["-a", "WebKitWebDriver", `--port=${port}`], {
    env,
    detached: true,
    stdio: "ignore",
  });
  const call = async (method, path, body) => {
    const answer = await fetch(`http://127.0.0.1:${port}${path}`, {
      method,
      ...(body ? { body: JSON.stringify(body), headers: { "content-type": "application/json" } } : {}),
    });
    const { value } = await answer.json();
    if (value?.error) throw new Error(`${value.error}: ${value.message}`);
    return value;
  };
  for (let tries = 0; ; tries++) {
    const ready = await call("GET", "/status").catch(() => null);
    if (ready) break;
    if (tries > 60) throw new Error("WebKitWebDriver does not answer");
    await new Promise((resolve) => setTimeout(resolve, 250));
  }
  const session = await call("POST", "/session", {
    capabilities: {
      alwaysMatch: {
        "webkitgtk:browserOptions": {
          binary: "/usr/lib/x86_64-linux-gnu/webkit2gtk-4.1/MiniBrowser",
          args: ["--automation"],
        },
      },
    },
  });
  const at = `/session/${session.sessionId}`;
  await call("POST", `${at}/window/rect`, { ...VIEW, height: VIEW.height + 60 }).catch(() => undefined);
  await call("POST", `${at}/timeouts`, { script: 60_000, pageLoad: 60_000 });
  const pointer = (actions) =>
    call("POST", `${at}/actions`, {
      actions: [{ type: "pointer", id: "mouse", parameters: { pointerType: "mouse" }, actions }],
    });
  const move = ({ x, y }) => ({ type: "pointerMove", duration: 30, x: Math.round(x), y: Math.round(y) });
  const down = { type: "pointerDown", button: 0 };
  const up = { type: "pointerUp", button: 0 };
  return {
    problems: [],
    version: () =>
      Promise.resolve(`WebKit ${session.capabilities.browserVersion}${shared ? ", shared memory on" : ""}`),
    goto: (url) => call("POST", `${at}/url`, { url }),
    evaluate: (body) =>
      call("POST", `${at}/execute/async`, {
        script: `const done = arguments[arguments.length - 1]; (async () => { ${body} })().then((v) => done(v === undefined ? null : v), (e) => done({ failed: String(e) }));`,
        args: [],
      }),
    click: (p) => pointer([move(p), down, up]),
    drag: (from, to) =>
      pointer([move(from), down, move({ x: (from.x + to.x) / 2, y: (from.y + to.y) / 2 }), move(to), up]),
    reload: () => call("POST", `${at}/refresh`, {}),
    close: async () => {
      await call("DELETE", at).catch(() => undefined);
      process.kill(-driver.pid, "SIGTERM");
    },
  };
}
