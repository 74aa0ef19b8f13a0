/** One of many, in the browser's own list. */
export function Select<T extends string>({
  label,
  value,
  options,
  onChange,
  className = "field",
}: {
  label: string;
  value: T;
  options: readonly { readonly value: T; readonly text: string }[];
  onChange: (value: T) => void;
  className?: string;
}) {
  return (
    <select
      aria-label={label}
      className={`${className} cursor-pointer`}
      value={value}
      onChange={(e) => onChange(e.currentTarget.value as T)}
    >
      {options.map((o) => (
        <option key={o.value} value={o.value} className="bg-sheet text-ink">
          {o.text}
        </option>
      ))}
    </select>
  );
}
