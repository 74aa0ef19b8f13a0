import path from "node:path";
import type { NextConfig } from "next";
import { GUARDS } from "./src/server/guards.mjs";

const STATIC_POLICY =
  "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; connect-src 'self'; frame-ancestors 'none'";

const config: NextConfig = {
  poweredByHeader: false,
  // Its own redirects carry no headers of ours; src/proxy.ts makes them.
  skipTrailingSlashRedirect: true,
  // It starts its threads from its own files.
  serverExternalPackages: ["piscina"],
  // `npm run types` asks more of them, tests and scripts included, and `npm test` begins with it.
  typescript: { ignoreBuildErrors: true },
  agentRules: false,
  experimental: { agentUpgrade: false },
  turbopack: {
    root: path.resolve("."),
    // Scripts of other threads, each one self-contained: the loader bundles it, and the asset gets a hashed address.
    rules: {
      "*.ts": { condition: { query: "?bundled" }, loaders: ["./tools/bundle-loader.cjs"], as: "*.js" },
      // Joined with what it uses of Zod: the bundler of the pages would take all of it.
      "**/core/patch/zod.ts": { loaders: ["./tools/bundle-loader.cjs"], as: "*.js" },
      "*.js": { condition: { query: "?bundled" }, type: "asset" },
    },
  },
  headers: () =>
    Promise.resolve([
      { source: "/:path*", headers: [...GUARDS] },
      // Scripts of workers take their policy from their own answer.
      { source: "/_next/static/:path*", headers: [{ key: "Content-Security-Policy", value: STATIC_POLICY }] },
      { source: "/icon.svg", headers: [{ key: "Content-Security-Policy", value: STATIC_POLICY }] },
    ]),
};

export default config;
