"use client";
import dynamic from "next/dynamic";
import type { ReactNode } from "react";

// The studio lives in the browser alone: it needs its database, its locks and its sound.
const Studio = dynamic(() => import("./StudioRoot").then((m) => m.StudioRoot), {
  ssr: false,
  loading: () => <p className="grid h-screen place-items-center text-ink2">Opening Clovik</p>,
});

export function StudioShell({ children }: { children: ReactNode }) {
  return <Studio>{children}</Studio>;
}
