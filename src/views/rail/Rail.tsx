import Link from "next/link";
import { usePathname, useRouter } from "next/navigation";
import { formatAmount } from "@/core/patch/valueText";
import { useEditable, useProject, useStudio, useView } from "@/views/studio/studio";
import { BACKING_STRIP, NOTES_STRIP, PART_STRIP, type StripId } from "@/views/studio/viewStore";
import { mixOf } from "@/core/patch/edit";
import { modulesOf } from "@/core/patch/kinds";
import { AMP } from "@/core/patch/kinds/amp";
import { OSCILLATOR } from "@/core/patch/kinds/oscillator";
import { whyNoSub, withCleanSub } from "@/core/patch/layers";
import { MAX_PARTS, type Part } from "@/core/patch/project";
import { addPart, duplicatePart, editMix, movePart, removePart } from "@/state/partEdits";
import { newId } from "@/state/ids";
import { Toggle } from "@/ui/Toggle";
import { LOCKED, menuOf, runKeyed, type MenuEntry } from "@/ui/menu";
import { BackingEntry } from "./BackingEntry";
import { WAVE_TEXT } from "@/views/score/stripList";

const VIEWS = [
  { href: "/", text: "Score" },
  { href: "/voice", text: "Voice" },
  { href: "/moves", text: "Moves" },
  { href: "/shelf", text: "Shelf" },
  { href: "/send", text: "Send out" },
] as const;

/** What a part sounds like, in two words. */
function soundText(part: Part): string {
  const waves = modulesOf(part.patch.modules, OSCILLATOR).map((m) => WAVE_TEXT[m.choices.wave]);
  const wave = waves.length > 0 ? waves.join(" + ") : "no source";
  return part.follows ? `${wave} layer` : part.arpeggio.on ? `${wave} arpeggio` : wave;
}

/** Its own level, and what the mix adds. */
const levelText = (part: Part): string =>
  modulesOf(part.patch.modules, AMP)
    .map((m) => formatAmount(m.values.level + (mixOf(part.patch)?.values.level ?? 0), "dB", 1))
    .join();

