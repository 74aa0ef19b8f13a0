import { toJSONSchema } from "zod/mini";
import { ProjectSchema } from "@/core/patch/schema";

/** The JSON Schema of a project file, generated from the schema that checks it. */
export function GET(): Response {
  const schema = toJSONSchema(ProjectSchema, { target: "draft-2020-12" });
  return Response.json(
    { ...schema, title: "Clovik project, version 2" },
    { headers: { "Content-Type": "application/schema+json" } },
  );
}
