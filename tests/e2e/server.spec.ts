import { execFile } from "node:child_process";
import { readFile, readdir, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { promisify } from "node:util";
import wavefile from "wavefile";
import { damping, filterMagnitudeDb } from "@/core/dsp/filter";
import { demoProject } from "@/core/patch/demo";
import { projectFileText } from "@/core/format/projectFile";
import { LIMITS } from "@/server/renderJob";
import { LARGEST } from "../support/largest";
import { expect, openStudio, seriousIn, test } from "./studio";

const run = promisify(execFile);
const DEMO = projectFileText(demoProject("demo"));

test("every page carries a strict policy and isolation", async ({ request }) => {
  for (const path of ["/", "/shelf", "/send"]) {
    const headers = (await request.get(path)).headers();
    expect(headers["content-security-policy"]).toContain(
      "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self';",
    );
    expect(headers).toMatchObject({
      "cross-origin-opener-policy": "same-origin",
      "cross-origin-embedder-policy": "require-corp",
      "x-content-type-options": "nosniff",
      "referrer-policy": "no-referrer",
    });
    expect(headers["x-powered-by"]).toBeUndefined();
  }
});

test("each view has an address, with its script ahead; another address is told to be none", async ({ request }) => {
  for (const [path, view] of [["/", "ScoreView"], ["/voice", "VoiceView"], ["/moves", "MovesView"], ["/shelf", "ShelfView"], ["/send", "SendView"]] as const) {
    const html = await (await request.get(path)).text();
    const ahead = [...html.matchAll(/<link rel="modulepreload" [^>]*href="([^"]+)"/g)].map((m) => m[1]!);
    const own = ahead.filter((file) => /View-/.test(file));
    expect(own, path).toEqual([expect.stringContaining(`/assets/${view}-`)]);
    expect((await request.get(own[0]!)).headers()).toMatchObject({
      "content-type": expect.stringContaining("javascript"),
      "cache-control": "public, max-age=31536000, immutable",
    });
  }
  const slash = await request.get("/shelf/?from=here", { maxRedirects: 0 });
  expect([slash.status(), slash.headers()["location"]]).toEqual([308, "/shelf?from=here"]);
  const none = await request.get("/nowhere");
  expect(none.status()).toBe(404);
  expect(await none.text()).toContain("Nothing is at this address");
}); // prettier-ignore

test("the schema of the file format is served", async ({ request }) => {
  const schema = (await (await request.get("/schema/project")).json()) as {
    $schema: string;
    properties: Record<string, unknown>;
  };
  expect(schema.$schema).toContain("2020-12");
  expect(Object.keys(schema.properties)).toEqual(Object.keys(JSON.parse(DEMO) as object));
});

test("POST /api/render answers with a WAV, and refuses what is too much with a reason", async ({ request }) => {
  const post = (query: string, data: string) =>
    request.post(`/api/render${query}`, { data: Buffer.from(data), headers: { "Content-Type": "application/json" } });
  const good = await post("?bars=1&depth=16&rate=44100&tail=cut", DEMO);
  expect(good.headers()["content-type"]).toBe("audio/wav");
  const wav = new wavefile.WaveFile(await good.body());
  expect(wav.fmt).toMatchObject({ sampleRate: 44_100, bitsPerSample: 16 });
  const [left] = wav.getSamples(false, Int16Array) as unknown as [Int16Array];
  expect(left).toHaveLength(Math.round((4 * 60 * 44_100) / 122));

  const cases: [string, string, number, RegExp][] = [
    ["", "{", 422, /not readable as JSON/],
    ["", DEMO.replace('"version": 2', '"version": 7'), 422, /version: made by a newer Clovik/],
    ["?bars=0", DEMO, 400, /bars must be/],
    ["?bars=65", DEMO, 400, /from 1 to 64/],
    ["?bars=64", DEMO.replace('"tempoBpm": 122', '"tempoBpm": 20'), 400, /at most 600 s/],
    ["?rate=8000", DEMO, 400, /rate must be one of/],
    ["?depth=8", DEMO, 400, /depth must be/],
    ["?tail=long", DEMO, 400, /tail must be one of/],
    ["?part=none", DEMO, 400, /there is no part/],
    ["", DEMO + " ".repeat(32_000_001), 413, /bytes at the most/],
  ];
  for (const [query, body, status, reason] of cases) {
    const answer = await post(query, body);
    expect(answer.status(), query).toBe(status);
    expect(((await answer.json()) as { error: string }).error).toMatch(reason);
  }
  const many = await Promise.all(Array.from({ length: 6 }, () => post("?bars=16", DEMO)));
  const states = many.map((r) => r.status());
  expect(states.filter((s) => s === 200).length).toBeGreaterThanOrEqual(2);
  expect(states.filter((s) => s === 429).length).toBeGreaterThanOrEqual(1);
  expect(many.find((r) => r.status() === 429)!.headers()["retry-after"]).toBe("5");
});

test(
  "while two long renders run and thirty are refused, pages answer; nothing stays behind",
  { tag: "@alone" },
  async ({ request, baseURL }) => {
    const largest = LARGEST["as many notes as parts hold"]!();
    const heavy = projectFileText({ ...largest, song: { ...largest.song, loopBars: 8 } });
    // The largest projects fit in a request.
    expect(Math.max(...Object.values(LARGEST).map((make) => projectFileText(make()).length))).toBeLessThan(
      LIMITS.bodyBytes,
    );
    const files = async (): Promise<string[]> => (await readdir(tmpdir())).filter((f) => /^clovik-.*\.wav$/.test(f));
    const before = await files();
    const post = (signal?: AbortSignal) =>
      fetch(`${baseURL}/api/render?bars=64`, {
        method: "POST",
        body: heavy,
        headers: { "Content-Type": "application/json" },
        ...(signal ? { signal } : {}),
      });
    const stop = new AbortController();
    const long = [post(stop.signal), post(stop.signal)].map((p) =>
      p.then(
        () => "done",
        () => "left",
      ),
    );
    const health = async () =>
      (await (await request.get("/api/health")).json()) as { status: string; renders: { running: number } };
    await expect.poll(async () => (await health()).renders.running).toBe(2);
    const refused = await Promise.all(Array.from({ length: 30 }, () => post()));
    expect(new Set(refused.map((r) => r.status))).toEqual(new Set([429]));
    const times: number[] = [];
    for (let i = 0; i < 15; i++) {
      const start = performance.now();
      // Asked without Playwright, whose own work on an answer would be measured with it.
      const page = await fetch(`${baseURL}/shelf`);
      await page.arrayBuffer();
      expect(page.status).toBe(200);
      times.push(performance.now() - start);
    }
    // The middle of fifteen: a single one may fall on a busy moment of a shared machine.
    const middle = times.sort((x, y) => x - y)[7]!;
    expect(middle).toBeLessThan(100);
    stop.abort();
    expect(await Promise.all(long)).toEqual(["left", "left"]);
    await expect.poll(async () => (await health()).renders.running).toBe(0);
    expect(await files()).toEqual(before);
  },
);

test("requests from other sites are refused, and every answer carries its guards", async ({ request, baseURL }) => {
  const post = (headers: Record<string, string>) =>
    fetch(`${baseURL}/api/render?bars=1`, { method: "POST", body: DEMO, headers });
  const json = { "Content-Type": "application/json" };
  expect((await post({ ...json, Origin: "https://elsewhere.test" })).status).toBe(403);
  expect((await post({ ...json, Origin: "null" })).status).toBe(403);
  expect((await post({ ...json, "Sec-Fetch-Site": "cross-site" })).status).toBe(403);
  expect((await post({ "Content-Type": "text/plain" })).status).toBe(415);
  expect((await post({ ...json, Origin: baseURL!, "Sec-Fetch-Site": "same-origin" })).status).toBe(200);
  const page = await (await request.get("/")).text();
  const script = /src="(\/assets\/[^"]+\.js)"/.exec(page)![1]!;
  for (const path of [
    script,
    "/icon.svg",
    "/shelf/",
    "//shelf",
    "/nowhere",
    "/api/health",
    "/api/render",
    "/schema/project",
  ]) {
    const { headers } = await fetch(`${baseURL}${path}`, { redirect: "manual" });
    expect(headers.get("x-content-type-options"), path).toBe("nosniff");
    expect(headers.get("content-security-policy"), path).toContain("default-src 'none'");
    expect(headers.get("cross-origin-opener-policy"), path).toBe("same-origin");
  }
});

