import { useRef } from "react";

/** A button that asks for a file; the same file can be chosen again. */
export function FileButton({
  text,
  label,
  accept,
  disabled,
  onFile,
}: {
  text: string;
  label: string;
  accept: string;
  disabled?: boolean;
  onFile: (file: File) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <button type="button" className="chip" disabled={disabled} onClick={() => input.current?.click()}>
        {text}
      </button>
      <input
        ref={input}
        type="file"
        accept={accept}
        className="sr-only"
        tabIndex={-1}
        aria-label={label}
        onChange={(e) => {
          const file = e.currentTarget.files?.[0];
          e.currentTarget.value = "";
          if (file) onFile(file);
        }}
      />
    </>
  );
}
