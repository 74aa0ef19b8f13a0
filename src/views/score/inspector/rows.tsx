import type { Choice, TimeRow } from "@/core/patch/kinds/kind";
import { keyOfRow } from "@/core/patch/kinds/kind";
import { kindOf, type Module } from "@/core/patch/kinds";
import { addressOf, type Address } from "@/core/patch/address";
import { automationOf, canAutomate, withAutomation } from "@/core/patch/automation";
import { withValueOnAll } from "@/core/patch/edit";
import { MAX_ROUTES, type Part } from "@/core/patch/project";
import type { Parameter } from "@/core/patch/row";
import type { Span } from "@/core/time/span";
import { editPatch, setField } from "@/state/edits";
import { newId } from "@/state/ids";
import { LOCKED, type MenuEntry } from "@/ui/menu";
import { Choices } from "@/ui/Choices";
import { SelectRow } from "@/ui/Select";
import { ValueRow, type Kind, type ValueRowProps } from "@/ui/ValueRow";
import { parameterValue, spanValue, type SpanRules } from "@/ui/values";
import { useEditable, usePart, useProject, useStudio } from "@/views/studio/studio";
import { colourOf } from "../stripList";
import { timeReach, valueReach } from "./reach";
import { useChosen } from "./chosenRows";
import { writeMove } from "../writeMoves";

/** What an edit of a module's value is called. */
function labelOf(module: Module, label: string, part: Part): string {
  const { role } = kindOf(module);
  const of = role === "modulator" || role === "backing" ? module.name : role === "mix" ? part.name : null;
  return `Set ${label.toLowerCase()}${of === null ? "" : ` of ${of}`}`;
}

/** A value of a module, by its row. */
export function ModuleRow({
  module,
  row,
  reach,
  text,
}: {
  module: Module;
  row: Parameter;
  reach?: ValueRowProps["reach"];
  text?: (value: number) => string;
}) {
  const studio = useStudio();
  const { view, workspace } = studio;
  const { store } = workspace;
  const part = usePart();
  const editable = useEditable();
  const key = keyOfRow(kindOf(module).rows, row);
  const values: Readonly<Record<string, number>> = module.values;
  const address = addressOf(module.id, key);
  const automation = row.move ? automationOf(part.patch, address) : null;
  const together = useChosen(address, row);
  const set = (v: number, gesture?: string): void => {
    if (together.set(v, gesture)) return;
    if (automation && writeMove(studio, part, address, row, v, gesture)) return;
    store.edit(labelOf(module, row.label, part), setField(part.id, module.id, "values", key, v), gesture);
  };
  const automate = useAutomate(address, row.label);
  const moveWith = useMoveWith(address);
  const several = part.patch.modules.filter((m) => m.kind === module.kind).length > 1;
  const { label } = kindOf(module);
  const onAll: MenuEntry = {
    text: `Set on all ${label.toLowerCase()}s`,
    why: editable ? (several ? null : `There is one ${label.toLowerCase()} only`) : LOCKED,
    run: () =>
      store.edit(
        `Set ${row.label.toLowerCase()} on all ${label.toLowerCase()}s`,
        editPatch(part.id, (p) => withValueOnAll(p, module.kind, key, values[key]!)),
      ),
  };
  return (
    <div
      className={together.chosen ? "-ml-[7px] border-l-[3px] border-ink pl-[4px]" : undefined}
      onFocusCapture={() => row.move && view.setState({ address })}
      onPointerDownCapture={(e) => {
        if (e.button !== 0) return;
        if (!e.ctrlKey && !e.metaKey) return together.alone();
        e.preventDefault();
        e.stopPropagation();
        if (editable) together.choose();
      }}
      onKeyDown={(e) => {
        if (e.key !== "Escape" || !together.chosen) return;
        e.stopPropagation();
        view.setState({ chosenValues: [] });
      }}
    >
      <ValueRow
        label={row.label}
        kind={colourOf(module)}
        value={{
          ...parameterValue(row, values[key]!, set, text),
          more: () => [
            ...(row.move ? [moveWith, automate] : []),
            {
              text: together.chosen ? "Choose it no more" : "Choose it with others",
              keys: "Ctrl click",
              why: editable ? null : LOCKED,
              run: together.choose,
            },
            // A part has one place among the others, a song one backing.
            ...(module.kind === "mix" || module.kind === "kit" ? [] : [onAll]),
          ],
        }}
        hint={
          together.others > 0 ? `Chosen with ${together.others} more: they change together. Escape ends it.` : row.hint
        }
        disabled={!editable}
        reach={reach ?? valueReach(part, row, address, values[key]!)}
      />
    </div>
  );
}

