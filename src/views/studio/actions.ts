import { alsoAhead } from "@/ui/later";
import { showToast } from "@/ui/toasts";

const load = () => import("./everyAction");
type Actions = Awaited<ReturnType<typeof load>>;

let known: Actions | null = null;
const keep = async (): Promise<Actions> => (known ??= await load());
alsoAhead(keep);

/** What can be done with things: done at once where it has been loaded, as soon as it is where not. */
export function withActions<T>(act: (actions: Actions) => T): T | Promise<T | undefined> {
  if (known) return act(known);
  return keep().then(act, () => {
    showToast({ kind: "error", text: "This could not be loaded. Check the connection to the server and try again." });
    return undefined;
  });
}
