import { alsoAhead } from "@/ui/later";
import { showToast } from "@/ui/toasts";

const load = () => import("./everyAction");
type Actions = Awaited<ReturnType<typeof load>>;

let known: Actions | null = null;
const keep = async (): Promise<Actions> => (known ??= await load());
alsoAhead(keep);

const NOT_LOADED =
  "This could not be loaded: the server does not answer. Once it does, load the page again; what you made is kept.";

/** What can be done with things: done at once where it has been loaded, as soon as it is where not. */
export function withActions<T>(act: (actions: Actions) => T): T | Promise<T | undefined> {
  if (known) return act(known);
  return keep().then(act, () => {
    // Browsers remember that a script did not come.
    showToast({ kind: "error", text: NOT_LOADED });
    return undefined;
  });
}
