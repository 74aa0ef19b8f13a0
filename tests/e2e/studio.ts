import { readFile } from "node:fs/promises";
import { test as base, expect, type Download, type Locator, type Page } from "@playwright/test";
import axe from "axe-core";

/** A page that fails its test on any console error and on any request that leaves the origin. */
export const test = base.extend<{ studio: Page }>({
  studio: async ({ page, baseURL }, provide) => {
    const problems = watch(page, baseURL!);
    await page.addInitScript(captureSound);
    await provide(page);
    expect(problems).toEqual([]);
  },
});

export { expect };

export function watch(page: Page, origin: string): string[] {
  const problems: string[] = [];
  page.on("console", (m) => {
    if (m.type() === "error") problems.push(`console: ${m.text()}`);
  });
  page.on("pageerror", (e) => problems.push(`page: ${e.message}`));
  page.on("request", (r) => {
    if (!r.url().startsWith(origin) && !/^(blob|data):/.test(r.url())) problems.push(`left the origin: ${r.url()}`);
  });
  return problems;
}

interface Tapped {
  node?: AudioWorkletNode;
  blocks: { frame: number; left: Float32Array; right: Float32Array }[];
}

/** Keeps the worklet node that the page makes, so that a test can ask it for what it plays. */
function captureSound(): void {
  const tapped: Tapped = { blocks: [] };
  Object.assign(window, { tapped });
  const Original = AudioWorkletNode;
  window.AudioWorkletNode = class extends Original {
    constructor(...args: ConstructorParameters<typeof Original>) {
      super(...args);
      tapped.node = this;
      this.port.addEventListener("message", (e: MessageEvent<Tapped["blocks"][number] & { type: string }>) => {
        if (e.data.type === "block") tapped.blocks.push(e.data);
      });
      this.port.postMessage({ type: "tap", on: true });
    }
  };
}

export interface Recording {
  readonly sampleRate: number;
  /** From the first block that sounds. */
  readonly left: Float32Array;
  /** Blocks between the first that was processed and the first that sounds. */
  readonly firstFrame: number;
}

/** What the worklet has played since `forget`, from the first block with sound, at least `seconds` of it. */
export async function recording(page: Page, seconds: number): Promise<Recording> {
  await page.waitForFunction(
    (s) => {
      const { blocks, node } = (window as unknown as { tapped: Tapped }).tapped;
      const first = blocks.findIndex((b) => b.left.some((v) => v !== 0));
      return first >= 0 && (blocks.length - first) * 128 >= s * (node?.context.sampleRate ?? 48_000);
    },
    seconds,
    { timeout: 30_000 },
  );
  const { rate, bytes, firstFrame } = await page.evaluate(() => {
    const { blocks, node } = (window as unknown as { tapped: Tapped }).tapped;
    const first = blocks.findIndex((b) => b.left.some((v) => v !== 0));
    // As text of bytes: a list of numbers is longer.
    const text = blocks.slice(first).map((b) => String.fromCharCode(...new Uint8Array(b.left.buffer)));
    return { rate: node!.context.sampleRate, firstFrame: blocks[first]!.frame, bytes: btoa(text.join("")) };
  });
  const left = new Float32Array(Uint8Array.from(Buffer.from(bytes, "base64")).buffer);
  return { sampleRate: rate, firstFrame, left };
}

/** What was recorded from its first sample that sounds: Play starts within a block where a pass has ended within one. */
export const fromOnset = ({ left }: Pick<Recording, "left">): Float32Array => left.subarray(left.findIndex((v) => v !== 0)); // prettier-ignore

/** Forgets what was played so far, blocks that are on their way to the page included: they come before a message of its own. */
export const forget = (page: Page): Promise<void> =>
  page.evaluate(async () => {
    const { port1, port2 } = new MessageChannel();
    await new Promise((resolve) => {
      port1.onmessage = resolve;
      port2.postMessage(null);
    });
    (window as unknown as { tapped: Tapped }).tapped.blocks.length = 0;
  });

export async function openStudio(page: Page): Promise<void> {
  await page.goto("/");
  await expect(page.getByRole("button", { name: "Play", exact: true })).toBeVisible();
}

export const slider = (page: Page, name: string): Locator => page.getByRole("slider", { name, exact: true });

/** Types a value the way a person does. */
export async function typeValue(page: Page, name: string, text: string): Promise<void> {
  await slider(page, name).focus();
  await page.keyboard.press("Enter");
  await page.keyboard.type(text);
  await page.keyboard.press("Enter");
}

/** Waits until the last edit is in the database. */
export const saved = (page: Page): Promise<void> => expect(page.locator("[data-save=saved]")).toBeVisible();

export const downloaded = async (download: Promise<Download>): Promise<Buffer> =>
  readFile(await (await download).path());

export const rms = (x: Float32Array): number => Math.sqrt(x.reduce((s, v) => s + v * v, 0) / Math.max(1, x.length));

/** Strength of one frequency (Goertzel's algorithm), as an amplitude. */
export function strength(x: Float32Array, hz: number, sampleRate: number): number {
  const c = 2 * Math.cos((2 * Math.PI * hz) / sampleRate);
  let [a, b] = [0, 0];
  for (const v of x) [a, b] = [v + c * a - b, a];
  return (2 * Math.sqrt(a * a + b * b - c * a * b)) / x.length;
}

/** Lets the demo's arpeggio be heard alone. */
export const soloRigging = (page: Page): Promise<void> =>
  page.getByRole("button", { name: "Solo Rigging", exact: true }).click();

/**
 * What axe finds serious in a page, `without` some of it, by day and, where asked for, by night: what does not hang on
 * colours is looked at by day alone, for it is the same page. Axe stays in the page: to bring it takes as long as to ask it.
 */
export async function seriousIn(page: Page, without: readonly string[] = [], atNight = false): Promise<string[]> {
  if (!(await page.evaluate(() => "axe" in window))) await page.evaluate(axe.source);
  const found = await seriousNow(page, without, false);
  if (!atNight) return found;
  await turn(page, "dark");
  found.push(...(await seriousNow(page, without, true)).map((text) => `by night, ${text}`));
  await turn(page, "light");
  return found;
}

async function turn(page: Page, colorScheme: "light" | "dark"): Promise<void> {
  await page.emulateMedia({ colorScheme });
  await expect(page.locator("html")).toHaveAttribute("data-theme", colorScheme === "dark" ? "night" : "day");
}

const seriousNow = (page: Page, without: readonly string[], colours: boolean): Promise<string[]> =>
  page.evaluate(
    async ([left, onlyColours]) => {
      const { run } = (window as unknown as { axe: typeof axe }).axe;
      const exclude = left.map((selector) => [selector]);
      const { violations } = await run(
        { include: [["html"]], exclude },
        {
          resultTypes: ["violations"],
          iframes: false,
          ...(onlyColours ? { runOnly: { type: "rule", values: ["color-contrast", "link-in-text-block"] } } : {}),
        },
      );
      return violations
        .filter((v) => v.impact === "serious" || v.impact === "critical")
        .map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(" | ")}`);
    },
    [without, colours] as const,
  );
