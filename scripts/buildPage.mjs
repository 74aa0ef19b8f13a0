// The page that the server answers with: its scripts and styles go to public/assets, itself and the list of what it is made
// of beside the build of the server.
import { mkdirSync, renameSync } from "node:fs";
import path from "node:path";
import { build } from "vite";
import { root } from "./run.mjs";

export async function buildPage() {
  await build({ configFile: path.join(root, "vite.config.mjs"), logLevel: "warn" });
  const beside = path.join(root, ".next", "page");
  mkdirSync(beside, { recursive: true });
  for (const file of ["index.html", "made.json"]) renameSync(path.join(root, "public", file), path.join(beside, file));
}
