import { memo } from "react";
import { sameList, useSame, useSteady } from "./steady";

const optionOf = (o: Option) => (
  <option key={o.value} value={o.value} className="bg-sheet text-ink">
    {o.text}
  </option>
);

interface SelectProps<T extends string> {
  readonly label: string;
  readonly value: T;
  /** Those that name a group stand under its heading. */
  readonly options: readonly Option<T>[];
  readonly onChange: (value: T) => void;
  readonly className?: string;
  readonly disabled?: boolean;
}

interface Option<T extends string = string> {
  readonly value: T;
  readonly text: string;
  readonly group?: string;
}

/** One of many, in the browser's own list. Drawn anew when it says something else, not with every edit around it. */
export function Select<T extends string>({ options, onChange, className = "field", disabled = false, ...rest }: SelectProps<T>) {
  const choose = useSteady((value: string) => onChange(value as T));
  return <List {...rest} options={useSame(options, sameList)} onChange={choose} className={className} disabled={disabled} />;
} // prettier-ignore

const List = memo(function List({ label, value, options, onChange, className, disabled }: Required<SelectProps<string>>) {
  return (
    <select
      disabled={disabled}
      aria-label={label}
      className={`${className} cursor-pointer disabled:cursor-default disabled:opacity-45`}
      value={value}
      onChange={(e) => onChange(e.currentTarget.value)}
    >
      {options.filter((o) => o.group === undefined).map(optionOf)}
      {[...new Set(options.map((o) => o.group))].map(
        (group) =>
          group !== undefined && (
            <optgroup key={group} label={group} className="bg-sheet text-ink2">
              {options.filter((o) => o.group === group).map(optionOf)}
            </optgroup>
          ),
      )}
    </select>
  );
}); // prettier-ignore

/** A list behind its label, in line with value rows. */
export function SelectRow<T extends string>(props: {
  label: string;
  value: T;
  options: readonly { readonly value: T; readonly text: string }[];
  onChange: (value: T) => void;
  /** For readers of the screen, where the label alone does not say of what. */
  name?: string;
}) {
  const { label, name = label, ...rest } = props;
  return (
    <div className="grid grid-cols-[var(--row-label,84px)_minmax(0,1fr)] items-center gap-x-2 py-[2px]">
      <span className="truncate text-[12px]">{label}</span>
      <Select {...rest} label={name} className="field h-[22px] w-full min-w-0 py-0" />
    </div>
  );
}