/** Views and parts. */
export function Rail() {
  const { view, workspace } = useStudio();
  const editable = useEditable();
  const hands = useView((v) => v.handsOpen);
  const path = usePathname();
  const router = useRouter();
  const parts = useProject((s) => s.project.parts);
  const partId = useView((v) => v.partId);
  const { store } = workspace;
  const full = parts.length >= MAX_PARTS;
  const backed = useProject((s) => s.project.backing !== null);
  const atBacking = useView((v) => v.strip.kind === "backing") && path === "/";
  const openBacking = (): void => {
    view.setState({ strip: BACKING_STRIP });
    if (path !== "/") router.push("/");
  };
  const show = (id: string, strip: StripId): void => {
    view.setState({ partId: id, strip, selectedNotes: new Set(), laneSteps: new Set(), chosenValues: [] });
    if (path !== "/" && path !== "/voice" && path !== "/moves") router.push("/");
  };
  const open = (part: Part, strip: StripId): void => show(part.id, strip);
  /** A part opens its voice; the grid stays where it is. */
  const openVoice = (part: Part): void => {
    show(part.id, PART_STRIP);
    view.setState({ address: null });
    if (path !== "/voice") router.push("/voice");
  };
  const onGrid = (part: Part, strip: StripId): void => {
    open(part, strip);
    if (path !== "/") router.push("/");
  };
  const copy = (part: Part, follows: boolean): void => {
    const id = newId();
    if (store.edit(`${follows ? "Layer" : "Duplicate"} ${part.name}`, duplicatePart(part.id, id, follows)))
      show(id, PART_STRIP);
  };
  const locked = editable ? null : LOCKED;
  const actions = (part: Part): MenuEntry[] => [
    { text: "Its voice", run: () => openVoice(part) },
    { text: "Its place in the mix", run: () => onGrid(part, PART_STRIP) },
    { text: "Its notes", run: () => onGrid(part, NOTES_STRIP) },
    { text: "Its arpeggio", run: () => onGrid(part, { kind: "arpeggio" }) },
    {
      text: "Rename",
      keys: "F2",
      why: editable ? null : LOCKED,
      run: () => {
        onGrid(part, PART_STRIP);
        view.setState({ renaming: part.id });
      },
    },
    { text: "Duplicate", keys: "Ctrl D", why: locked ?? (full ? FULL : null), run: () => copy(part, false) },
    { text: "Layer: same pattern, own sound", why: locked ?? (full ? FULL : null), run: () => copy(part, true) },
    {
      text: "Clean sub: a sine under 150 Hz beside it",
      why: locked ?? whyNoSub(workspace.store.getState().project, part.id),
      run: () => {
        const ids = { part: newId(), filter: newId() };
        if (store.edit(`Give ${part.name} a clean sub`, (p) => withCleanSub(p, part.id, ids)))
          show(ids.part, PART_STRIP);
      },
    },
    {
      text: "Move up",
      keys: "Alt ArrowUp",
      why: locked ?? (parts[0] === part ? "It is the first" : null),
      run: () => store.edit(`Move ${part.name} up`, movePart(part.id, -1)),
    },
    {
      text: "Move down",
      keys: "Alt ArrowDown",
      why: locked ?? (parts.at(-1) === part ? "It is the last" : null),
      run: () => store.edit(`Move ${part.name} down`, movePart(part.id, 1)),
    },
    {
      text: part.mix.mute ? "Let it be heard" : "Mute",
      why: locked,
      run: () =>
        store.edit(
          part.mix.mute ? `Let ${part.name} be heard` : `Mute ${part.name}`,
          editMix(part.id, { mute: !part.mix.mute }),
        ),
    },
    {
      text: part.mix.solo ? "End its solo" : "Solo",
      why: locked,
      run: () =>
        store.edit(
          part.mix.solo ? `End the solo of ${part.name}` : `Solo ${part.name}`,
          editMix(part.id, { solo: !part.mix.solo }),
        ),
    },
    {
      text: "Delete",
      keys: "Delete",
      why: locked ?? (parts.length === 1 ? "A project has one part at least" : null),
      run: () => {
        const at = parts.indexOf(part);
        const next = parts[at + 1] ?? parts[at - 1];
        if (store.edit(`Delete ${part.name}`, removePart(part.id)) && next && part.id === partId)
          show(next.id, PART_STRIP);
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
        <PartEntry
          key={p.id}
          part={p}
          several={parts.length > 1 || backed}
          current={p.id === partId}
          actions={() => actions(p)}
          onOpen={() => (path === "/moves" ? show(p.id, PART_STRIP) : openVoice(p))}
        />
      ))}
      <button
        type="button"
        className="mx-2 mb-1.5 cursor-pointer px-2 py-1 text-left text-[11px] text-ink2 hover:text-ink disabled:cursor-default disabled:opacity-50"
        disabled={!editable || full}
        title={full ? FULL : undefined}
        onClick={() => {
          const id = newId();
          if (store.edit("Add a part", addPart(id))) show(id, PART_STRIP);
        }}
      >
        + Add a part
      </button>
      <BackingEntry current={atBacking} onOpen={openBacking} />
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

const FULL = `A project holds ${MAX_PARTS} parts`;

/** A part in the list: opens it; where there is something else to hear, whether it is heard. */
function PartEntry({
  part,
  several,
  current,
  actions,
  onOpen,
}: {
  part: Part;
  several: boolean;
  current: boolean;
  actions: () => MenuEntry[];
  onOpen: () => void;
}) {
  const { store } = useStudio().workspace;
  const editable = useEditable();
  const { mix, name } = part;
  return (
    <div className={`mx-2 mb-1.5 border bg-sheet ${current ? "border-l-4 border-ink" : "border-line"}`}>
      <button
        type="button"
        aria-pressed={current}
        onContextMenu={menuOf(name, actions)}
        onKeyDown={(e) => runKeyed(actions(), e)}
        className="w-full cursor-pointer px-2 py-1.5 text-left"
        onClick={onOpen}
      >
        <span className="block truncate font-semibold" title={name}>
          {name}
        </span>
        <span className="flex justify-between gap-1 text-[11px] text-ink2">
          <span className="truncate">{soundText(part)}</span>
          <span className="whitespace-nowrap">{levelText(part)}</span>
        </span>
      </button>
      {several && (
        <div className="flex gap-1 px-2 pb-1.5">
          <Toggle text="mute" name={`Mute ${name}`} on={mix.mute} disabled={!editable} onChange={(mute) => store.edit(mute ? `Mute ${name}` : `Let ${name} be heard`, editMix(part.id, { mute }))} />
          <Toggle text="solo" name={`Solo ${name}`} on={mix.solo} disabled={!editable} onChange={(solo) => store.edit(solo ? `Solo ${name}` : `End the solo of ${name}`, editMix(part.id, { solo }))} />
        </div>
      )}
    </div>
  ); // prettier-ignore
}
