// One command for a newcomer: installs, builds, starts on a free or given port (npm run demo -- --port 4000), and
// prints the address. A browser that has no project yet opens with the demo project.
import { ensureBuild, ensurePackages, freePort, startServer } from "./run.mjs";

const at = process.argv.indexOf("--port");
const wanted = at === -1 ? 0 : Number(process.argv[at + 1]);
if (!Number.isInteger(wanted) || wanted < 0 || wanted > 65535) {
  console.error("--port takes a number from 1 to 65535");
  process.exit(2);
}
ensurePackages();
ensureBuild();
const port = await freePort(wanted);
if (wanted !== 0 && port !== wanted) console.log(`Port ${wanted} is taken.`);
const server = await startServer(port, ["ignore", "ignore", "inherit"]);
console.log(`\nClovik is running at ${server.address}\nPress Ctrl+C to stop it.`);
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => server.stop());
server.child.on("exit", (code) => process.exit(code ?? 0));
