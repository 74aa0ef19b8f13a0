import type { MixProgram, PartProgram, Program, SongProgram, SoundProgram } from "./program";

/** A small change of a program: what threads send each other, so that what stayed the same is not sent again. */
export type Change =
  /** Tempo, meter, length and trim. */
  | { readonly type: "song"; readonly song: SongProgram }
  /** Which parts there are, in their order; those that are not named are gone. New ones come with `part`. */
  | { readonly type: "order"; readonly ids: readonly string[] }
  | { readonly type: "part"; readonly part: PartProgram }
  | { readonly type: "sound"; readonly id: string; readonly sound: SoundProgram }
  | { readonly type: "events"; readonly id: string; readonly events: Float64Array }
  | { readonly type: "mix"; readonly id: string; readonly mix: MixProgram }
  | { readonly type: "seed"; readonly id: string; readonly seed: number };

/** What turns `before` into `after`; objects that are the same have not changed. Null before stands for nothing at all. */
export function changesBetween(before: Program | null, after: Program): Change[] {
  const changes: Change[] = [];
  if (before?.song !== after.song) changes.push({ type: "song", song: after.song });
  const known = new Map(before?.parts.map((p) => [p.id, p]));
  const ids = after.parts.map((p) => p.id);
  for (const part of after.parts) {
    const old = known.get(part.id);
    if (!old) {
      changes.push({ type: "part", part });
      continue;
    }
    if (old.sound !== part.sound) changes.push({ type: "sound", id: part.id, sound: part.sound });
    if (old.events !== part.events) changes.push({ type: "events", id: part.id, events: part.events });
    if (old.mix !== part.mix) changes.push({ type: "mix", id: part.id, mix: part.mix });
    if (old.seed !== part.seed) changes.push({ type: "seed", id: part.id, seed: part.seed });
  }
  if (!before || before.parts.map((p) => p.id).join("\n") !== ids.join("\n")) changes.push({ type: "order", ids });
  return changes;
}

/** The program after changes. Throws RangeError for a change of a part that is not there. */
export function withChanges(before: Program | null, changes: readonly Change[]): Program {
  let song = before?.song ?? null;
  let parts = [...(before?.parts ?? [])];
  const edit = (id: string, change: Partial<PartProgram>): void => {
    const index = parts.findIndex((p) => p.id === id);
    if (index === -1) throw new RangeError(`there is no part "${id}" to change`);
    parts[index] = { ...parts[index]!, ...change };
  };
  for (const c of changes) {
    switch (c.type) {
      case "song":
        song = c.song;
        break;
      case "part":
        parts.push(c.part);
        break;
      case "order":
        parts = c.ids.map((id) => {
          const part = parts.find((p) => p.id === id);
          if (!part) throw new RangeError(`there is no part "${id}" to put in order`);
          return part;
        });
        break;
      case "sound":
        edit(c.id, { sound: c.sound });
        break;
      case "events":
        edit(c.id, { events: c.events });
        break;
      case "mix":
        edit(c.id, { mix: c.mix });
        break;
      case "seed":
        edit(c.id, { seed: c.seed });
        break;
      default:
        c satisfies never;
    }
  }
  if (!song) throw new RangeError("a program needs a song");
  return { song, parts };
}
