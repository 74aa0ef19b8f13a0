import path from "node:path";
import type { NextConfig } from "next";
import { FILE_POLICY, GUARDS, PAGE_POLICY } from "./src/server/guards.mjs";

const policy = (value: string) => ({ key: "Content-Security-Policy", value });

/** The server: it answers with the page, which Vite builds (vite.config.mjs), and renders. */
const config: NextConfig = {
  poweredByHeader: false,
  // Its own redirects carry no headers of ours; the page's route makes them.
  skipTrailingSlashRedirect: true,
  // It starts its threads from its own files.
  serverExternalPackages: ["piscina"],
  // `npm run types` asks more of them, tests and scripts included, and `npm test` begins with it.
  typescript: { ignoreBuildErrors: true },
  agentRules: false,
  experimental: { agentUpgrade: false },
  turbopack: { root: path.resolve(".") },
  headers: () =>
    Promise.resolve([
      { source: "/:path*", headers: [...GUARDS, policy(PAGE_POLICY)] },
      {
        source: "/assets/:path*",
        headers: [policy(FILE_POLICY), { key: "Cache-Control", value: "public, max-age=31536000, immutable" }],
      },
    ]),
};

export default config;
