import { z } from "zod";
import { AtMs } from "./basics.ts";
import { ConfigName, PlayerId, RoomId, SideName } from "./ids.ts";

export const InvitationView = z
  .object({
    room: RoomId,
    code: z.string(),
    name: z.string().meta({ description: "Of the room." }),
    kind: ConfigName,
    by: z
      .object({ id: PlayerId, name: z.string() })
      .optional()
      .meta({ description: "Who invites; absent when the game's own back end keeps the place." }),
    side: SideName.optional(),
    untilMs: AtMs.meta({ description: "Until when the place is kept." }),
  })
  .meta({ id: "Invitation", description: "A place that a room keeps for a player. It joins with `room.join`." });
export type InvitationView = z.infer<typeof InvitationView>;

export const InvitationEnd = z.enum(["joined", "declined", "cancelled", "expired", "closed"]).meta({
  id: "InvitationEnd",
  description: "Why somebody is invited no longer, or no place kept for it.",
});
export type InvitationEnd = z.infer<typeof InvitationEnd>;
