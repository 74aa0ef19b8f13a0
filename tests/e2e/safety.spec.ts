import { chromium, type Page } from "@playwright/test";
import { launchOptions } from "../../scripts/browser.mjs";
import { demoProject } from "@/core/patch/demo";
import { downloaded, expect, openStudio, saved, slider, test, typeValue, watch } from "./studio";

const shelf = (page: Page) => page.getByRole("link", { name: "Shelf" }).click();
const tempoIs = (page: Page, bpm: string) => expect(slider(page, "Tempo")).toHaveAttribute("aria-valuenow", bpm);

/** Changes what the browser has stored, behind the application's back. */
const inDatabase = (page: Page, put: object): Promise<void> =>
  page.evaluate(
    (record) =>
      new Promise<void>((resolve, reject) => {
        const open = indexedDB.open("clovik");
        open.onsuccess = () => {
          const db = open.result;
          const tx = db.transaction("projects", "readwrite");
          tx.objectStore("projects").put(record);
          tx.oncomplete = () => {
            db.close();
            resolve();
          };
          tx.onerror = () => reject(new Error("not stored"));
        };
      }),
    put,
  );

/** The browser's disk is full while `full` is set. */
const fullDisk = (): void => {
  const store = IDBObjectStore.prototype;
  type Put = (this: IDBObjectStore, value: unknown, key?: IDBValidKey) => IDBRequest<IDBValidKey>;
  const put = Reflect.get(store, "put") as Put;
  store.put = function (value: unknown, key?: IDBValidKey) {
    if ((window as unknown as { full?: boolean }).full)
      throw new DOMException("the disk is full", "QuotaExceededError");
    return key === undefined ? put.call(this, value) : put.call(this, value, key);
  };
};
const setFull = (page: Page, full: boolean): Promise<void> =>
  page.evaluate((f) => void Object.assign(window, { full: f }), full);

test("a project that one tab edits is renamed and deleted from another without losing a thing", async ({
  studio: page,
  context,
}) => {
  await openStudio(page);
  await typeValue(page, "Tempo", "111");
  await saved(page);
  const other = await context.newPage();
  await openStudio(other);
  await shelf(other);
  await other.getByRole("table").getByRole("button", { name: "Night Crossing", exact: true }).click();
  await other.keyboard.type("Breakwater");
  await other.keyboard.press("Enter");
  await expect(page.locator("header")).toContainText("Breakwater");
  await typeValue(page, "Tempo", "112");
  await saved(page);
  await expect(other.getByRole("table")).toContainText("Breakwater");

  await other.getByRole("button", { name: "Delete Breakwater" }).click();
  await expect(page.getByText("This project was deleted in another tab")).toBeVisible();
  await tempoIs(page, "112");
  await page.getByRole("button", { name: "Bring it back" }).click();
  await expect(page.getByText("This project was deleted in another tab")).toBeHidden();
  await saved(page);
  await typeValue(page, "Tempo", "113");
  await tempoIs(page, "113");
  await saved(page);
  await page.reload();
  await tempoIs(page, "113");
  await expect(page.locator("header")).toContainText("Breakwater");
});

test("each tab opens its own project again; a tab that waits can edit when the other has gone", async ({
  studio: page,
  context,
}) => {
  await openStudio(page);
  await typeValue(page, "Tempo", "101");
  await saved(page);
  const other = await context.newPage();
  await openStudio(other);
  await shelf(other);
  await other.getByRole("button", { name: "New project" }).click();
  await typeValue(other, "Tempo", "77");
  await saved(other);
  await page.reload();
  await tempoIs(page, "101");
  await shelf(other);
  await other.getByRole("button", { name: "Open Night Crossing" }).click();
  await expect(other.getByText("This project is open in another tab")).toBeVisible();
  await page.close();
  await expect(other.getByText("This project is open in another tab")).toBeHidden();
  await typeValue(other, "Tempo", "102");
  await saved(other);
});

test("work of another that came between is not overwritten: it goes on as a copy, or after a question it is left", async ({
  studio: page,
}) => {
  await openStudio(page);
  await typeValue(page, "Tempo", "111");
  await saved(page);
  // A browser without locks, or a tool, has written the project meanwhile.
  const meanwhile = (bpm: number): Promise<void> =>
    page.evaluate(
      (tempoBpm) =>
        new Promise<void>((resolve) => {
          const open = indexedDB.open("clovik");
          open.onsuccess = () => {
            const tx = open.result.transaction("projects", "readwrite");
            tx.objectStore("projects").openCursor().onsuccess = (event) => {
              type Stored = { name: string; revision: number; document: { song: object } };
              const cursor = (event.target as IDBRequest<IDBCursorWithValue | null>).result;
              if (!cursor) return;
              const record = cursor.value as Stored;
              const { document } = record;
              if (record.name === "Night Crossing")
                cursor.update({
                  ...record,
                  revision: record.revision + 1,
                  document: { ...document, song: { ...document.song, tempoBpm } },
                });
              cursor.continue();
            };
            tx.oncomplete = () => {
              open.result.close();
              resolve();
            };
          };
        }),
      bpm,
    );
  await meanwhile(150);
  await typeValue(page, "Tempo", "112");
  await expect(page.getByText(/^Not saved since .*changed elsewhere/)).toBeVisible();
  await page.getByRole("button", { name: "Go on with a copy" }).click();
  await saved(page);
  await expect(page.locator("header")).toContainText("Night Crossing copy");
  await tempoIs(page, "112");
  await shelf(page);
  await page.getByRole("button", { name: "Open Night Crossing", exact: true }).click();
  await tempoIs(page, "150");
  await meanwhile(160);
  await typeValue(page, "Tempo", "113");
  await page.getByRole("button", { name: "Show what is stored" }).click();
  await page.getByRole("button", { name: "Stay" }).click();
  await tempoIs(page, "113");
  await page.getByRole("button", { name: "Show what is stored" }).click();
  await page.getByRole("button", { name: "Leave without them" }).click();
  await tempoIs(page, "160");
  await typeValue(page, "Tempo", "161");
  await saved(page);
});

