import { writeFile } from "node:fs/promises";
import { projectFileText } from "@/core/format/projectFile";
import { LARGEST } from "../support/largest";
import { expect, forget, openStudio, recording, rms, test } from "./studio";

/** Bytes of a page with its workers, as the browser counts them. */
const memory = (): Promise<number> =>
  (performance as unknown as { measureUserAgentSpecificMemory(): Promise<{ bytes: number }> })
    .measureUserAgentSpecificMemory()
    .then((m) => m.bytes);

for (const [what, make] of Object.entries(LARGEST)) {
  test(`the largest project with ${what} opens, draws, plays and can be edited`, async ({ studio: page }, info) => {
    await openStudio(page);
    await page.getByRole("link", { name: "Shelf" }).click();
    const file = info.outputPath("largest.json");
    await writeFile(file, projectFileText({ ...make(), name: what }));
    await page.getByLabel("Project file").setInputFiles(file);
    await expect(page.locator("header")).toContainText(what, { timeout: 20_000 });
    await expect(page.getByRole("list", { name: "Strips of the score" })).toBeVisible();
    await expect(page.getByRole("img", { name: /^Pitch, as heard: lowest/ })).toBeVisible({ timeout: 30_000 });
    await page.getByRole("button", { name: "Play", exact: true }).click();
    await forget(page);
    expect(rms((await recording(page, 0.3)).left)).toBeGreaterThan(0);
    await page.keyboard.press("Control+z");
    await page.getByRole("button", { name: "Stop" }).click();
    await expect(page.getByText("cannot be shown")).toHaveCount(0);
    // The browser takes its time to count: only where there is most to hold.
    if (what === "a chord arpeggio") expect(await page.evaluate(memory)).toBeLessThan(500_000_000);
  });
}
