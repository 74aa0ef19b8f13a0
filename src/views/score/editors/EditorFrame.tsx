import type { ReactNode } from "react";

/** The lower half of the score: what is edited, its tools, and the editor itself. */
export function EditorFrame({
  title,
  subtitle,
  tools,
  children,
}: {
  title: string;
  subtitle: string;
  tools?: ReactNode;
  children: ReactNode;
}) {
  return (
    <section className="flex min-h-0 flex-col border-t border-ink bg-sheet" aria-label={`Editor: ${title}`}>
      <div className="flex min-h-[34px] shrink-0 flex-wrap items-center gap-x-2 gap-y-1 border-b border-line px-3 py-1">
        <h2 className="max-w-[240px] truncate text-[13px] font-semibold" title={title}>
          {title}
        </h2>
        <span className="truncate text-[11px] text-ink2">{subtitle}</span>
        <div className="ml-auto flex flex-wrap items-center gap-1">{tools}</div>
      </div>
      <div className="relative min-h-0 flex-1">{children}</div>
    </section>
  );
}