test("what cannot be stored stays in sight, is not left without a question, and is stored when there is room", async ({
  studio: page,
}) => {
  await page.addInitScript(fullDisk);
  await openStudio(page);
  await setFull(page, true);
  await typeValue(page, "Tempo", "88");
  await expect(page.getByText(/^Not saved since \d\d:\d\d: the disk is full/)).toBeVisible();
  await shelf(page);
  await page.getByRole("button", { name: "New project" }).click();
  await expect(page.getByRole("dialog")).toContainText("Night Crossing");
  await page.getByRole("button", { name: "Stay" }).click();
  await tempoIs(page, "88");
  await page.getByRole("button", { name: "New project" }).click();
  const file = page.waitForEvent("download");
  await page.getByRole("button", { name: "Save as a file, then leave" }).click();
  expect((await downloaded(file)).toString("utf8")).toContain('"tempoBpm": 88');
  await expect(page.locator("header")).toContainText("Untitled");
  await typeValue(page, "Tempo", "89");
  await setFull(page, false);
  await saved(page);
  await page.reload();
  await tempoIs(page, "89");
});

test("records that cannot be read are saved as they are, and their last good state is opened", async ({
  studio: page,
}) => {
  await openStudio(page);
  await typeValue(page, "Tempo", "95");
  await saved(page);
  const id = await page.evaluate(() => sessionStorage.getItem("clovik-project"));
  const { song, ...rest } = demoProject(id!);
  const document = { ...rest, song: { ...song, tempoBpm: "fast" } };
  await inDatabase(page, { id, name: "Night Crossing", savedAt: 5, revision: 9, document });
  await inDatabase(page, { id: "odd", name: { a: 1 }, savedAt: "never", revision: 1, document: null });
  await page.reload();
  await expect(page.getByText(/A stored project is damaged/).first()).toBeVisible();
  await shelf(page);
  await expect(page.getByRole("table")).toContainText("Without a name");
  const row = page.getByRole("row", { name: /Delete Night Crossing/ }).filter({ hasText: "song.tempoBpm" });
  const file = page.waitForEvent("download");
  await row.getByRole("button", { name: "Save what is stored as a file" }).click();
  expect((await downloaded(file)).toString("utf8")).toContain('"tempoBpm": "fast"');
  await row.getByRole("button", { name: /^Open its state of/ }).click();
  await expect(page.locator("header")).toContainText("Night Crossing restored");
});

test("a page that is not served safely opens, says why it is silent, and saves files", async ({ baseURL }) => {
  const browser = await chromium.launch({
    ...launchOptions,
    args: [...launchOptions.args, "--host-resolver-rules=MAP veldra.test 127.0.0.1"],
  });
  const page = await browser.newPage();
  const origin = baseURL!.replace("127.0.0.1", "veldra.test");
  const problems = watch(page, origin);
  await page.addInitScript(() => Reflect.deleteProperty(window, "BroadcastChannel"));
  await page.goto(origin);
  await typeValue(page, "Tempo", "99");
  await saved(page);
  await page.getByRole("button", { name: "Add a shape" }).click();
  await page.getByRole("button", { name: "Play", exact: true }).click();
  await expect(page.getByText(/The sound could not be started: .*https/)).toBeVisible();
  await page.getByRole("link", { name: "Send out" }).click();
  const file = page.waitForEvent("download");
  await page.getByRole("button", { name: "Export project" }).click();
  expect((await downloaded(file)).toString("utf8")).toContain('"tempoBpm": 99');
  // The browser itself complains that it ignores the isolation of such a page.
  expect(problems.filter((p) => !p.includes("Cross-Origin-Opener-Policy header has been ignored"))).toEqual([]);
  await browser.close();
});

test("the steps of the history are listed by name and can be gone to", async ({ studio: page }) => {
  await openStudio(page);
  for (const bpm of ["90", "91", "92"]) await typeValue(page, "Tempo", bpm);
  await page.getByRole("button", { name: "History" }).click();
  await page.keyboard.press("End");
  await expect(page.getByRole("menuitem", { name: "As it was opened" })).toBeFocused();
  await page.keyboard.press("Enter");
  await tempoIs(page, "122");
  await page.getByRole("button", { name: "History" }).click();
  await page
    .getByRole("menu", { name: "Steps, newest first" })
    .getByRole("menuitem", { name: /^Set tempo/ })
    .nth(1)
    .click();
  await tempoIs(page, "91");
});
