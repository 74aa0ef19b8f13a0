const optionOf = (o: { readonly value: string; readonly text: string }) => (
  <option key={o.value} value={o.value} className="bg-sheet text-ink">
    {o.text}
  </option>
);

/** One of many, in the browser's own list. */
export function Select<T extends string>({
  label,
  value,
  options,
  onChange,
  className = "field",
  disabled = false,
}: {
  label: string;
  value: T;
  /** Those that name a group stand under its heading. */
  options: readonly { readonly value: T; readonly text: string; readonly group?: string }[];
  onChange: (value: T) => void;
  className?: string;
  disabled?: boolean;
}) {
  return (
    <select
      disabled={disabled}
      aria-label={label}
      className={`${className} cursor-pointer disabled:cursor-default disabled:opacity-45`}
      value={value}
      onChange={(e) => onChange(e.currentTarget.value as T)}
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
}

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
