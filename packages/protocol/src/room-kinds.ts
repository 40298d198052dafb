import { z } from "zod";
import { SettingVariants, SettingView } from "./config/room-settings.ts";
import { ConfigName, SideName } from "./ids.ts";
import { SettingKey } from "./settings.ts";

/** What a client has to know to offer a kind of room, and to draw its settings. */
export const RoomKindView = z
  .object({
    id: ConfigName,
    capacity: z.object({ min: z.int(), max: z.int(), default: z.int() }),
    minPlayers: z.int(),
    levels: z.array(ConfigName),
    levelBy: z.enum(["host", "rotation", "vote"]),
    sides: z
      .object({ names: z.array(SideName), max: z.int().meta({ description: "Members of each at most." }) })
      .optional()
      .meta({ description: "Absent where the kind has none." }),
    settings: z.record(SettingKey, SettingView).optional().meta({
      description: "What its settings may be; absent where they are free: whatever the game likes.",
    }),
    variants: SettingVariants.optional().meta({ description: "Named values of settings; absent when there are none." }),
  })
  .meta({ id: "RoomKind", description: "A kind of room, as clients have to know it." });
export type RoomKindView = z.infer<typeof RoomKindView>;

export const RoomKindList = z.object({ kinds: z.array(RoomKindView) }).meta({ id: "RoomKindList" });
export type RoomKindList = z.infer<typeof RoomKindList>;
