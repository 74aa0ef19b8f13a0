import { Dialog as HeadlessDialog, DialogBackdrop, DialogPanel, DialogTitle } from "@headlessui/react";
import type { ReactNode } from "react";

/** A dialog over the page; Escape and a click outside close it. */
export function Dialog({
  title,
  onClose,
  children,
  wide = false,
}: {
  title: string;
  onClose: () => void;
  children: ReactNode;
  wide?: boolean;
}) {
  return (
    <HeadlessDialog open onClose={onClose} className="relative z-50">
      <DialogBackdrop className="fixed inset-0 bg-[#0b1218] opacity-40" />
      <div className="fixed inset-0 grid place-items-center p-4">
        <DialogPanel
          className={`max-h-full overflow-y-auto border border-ink bg-sheet p-4 ${wide ? "w-[640px]" : "w-[420px]"}`}
        >
          <DialogTitle className="mb-3 text-[16px] font-bold">{title}</DialogTitle>
          {children}
        </DialogPanel>
      </div>
    </HeadlessDialog>
  );
}

/** The buttons that end a dialog, the main one last. */
export function DialogButtons({ children }: { children: ReactNode }) {
  return <div className="mt-4 flex justify-end gap-2">{children}</div>;
}
