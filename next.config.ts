import path from "node:path";
import type { NextConfig } from "next";

const isolation = [
  { key: "Cross-Origin-Opener-Policy", value: "same-origin" },
  { key: "Cross-Origin-Embedder-Policy", value: "require-corp" },
  { key: "Cross-Origin-Resource-Policy", value: "same-origin" },
  { key: "X-Content-Type-Options", value: "nosniff" },
  { key: "X-Frame-Options", value: "DENY" },
  { key: "Referrer-Policy", value: "no-referrer" },
  { key: "Permissions-Policy", value: "camera=(), microphone=(), geolocation=(), midi=(self), autoplay=(self)" },
];

const config: NextConfig = {
  poweredByHeader: false,
  agentRules: false,
  experimental: { agentUpgrade: false },
  turbopack: {
    root: path.resolve("."),
    // Scripts of other threads, each one self-contained: the loader bundles it, and the asset gets a hashed address.
    rules: {
      "*.ts": { condition: { query: "?bundled" }, loaders: ["./tools/bundle-loader.cjs"], as: "*.js" },
      "*.js": { condition: { query: "?bundled" }, type: "asset" },
    },
  },
  headers: () => Promise.resolve([{ source: "/:path*", headers: isolation }]),
};

export default config;
