import Link from "next/link";
import { usePathname } from "next/navigation";
import { formatAmount } from "@/core/patch/valueText";
import { useProject, useStudio, useView } from "@/views/studio/studio";
import { WAVE_TEXT } from "@/views/score/stripList";

const VIEWS = [
  { href: "/", text: "Score" },
  { href: "/shelf", text: "Shelf" },
  { href: "/send", text: "Send out" },
] as const;

/** Views and parts. */
export function Rail() {
  const { view } = useStudio();
  const path = usePathname();
  const parts = useProject((s) => s.project.parts);
  const partId = useView((v) => v.partId);
  return (
    <nav
      className="flex min-h-0 flex-col overflow-y-auto border-r border-line bg-paper pt-2"
      aria-label="Views and parts"
    >
      {VIEWS.map((v) => (
        <Link
          key={v.href}
          href={v.href}
          aria-current={path === v.href ? "page" : undefined}
          className={`border-l-4 py-[7px] pl-4 text-[13px] font-semibold ${path === v.href ? "border-ink bg-sheet text-ink" : "border-transparent text-ink2 hover:text-ink"}`}
        >
          {v.text}
        </Link>
      ))}
      <h2 className="px-3 pt-5 pb-1 text-[11px] font-semibold text-ink2">{parts.length === 1 ? "Part" : "Parts"}</h2>
      {parts.map((p) => (
        <button
          key={p.id}
          type="button"
          aria-pressed={p.id === partId}
          className={`mx-2 mb-1.5 cursor-pointer border bg-sheet px-2 py-1.5 text-left ${p.id === partId ? "border-l-4 border-ink" : "border-line"}`}
          onClick={() => view.setState({ partId: p.id, strip: "notes", selectedNotes: new Set() })}
        >
          <span className="block truncate font-semibold" title={p.name}>
            {p.name}
          </span>
          <span className="flex justify-between gap-1 text-[11px] text-ink2">
            <span className="truncate">
              {p.arpeggio.on
                ? `${WAVE_TEXT[p.patch.choices["osc.wave"]]} arpeggio`
                : WAVE_TEXT[p.patch.choices["osc.wave"]]}
            </span>
            <span className="whitespace-nowrap">{formatAmount(p.patch.values["amp.level"], "dB", 1)}</span>
          </span>
        </button>
      ))}
      <button
        type="button"
        className="mt-auto cursor-pointer px-4 py-3 text-left text-[11px] text-ink2 hover:text-ink"
        onClick={() => view.setState({ shortcutsOpen: true })}
      >
        Keys and hands (?)
      </button>
    </nav>
  );
}
