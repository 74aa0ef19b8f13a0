import { useMemo, useState, type KeyboardEvent } from "react";
import { loopTicks } from "@/core/pattern/events";
import { kindOf } from "@/core/patch/kinds";
import { editArpeggio } from "@/state/edits";
import { newId } from "@/state/ids";
import { Dialog } from "@/ui/Dialog";
import { handsOf } from "@/views/hands/hands";
import { dropBacking, startBacking } from "@/views/score/backingActions";
import { ADDABLE, addModulator, type Addable } from "@/views/score/modulatorActions";
import { modulatorsOf, soundPath, stripsOf } from "@/views/score/stripList";
import { findCommands, routeCommands, valueCommands, type Command, type Found } from "./commandList";
import { VIEWS, goTo } from "./places";
import { usePart, useProject, useStudio, useView } from "./studio";
import { useSaveAsFile } from "./useSaveAsFile";
import { BACKING_STRIP, NOTES_STRIP, PART_STRIP, askedStrips, zoomBy, type StripId } from "./viewStore";

const SHOWN = 12;

/** Gives the focus to what is not there yet: a view may still be loading, a dialog closing. */
function focusSoon(label: string): void {
  let frames = 0;
  const next = (): void => {
    const field = document.querySelector<HTMLElement>(`[aria-label="${label}"]`);
    const closed = document.querySelector("[role=dialog]") === null;
    if (field && closed) field.focus();
    if ((!closed || document.activeElement !== field) && ++frames < 120) requestAnimationFrame(next);
  };
  requestAnimationFrame(next);
}

