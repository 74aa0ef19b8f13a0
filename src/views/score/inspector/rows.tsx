import { parameter, type ParameterId, type VoiceParameterId } from "@/core/patch/parameters";
import type { Span } from "@/core/time/span";
import { setValue } from "@/state/edits";
import { ValueRow, type Kind, type ValueRowProps } from "@/ui/ValueRow";
import { parameterValue, spanValue, type SpanRules } from "@/ui/values";
import { useEditable, usePart, useProject, useStudio } from "@/views/studio/studio";

/** A voice parameter of the part. */
export function VoiceRow({
  id,
  reach,
  text,
}: {
  id: VoiceParameterId;
  reach?: ValueRowProps["reach"];
  text?: (value: number) => string;
}) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const p = parameter(id);
  const set = (v: number, g?: string): void =>
    void store.edit(`Set ${p.label.toLowerCase()}`, setValue(part.id, id, v), g);
  return (
    <ValueRow
      label={p.label}
      value={parameterValue(p, part.patch.values[id], set, text)}
      disabled={!editable}
      reach={reach ?? null}
    />
  );
}

/** Any other parameter of the table. */
export function NumberRow({
  id,
  value,
  kind,
  onChange,
  text,
  disabled,
}: {
  id: ParameterId;
  value: number;
  kind: Kind;
  onChange: (value: number, label: string, gesture?: string) => void;
  text?: (value: number) => string;
  disabled?: boolean;
}) {
  const editable = useEditable();
  const p = parameter(id);
  return (
    <ValueRow
      label={p.label}
      kind={kind}
      disabled={!editable || disabled === true}
      value={parameterValue(p, value, (v, g) => onChange(v, `Set ${p.label.toLowerCase()}`, g), text)}
    />
  );
}

/** A time or rate, with the button that turns it from note values to milliseconds or hertz and back. */
export function SpanRow({
  label,
  span,
  kind,
  rules,
  fallback,
  onChange,
}: {
  label: string;
  span: Span;
  kind: Kind;
  rules: SpanRules;
  fallback: Span;
  onChange: (span: Span, label: string, gesture?: string) => void;
}) {
  const editable = useEditable();
  const song = useProject((s) => s.project.song);
  const value = spanValue(span, song, rules, fallback, (s, g) => onChange(s, `Set ${label.toLowerCase()}`, g));
  return <ValueRow label={label} kind={kind} value={value} disabled={!editable} />;
}
