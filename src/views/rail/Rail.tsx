import Link from "next/link";
import { usePathname, useRouter } from "next/navigation";
import { formatAmount } from "@/core/patch/valueText";
import { useEditable, useProject, useStudio, useView } from "@/views/studio/studio";
import { NOTES_STRIP, PART_STRIP, type StripId } from "@/views/studio/viewStore";
import { modulesOf } from "@/core/patch/kinds";
import { AMP } from "@/core/patch/kinds/amp";
import { OSCILLATOR } from "@/core/patch/kinds/oscillator";
import type { Part } from "@/core/patch/project";
import { LOCKED, menuOf, runKeyed, type MenuEntry } from "@/ui/menu";
import { WAVE_TEXT } from "@/views/score/stripList";

const VIEWS = [
  { href: "/", text: "Score" },
  { href: "/shelf", text: "Shelf" },
  { href: "/send", text: "Send out" },
] as const;

/** What a part sounds like, in two words. */
function soundText(part: Part): string {
  const waves = modulesOf(part.patch.modules, OSCILLATOR).map((m) => WAVE_TEXT[m.choices.wave]);
  const wave = waves.length > 0 ? waves.join(" + ") : "no source";
  return part.arpeggio.on ? `${wave} arpeggio` : wave;
}

const levelText = (part: Part): string =>
  modulesOf(part.patch.modules, AMP)
    .map((m) => formatAmount(m.values.level, "dB", 1))
    .join();

/** Views and parts. */
export function Rail() {
  const { view } = useStudio();
  const editable = useEditable();
  const hands = useView((v) => v.handsOpen);
  const path = usePathname();
  const router = useRouter();
  const parts = useProject((s) => s.project.parts);
  const partId = useView((v) => v.partId);
  const open = (part: Part, strip: StripId): void => {
    view.setState({ partId: part.id, strip, selectedNotes: new Set(), laneSteps: new Set() });
    if (path !== "/") router.push("/");
  };
  const actions = (part: Part): MenuEntry[] => [
    { text: "Open", keys: "Enter", run: () => open(part, PART_STRIP) },
    { text: "Its notes", run: () => open(part, NOTES_STRIP) },
    { text: "Its arpeggio", run: () => open(part, { kind: "arpeggio" }) },
    {
      text: "Rename",
      keys: "F2",
      why: editable ? null : LOCKED,
      run: () => {
        open(part, PART_STRIP);
        view.setState({ renaming: part.id });
      },
    },
  ];
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
          onContextMenu={menuOf(p.name, () => actions(p))}
          onKeyDown={(e) => runKeyed(actions(p), e)}
          className={`mx-2 mb-1.5 cursor-pointer border bg-sheet px-2 py-1.5 text-left ${p.id === partId ? "border-l-4 border-ink" : "border-line"}`}
          onClick={() => open(p, PART_STRIP)}
        >
          <span className="block truncate font-semibold" title={p.name}>
            {p.name}
          </span>
          <span className="flex justify-between gap-1 text-[11px] text-ink2">
            <span className="truncate">{soundText(p)}</span>
            <span className="whitespace-nowrap">{levelText(p)}</span>
          </span>
        </button>
      ))}
      <button
        type="button"
        aria-pressed={hands}
        title="Keys to play and record by hand (K)"
        className={`mt-auto cursor-pointer border-l-4 px-3 py-1.5 text-left text-[12px] font-semibold ${hands ? "border-ink bg-sheet text-ink" : "border-transparent text-ink2 hover:text-ink"}`}
        onClick={() => view.setState({ handsOpen: !hands })}
      >
        Play by hand
      </button>
      <button
        type="button"
        className="cursor-pointer px-4 py-3 text-left text-[11px] text-ink2 hover:text-ink"
        onClick={() => view.setState({ shortcutsOpen: true })}
      >
        Keys and hands (?)
      </button>
    </nav>
  );
}