/** The entry that brings the break points of a value into view, made where there are none yet. */
function useAutomate(address: Address, label: string): MenuEntry {
  const { view, workspace } = useStudio();
  const part = usePart();
  const editable = useEditable();
  const song = useProject((s) => s.project.song);
  const automation = automationOf(part.patch, address);
  return {
    text: automation ? "See its automation" : "Automate it over the loop",
    why: editable || automation ? null : LOCKED,
    run: () => {
      const id = automation?.id ?? newId();
      const made = editPatch(part.id, (p) => withAutomation(p, address, id, song));
      if (automation || workspace.store.edit(`Automate ${label.toLowerCase()}`, made))
        view.setState({ strip: { kind: "module", id } });
    },
  };
}

/** The entry that shows what moves a value, and lets a source be chosen that moves it from now on. */
function useMoveWith(address: Address): MenuEntry {
  const { view } = useStudio();
  const part = usePart();
  const editable = useEditable();
  const full = part.patch.routes.length >= MAX_ROUTES;
  return {
    text: "Move it with…",
    why: !editable ? LOCKED : full ? `A part has ${MAX_ROUTES} modulations at the most` : null,
    run: () => view.setState({ address, moving: address }),
  };
}

/** A choice of a module, by its declaration. */
export function ModuleChoice<C extends Choice>({
  module,
  choice,
  text,
  title,
  shown = choice.options.length <= 2,
}: {
  module: Module;
  choice: C;
  text: (option: C["options"][number]) => string;
  title?: (option: C["options"][number]) => string;
  /** Whether the label is shown. */
  shown?: boolean;
}) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const key = keyOfRow(kindOf(module).choices, choice);
  const choices: Readonly<Record<string, string>> = module.choices;
  return (
    <Choices
      label={choice.label}
      hidden={!shown}
      value={choices[key]!}
      options={choice.options.map((o) => ({ value: o, text: text(o), ...(title ? { title: title(o) } : {}) }))}
      onChange={(o) => store.edit(labelOf(module, choice.label, part), setField(part.id, module.id, "choices", key, o))}
    />
  );
}

/** A choice of many, as a list. */
export function ModuleSelect<C extends Choice>({
  module,
  choice,
  text,
}: {
  module: Module;
  choice: C;
  text: (option: C["options"][number]) => string;
}) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const key = keyOfRow(kindOf(module).choices, choice);
  const choices: Readonly<Record<string, string>> = module.choices;
  return (
    <SelectRow
      label={choice.label}
      name={`${choice.label} of ${module.name}`}
      value={choices[key]!}
      options={choice.options.map((o) => ({ value: o, text: text(o) }))}
      onChange={(o) => store.edit(labelOf(module, choice.label, part), setField(part.id, module.id, "choices", key, o))}
    />
  );
}

/** Any other value with a row. */
export function NumberRow({
  row,
  value,
  kind,
  onChange,
  text,
  disabled,
}: {
  row: Parameter;
  value: number;
  kind: Kind;
  onChange: (value: number, label: string, gesture?: string) => void;
  text?: (value: number) => string;
  disabled?: boolean;
}) {
  const editable = useEditable();
  return (
    <ValueRow
      label={row.label}
      kind={kind}
      hint={row.hint}
      disabled={!editable || disabled === true}
      value={parameterValue(row, value, (v, g) => onChange(v, `Set ${row.label.toLowerCase()}`, g), text)}
    />
  );
}

/** A time of a module, by its row. */
export function ModuleTime({ module, time }: { module: Module; time: TimeRow }) {
  const { view, workspace } = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const key = keyOfRow(kindOf(module).times, time);
  const times: Readonly<Record<string, Span>> = module.times;
  const address = addressOf(module.id, key);
  const automate = useAutomate(address, time.label);
  const moveWith = useMoveWith(address);
  return (
    <div onFocusCapture={() => time.move && view.setState({ address })}>
      <SpanRow
        more={[...(time.move ? [moveWith] : []), ...(canAutomate(part.patch, address) ? [automate] : [])]}
        label={time.label}
        span={times[key]!}
        kind={colourOf(module)}
        rules={time}
        fallback={time.default}
        reach={timeReach(part, time, address, times[key]!, song)}
        onChange={(s, _label, g) =>
          workspace.store.edit(labelOf(module, time.label, part), setField(part.id, module.id, "times", key, s), g)
        }
      />
    </div>
  );
}

/** A time or rate, with the button that turns it from note values to milliseconds or hertz and back. */
export function SpanRow({
  label,
  span,
  kind,
  rules,
  fallback,
  more = [],
  reach = null,
  onChange,
}: {
  label: string;
  span: Span;
  /** Further entries of its menu. */
  more?: readonly MenuEntry[];
  reach?: ValueRowProps["reach"];
  kind: Kind;
  rules: SpanRules;
  fallback: Span;
  onChange: (span: Span, label: string, gesture?: string) => void;
}) {
  const editable = useEditable();
  const song = useProject((s) => s.project.song);
  const value = spanValue(span, song, rules, fallback, (s, g) => onChange(s, `Set ${label.toLowerCase()}`, g));
  return (
    <ValueRow
      label={label}
      kind={kind}
      value={{ ...value, more: () => [...more] }}
      reach={reach}
      disabled={!editable}
    />
  );
}
