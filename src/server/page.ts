import { readFile } from "node:fs/promises";
import path from "node:path";
import { z } from "zod/mini";
import type { Place } from "@/views/studio/places";

/** Made by scripts/buildPage.mjs. */
const FOLDER = path.join(process.cwd(), ".next", "page");

/** The script of the view that is shown at an address: it comes together with the page's own. */
const SCRIPT_OF: Readonly<Record<Place, string>> = {
  "/": "../views/score/ScoreView.tsx",
  "/voice": "../views/voice/VoiceView.tsx",
  "/moves": "../views/moves/MovesView.tsx",
  "/shelf": "../views/shelf/ShelfView.tsx",
  "/send": "../views/send/SendView.tsx",
};

export const isPlace = (path: string): path is Place => Object.hasOwn(SCRIPT_OF, path);

/** Of the bundler's list: a script, and what it imports at once. */
const MadeSchema = z.record(z.string(), z.object({ file: z.string(), imports: z.optional(z.array(z.string())) }));
type Made = z.infer<typeof MadeSchema>;

/** The files of a script and of all that it needs before it can run. */
function filesOf(made: Made, name: string, found = new Set<string>()): Set<string> {
  const script = made[name];
  if (!script) throw new Error(`the page was built without ${name}`);
  if (found.has(script.file)) return found;
  found.add(script.file);
  for (const next of script.imports ?? []) filesOf(made, next, found);
  return found;
}

/** The page as it was built, and what it is made of. */
const read = async () => {
  const [html, made] = await Promise.all(
    ["index.html", "made.json"].map((f) => readFile(path.join(FOLDER, f), "utf8")),
  );
  return { html: html!, made: MadeSchema.parse(JSON.parse(made!)) };
};
let built: ReturnType<typeof read> | null = null;
const pages = new Map<Place, string>();

/** The page of an address, as HTML. Rejects when the page has not been built. */
export async function pageAt(place: Place): Promise<string> {
  const known = pages.get(place);
  if (known !== undefined) return known;
  built ??= read();
  const { html, made } = await built;
  const ahead = [...filesOf(made, SCRIPT_OF[place])].filter((file) => !html.includes(file));
  const links = ahead.map((file) => `<link rel="modulepreload" crossorigin href="/${file}">`);
  const page = html.replace("</head>", `${links.join("\n")}\n</head>`);
  pages.set(place, page);
  return page;
}
