import { z } from "zod";
import { unsafeJson } from "./json-value.ts";
import { SETTING_TEXT_MAX, SETTINGS_MAX } from "./limits.ts";
import { hasOnlyPrintable } from "./text.ts";

/** Key of a free setting of a room. */
export const SettingKey = z
  .string()
  .regex(/^[A-Za-z][A-Za-z0-9._-]{0,31}$/, "expected 1 to 32 of letters, digits and . _ -, beginning with a letter")
  .meta({ id: "SettingKey", description: "Key of a free setting, such as weather." });

/** Value of a free setting: a scalar, so that the directory can be filtered by it. */
export const SettingValue = z
  .union([
    z
      .string()
      .max(SETTING_TEXT_MAX, `expected at most ${SETTING_TEXT_MAX} characters`)
      .refine(hasOnlyPrintable, "expected no control or direction-override characters"),
    z.number().refine((value) => unsafeJson(value) === undefined, "expected a number that a double holds exactly"),
    z.boolean(),
  ])
  .meta({ id: "SettingValue" });
export type SettingValue = z.infer<typeof SettingValue>;

export const Settings = z
  .record(SettingKey, SettingValue)
  .meta({ id: "Settings", description: "Free settings of a room, the game's own." });
export type Settings = Record<string, SettingValue>;

/** What the game keeps about a level. A list, so that a merge patch replaces it as a whole. */
export const Attributes = z
  .array(z.object({ name: SettingKey, value: SettingValue }))
  .meta({ id: "Attributes", description: "What the game itself keeps about a level, by name." });
export type Attributes = z.infer<typeof Attributes>;

/** A merge patch on {@link Settings} (RFC 7396): null removes a key. */
export const SettingsPatch = z
  .record(SettingKey, SettingValue.nullable())
  .refine((patch) => Object.keys(patch).length <= SETTINGS_MAX, `expected at most ${SETTINGS_MAX} settings`)
  .meta({ id: "SettingsPatch", description: "Merge patch on the free settings: null removes one (RFC 7396)." });
export type SettingsPatch = Record<string, SettingValue | null>;
