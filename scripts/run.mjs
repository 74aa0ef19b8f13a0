// What the other scripts share: running commands, installing what is missing, building, and a free port.
import { spawn, spawnSync } from "node:child_process";
import { closeSync, existsSync, mkdtempSync, openSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";

export const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), "..");
export const env = { ...process.env, NEXT_TELEMETRY_DISABLED: "1" };
export const bin = (name) => path.join(root, "node_modules", ".bin", name);

/** Runs a command to its end with its output shown; returns its exit code. */
export function run(command, args, extra = {}) {
  const result = spawnSync(command, args, { cwd: root, stdio: "inherit", env: { ...env, ...extra } });
  if (result.error) console.error(result.error.message);
  return result.status ?? 1;
}

/**
 * Runs a command beside others; settles with its exit code, once what it printed has been shown in one piece. It prints to
 * a file: while another command runs, nobody empties a pipe.
 */
export function runBeside(command, args) {
  const folder = mkdtempSync(path.join(tmpdir(), "clovik-"));
  const said = path.join(folder, "said");
  const out = openSync(said, "w");
  return new Promise((resolve) => {
    const done = (code) => {
      closeSync(out);
      process.stdout.write(readFileSync(said));
      rmSync(folder, { recursive: true });
      resolve(code);
    };
    const child = spawn(command, args, { cwd: root, stdio: ["ignore", out, out], env });
    child.on("error", (error) => {
      console.error(error.message);
      done(1);
    });
    child.on("exit", (code) => done(code ?? 1));
  });
}

/** Installs the packages of package-lock.json unless they are there already. */
export function ensurePackages() {
  const lock = path.join(root, "package-lock.json");
  const stamp = path.join(root, "node_modules", ".clovik-installed");
  const wanted = readFileSync(lock, "utf8");
  if (existsSync(stamp) && readFileSync(stamp, "utf8") === wanted) return;
  console.log("Installing packages");
  if (run("npm", ["ci"]) !== 0) {
    console.error("The packages could not be installed. Check the connection to the npm registry and try again.");
    process.exit(1);
  }
  writeFileSync(stamp, wanted);
}

/** A program of Debian's that the tests run, by the package of the same name. */
function ensureDebian(name, why) {
  const program = `/usr/bin/${name}`;
  if (existsSync(program)) return;
  console.log(`Installing ${name}`);
  const ok =
    run("apt-get", ["update", "-qq"]) === 0 &&
    run("apt-get", ["install", "-y", "-qq", name], { DEBIAN_FRONTEND: "noninteractive" }) === 0;
  if (ok && existsSync(program)) return;
  console.error(
    `${why} need ${program}, which could not be installed here. Install the package "${name}" as root (apt-get install ${name}) and try again.`,
  );
  process.exit(1);
}

/** Debian's Chromium, for the tests in a real browser. */
export const ensureChromium = () => ensureDebian("chromium", "The browser tests");

/** Debian's midicsv, which reads the MIDI files that the tests write. */
export const ensureMidicsv = () => ensureDebian("midicsv", "The tests of MIDI files");

export function newestIn(folder) {
  const stdout = spawnSync("find", [folder, "-type", "f", "-printf", "%T@\n"], { cwd: root, encoding: "utf8" }).stdout;
  return Math.max(0, ...stdout.split("\n").filter(Boolean).map(Number)) * 1000;
}

/** Builds the application when its sources are newer than the last build. */
export function ensureBuild() {
  const id = path.join(root, ".next", "BUILD_ID");
  const sources = Math.max(
    newestIn("src"),
    ...["package-lock.json", "next.config.ts", "vite.config.mjs", "tsconfig.json"].map(
      (f) => statSync(path.join(root, f)).mtimeMs,
    ),
  );
  if (existsSync(id) && statSync(id).mtimeMs > sources) return;
  console.log("Building");
  if (run(process.execPath, [path.join(root, "scripts", "build.mjs")]) !== 0) process.exit(1);
}

/** The given port if it is free, else any free one. */
export function freePort(wanted = 0) {
  return new Promise((resolve) => {
    const server = createServer();
    server.once("error", () => resolve(freePort(0)));
    server.listen(wanted, "127.0.0.1", () => {
      const { port } = server.address();
      server.close(() => resolve(port));
    });
  });
}

/** Starts the built application; resolves with its address when it answers, and with what stops it. */
export async function startServer(port, stdio = "ignore") {
  const child = spawn(process.execPath, [path.join(root, "scripts", "serve.mjs"), String(port)], {
    cwd: root,
    env,
    stdio,
  });
  const address = `http://127.0.0.1:${port}`;
  for (let tries = 0; tries < 240; tries++) {
    if (child.exitCode !== null) throw new Error(`the server stopped with code ${child.exitCode}`);
    const answers = await fetch(address).then(
      (r) => r.ok,
      () => false,
    );
    if (answers) return { address, child, stop: () => child.kill("SIGTERM") };
    await new Promise((resolve) => setTimeout(resolve, 250));
  }
  child.kill("SIGTERM");
  throw new Error("the server did not answer within a minute");
}
