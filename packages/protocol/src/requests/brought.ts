import { z } from "zod";
import { ConfigName } from "../ids.ts";
import { ATTRIBUTES_MAX } from "../limits.ts";
import { SettingKey, SettingValue } from "../settings.ts";

export const SearchAttributes = z
  .record(SettingKey, z.union([SettingValue, z.array(z.string().max(64)).max(64)]))
  .refine((all) => Object.keys(all).length <= ATTRIBUTES_MAX, `expected at most ${ATTRIBUTES_MAX} attributes`);

/** What a player brings to a search. */
export const brought = {
  attributes: SearchAttributes.optional().meta({
    description: "What the queue requires, such as skill. The player's build is known and added as build.",
  }),
  latencyMs: z
    .record(ConfigName, z.number().min(0).max(60_000))
    .refine((all) => Object.keys(all).length <= 30, "expected at most 30 regions")
    .optional()
    .meta({ description: "Milliseconds to each region that was measured." }),
};
