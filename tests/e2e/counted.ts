import type { Page } from "@playwright/test";
import { expect, forget, openStudio, recording, slider } from "./studio";

/** A person's hands, counted: a click, a choice from a list, or a text typed to its Enter is one action each. */
export class Hands {
  actions = 0;
  constructor(private readonly page: Page) {}

  async click(name: string | RegExp, role: "button" | "link" | "radio" | "menuitem" = "button"): Promise<void> {
    this.actions++;
    await this.page.getByRole(role, typeof name === "string" ? { name, exact: true } : { name }).first().click(); // prettier-ignore
  }
  async type(text: string): Promise<void> {
    this.actions++;
    await this.page.keyboard.type(text);
    await this.page.keyboard.press("Enter");
  }
  /** Double-click on a value, and what is typed. */
  async set(label: string, text: string): Promise<void> {
    this.actions++;
    await slider(this.page, label).dblclick();
    await this.type(text);
  }
  async choose(list: string, text: string): Promise<void> {
    this.actions++;
    await this.page.getByRole("combobox", { name: list, exact: true }).selectOption({ label: text });
  }
  async move(target: string, amount: string): Promise<void> {
    this.actions++;
    await this.page.getByRole("combobox", { name: "Add a target" }).selectOption({ label: target });
    await this.click("Add");
    await expect(slider(this.page, "Amount").last()).toBeFocused();
    await this.page.keyboard.press("Enter");
    await this.type(amount);
  }
  /** "A chord" of an empty project, and what is typed into its field. */
  async chords(...names: readonly string[]): Promise<void> {
    await this.click("A chord");
    await expect(this.page.getByRole("combobox", { name: "Chord", exact: true })).toBeFocused();
    for (const name of names) await this.type(name);
  }
  async begin(): Promise<void> {
    await openStudio(this.page);
    await this.click("Shelf", "link");
    await this.click("New project");
    await expect(this.page.getByRole("application", { name: /^Notes: 0/ })).toBeVisible();
  }
}

/** Plays from the start, and stops. */
export async function play(page: Page, seconds: number): Promise<{ left: Float32Array; sampleRate: number }> {
  await forget(page);
  await page.getByRole("button", { name: "Play", exact: true }).click();
  const heard = await recording(page, seconds);
  await page.getByRole("button", { name: "Stop" }).click();
  // What rings on would be heard in the next recording.
  await expect(page.getByTestId("engine")).toContainText("0 voices");
  return heard;
}

/** An empty project with one note. */
export async function oneNote(page: Page, length: string, key: string): Promise<Hands> {
  const hands = new Hands(page);
  await hands.begin();
  await hands.click("A note");
  await hands.set("Length", length);
  await hands.set("Key", key);
  return hands;
}

/** One note that is repeated to fill the loop. */
export async function hits(page: Page, length: string, key: string): Promise<Hands> {
  const hands = await oneNote(page, length, key);
  await fillTheLoop(page, hands);
  return hands;
}

/** Repeats the notes that are there to fill the loop. */
export async function fillTheLoop(page: Page, hands: Hands): Promise<void> {
  const notes = page.getByRole("application", { name: /^Notes/ });
  await notes.focus();
  await page.keyboard.press("Control+a");
  await notes.click({ button: "right", position: { x: 300, y: 20 } });
  await hands.click(/^Repeat to fill/, "menuitem");
  hands.actions += 2;
}

/** Types the values of steps, one after the other. */
export async function typeSteps(page: Page, hands: Hands, values: readonly string[]): Promise<void> {
  const editor = page.getByTestId("steps-editor");
  for (const [i, value] of values.entries()) {
    await editor.focus();
    await page.keyboard.press("Escape");
    for (let k = 0; k <= i; k++) await page.keyboard.press("ArrowRight");
    await slider(page, "Value").dblclick();
    await hands.type(value);
    hands.actions++;
  }
}

/** Lets something scale the last route of a modulator. */
export async function scale(page: Page, hands: Hands, what: string, by: string): Promise<void> {
  await page.getByText("How", { exact: true }).last().click();
  await page
    .getByRole("combobox", { name: `What scales ${what}` })
    .last()
    .selectOption({ label: by });
  hands.actions += 2;
}
