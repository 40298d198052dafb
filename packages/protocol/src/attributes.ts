import { z } from "zod";
import { SettingView } from "./config/room-settings.ts";
import { Settings } from "./settings.ts";

/** What a player brings into every room, by name: its character, its colour, its rank. */
export const PlayerAttributes = Settings.meta({
  id: "PlayerAttributes",
  description: "Attributes of a player, as the game declares them under players.attributes.",
});
export type PlayerAttributes = z.infer<typeof PlayerAttributes>;

export const OwnAttributes = z.object({
  attributes: PlayerAttributes.meta({ description: "What others see: defaults, one's own, and what is vouched for." }),
  declared: z.record(z.string(), SettingView).meta({
    description:
      "What they may be, in words of JSON Schema; readOnly for those that the game's own back end alone vouches for. Empty when none are declared.",
  }),
});
