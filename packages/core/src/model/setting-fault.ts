import type { RoomKindRules, SettingSchema, SettingValue } from "@yellow-harbor/protocol";

type Schema = SettingSchema | NonNullable<RoomKindRules["settings"]>[string];

/** What a schema has against a value, or nothing. */
export function settingFault(schema: Schema, value: SettingValue): string | undefined {
  switch (schema.type) {
    case "boolean":
      return typeof value === "boolean" ? undefined : "expected true or false";
    case "string":
      return typeof value === "string" ? textFault(schema, value) : "expected a text";
    case "integer":
    case "number":
      return typeof value === "number" ? numberFault(schema, value) : "expected a number";
  }
}

function textFault(schema: Extract<Schema, { type: "string" }>, value: string): string | undefined {
  if (schema.enum && !schema.enum.includes(value)) return `expected one of ${schema.enum.join(", ")}`;
  const max = schema.maxLength ?? Number.POSITIVE_INFINITY;
  return [...value].length > max ? `expected at most ${max} characters` : undefined;
}

function numberFault(
  { type, minimum, maximum }: Extract<Schema, { type: "integer" | "number" }>,
  value: number,
): string | undefined {
  if (type === "integer" && !Number.isInteger(value)) return "expected a whole number";
  const isWithin = value >= (minimum ?? -Infinity) && value <= (maximum ?? Infinity);
  if (isWithin) return undefined;
  if (minimum === undefined) return `expected at most ${maximum}`;
  return maximum === undefined ? `expected at least ${minimum}` : `expected ${minimum} to ${maximum}`;
}
