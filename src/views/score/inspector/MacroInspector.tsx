import { MACRO, type Macro } from "@/core/patch/kinds/macro";
import { formatAmount } from "@/core/patch/valueText";
import { ModuleName } from "./ModuleName";
import { MovedValues, MovesOf } from "./Routes";
import { ModuleRow } from "./rows";

const macroText = (m: Macro): string =>
  `${formatAmount(m.values.value, "%", 0)}${m.values.low === 0 && m.values.high === 100 ? "" : ` between ${formatAmount(m.values.low, "%", 0)} and ${formatAmount(m.values.high, "%", 0)}`}`;

/** One value for the hand, its limits and its curve, and all that it moves. */
export function MacroInspector({ module: m }: { module: Macro }) {
  return (
    <>
      <div>
        <ModuleName module={m} />
        <p className="text-[12px] text-ink2">macro, {macroText(m)}</p>
      </div>
      <section>
        <ModuleRow module={m} row={MACRO.rows.value} />
        <ModuleRow module={m} row={MACRO.rows.low} />
        <ModuleRow module={m} row={MACRO.rows.high} />
        <ModuleRow module={m} row={MACRO.rows.curve} />
      </section>
      <MovesOf source={m.id} />
      <MovedValues module={m} />
    </>
  );
}
