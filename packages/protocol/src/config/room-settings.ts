import { z } from "zod";
import { ATTRIBUTES_MAX, SETTING_TEXT_MAX } from "../limits.ts";
import { SettingKey, SettingValue } from "../settings.ts";
import { orNull } from "./parts.ts";

const about = {
  title: z.string().min(1).max(64).optional().meta({ description: "What players see it called." }),
  description: z.string().max(256).optional(),
  readOnly: z
    .boolean()
    .optional()
    .meta({ description: "Set by operators alone; true for what the game's own back end decides." }),
};

const bound = z.number().optional();
const numbers = {
  minimum: bound.meta({ description: "Smallest value." }),
  maximum: bound.meta({ description: "Largest value." }),
  default: z.number().optional().meta({ description: "What a new room has; nothing when left out." }),
};

const shapes = {
  string: {
    type: z.literal("string"),
    ...about,
    enum: z
      .array(z.string().min(1).max(SETTING_TEXT_MAX))
      .min(1)
      .max(64)
      .optional()
      .meta({ description: "The values that there are; any text when left out." }),
    maxLength: z.int().min(1).max(SETTING_TEXT_MAX).optional().meta({ description: "Characters at most." }),
    default: z.string().max(SETTING_TEXT_MAX).optional().meta({ description: "What a new room has." }),
  },
  integer: { type: z.literal("integer"), ...about, ...numbers },
  number: { type: z.literal("number"), ...about, ...numbers },
  boolean: {
    type: z.literal("boolean"),
    ...about,
    default: z.boolean().optional().meta({ description: "What a new room has." }),
  },
};

/** One setting of a room, in the words of JSON Schema (2020-12); of these words those that a scalar needs. */
const SettingSchema = z.discriminatedUnion("type", [
  z.strictObject(shapes.string),
  z.strictObject(shapes.integer),
  z.strictObject(shapes.number),
  z.strictObject(shapes.boolean),
]);
export type SettingSchema = z.output<typeof SettingSchema>;

/** The same as clients are told it, who pass over what a newer service adds. */
export const SettingView = z
  .discriminatedUnion("type", [
    z.object(shapes.string),
    z.object(shapes.integer),
    z.object(shapes.number),
    z.object(shapes.boolean),
  ])
  .meta({ id: "SettingSchema", description: "What a setting of a room may be, in words of JSON Schema." });

/** The settings of a room kind, or the attributes of players, by key. */
export const SettingSchemas = z.record(SettingKey, SettingSchema);

/** Values that a room takes all at once, by the name of the variant. */
export const SettingVariants = z.record(z.string().regex(/^[a-z][a-z0-9-]{0,31}$/), z.record(SettingKey, SettingValue));

/** What players bring, by name: `readOnly` for what a token alone vouches for. */
export const DeclaredAttributes = orNull(
  SettingSchemas.refine(
    (all) => Object.keys(all).length <= ATTRIBUTES_MAX,
    `expected at most ${ATTRIBUTES_MAX} attributes`,
  ),
).meta({
  description:
    "What players bring into rooms and searches, by name, in words of JSON Schema; `readOnly: true` for what the token of the game's own back end alone vouches for.",
});
