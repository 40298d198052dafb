import { z } from "zod";

export type Json = Record<string, unknown>;

/**
 * JSON Schema of what is sent. Whatever has a name of its own goes into `named`, once, and is referred to: its shape is
 * that which a sender may send, so that there is one of it and not two.
 */
export function schemaOf(schema: z.ZodType, named: Json): Json {
  const made = z.toJSONSchema(schema, {
    io: "input",
    target: "draft-2020-12",
    reused: "inline",
    unrepresentable: "any",
    override: ({ zodSchema, jsonSchema }) => {
      const { def } = zodSchema._zod;
      if (def.type === "union" && "discriminator" in def) {
        jsonSchema["discriminator"] = { propertyName: def.discriminator };
      }
    },
  });
  const { own, defs } = JSON.parse(
    JSON.stringify({ own: made, defs: made.$defs ?? {} }).replaceAll("#/$defs/", "#/components/schemas/"),
  ) as { own: Json; defs: Record<string, Json> };
  for (const [name, definition] of Object.entries(defs)) named[name] = bare(definition);
  const { $defs: _, ...rest } = own;
  const { id } = rest;
  if (typeof id !== "string") return bare(rest);
  named[id] = bare(rest);
  return { $ref: `#/components/schemas/${id}` };
}

function bare({ $schema: _, id: __, $id: ___, ...schema }: Json): Json {
  return schema;
}
