import fc from "fast-check";
import { expect, test } from "vitest";
import { HeldKeys } from "./heldKeys";

test("of the keys that are held the newest sounds, or the highest or lowest, whatever was pressed and let go", () => {
  const act = fc.record({ press: fc.boolean(), key: fc.integer({ min: 58, max: 66 }), velocity: fc.integer({ min: 1, max: 127 }) }); // prettier-ignore
  fc.assert(
    fc.property(fc.array(act, { maxLength: 40 }), (acts) => {
      const held = new HeldKeys();
      // A list with the newest at its end.
      let list: { key: number; velocity: number }[] = [];
      for (const { press, key, velocity } of acts) {
        list = list.filter((h) => h.key !== key);
        if (press) {
          held.press(key, velocity);
          list.push({ key, velocity });
        } else held.release(key);
        const keys = list.map((h) => h.key);
        expect([held.choose("last"), held.choose("high"), held.choose("low")]).toEqual(keys.length === 0 ? [-1, -1, -1] : [keys.at(-1), Math.max(...keys), Math.min(...keys)]); // prettier-ignore
        expect(list.map((h) => held.velocityOf(h.key))).toEqual(list.map((h) => h.velocity));
      }
      held.clear();
      expect(held.choose("high")).toBe(-1);
    }),
  );
});
