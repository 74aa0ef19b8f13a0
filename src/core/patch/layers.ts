import { withModule } from "./edit";
import { modulesOf } from "./kinds";
import { AMP } from "./kinds/amp";
import { ENVELOPE, type Envelope } from "./kinds/envelope";
import { PLAYING } from "./kinds/playing";
import type { Part, Patch } from "./project";

/** Parts that sound together: layers that follow another part. */

/** The envelope that shapes the level of a patch's notes. */
export const levelEnvelope = (patch: Patch): Envelope | undefined => {
  const id = modulesOf(patch.modules, AMP)[0]?.data.envelope;
  return modulesOf(patch.modules, ENVELOPE).find((m) => m.id === id);
};

/** Linked patches by the follower's and the leader's: the same two give the same one. */
const linked = new WeakMap<Patch, WeakMap<Patch, Patch>>();

function link(own: Patch, leader: Patch): Patch {
  const from = levelEnvelope(leader);
  const to = levelEnvelope(own);
  const rule = modulesOf(leader.modules, PLAYING)[0];
  let made = own;
  if (from && to) made = withModule(made, to.id, () => ({ ...from, id: to.id, name: to.name }));
  if (!rule) return made;
  const mine = modulesOf(own.modules, PLAYING)[0];
  if (mine) return withModule(made, mine.id, () => ({ ...rule, id: mine.id, name: mine.name }));
  return made.modules.some((m) => m.id === rule.id) ? made : { ...made, modules: [...made.modules, rule] };
}

/** The patch that a part sounds with: its own, with what it takes from the part that it is linked to. */
export function patchHeard(part: Part, parts: readonly Part[]): Patch {
  const leader = part.follows?.linked ? parts.find((p) => p.id === part.follows?.part) : undefined;
  if (!leader) return part.patch;
  const known = linked.get(part.patch) ?? new WeakMap<Patch, Patch>();
  linked.set(part.patch, known);
  const made = known.get(leader.patch) ?? link(part.patch, leader.patch);
  known.set(leader.patch, made);
  return made;
}
