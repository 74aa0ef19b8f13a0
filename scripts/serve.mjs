// Serves the built application: node scripts/serve.mjs [port]. Every answer starts with our headers, those that Next.js
// gives before it asks us (a redirect of repeated slashes) included; pages and files put their own policy in.
import { createServer } from "node:http";
import { DATA_POLICY, GUARDS } from "../src/server/guards.mjs";
import { root } from "./run.mjs";

process.env["NODE_ENV"] = "production";
const { default: next } = await import("next");
const port = Number(process.argv[2] ?? 4000);
const hostname = "127.0.0.1";
const app = next({ dir: root, dev: false, hostname, port });
await app.prepare();
const handle = app.getRequestHandler();
const server = createServer((request, response) => {
  for (const { key, value } of GUARDS) response.setHeader(key, value);
  response.setHeader("Content-Security-Policy", DATA_POLICY);
  void handle(request, response);
});
server.listen(port, hostname);
for (const signal of ["SIGINT", "SIGTERM"])
  process.on(signal, () => {
    server.close(() => process.exit(0));
    server.closeAllConnections();
  });
