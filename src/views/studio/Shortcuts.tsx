import { Dialog, DialogButtons } from "@/ui/Dialog";
import { useStudio } from "./studio";
import { HANDS, SHORTCUTS } from "./keysAndHands";

/** The list of keys and hands. */
export function Shortcuts() {
  const { view } = useStudio();
  const close = (): void => view.setState({ shortcutsOpen: false });
  const list = (title: string, rows: readonly { shown: string; what: string }[]) => (
    <section key={title}>
      <h3 className="heading mb-2">{title}</h3>
      <dl className="grid grid-cols-[150px_1fr] gap-x-3 gap-y-1">
        {rows.map((r) => (
          <div key={r.shown + r.what} className="contents">
            <dt className="font-semibold">{r.shown}</dt>
            <dd>{r.what}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
  return (
    <Dialog title="Keys and hands" onClose={close} wide>
      <div className="flex flex-col gap-4">
        {list("Everywhere", SHORTCUTS)}
        {Object.entries(HANDS).map(([title, rows]) => list(title, rows))}
      </div>
      <DialogButtons>
        <button type="button" className="chip" data-on="true" onClick={close}>
          Close
        </button>
      </DialogButtons>
    </Dialog>
  );
}
