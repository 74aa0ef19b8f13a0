import { writeFile } from "node:fs/promises";
import { demoProject } from "@/core/patch/demo";
import { projectFileText } from "@/core/format/projectFile";
import { downloaded, expect, openStudio, saved, slider, test, typeValue, watch } from "./studio";

test("closed and opened again, nothing is lost", async ({ studio: page }) => {
  await openStudio(page);
  await typeValue(page, "Tempo", "133.33");
  await page.getByRole("button", { name: /^Cutoff, as heard/ }).click();
  await typeValue(page, "Cutoff", "A3");
  await expect(slider(page, "Cutoff")).toHaveAttribute("aria-valuenow", "220");
  // Within a second of the edit it is stored.
  await expect(page.locator("[data-save=saved]")).toBeVisible({ timeout: 1000 });
  await page.reload();
  await expect(slider(page, "Tempo")).toHaveAttribute("aria-valuenow", "133.33");
  // And the eyes are where they were.
  await expect(slider(page, "Cutoff")).toHaveAttribute("aria-valuetext", "220 Hz, about A3");
});

test("a value that cannot be read is refused and stays", async ({ studio: page }) => {
  await openStudio(page);
  await slider(page, "Smoothing").dblclick();
  await page.keyboard.type("soon");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("textbox", { name: "Smoothing, typed" })).toHaveAttribute("aria-invalid", "true");
  await page.keyboard.press("Escape");
  await expect(slider(page, "Smoothing")).toHaveAttribute("aria-valuenow", "4");
  await page.keyboard.press("ArrowUp");
  await page.keyboard.press("Shift+ArrowUp");
  await expect(slider(page, "Smoothing")).toHaveAttribute("aria-valuenow", "5.1");
  await page.keyboard.press("Backspace");
  await expect(slider(page, "Smoothing")).toHaveAttribute("aria-valuenow", "2");
});

test("the shelf keeps, renames, copies, deletes and brings back", async ({ studio: page }) => {
  await openStudio(page);
  await saved(page);
  await page.getByRole("link", { name: "Shelf" }).click();
  await page.getByRole("button", { name: "Duplicate Night Crossing" }).click();
  await expect(page.getByRole("list", { name: "Strips of the score" })).toBeVisible();
  await expect(page.locator("header")).toContainText("Night Crossing copy");
  await page.getByRole("link", { name: "Shelf" }).click();
  await page.getByRole("table").getByRole("button", { name: "Night Crossing copy", exact: true }).click();
  await page.keyboard.type("Quay at dawn");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "Delete Quay at dawn" }).click();
  await expect(page.getByRole("table")).not.toContainText("Quay at dawn");
  await page.getByRole("button", { name: "Undo", exact: true }).last().click();
  await expect(page.getByRole("table")).toContainText("Quay at dawn");
  await page.getByRole("button", { name: "Open Night Crossing" }).click();
  await expect(page.getByRole("list", { name: "Strips of the score" })).toBeVisible();
});

test("a project goes out as a file and comes back the same; damaged files are refused and what was open stays", async ({
  studio: page,
}, info) => {
  await openStudio(page);
  await page.getByRole("link", { name: "Send out" }).click();
  const file = page.waitForEvent("download");
  await page.getByRole("button", { name: "Export project" }).click();
  const text = (await downloaded(file)).toString("utf8");
  const id = (JSON.parse(text) as { id: string }).id;
  expect(text).toBe(projectFileText(demoProject(id)));

  await page.getByRole("link", { name: "Shelf" }).click();
  const offer = async (name: string, content: string): Promise<void> => {
    await writeFile(info.outputPath(name), content);
    await page.getByLabel("Project file").setInputFiles(info.outputPath(name));
  };
  await offer("cut.json", text.slice(0, 700));
  await expect(page.getByText(/"cut.json" was not opened. file: not readable as JSON/)).toBeVisible();
  await offer("bent.json", text.replace('"tempoBpm": 122', '"tempoBpm": 9000'));
  await expect(page.getByText(/"bent.json" was not opened. song.tempoBpm/)).toBeVisible();
  await expect(page.locator("header")).toContainText("Night Crossing");
  await offer("whole.json", text.replace("Night Crossing", "Harbour lights"));
  await expect(page.locator("header")).toContainText("Harbour lights");

  await page.getByRole("button", { name: /^Notes/ }).click();
  await writeFile(info.outputPath("bad.mid"), "MThd but not really");
  await page.getByLabel("MIDI or sound file").setInputFiles(info.outputPath("bad.mid"));
  await expect(page.getByText(/"bad.mid" could not be read as a MIDI file/)).toBeVisible();
  await expect(page.getByRole("application", { name: /^Notes: 12/ })).toBeVisible();
});

test("a second tab only listens until it takes over; the first then only listens", async ({
  studio: page,
  context,
  baseURL,
}) => {
  await openStudio(page);
  await typeValue(page, "Tempo", "128");
  await saved(page);
  const second = await context.newPage();
  const problems = watch(second, baseURL!);
  await openStudio(second);
  await expect(second.getByText("This project is open in another tab")).toBeVisible();
  await typeValue(second, "Tempo", "64");
  await expect(slider(second, "Tempo")).toHaveAttribute("aria-valuenow", "128");
  // An edit of the first tab that is not stored yet is not lost by the hand-over.
  await typeValue(page, "Tempo", "129");
  await second.getByRole("button", { name: "Edit it here" }).click();
  await expect(second.getByText("This project is open in another tab")).toBeHidden();
  await expect(slider(second, "Tempo")).toHaveAttribute("aria-valuenow", "129");
  await expect(page.getByText("Another tab has taken this project over")).toBeVisible();
  await typeValue(second, "Tempo", "64");
  await expect(slider(second, "Tempo")).toHaveAttribute("aria-valuenow", "64");
  await saved(second);
  await page.reload();
  await expect(slider(page, "Tempo")).toHaveAttribute("aria-valuenow", "64");
  expect(problems).toEqual([]);
});

test("without a database editing goes on, and the project can still be saved as a file", async ({ studio: page }) => {
  await page.addInitScript(() => {
    IDBFactory.prototype.open = () => {
      throw new DOMException("no room", "QuotaExceededError");
    };
  });
  await openStudio(page);
  await expect(page.getByText(/This browser keeps no projects/)).toBeVisible();
  await typeValue(page, "Tempo", "99");
  await expect(page.locator("[data-save=failed]")).toHaveText(/^not saved since \d\d:\d\d$/);
  await page.getByRole("link", { name: "Send out" }).click();
  const file = page.waitForEvent("download");
  await page.getByRole("button", { name: "Export project" }).click();
  expect((await downloaded(file)).toString("utf8")).toContain('"tempoBpm": 99');
});
