import { MAX_KEPT_TAKES, MAX_TAKE, RANDOM, type Random } from "@/core/patch/kinds/random";
import { editModule } from "@/state/edits";
import { useEditable, usePart, useStudio } from "@/views/studio/studio";
import { randomText } from "../stripList";
import { ModuleName } from "./ModuleName";
import { MovedValues, MovesOf } from "./Routes";
import { ModuleChoice, ModuleRow, ModuleTime } from "./rows";

const LIKELY_TEXT: Record<Random["choices"]["likely"], string> = {
  even: "all alike",
  middle: "the middle",
  ends: "the ends",
  drawn: "as drawn",
};

/** Random values: how often, which are likely, and the takes of chance. */
export function RandomInspector({ module: m }: { module: Random }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const { take } = m.values;
  const { kept } = m.data;
  const edit = (label: string, change: (old: Random) => Random): void =>
    void store.edit(`${label} of ${m.name}`, editModule(part.id, RANDOM, m.id, change));
  const to = (next: number): void =>
    edit("Choose a take", (old) => ({ ...old, values: { ...old.values, take: (next + MAX_TAKE + 1) % (MAX_TAKE + 1) } }));
  return (
    <>
      <div>
        <ModuleName module={m} />
        <p className="text-[12px] text-ink2">{randomText(m)}</p>
      </div>
      <section>
        <h3 className="heading mb-1">Time</h3>
        <ModuleChoice module={m} choice={RANDOM.choices.draws} text={(d) => (d === "rate" ? "at a rate" : "each note")} shown />
        {m.choices.draws === "rate" && (
          <>
            <ModuleTime module={m} time={RANDOM.times.rate} />
            <ModuleChoice module={m} choice={RANDOM.choices.moves} text={(o) => (o === "held" ? "stands" : "on its way")} shown />
          </>
        )}
        <ModuleRow module={m} row={RANDOM.rows.smoothing} />
      </section>
      <section>
        <h3 className="heading mb-1">Chance</h3>
        <ModuleChoice module={m} choice={RANDOM.choices.likely} text={(l) => LIKELY_TEXT[l]} shown />
        <ModuleRow module={m} row={RANDOM.rows.take} text={(v) => `take ${v + 1}`} />
        <div className="mt-1 flex flex-wrap gap-1">
          <button type="button" className="chip" disabled={!editable} onClick={() => to(take - 1)}>
            ◂ Take before
          </button>
          <button type="button" className="chip" disabled={!editable} onClick={() => to(take + 1)}>
            Next take ▸
          </button>
          <button
            type="button"
            className="chip"
            disabled={!editable || kept.length >= MAX_KEPT_TAKES || kept.some((k) => k.take === take)}
            title={kept.some((k) => k.take === take) ? "This take is kept already" : "Keeps this take by its number"}
            onClick={() => edit("Keep a take", (old) => ({ ...old, data: { ...old.data, kept: [...kept, { name: `Take ${take + 1}`, take }] } }))}
          >
            Keep it
          </button>
        </div>
        {kept.length > 0 && (
          <ul className="mt-1 flex flex-wrap gap-1" aria-label="Kept takes">
            {kept.map((k) => (
              <li key={k.take} className="flex">
                <button type="button" className="chip" data-on={k.take === take} aria-pressed={k.take === take} disabled={!editable} onClick={() => to(k.take)}>
                  {k.name}
                </button>
                <button
                  type="button"
                  className="chip px-1"
                  aria-label={`Forget ${k.name}`}
                  disabled={!editable}
                  onClick={() => edit("Forget a take", (old) => ({ ...old, data: { ...old.data, kept: kept.filter((o) => o !== k) } }))}
                >
                  ×
                </button>
              </li>
            ))}
          </ul>
        )}
      </section>
      <MovesOf source={m.id} />
      <MovedValues module={m} />
    </>
  );
} // prettier-ignore
