import type { Metadata } from "next";
import { headers } from "next/headers";
import type { ReactNode } from "react";
import "./globals.css";

export const metadata: Metadata = {
  title: "Clovik",
  description: "Design tempo-synced rhythmic patches on a song grid, and hear exactly what is drawn.",
};

export default async function RootLayout({ children }: { children: ReactNode }) {
  // Reading the request makes the page dynamic, so that every response carries its own nonce.
  await headers();
  return (
    <html lang="en" suppressHydrationWarning>
      <body>{children}</body>
    </html>
  );
}