/** Finds any action, value or view by its name; a value behind a name sets it. */
export function Commands() {
  const studio = useStudio();
  const { view, workspace } = studio;
  const project = useProject((s) => s.project);
  const part = usePart();
  const saveAsFile = useSaveAsFile();
  // What was typed before the list was there is not lost.
  const [text, setText] = useState(() => view.getState().commandText);
  const [at, setAt] = useState(0);
  const close = (): void => view.setState({ commandsOpen: false, commandText: "" });

  // A modulation is made with the shape or envelope that is in view.
  const strip = useView((v) => v.strip);
  const asked = useView((v) => askedStrips(v, part.id));
  const source = strip.kind === "module" ? modulatorsOf(part.patch).find((m) => m.id === strip.id) : undefined;

  const commands = useMemo((): Command[] => {
    const { store } = workspace;
    const show = (strip: StripId): void => {
      view.setState({ strip });
      goTo("/");
    };
    const action = (name: string, beside: string, run: () => void): Command => ({ name, beside, run });
    const loop = loopTicks(project.song);
    const add = (kind: Addable): void => {
      if (addModulator(studio, part, kind)) goTo("/");
    };
    const on = !part.arpeggio.on;
    return [
      action("Play or stop", "Space", () => studio.toggle()),
      action("Undo", "Ctrl Z", () => studio.undo()),
      action("Redo", "Ctrl Shift Z", () => studio.redo()),
      action("Zoom in", "+", () => zoomBy(view, 2, 0.5, loop)),
      action("Zoom out", "−", () => zoomBy(view, 0.5, 0.5, loop)),
      action("Zoom to fit", "0", () => view.setState({ zoom: 1, scrollTick: 0 })),
      action("Click on beats", "", () => view.setState({ click: !view.getState().click })),
      action("Count in one bar", "", () => view.setState({ countBars: view.getState().countBars === 1 ? 0 : 1 })),
      action("Play by hand", "K", () => view.setState({ handsOpen: !view.getState().handsOpen })),
      action("Record what is played by hand", "", () => {
        view.setState({ handsOpen: true });
        handsOf(studio).toggleRecording();
      }),
      action("Loop the whole song", "Escape on the ruler", () => view.setState({ region: null })),
      action("Add a chord", "", () => {
        show(NOTES_STRIP);
        focusSoon("Chord");
      }),
      ...ADDABLE.map((kind) => action(`Add ${kind === "envelope" ? "an" : "a"} ${kind}`, "", () => add(kind))),
      project.backing
        ? action("Remove the backing", "", () => dropBacking(studio))
        : action("Add a backing", "", () => startBacking(studio) && goTo("/")),
      action(`Switch the arpeggio ${on ? "on" : "off"}`, "", () => {
        store.edit(`Switch the arpeggio ${on ? "on" : "off"}`, editArpeggio(part.id, { on }));
      }),
      action("Day theme", "", () => view.setState({ theme: "day" })),
      action("Night theme", "", () => view.setState({ theme: "night" })),
      action("Save as a file", "", () => void saveAsFile()),
      action("New project", "", () => void workspace.create("Untitled").then((done) => done && goTo("/"))),
      action("Open the demo", "", () => void workspace.openDemo().then((done) => done && goTo("/"))),
      action("Keys and hands", "?", () => view.setState({ shortcutsOpen: true })),
      ...VIEWS.map(({ href, text }) => action(text, "view", () => goTo(href))),
      ...(source
        ? routeCommands(
            project,
            part,
            source,
            (label, edit) => void store.edit(label, edit),
            newId,
            () => show({ kind: "module", id: source.id }),
          )
        : []),
      ...stripsOf(part, project, asked).map((s) => action(s.title, "strip", () => show(s.id))),
      ...valueCommands(
        project,
        part,
        (label, edit) => void store.edit(label, edit),
        (m) => {
          if (!m) return show({ kind: "arpeggio" });
          const heard = soundPath(part.patch).find((p) => p.module.id === m.id);
          if (heard) show({ kind: "heard", address: heard.address });
          else if (m.kind === "mix") show(PART_STRIP);
          else if (m.kind === "kit") show(BACKING_STRIP);
          else if (kindOf(m).role === "modulator") show({ kind: "module", id: m.id });
        },
      ),
    ];
  }, [studio, view, workspace, project, part, saveAsFile, source, asked]);

  const found = findCommands(commands, text, SHOWN);
  const chosen = Math.min(at, found.length - 1);
  const run = (f: Found | undefined): void => {
    if (!f) return;
    close();
    (f.set ?? f.command.run)();
  };
  const onKeyDown = (e: KeyboardEvent): void => {
    const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (by !== undefined && found.length > 0) {
      e.preventDefault();
      setAt((chosen + by + found.length) % found.length);
    } else if (e.key === "Enter") {
      e.preventDefault();
      run(found[chosen]);
    }
  };
  return (
    <Dialog title="Find" onClose={close}>
      <input
        autoFocus
        role="combobox"
        aria-label="An action, a value or a view"
        aria-expanded
        aria-controls="found"
        aria-activedescendant={found.length > 0 ? `found-${chosen}` : undefined}
        className="field w-full text-[13px]"
        placeholder='Type a name, or a name and a value: "cutoff 1.2k"'
        value={text}
        onChange={(e) => {
          setText(e.currentTarget.value);
          setAt(0);
        }}
        onKeyDown={onKeyDown}
      />
      <ul id="found" role="listbox" aria-label="Found" className="mt-2 h-[276px] overflow-hidden">
        {found.map((f, i) => (
          <li
            key={`${f.command.name} ${f.typed ?? ""}`}
            id={`found-${i}`}
            role="option"
            aria-selected={i === chosen}
            className={`flex h-[23px] cursor-pointer items-center justify-between gap-3 px-2 ${i === chosen ? "bg-ink text-sheet" : ""}`}
            onPointerMove={() => setAt(i)}
            onClick={() => run(f)}
          >
            <span className="truncate">
              {f.set ? `Set ${f.command.name.toLowerCase()} to ${f.typed}` : f.command.name}
            </span>
            <span className="text-[11px] whitespace-nowrap opacity-80">{f.command.beside}</span>
          </li>
        ))}
        {found.length === 0 && <li className="px-2 text-ink2">Nothing has this name. Try one word of it.</li>}
      </ul>
    </Dialog>
  );
}
