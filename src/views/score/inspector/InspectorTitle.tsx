/** What the inspector shows, and a word about it. */
export function InspectorTitle({ title, subtitle }: { title: string; subtitle: string }) {
  return (
    <div>
      <h2 className="truncate text-[16px] leading-[20px] font-bold" title={title}>
        {title}
      </h2>
      <p className="text-[12px] text-ink2">{subtitle}</p>
    </div>
  );
}
