import type { ReactNode } from "react";
import { StudioShell } from "../StudioShell";

export default function StudioLayout({ children }: { children: ReactNode }) {
  return <StudioShell>{children}</StudioShell>;
}
