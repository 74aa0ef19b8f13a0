/** Something that holds or does not: filled while it does. */
export function Toggle({
  text,
  on,
  onChange,
  disabled = false,
  title,
  name,
}: {
  text: string;
  on: boolean;
  onChange: (on: boolean) => void;
  disabled?: boolean;
  title?: string;
  /** For readers of the screen, where the text alone does not say of what. */
  name?: string;
}) {
  return (
    <button
      type="button"
      className="chip px-1.5 py-0"
      aria-pressed={on}
      aria-label={name}
      title={title}
      disabled={disabled}
      onClick={() => onChange(!on)}
    >
      {text}
    </button>
  );
}