test("npm run render writes the sound, the notes and what is heard", async ({ request }, info) => {
  const at = (name: string): string => info.outputPath(name);
  await writeFile(at("demo.json"), DEMO);
  const node = (args: string[]) => run(process.execPath, ["scripts/runTypescript.mjs", "scripts/render.ts", ...args]);
  const { stdout } = await node([at("demo.json"), at("out.wav"), "--bars", "1", "--depth", "32", "--tail", "cut", "--part", "rigging", "--events", at("e.json"), "--heard", at("h.json"), "--targets", "filter.cutoff,amp.level"]); // prettier-ignore
  expect(stdout).toMatch(/94426 frames at 48000 Hz, 16 notes/);
  const events = JSON.parse(await readFile(at("e.json"), "utf8")) as { notes: { onTick: number; onSample: number }[] };
  expect(events.notes.slice(0, 3).map((n) => [n.onTick, n.onSample])).toEqual([
    [0, 0],
    [259, Math.round((259 * 60 * 48_000) / 960 / 122)],
    [480, Math.round((480 * 60 * 48_000) / 960 / 122)],
  ]);
  const heard = JSON.parse(await readFile(at("h.json"), "utf8")) as {
    units: object;
    notes: { rowSamples: number[]; values: Record<string, number[]> }[];
  };
  expect(heard.notes).toHaveLength(16);
  // A row at the onset, at every end of a sub-block, and where the attack of 1.5 ms is over.
  expect(heard.notes[0]!.rowSamples.slice(0, 7)).toEqual([0, 16, 32, 48, 64, 72, 80]);
  expect(heard.units).toEqual({ "filter.cutoff": "Hz", "amp.level": "dB" });
  expect(Object.keys(heard.notes[0]!.values)).toEqual(["filter.cutoff", "amp.level"]);

  // The same samples come from the server.
  const answer = await request.post("/api/render?bars=1&depth=32&tail=cut&part=rigging", {
    data: Buffer.from(DEMO),
    headers: { "Content-Type": "application/json" },
  });
  expect(Buffer.compare(await answer.body(), await readFile(at("out.wav")))).toBe(0);

  for (const args of [
    [],
    [at("none.json"), at("x.wav")],
    [at("demo.json"), at("x.wav"), "--bars", "no"],
    [at("demo.json"), at("x.wav"), "--part", "gone"],
    [at("demo.json"), at("x.wav"), "--targets", "filter.colour"],
    // Over four gigabytes: refused before it starts.
    [at("demo.json"), at("x.wav"), "--bars", "4096", "--rate", "96000", "--depth", "32"],
  ]) {
    const failed = await node(args).then(
      () => null,
      (e: unknown) => e as { code: number; stderr: string },
    );
    expect(failed?.code).toBe(2);
    expect(failed?.stderr).not.toMatch(/\n\s+at /);
  }
});

