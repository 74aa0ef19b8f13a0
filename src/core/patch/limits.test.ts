import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import * as z from "zod/mini";
import { ProjectSchema } from "./schema";

/**
 * What files may hold: limits, choices, lengths, and what stands for what is missing. Once released they only widen, or a
 * file is refused that was one. Rows, choices and times of modules are held by the list of rows.
 */
type Said = z.core.JSONSchema.BaseSchema;
const isModule = (s: Said): boolean => s.properties?.["kind"] !== undefined;
const ROWS = new Set(["values", "choices", "times"]);

/** The name of one of several forms. */
function formOf(s: Said): string {
  for (const key of ["kind", "unit", "from"]) {
    const named = (s.properties?.[key] as Said | undefined)?.const;
    if (named !== undefined) return String(named);
  }
  return String(s.type ?? "one of");
}

/** What a JSON Schema says of a document, by place. */
function linesOf(s: Said, path: string, out: Record<string, string>): Record<string, string> {
  const missing = "default" in s ? ` = ${JSON.stringify(s.default)}` : "";
  const say = (text: string): string => (out[path] = text + missing);
  const forms = s.anyOf ?? s.oneOf;
  if (forms?.every((f) => f.const !== undefined)) say(forms.map((f) => String(f.const)).join(" | "));
  else if (forms) {
    say(forms.map(formOf).join(" or "));
    for (const f of forms) linesOf(f, `${path}<${formOf(f)}>`, out);
  } else if (s.const !== undefined) say(String(s.const));
  else if (s.enum) say(s.enum.join(" | "));
  else if (s.type === "object") {
    if (missing) say("object");
    for (const [key, inner] of Object.entries(s.properties ?? {}))
      if (!(isModule(s) && ROWS.has(key)))
        linesOf(inner as Said, `${path}.${key}${s.required?.includes(key) ? "" : "?"}`, out);
  } else if (s.type === "array") {
    say(`${s.minItems} to ${s.maxItems}`);
    linesOf(s.items as Said, `${path}[]`, out);
  } else if (s.type === "string")
    say(s.pattern ? `text like ${s.pattern}` : `text of ${s.minLength} to ${s.maxLength}`);
  else say([s.type, s.minimum ?? "any", s.maximum ?? "any"].join(" "));
  return out;
}

test("what a file may hold stays, and what is new is listed", () => {
  const lines = linesOf(z.toJSONSchema(ProjectSchema, { unrepresentable: "any", io: "input" }), "", {});
  const under = (start: string): [string, string][] =>
    Object.entries(lines).flatMap(([path, said]) => (path.startsWith(start) ? [[path.slice(start.length), said]] : []));
  // The song's modules are no others than those of parts.
  expect(under(".modules?[]")).toEqual(under(".parts[].patch.modules[]"));
  const released = JSON.parse(readFileSync("tests/fixtures/limits.json", "utf8")) as Record<string, string>;
  expect(Object.fromEntries(Object.entries(lines).filter(([path]) => !path.startsWith(".modules?[]")))).toEqual(
    released,
  );
});