test("our filters are the browser's own, where the types agree", async ({ studio: page }) => {
  await openStudio(page);
  const cases = [
    ["lowpass", "lp12"],
    ["highpass", "hp12"],
    ["bandpass", "bp12"],
  ] as const;
  for (const [type, ours] of cases) {
    for (const [cutoff, resonance] of [
      [200, 0],
      [1000, 35],
      [6000, 80],
    ] as const) {
      // prettier-ignore
      const q = 1 / damping(ours, resonance);
      // Web Audio gives the Q of its low- and high-pass in decibels.
      const browser = await page.evaluate(
        ([t, hz, Q]) => {
          const context = new OfflineAudioContext(1, 1, 48_000);
          const filter = new BiquadFilterNode(context, { type: t, frequency: hz, Q });
          const frequencies = Float32Array.from([50, 180, 420, 1000, 2500, 7000, 15_000]);
          const magnitude = new Float32Array(7);
          filter.getFrequencyResponse(frequencies, magnitude, new Float32Array(7));
          return [...frequencies].map((f, i) => [f, magnitude[i]!] as const);
        },
        [type, cutoff, type === "bandpass" ? q : 20 * Math.log10(q)] as const,
      );
      for (const [hz, magnitude] of browser) {
        if (magnitude > 1e-4)
          expect(filterMagnitudeDb({ type: ours, cutoffHz: cutoff, resonance }, 48_000, hz)).toBeCloseTo(
            20 * Math.log10(magnitude),
            2,
          );
      }
    }
  }
});

test("nothing serious for axe by day or by night", async ({ studio: page }) => {
  await openStudio(page);
  /** The whole page once; then what changes: not the strips, the rail and the top again. */
  let whole = true;
  const check = async (): Promise<void> => {
    expect(await seriousIn(page, whole ? [] : ["#score-strips", "header", "nav"], true)).toEqual([]);
    whole = false;
  };
  const strips = page.getByRole("list", { name: "Strips of the score" });
  for (const name of [/^Backing/, /^Notes/, /^Arpeggio/, /^Pluck/, /^Swell/, /^Cutoff/]) {
    await strips.getByRole("button", { name }).click();
    await check();
  }
  for (const kind of ["step sequence", "random", "macro", "follower"]) {
    await page.getByRole("button", { name: `Add a ${kind}` }).click();
    await expect(page.getByRole("heading", { name: "Moves nothing yet" })).toBeVisible();
    await check();
  }
  await page.getByRole("link", { name: "Moves" }).click();
  await page.getByRole("listitem", { name: "Swell to Cutoff" }).click();
  await page.getByRole("complementary", { name: "Chosen routes" }).getByText("How", { exact: true }).click();
  await check();
  await page.getByRole("button", { name: "Add routes" }).click();
  await check();
  await page.keyboard.press("Escape");
  await page.getByRole("link", { name: "Score" }).click();
  await page.keyboard.press("Shift+?");
  await expect(page.getByRole("heading", { name: "Keys and hands" })).toBeVisible();
  await check();
  await page.keyboard.press("Escape");
  // The voice, with every kind of wave and everything open.
  await page.getByRole("link", { name: "Voice" }).click();
  await page.getByRole("button", { name: "+ oscillator" }).click();
  await page.getByRole("combobox", { name: "Wave of Oscillator 2", exact: true }).selectOption("corners");
  await page.getByRole("button", { name: "+ oscillator" }).click();
  await page.getByRole("combobox", { name: "Wave of Oscillator 3", exact: true }).selectOption("harmonics");
  await page.getByRole("combobox", { name: "Wave of Oscillator", exact: true }).selectOption("drawn");
  await page.getByRole("button", { name: "+ sub" }).click();
  for (const group of await page.locator("main summary").all()) await group.click();
  await check();
  await page.getByRole("link", { name: "Score" }).click();
  for (const view of ["Shelf", "Send out"]) {
    await page.getByRole("link", { name: view }).click();
    await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
    await check();
  }
});
